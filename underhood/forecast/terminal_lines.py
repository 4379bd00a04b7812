"""The lines that volts at an amplifier's terminals are held against, under load at the loudest moment."""

from __future__ import annotations

from dataclasses import dataclass

from underhood.document.job import JobDocument
from underhood.finding import Severity

CAUTION_V, ACT_V = 12.5, 12.0
"""The worry line and the act line (common practice)."""


@dataclass(frozen=True, slots=True)
class TerminalLines:
    """Volts below which a terminal wants caution, and below which somebody must act."""

    caution_v: float
    act_v: float

    @classmethod
    def of(cls, job: JobDocument, system_v: float | None = None) -> TerminalLines:
        """A job's lines: caution already where the customer wants more volts held than is usual.

        system_v   that an amplifier is made for; the vehicle's own where none is given. What the customer wants is in
                   volts of the vehicle's system, unless it is the usual
        """
        scale, target = (system_v or job.vehicle.system_v) / 12, job.targets.terminal_v
        usual = target.origin == "assumed" and target.value == CAUTION_V
        wanted = target.value if usual else target.value * 12 / job.vehicle.system_v
        return cls(max(wanted, CAUTION_V) * scale, ACT_V * scale)

    def severity(self, volts: float) -> Severity | None:
        """How serious `volts` are; None where they are well."""
        return "act" if volts < self.act_v else "caution" if volts < self.caution_v else None

    def crossed_v(self, volts: float) -> float:
        """The line that `volts` lie below."""
        return self.act_v if volts < self.act_v else self.caution_v
