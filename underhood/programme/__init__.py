"""What is played, as the output level over time."""
