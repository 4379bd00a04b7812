"""How numbers stand on paper."""
