"""The test bench: dummy loads, how stiff its supply is, and the tones it plays."""
