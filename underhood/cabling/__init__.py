"""The cables of a whole setup: what flows in them, what protects them, which to buy, how they are laid and cut."""
