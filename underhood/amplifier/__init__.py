"""An amplifier as it was measured: readings, the limits fitted to them, what it takes in, and what its maker claims."""
