"""The plain results that a forecast is made of. SI units; the names are those of the published formats."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

from underhood.bench.limits import Rule
from underhood.job import Engine
from underhood.steady import Draw


@dataclass(frozen=True, slots=True)
class AmplifierReport:
    """One amplifier at work.

    terminal_v        at its terminals, mean state; `terminal_low_v` at the programme's loudest moment
    delivered_w       true watts in the drivers at the loudest moment, with its band; `delivered_mean_w` over time
    apparent_w        volts times amps at that moment: what volts squared over ohms would show
    bench_w           into the nominal resistor at the same terminal volts
    """

    id: str
    name: str
    node: str
    terminal_v: float
    terminal_low_v: float
    nominal_ohm: float
    impedance_ohm: float
    power_factor: float
    impedance_from: Literal["rise", "sweep", "model"]
    wiring: str
    output_v: float
    output_a: float
    delivered_w: float
    delivered_mean_w: float
    low_w: float
    high_w: float
    apparent_w: float
    bench_w: float
    limited_by: Rule
    lost_to_sag_db: float
    heat_w: float
    lead_heat_w: float
    input_w: float
    efficiency: float
    extrapolated: bool
    draw: Draw
    basis: str
    exponent: float
    exponent_origin: str
    gaps: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class CableReport:
    """One cable at work; amps and ohms of all its runs together, fuses for each run.

    `smallest` is the smallest size of its kind that passes with the other cables as they stand.
    """

    name: str
    field: str
    start: str
    end: str
    size: str
    runs: int
    conductor: str
    mean_a: float
    rms_a: float
    peak_a: float
    ohm: float
    drop_v: float
    path_drop_v: float
    allowed_drop_v: float
    loss_w: float
    conductor_c: float
    ampacity_a: float
    fuse_least_a: float
    fuse_most_a: float
    fuse_a: float | None
    fuse_why: str
    smallest: str | None
    smallest_runs: int | None
    smallest_fuse_a: float | None


@dataclass(frozen=True, slots=True)
class EngineReport:
    """The programme in one engine state; volts are None where nothing supplies it, `available_a` where unknown."""

    engine: Engine
    operating_point: bool
    terminal_v: float | None
    terminal_low_v: float | None
    front_v: float | None
    charger_a: float
    bank_a: float
    draw_a: float
    vehicle_a: float
    available_a: float | None


@dataclass(frozen=True, slots=True)
class Balance:
    """Watts of the mean state; `bank_w` is negative while charging."""

    charger_w: float
    bank_w: float
    vehicle_w: float
    cable_w: float
    amplifier_heat_w: float
    speaker_w: float

    @property
    def error(self) -> float:
        """What does not add up, as a share of what flows."""
        spent = self.vehicle_w + self.cable_w + self.amplifier_heat_w + self.speaker_w
        return abs(self.charger_w + self.bank_w - spent) / max(abs(spent), 1.0)


@dataclass(frozen=True, slots=True)
class PathReport:
    """What the path strip draws: watts from sources through cables; the vehicle's own share."""

    sources: list[dict[str, Any]]
    edges: list[dict[str, Any]]
    vehicle_a: float
    vehicle_w: float
