"""The electrical circuit of a job: built from its document, solved at rest and over time."""
