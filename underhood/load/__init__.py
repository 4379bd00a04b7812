"""The load: how coils are wired, and what ohms the amplifier really sees."""
