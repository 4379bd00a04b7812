"""The lines that volts at an amplifier's terminals are held against, under load at the loudest moment."""

from __future__ import annotations

from dataclasses import dataclass

from underhood.document.job import JobDocument
from underhood.finding import Severity

__all__ = ["TerminalLines"]

CAUTION_V, ACT_V = 12.5, 12.0
"""The worry line and the act line (common practice)."""


@dataclass(frozen=True, slots=True)
class TerminalLines:
    """Volts below which a terminal wants caution, and below which somebody must act."""

    caution_v: float
    act_v: float

    @classmethod
    def of(cls, job: JobDocument) -> TerminalLines:
        """A job's lines: caution already where the customer wants more volts held than is usual."""
        return cls(max(job.targets.terminal_v.value, CAUTION_V), ACT_V)

    def severity(self, volts: float) -> Severity | None:
        """How serious `volts` are; None where they are well."""
        return "act" if volts < self.act_v else "caution" if volts < self.caution_v else None

    def crossed_v(self, volts: float) -> float:
        """The line that `volts` lie below."""
        return self.act_v if volts < self.act_v else self.caution_v
