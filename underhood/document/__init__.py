"""The job file and what it is made of: names, units, ranges, and reading what older versions wrote."""
