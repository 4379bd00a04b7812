"""What a job will do: results, the sums behind them, findings, and the questions asked of them."""

__all__ = [
    "amplifier_figures",
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
    "supply_figures",
    "terminal_lines",
    "wiring_options",
    "wording",
]
