"""SQLite in a directory that is made when the database is first opened, not before."""
