"""An amplifier as it was measured: readings, the limits fitted to them, what it takes in, and what its maker claims."""

__all__ = [
    "audit",
    "claims",
    "comparison",
    "curves",
    "heat_sink",
    "input_power",
    "measurement",
    "mounting",
    "outliers",
    "output_limits",
    "shape_bank",
    "sheet",
    "sheet_csv",
    "supply_scaling",
    "tones",
]
