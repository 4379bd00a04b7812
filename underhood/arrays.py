"""The array types of the numeric functions, defined once."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Complexes = NDArray[np.complex128]
Ints = NDArray[np.int64]
