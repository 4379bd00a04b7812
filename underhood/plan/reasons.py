"""Why: one sentence for each step that a plan takes, and for each popular one that it leaves.

A step is worth what it buys alone and what it buys in company: a rear battery may buy volts alone and none beside a
stronger charger.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from underhood.forecast.results import GoalResult
from underhood.plan.evaluate import VOLT_DB, Evaluator, Outcome, value_of
from underhood.plan.steps import Slot, Step

HEARD_DB = 1.0
"""Below this nobody hears a difference (common practice)."""
TOLD_V, TOLD_DB = 0.02, 0.05
POPULAR = ("charger:", "bank:", "capacitor:", "amplifier:", "cable:")


@dataclass(frozen=True, slots=True)
class Reason:
    """A step with what it buys alone and in company, and the sentence that says so."""

    title: str
    taken: bool
    cost: float
    alone_db: float | None
    alone_v: float | None
    company_db: float | None
    company_v: float | None
    words: str


def reasons(plan: Outcome, evaluator: Evaluator, all_slots: Sequence[Slot]) -> tuple[Reason, ...]:
    """Of each step of a plan, then of the most telling step of each popular slot that it leaves as it is."""
    taken = [_reason(step, plan, evaluator, taken=True) for step in plan.steps]
    used = {step.slot for step in plan.steps}
    left = []
    for slot in all_slots:
        paid = [step for step in slot.steps if step.part and not step.unpriced and not step.needs]
        if slot.key in used or not slot.key.startswith(POPULAR) or not paid:
            continue
        best = max(paid, key=lambda step: _tempting(slot, evaluator.of((step,))))
        left.append(_reason(best, plan, evaluator, taken=False))
    return (*taken, *sorted(left, key=lambda reason: -(reason.alone_db or 0.0) - VOLT_DB * (reason.alone_v or 0.0)))


def _tempting(slot: Slot, alone: Outcome) -> float:
    """What makes a step popular: of amplifiers the loudest, of all else the one of most value."""
    if slot.key.startswith("amplifier:"):
        return alone.delivered_w or 0.0
    return value_of(alone)


def _reason(step: Step, plan: Outcome, evaluator: Evaluator, *, taken: bool) -> Reason:
    alone = evaluator.of((step,))
    rest = tuple(each for each in plan.steps if each.slot != step.slot)
    without, with_ = (evaluator.of(rest), plan) if taken else (plan, evaluator.of((*rest, step)))
    alone_db, alone_v = _bought(alone, evaluator.as_found)
    company_db, company_v = _bought(with_, without)
    made = Reason(step.title, taken, evaluator.cost((step,)), alone_db, alone_v, company_db, company_v, "")
    missed = [goal for goal in without.goals if not goal.met] if taken else []
    return replace(made, words=_words(made, missed, safe=taken or evaluator.safe(with_)))


def _bought(after: Outcome, before: Outcome) -> tuple[float | None, float | None]:
    gained = None if after.gain_db is None or before.gain_db is None else after.gain_db - before.gain_db
    volts = None if after.terminal_v is None or before.terminal_v is None else after.terminal_v - before.terminal_v
    return gained, volts


def _words(reason: Reason, missed: Sequence[GoalResult], *, safe: bool) -> str:
    alone = _amount(reason.alone_db, reason.alone_v)
    company = _amount(reason.company_db, reason.company_v)
    if reason.taken:
        goal = f" Without it the plan misses: {missed[0].words}." if missed else ""
        return f"{reason.title}: buys {alone} alone, {company} with the rest of the plan.{goal}"
    if not safe:
        return f"Not taken: {reason.title}. It buys {alone} alone, and brings something that somebody must act on."
    small = reason.company_db is not None and abs(reason.company_db) < HEARD_DB and (reason.company_v or 0.0) < TOLD_V
    heard = ", which nobody hears" if small else ""
    return (
        f"Not taken: {reason.title}. It buys {alone} alone, {company} beside this plan{heard}, for {reason.cost:.0f}."
    )


def _amount(gained: float | None, volts: float | None) -> str:
    """ "0.16 dB and 0.21 V"; what cannot be told is nothing."""
    told = []
    if gained is not None and abs(gained) >= TOLD_DB:
        told.append(f"{gained:.1f} dB")
    if volts is not None and abs(volts) >= TOLD_V:
        told.append(f"{volts:.2f} V")
    return " and ".join(told).replace("-", "−") or "nothing"
