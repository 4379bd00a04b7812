"""The plain results that a forecast is made of. SI units; the names are those of the published formats."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from underhood.amplifier.output_limits import Rule
from underhood.circuit.supply_current import SupplyCurrent
from underhood.document.job import Conductor, Engine, GoalQuantity
from underhood.figure import Figure
from underhood.finding import Finding, Severity
from underhood.forecast.terminal_lines import TerminalLines


@dataclass(frozen=True, slots=True)
class AmplifierResult:
    """One amplifier at work.

    terminal_v        at its terminals, mean state; `terminal_low_v` at the programme's loudest moment, and how
                      serious that is (`terminal_severity`, None where it is well)
    delivered_w       true watts in the drivers at the loudest moment, with its band; `delivered_mean_w` over time
    apparent_w        volts times amps at that moment: what volts squared over ohms would show
    true_to_apparent  the share of it that is true watts
    bench_w           into the nominal resistor at the same terminal volts
    mean_w            mean of that and the watts in the box: the figure some shops quote
    idle_a            supply amps in silence
    sink_hour_c       of its heat sink after an hour of the programme, `trips_after_min` until its protection trips
                      (None for never); both None where the sink was never measured
    volts_squared_va  output volts squared over nominal ohms: what a multimeter alone would make of it
    """

    id: str
    name: str
    node: str
    terminal_v: float
    terminal_low_v: float
    terminal_severity: Severity | None
    nominal_ohm: float
    impedance_ohm: float
    power_factor: float
    impedance_from: Literal["rise", "sweep", "model", "reading"]
    wiring: str
    output_v: float
    output_a: float
    delivered_w: float
    delivered_mean_w: float
    low_w: float
    high_w: float
    apparent_w: float
    true_to_apparent: float
    bench_w: float
    mean_w: float
    volts_squared_va: float
    limited_by: Rule
    lost_to_sag_db: float
    heat_w: float
    sink_hour_c: float | None
    trips_after_min: float | None
    lead_heat_w: float
    input_w: float
    efficiency: float
    extrapolated: bool
    draw: SupplyCurrent
    idle_a: float
    basis: str
    exponent: float
    exponent_origin: str
    gaps: tuple[str, ...]

    @property
    def half_band_w(self) -> float:
        """Half of the band of the delivered watts: nothing of it is printed finer."""
        return (self.high_w - self.low_w) / 2


Role = Literal["charging", "strap", "run", "link", "lead"]


@dataclass(frozen=True, slots=True)
class CableResult:
    """One cable at work; amps and ohms of all its runs together, fuses for each run.

    start_words, end_words            the places as they are spoken of; of a positive cable the posts it goes to
    return_start_words, return_end_words  where a meter's probes stand at the two ends of its ground return
    role                              a charging cable, a strap of the return, a run, a link of two batteries, a lead
    label_share                       how well it conducts against its label, 1 where nothing else was measured
    path_drop_v                       over its total path, from the front posts to an amplifier or the charger
    worst_rms_a, worst_peak_a         the most over the engine's states, `worst_when` for the RMS; its fuse is chosen
                                      for them
    fuse_at_start, fuse_at_end        whether that end needs a fuse
    """

    name: str
    field: str
    start: str
    end: str
    start_words: str
    end_words: str
    return_start_words: str
    return_end_words: str
    role: Role
    size: str
    awg: str
    mm2: str
    runs: int
    conductor: Conductor
    label_share: float
    mean_a: float
    rms_a: float
    peak_a: float
    ohm: float
    return_ohm: float
    return_from: str
    fittings_ohm: float
    drop_v: float
    path_drop_v: float
    allowed_drop_v: float
    loss_w: float
    conductor_c: float
    ampacity_a: float
    worst_rms_a: float
    worst_peak_a: float
    worst_when: str
    fuse_least_a: float
    fuse_most_a: float
    fuse_fits: list[float]
    fuse_a: float | None
    fuse_why: str
    fuse_at_start: bool
    fuse_at_end: bool
    cautions: list[str]


@dataclass(frozen=True, slots=True)
class EngineResult:
    """The programme in one engine state; volts are None where nothing supplies it, `available_a` where unknown."""

    engine: Engine
    operating_point: bool
    terminal_v: float | None
    terminal_low_v: float | None
    terminal_severity: Severity | None
    front_v: float | None
    charger_a: float
    bank_a: float
    draw_a: float
    vehicle_a: float
    available_a: float | None


@dataclass(frozen=True, slots=True)
class Balance:
    """Watts over the programme; `bank_w` is negative while charging, capacitors give what they are still losing.

    charger_w     what chargers give, converters too; `converter_w` what those take from the circuit for it
    """

    charger_w: float
    bank_w: float
    capacitor_w: float
    converter_w: float
    vehicle_w: float
    cable_w: float
    amplifier_heat_w: float
    speaker_w: float

    @property
    def error(self) -> float:
        """What does not add up, as a share of what flows."""
        spent = self.converter_w + self.vehicle_w + self.cable_w + self.amplifier_heat_w + self.speaker_w
        return abs(self.charger_w + self.bank_w + self.capacitor_w - spent) / max(abs(spent), 1.0)


@dataclass(frozen=True, slots=True)
class SourceFlow:
    """A charger or bank at its node; a bank that is being charged has negative amps and watts.

    `field` is where it stands in the job file.
    """

    name: str
    field: str
    kind: Literal["charger", "bank"]
    node: str
    amps: float
    watts: float
    at_limit: bool


@dataclass(frozen=True, slots=True)
class CableFlow:
    """A cable; amps and drop are positive from start to end, `watts_out` is what arrives where the current goes.

    `heat_w` is that of the loud and the quiet mean, so that the watts of the path add up; what the programme's swing
    about them adds (under a fifth) is in `CableResult.loss_w`.
    """

    name: str
    start: str
    end: str
    amps: float
    drop_v: float
    heat_w: float
    watts_out: float


@dataclass(frozen=True, slots=True)
class NodeVolts:
    """A place of the tree and its volts; an amplifier's own place is `amp:` and its id.

    words    as it is spoken of; `to body` where a meter stands between the battery's positive post and the body's metal
    """

    name: str
    words: str
    volts: float


@dataclass(frozen=True, slots=True)
class PathResult:
    """What the path strip draws, mean state: watts from sources through cables, and the vehicle's own share."""

    nodes: list[NodeVolts]
    sources: list[SourceFlow]
    edges: list[CableFlow]
    vehicle_a: float
    vehicle_w: float


