"""From readings in the finished car back to the model: what they should be, what they say, what to read next."""

__all__ = [
    "advice",
    "bands",
    "car",
    "catalogue",
    "correction",
    "fit",
    "heat",
    "history",
    "next_reading",
    "noise",
    "observe",
    "parameters",
    "places",
    "reading",
    "readings_csv",
    "results",
    "states",
    "sweep_log",
    "test_card",
]
