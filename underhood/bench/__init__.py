"""The test bench: dummy loads, how stiff its supply is, and the tones it plays."""

__all__ = ["impedance_recording", "resistor_bank", "source_resistance", "test_tones"]
