"""The upgrade plan: parts to choose from, and what choosing them does."""

__all__ = [
    "answer",
    "arrange",
    "at_once",
    "cars",
    "compare",
    "cures",
    "evaluate",
    "ladder",
    "parts_csv",
    "quote",
    "reasons",
    "robustness",
    "search",
    "sets",
    "steps",
]
