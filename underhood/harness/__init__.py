"""All cables of a job: what flows in them, what protects them, which to buy, how they are laid and cut."""
