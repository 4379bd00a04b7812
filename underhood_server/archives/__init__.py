"""A whole workshop as one ZIP, and a workshop out of one."""
