"""What a job will do: results, the sums behind them, findings, and the questions asked of them."""

__all__ = [
    "bottlenecks",
    "build",
    "cautions",
    "figures",
    "findings",
    "forecast",
    "gain_setting",
    "load_curves",
    "power_path",
    "results",
    "sensitivity",
    "simulation",
    "wiring_options",
    "wording",
]
