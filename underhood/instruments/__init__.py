"""Instruments: drivers over PyVISA, a bench that stands in for a real one, and exercises on it."""

__all__ = ["bench_model", "drivers", "exercises", "scpi_server"]
