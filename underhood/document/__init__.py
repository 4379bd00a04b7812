"""The job file and what it is made of: names, units, ranges, and reading what older versions wrote."""

__all__ = [
    "amplifier",
    "csv_table",
    "differences",
    "job",
    "job_file",
    "part",
    "paths",
    "positions",
    "quantity",
    "shop_defaults",
    "upgrade",
    "words",
    "workshop",
    "written",
]
