"""24 and 48 V: what nobody stated of a part, at the volts of its system; and sheets as those of a 12 V amplifier.

Usual volts (set-points, cut-outs, what an amplifier bears) are those of 12 V times the volts of their part over 12, an
amplifier's by the volts it is made for. What was stated stays. A sheet of a 24 V amplifier is that of a 12 V one which
takes twice the amps at half the volts; its law counts the supply's volts over that (see `laws.AmplifierLaw`). Left out:
banks in series (see `battery`).
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from typing import Any

from underhood.amplifier.sheet import Sheet
from underhood.constants import REFERENCE_V
from underhood.document.amplifier import Claim, Measurement
from underhood.document.job import Amplifier, Charger, JobDocument
from underhood.document.quantity import Quantity

OF_CHARGERS, OF_INPUTS = ("setpoint_v", "setpoint_low_v", "setpoint_mv_per_k"), ("cutout_v", "restart_v")
OF_AMPLIFIERS = ("dropout_v", "cutout_v", "supply_max_v")


def resolved(job: JobDocument, outputs: Sequence[float], inputs: Sequence[float]) -> JobDocument:
    """The job with what nobody stated at the volts of its system; the same job where all is of 12 V.

    outputs, inputs   of each charger the nominal volts over 12 where it gives, and where it takes
    """
    chargers = [
        _scaled(_scaled(each, OF_CHARGERS, at), OF_INPUTS, of)
        for each, at, of in zip(job.chargers, outputs, inputs, strict=True)
    ]
    amplifiers = [_scaled(each, OF_AMPLIFIERS, each.system_v / 12) for each in job.amplifiers]
    made: list[Charger | Amplifier] = [*chargers, *amplifiers]
    before: list[Charger | Amplifier] = [*job.chargers, *job.amplifiers]
    if all(now is was for now, was in zip(made, before, strict=True)):
        return job
    return job.model_copy(update={"chargers": chargers, "amplifiers": amplifiers})


def _scaled(part: Any, names: Sequence[str], scale: float) -> Any:
    """A part with those of its values multiplied that are the usual ones, assumed."""
    if scale == 1.0:
        return part
    defaults = {name: type(part).model_fields[name].default for name in names}
    changes = {
        name: Quantity(value.value * scale, "assumed")
        for name, default in defaults.items()
        if (value := getattr(part, name)).origin == "assumed" and value.value == default.value
    }
    return part.model_copy(update=changes) if changes else part


def usual(job: JobDocument, scales: Collection[float]) -> dict[str, float]:
    """What is taken in place of a usual value of 12 V that nobody stated, by its path.

    job      as `resolved` gave it
    scales   nominal volts over 12 of its parts
    """
    others = {*scales, *(each.system_v / 12 for each in job.amplifiers)} - {1.0}
    names = {"chargers": OF_CHARGERS + OF_INPUTS, "amplifiers": OF_AMPLIFIERS}
    return {
        f"{kind}.{i}.{name}": value.value
        for kind in names
        for i, part in enumerate(getattr(job, kind))
        for name in names[kind]
        if (value := getattr(part, name)).origin == "assumed"
        and value.value in {type(part).model_fields[name].default.value * scale for scale in others}
    }


def as_of_12(sheet: Sheet, scale: float) -> Sheet:
    """A sheet as that of a 12 V amplifier.

    scale   volts that the amplifier is made for over 12
    """
    if scale == 1.0:
        return sheet
    record = sheet.record
    idle = record.idle_a and Quantity(record.idle_a.value * scale, record.idle_a.origin)
    dropout = Quantity(record.dropout_v.value / scale, record.dropout_v.origin)
    return Sheet(
        record.model_copy(update={"idle_a": idle, "dropout_v": dropout}),
        tuple(_run_of_12(run, scale) for run in sheet.runs),
        tuple(_claim_of_12(claim, scale) for claim in sheet.claims),
    )


def _run_of_12(run: Measurement, scale: float) -> Measurement:
    changes = {
        name: value * (scale if name == "supply_a" else 1 / scale)
        for name in ("supply_before_v", "supply_v", "supply_a")
        if (value := getattr(run, name)) is not None
    }
    return run.model_copy(update=changes)


def _claim_of_12(claim: Claim, scale: float) -> Claim:
    """A claim at the reference's own 14.4 V is taken to be at that of its system."""
    if claim.supply_v == REFERENCE_V:
        return claim
    return claim.model_copy(update={"supply_v": claim.supply_v / scale})
