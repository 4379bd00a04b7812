"""What is played, as the output level over time."""

__all__ = ["envelopes", "octaves", "played", "recording"]
