"""One cable: resistance, voltage drop, heat, and the fuse that protects it."""

__all__ = ["ampacity", "conductor", "drop_test", "fuse", "gauge", "sizing", "stock"]
