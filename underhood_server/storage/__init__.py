"""How rows are saved over a version, and how what lists show of them is kept."""
