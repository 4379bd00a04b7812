"""The command line: the core without a browser."""
