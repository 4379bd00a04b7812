"""What a job starts from: an ordinary vehicle, charger and battery, an amplifier's usual lead and load; all assumed.

Usual values of the trade [P], there so that a first answer needs four questions and not forty; each is to be replaced
by a label or a reading. Left out: anything known of this very car.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from underhood.circuit import vehicle
from underhood.document.amplifier import AmplifierRecord, Claim, Measurement
from underhood.document.job import Amplifier, Bank, Charger, JobDocument, Lead, Load, Return, Vehicle
from underhood.document.quantity import Quantity
from underhood.loudspeaker.coils import arrangements
from underhood.reference import table

LEAD_SIZE, LEAD_M = "4 AWG", 5.0
DRIVERS, COILS, COIL_OHM = 1, 2, 4.0
RISE, POWER_FACTOR = 1.8, 0.85
"""Of a subwoofer in a box at its tone, where nothing is known of either [P]."""


@dataclass(frozen=True)
class Start:
    """A job as it begins with a kind of vehicle."""

    name: str
    words: str
    document: JobDocument


def starts() -> list[Start]:
    """One for each kind of vehicle, in the table's order, without an amplifier."""
    supplies = {row["template"]: row for row in table("vehicle_supplies").rows}
    return [Start(each.name, each.words, _job(each, supplies[each.name])) for each in vehicle.templates()]


def usual_amplifier(
    record: AmplifierRecord,
    runs: Sequence[Measurement] = (),
    claims: Sequence[Claim] = (),
    came_from: str | None = None,
) -> Amplifier:
    """An amplifier as it begins in a job: its record and what was measured or claimed, with a usual lead and load.

    Its coils are wired for the lowest load that it is said or was seen to hold; the highest where nothing is known.
    """
    rated = _rated_ohm(record, runs, claims)
    ways = [each for each in arrangements(DRIVERS, COILS, COIL_OHM) if rated is None or each.load_ohm >= rated]
    known = {name: getattr(record, name) for name in AmplifierRecord.model_fields if name in record.model_fields_set}
    return Amplifier(
        **{**known, "id": "a1"},
        runs=list(runs),
        claims=list(claims),
        came_from=came_from,
        lead=Lead(size=LEAD_SIZE, length_m=_assumed(LEAD_M), **{"return": Return(kind="chassis")}),
        load=Load(
            drivers=_assumed(DRIVERS),
            coils_per_driver=_assumed(COILS),
            coil_ohm=_assumed(COIL_OHM),
            wiring=ways[-1].words if rated and ways else None,
            rise=_assumed(RISE),
            power_factor=_assumed(POWER_FACTOR),
        ),
    )


def _rated_ohm(record: AmplifierRecord, runs: Sequence[Measurement], claims: Sequence[Claim]) -> float | None:
    """The lowest load that it is said or was seen to hold, ohm; not one at which its protection tripped."""
    if record.minimum_load_ohm is not None:
        return record.minimum_load_ohm.value
    held = [each.load_ohm for each in runs if not (each.protect or each.excluded)]
    return min(held + [each.load_ohm for each in claims], default=None)


def _job(template: vehicle.Template, row: dict[str, str]) -> JobDocument:
    figures = {name: _assumed(float(row[name])) for name in ("rated_a", "idle_a", "limit_a", "setpoint_v") if row[name]}
    is_converter = row["charger"] == "dc_dc"
    charger: dict[str, Any] = {
        "name": "Converter" if is_converter else "Alternator",
        "kind": row["charger"],
        "at": "front",
        **figures,
    }
    bank = {"name": "Front battery", "chemistry": row["chemistry"], "capacity_ah": _assumed(float(row["capacity_ah"]))}
    return JobDocument.model_validate(
        {
            "title": "New job",
            "vehicle": Vehicle.model_validate(
                {
                    "drive": row["drive"],
                    "template": template.name,
                    "system_v": float(row["system_v"]),
                    "loads": template.loads,
                }
            ),
            "chargers": [Charger.model_validate(charger)],
            "banks": [Bank.model_validate(bank)],
        }
    )


def _assumed(value: float) -> Quantity:
    return Quantity(value, "assumed")
