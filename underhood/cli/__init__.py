"""The command line: the core without a browser."""

__all__ = ["answer", "bench", "cable", "forecast", "job", "load", "main", "plan", "proof", "simulate"]
