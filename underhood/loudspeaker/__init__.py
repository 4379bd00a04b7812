"""Loudspeakers: how coils are wired, the impedance of a driver in its box, how far its cone moves."""

__all__ = ["coils", "excursion", "files", "impedance", "load_at_tone", "parameter_check"]
