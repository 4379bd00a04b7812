"""Cables: resistance, volt drop, heat, and the fuse that protects them."""
