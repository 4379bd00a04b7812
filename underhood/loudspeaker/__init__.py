"""Loudspeakers: how coils are wired, the impedance of a driver in its box, how far its cone moves, how loud it is."""

__all__ = [
    "coils",
    "crossover",
    "excursion",
    "exposure",
    "files",
    "impedance",
    "load_at_tone",
    "parameter_check",
    "sound_level",
]
