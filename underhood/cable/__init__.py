"""One cable: resistance, voltage drop, heat, and the fuse that protects it."""
