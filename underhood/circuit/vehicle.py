"""What a vehicle itself uses: typical loads to start from, and the sum of a job's in each state.

Left out: anything that switches by itself while one measures.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from underhood.document.job import Vehicle, VehicleLoad
from underhood.document.quantity import Quantity
from underhood.reference import table

LoadState = Literal["off", "idle", "cruise", "all_on"]


@dataclass(frozen=True)
class Template:
    """Typical loads of a kind of vehicle, all assumed."""

    name: str
    words: str
    loads: list[VehicleLoad]


def templates() -> list[Template]:
    """Every template, in the table's order."""
    rows = table("vehicle_templates").rows
    names = dict.fromkeys((row["template"], row["words"]) for row in rows)
    return [Template(name, words, [_load(row) for row in rows if row["template"] == name]) for name, words in names]


def _load(row: dict[str, str]) -> VehicleLoad:
    amps = {state: Quantity(float(row[f"{state}_a"]), "assumed") for state in ("off", "idle", "cruise", "all_on")}
    return VehicleLoad(name=row["name"], **{f"{state}_a": each for state, each in amps.items()})


def used_a(vehicle: Vehicle, state: LoadState) -> float:
    """All loads together; what a load uses with everything on is its use at cruise unless it is stated.

    With the engine off somebody listens: it is then what it takes with the radio on, where that is stated.

    vehicle   with its loads, A
    state     off, idle, cruise or all_on
    """
    if state == "all_on":
        return sum((load.all_on_a or load.cruise_a).value for load in vehicle.loads)
    if state == "off":
        return sum((load.acc_a or load.off_a).value for load in vehicle.loads)
    return float(sum(getattr(load, f"{state}_a").value for load in vehicle.loads))
