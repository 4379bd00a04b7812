"""From readings in the finished car back to the model: what they should be, what they say, what to read next."""

__all__ = [
    "advice",
    "bands",
    "car",
    "catalogue",
    "correction",
    "fit",
    "noise",
    "observe",
    "parameters",
    "places",
    "reading",
    "readings_csv",
    "states",
    "test_card",
]
