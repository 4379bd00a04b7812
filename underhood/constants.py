"""Constants that more than one package uses, each with its unit and source."""

from __future__ import annotations

import math

REFERENCE_V = 14.4
"""Supply volts to which readings are normalised: the test voltage of CTA-2006."""
COPPER_PER_K = 0.00393
"""Temperature coefficient of copper's resistance at 20 °C, 1/K (IEC 60028)."""
RECTIFIED_MEAN = 2 * math.sqrt(2) / math.pi
"""Mean of a rectified sine over its RMS: 1/(π/(2·√2)), from the integral of a half wave."""
BOTH_ENDS = 1.96
"""Standard deviations from the middle to either end of a 95 % band of a normal law."""
AIR_DENSITY = 1.204
SOUND_M_S = 343.2
"""Air at 20 °C and 101.325 kPa: kg/m³ and m/s (ISO 9613-1's reference atmosphere, from memory)."""
