"""Instruments and the practice bench: read over PyVISA, shown live."""
