"""The bench: readings of an amplifier, and what they say it can deliver and will draw."""