@dataclass(frozen=True, slots=True)
class GoalResult:
    """A goal with what the car comes to; None where a car alone cannot answer it, or where nothing holds there.

    words   the goal as a sentence; `wanted` its number
    low, high   what the value may be, where it is known
    """

    quantity: GoalQuantity
    words: str
    wanted: float
    value: float | None
    low: float | None
    high: float | None
    met: bool | None


@dataclass(frozen=True, slots=True)
class ForecastResult:
    """All that a forecast says: the first amplifier and totals on top, then each part. None where nothing is known.

    terminal_v       mean state; `terminal_low_v` at the programme's loudest moment
    terminal_lines   the volts below which a terminal wants caution, and action
    operating_point  whether the circuit holds; where not, `explanation` says why in words
    second_v         volts at the first amplifier in a second stable state, where there is one
    flags            findings, the most serious first
    figures          headline figures with their derivations
    cautions         what is dangerous, by station
    usual            what is taken for what nobody stated, by its path, where the system is not of 12 V
    """

    terminal_v: float | None
    terminal_low_v: float | None
    front_v: float | None
    delivered_w: float | None
    apparent_w: float | None
    bench_w: float | None
    draw_a: SupplyCurrent
    charger_a: float | None
    bank_a: float | None
    reserve_a: float | None
    terminal_lines: TerminalLines
    operating_point: bool
    explanation: str
    second_v: float | None
    amplifiers: list[AmplifierResult]
    cables: list[CableResult]
    engines: list[EngineResult]
    balance: Balance | None
    path: PathResult
    flags: list[Finding]
    figures: dict[str, Figure]
    cautions: dict[str, list[str]]
    goals: list[GoalResult]
    usual: dict[str, float]
