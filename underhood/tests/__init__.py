"""Tests of the core. Property tests try the same examples at every run; `make fuzz` tries new ones."""

import os

from hypothesis import settings

settings.register_profile("same", derandomize=True)
settings.register_profile("new", print_blob=True)
settings.load_profile(os.environ.get("UNDERHOOD_EXAMPLES", "same"))
