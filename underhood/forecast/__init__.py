"""What a job will do: results, the sums behind them, findings, and the questions asked of them."""
