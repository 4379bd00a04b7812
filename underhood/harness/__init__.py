"""All cables of a job: what flows in them, what protects them, which to buy, how they are laid and cut."""

__all__ = [
    "drop_test",
    "edits",
    "findings",
    "nodes",
    "protection",
    "results",
    "schedule",
    "schedule_csv",
    "size_options",
    "speaker_leads",
]
