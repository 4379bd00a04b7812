"""The electrical circuit of a job: built from its document, solved at rest and over time."""

__all__ = [
    "battery",
    "build",
    "charger",
    "circuit_arrays",
    "compiled",
    "converter",
    "elements",
    "isolator",
    "laws",
    "loaded_amplifier",
    "newton",
    "operating_point",
    "solver",
    "supply_current",
    "switches",
    "topology",
    "transient",
    "transient_parts",
    "vehicle",
]
