"""The upgrade plan: parts to choose from, and what choosing them does."""

__all__ = ["answer", "evaluate", "ladder", "parts_csv", "reasons", "search", "steps"]
