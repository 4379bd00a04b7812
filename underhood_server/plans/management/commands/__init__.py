"""Commands of the plans."""
