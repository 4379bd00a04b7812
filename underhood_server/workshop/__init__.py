"""The workshop's own settings."""
