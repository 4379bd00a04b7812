"""Tests of the core. Property tests try the same examples at every run; `make fuzz` tries new ones."""

import os
from typing import Any

from hypothesis import HealthCheck, settings

# How long an example takes is the machine's affair, which may be doing something else.
CALM: dict[str, Any] = {"deadline": None, "suppress_health_check": [HealthCheck.too_slow]}
settings.register_profile("same", derandomize=True, **CALM)
settings.register_profile("new", print_blob=True, **CALM)
settings.load_profile(os.environ.get("UNDERHOOD_EXAMPLES", "same"))
