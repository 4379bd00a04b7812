"""Loudspeakers: how coils are wired, the impedance of a driver in its box, how far its cone moves."""
