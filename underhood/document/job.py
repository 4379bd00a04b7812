"""The job file: every part of a setup with its units and ranges. The one schema of the project.

The same definitions validate the API, the files, what is stored, and (generated) the TypeScript types. What is
worked out from a job lives elsewhere; here are only names, units, ranges and what is assumed when nothing is given.
"""

from __future__ import annotations

from typing import Annotated, Any, Literal, Self, get_args

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from underhood.document.amplifier import AmplifierRecord, Claim, Criterion, Measurement
from underhood.document.quantity import (
    Amps,
    Celsius,
    Count,
    Hertz,
    Level,
    Metres,
    Name,
    NodeName,
    Note,
    Number,
    Price,
    Quantity,
    Range,
    Share,
    SmallOhms,
    SourceOhms,
    StrictModel,
    Tag,
    assumed,
)
from underhood.document.words import field_words

FORMAT = "under-hood/job"
VERSION = 1
MOST_PROGRAMME_STEPS = 120_000
"""Of a recording: twenty minutes in steps of 10 ms."""

Connection = Literal["single", "bridged", "strapped", "per_driver"]
Conductor = Literal["copper", "cca10", "cca15", "aluminium"]
Chemistry = Literal["flooded", "agm", "lifepo4", "lto"]
Programme = Literal["tone", "burst", "everyday", "bass_heavy", "held_bass", "file"]
Engine = Literal["off", "idle", "cruise"]
Isolator = Literal["none", "relay", "diode"]


class VehicleLoad(StrictModel):
    """Something of the vehicle's own that uses current.

    `off_a` is what it takes while parked, `acc_a` with the engine off and the radio on: what counts for listening.
    """

    name: Name
    off_a: Amps = assumed(0)
    acc_a: Amps | None = None
    idle_a: Amps = assumed(0)
    cruise_a: Amps = assumed(0)
    all_on_a: Amps | None = None


class Vehicle(StrictModel):
    """The vehicle: what it uses, how warm it is, how much room it has."""

    drive: Literal["combustion", "hybrid", "electric"] = "combustion"
    system_v: Annotated[float, Number("V", 6, 60)] = 12.0
    ambient_c: Celsius = assumed(25)
    loads: list[VehicleLoad] = Field(default_factory=list, max_length=60)
    template: str | None = None
    cabin_longest_m: Annotated[Quantity, Range("m", 0.5, 20)] | None = None
    space_mm: tuple[Annotated[float, Number("mm", 1, 10000)], ...] | None = Field(default=None, max_length=3)


class Charger(StrictModel):
    """An alternator, a DC-DC converter or a mains-fed supply.

    A converter takes what it gives, over its `efficiency` (0.9 where none is stated), at `from`; without that from
    the traction battery of an electric or hybrid vehicle, else from the front battery. It runs with the engine, or
    always where it is `always_on`; one that the circuit feeds stops below `cutout_v` of its input and starts again at
    `restart_v`, takes `idle_w` besides, and no more than `input_limit_a` where that is stated. `efficiency` of an
    alternator is that of the belt's power. A `managed` one lowers its volts to `setpoint_low_v` with a full battery.
    """

    name: Name
    kind: Literal["alternator", "dc_dc", "bench_supply", "mains_charger"] = "alternator"
    at: NodeName = "charger"
    from_: NodeName | None = Field(default=None, alias="from")
    always_on: bool = False
    setpoint_v: Annotated[Quantity, Range("V", 10, 60)] = assumed(14.4)
    control: Literal["fixed", "managed"] = "fixed"
    setpoint_low_v: Annotated[Quantity, Range("V", 10, 60)] = assumed(12.6)
    cutout_v: Annotated[Quantity, Range("V", 5, 60)] = assumed(10.5)
    restart_v: Annotated[Quantity, Range("V", 5, 60)] = assumed(12.0)
    idle_w: Annotated[Quantity, Range("W", 0, 200)] = assumed(0)
    source_ohm: SourceOhms = assumed(0.005)
    rated_a: Annotated[Quantity, Range("A", 1, 1000)] | None = None
    idle_a: Annotated[Quantity, Range("A", 0.5, 1000)] | None = None
    hot_derating: Annotated[Quantity, Range("", 0.3, 1)] = assumed(1)
    limit_a: Annotated[Quantity, Range("A", 0.5, 1000)] | None = None
    input_limit_a: Annotated[Quantity, Range("A", 0.5, 1000)] | None = None
    idle_rpm: Annotated[Quantity, Range("rpm", 300, 3000)] = assumed(800)
    cruise_rpm: Annotated[Quantity, Range("rpm", 600, 8000)] = assumed(2200)
    pulley_ratio: Annotated[Quantity, Range("", 0.5, 6)] = assumed(2.7)
    cut_in_rpm: Annotated[Quantity, Range("rpm", 0, 3000)] = assumed(1000)
    ambient_c: Celsius | None = None
    setpoint_mv_per_k: Annotated[Quantity, Range("mV/K", -60, 20)] = assumed(-10)
    efficiency: Annotated[Quantity, Range("", 0.2, 1)] = assumed(0.6)
    price: Price | None = None


BankAmps = Annotated[Quantity, Range("A", 0.5, 5000)]


class Bank(StrictModel):
    """A battery, or several equal ones: `count` strings in parallel, `series` batteries in each.

    Everything else is of one battery. Where `series` is not stated, lead makes up the nominal volts of its part of
    the car; packs are one, and so is a bank whose `ocv_v` is stated, which then are the volts of the whole. An
    `isolator` stands in the last cable towards the charger: a `relay` joins the bank only while it is charged, a
    `diode` lets current to it and none back, and takes `diode_v`; one diode bank means one diode for each. What its
    management allows (`charge_limit_a`, `discharge_limit_a`, and `discharge_peak_a` for moments, twice that where
    none is stated) is that of one battery: beyond it the bank drops out and stays out.
    """

    name: Name
    at: NodeName = "front"
    chemistry: Chemistry = "agm"
    capacity_ah: Annotated[Quantity, Range("Ah", 1, 2000)] = assumed(70)
    resistance_ohm: SourceOhms | None = None
    count: Count = assumed(1)
    series: Annotated[Quantity, Range("", 1, 8, whole=True)] | None = None
    charge: Share = assumed(1)
    ocv_v: Annotated[Quantity, Range("V", 6, 60)] | None = None
    r1_charge_ohm: Annotated[Quantity, Range("ohm", 0.0001, 1000)] | None = None
    r1_discharge_ohm: SmallOhms | None = None
    c1_f: Annotated[Quantity, Range("F", 1, 1_000_000)] | None = None
    peukert: Annotated[Quantity, Range("", 1, 1.6)] | None = None
    acceptance_a: Annotated[Quantity, Range("A", 0.01, 2000)] | None = None
    absorption_v: Annotated[Quantity, Range("V", 10, 60)] | None = None
    cold_cranking_a: Annotated[Quantity, Range("A", 50, 3000)] | None = None
    temperature_c: Celsius = assumed(25)
    age_factor: Annotated[Quantity, Range("", 0.1, 1)] = assumed(1)
    charge_limit_a: BankAmps | None = None
    discharge_limit_a: BankAmps | None = None
    discharge_peak_a: BankAmps | None = None
    isolator: Isolator = "none"
    diode_v: Annotated[Quantity, Range("V", 0.02, 1.5)] = assumed(0.6)
    price: Price | None = None


class Capacitor(StrictModel):
    """A capacitor bank, or several equal ones in parallel."""

    name: Name
    at: NodeName = "rear"
    farad: Annotated[Quantity, Range("F", 0.01, 50000)]
    esr_ohm: SourceOhms = assumed(0.002)
    count: Count = assumed(1)
    price: Price | None = None


class Node(StrictModel):
    """A place where cables meet. `terminal_max` is the thickest cable that goes into it."""

    name: NodeName
    kind: Literal["battery", "distribution", "body", "charger"] = "distribution"
    terminal_max: str | None = Field(default=None, max_length=20)


class Return(StrictModel):
    """The ground return: the chassis, a cable of its own, or `none` for a strap, which is itself part of the return."""

    kind: Literal["chassis", "cable", "none"] = "chassis"
    resistance_ohm: SmallOhms | None = None
    size: str | None = Field(default=None, max_length=20)
    conductor: Conductor = "copper"
    length_m: Metres | None = None
    runs: Annotated[Quantity, Range("", 1, 4, whole=True)] = assumed(1)


class Wire(StrictModel):
    """A conductor of a given size and length with what is fitted along it.

    `measured_ohm_per_m` wins over the size on its label, and so does its metal counted as `strands` of `strand_mm`.
    `grommets` are the panels it passes through. A price is for the whole of it.
    """

    conductor: Conductor = "copper"
    size: Annotated[str, Field(max_length=20)] = "4 AWG"
    length_m: Metres = assumed(1)
    runs: Annotated[Quantity, Range("", 1, 4, whole=True)] = assumed(1)
    joints_ohm: SmallOhms = assumed(0.0004)
    fuse_from_a: Annotated[Quantity, Range("A", 0.5, 1000)] | None = None
    fuse_to_a: Annotated[Quantity, Range("A", 0.5, 1000)] | None = None
    fuse_distance_mm: Annotated[Quantity, Range("mm", 0, 10000)] | None = None
    fuse_kind: Literal["blade", "bolt-in", "breaker"] | None = None
    fuse_ohm: SmallOhms | None = None
    insulation_c: Annotated[Quantity, Range("°C", 60, 200)] = assumed(105)
    ambient_c: Celsius = assumed(30)
    engine_space: bool = False
    bundled: Annotated[Quantity, Range("", 1, 12, whole=True)] = assumed(1)
    measured_ohm_per_m: Annotated[Quantity, Range("ohm/m", 0.00001, 1)] | None = None
    strands: Annotated[Quantity, Range("", 1, 20000, whole=True)] | None = None
    strand_mm: Annotated[Quantity, Range("mm", 0.02, 5)] | None = None
    grommets: Annotated[Quantity, Range("", 0, 20, whole=True)] | None = None
    price: Price | None = None


class Lead(Wire):
    """The short cable from a node to the amplifier's terminals, with the ground return beside it."""

    return_: Return | None = Field(default=None, alias="return")


class Cable(Lead):
    """A cable between two nodes."""

    name: Name
    from_: NodeName = Field(alias="from")
    to: NodeName


class Driver(StrictModel):
    """A driver's small-signal parameters. `re_ohm` is per coil; Q values hold with all coils driven.

    What follows from the others (`qts` to `bl_tm`) may be stated to be checked against them; `bl_tm` as its maker
    states it, coils in series or in parallel.
    """

    name: str | None = Field(default=None, max_length=120)
    re_ohm: Annotated[Quantity, Range("ohm", 0.05, 64)]
    fs_hz: Annotated[Quantity, Range("Hz", 5, 500)]
    qms: Annotated[Quantity, Range("", 0.2, 50)]
    qes: Annotated[Quantity, Range("", 0.05, 20)]
    vas_l: Annotated[Quantity, Range("l", 0.1, 2000)]
    sd_cm2: Annotated[Quantity, Range("cm²", 5, 5000)]
    xmax_mm: Annotated[Quantity, Range("mm", 0.1, 100)] | None = None
    le_mh: Annotated[Quantity, Range("mH", 0, 50)] = assumed(0)
    semi_inductance: tuple[float, ...] | None = Field(default=None, min_length=2, max_length=2)
    coils: Annotated[float, Number("", 1, 2, whole=True)] | None = None
    coil_ohm: Annotated[float, Number("ohm", 0.25, 32)] | None = None
    size_inch: Annotated[float, Number("in", 1, 34)] | None = None
    rated_w: Annotated[float, Number("W", 1, 20000)] | None = None
    qts: Annotated[float, Number("", 0.05, 20)] | None = None
    cms_mm_per_n: Annotated[float, Number("mm/N", 0.001, 20)] | None = None
    mms_g: Annotated[float, Number("g", 0.1, 5000)] | None = None
    bl_tm: Annotated[float, Number("T·m", 0.1, 200)] | None = None
    price: Annotated[float, Number("", 0, 1_000_000)] | None = None


class Box(StrictModel):
    """The enclosure; `volume_l` is the whole box."""

    kind: Literal["infinite_baffle", "sealed", "vented", "measured"]
    volume_l: Annotated[Quantity, Range("l", 0.5, 5000)] | None = None
    tuning_hz: Annotated[Quantity, Range("Hz", 10, 200)] | None = None
    ql: Annotated[Quantity, Range("", 1, 100)] = assumed(7)

    @model_validator(mode="after")
    def _is_complete(self) -> Self:
        missing = [
            name
            for name, needed in (
                ("volume_l", self.kind in ("sealed", "vented")),
                ("tuning_hz", self.kind == "vented"),
            )
            if needed and getattr(self, name) is None
        ]
        if missing:
            raise PydanticCustomError(
                "box", "a {kind} box needs {name}", {"kind": self.kind, "name": f"its {field_words(missing[0])}"}
            )
        return self


class Sweep(StrictModel):
    """A measured impedance sweep; it overrides the model of driver and box."""

    frequency_hz: list[Annotated[float, Number("Hz", 1, 50000)]] = Field(min_length=2, max_length=200_000)
    impedance_ohm: list[Annotated[float, Number("ohm", 0.05, 5000)]] = Field(min_length=2, max_length=200_000)
    phase_deg: list[Annotated[float, Number("°", -90, 90)]] | None = None
    smoothing_octaves: Annotated[float, Number("octaves", 0, 2)] = 0.0

    @model_validator(mode="after")
    def _is_a_curve(self) -> Self:
        if len(self.impedance_ohm) != len(self.frequency_hz) or (
            self.phase_deg is not None and len(self.phase_deg) != len(self.frequency_hz)
        ):
            raise PydanticCustomError("sweep", "the lists of a sweep must be of one length")
        if any(b <= a for a, b in zip(self.frequency_hz, self.frequency_hz[1:], strict=False)):
            raise PydanticCustomError("sweep", "frequency_hz must rise from row to row")
        return self


class LoadReading(StrictModel):
    """Volts and amps read at a tone, with the phase or the true watts where they were read too."""

    tone_hz: Annotated[float, Number("Hz", 5, 500)]
    output_v: Annotated[float, Number("V", 0.05, 500)]
    output_a: Annotated[float, Number("A", 0.01, 500)]
    phase_deg: Annotated[float, Number("°", -90, 90)] | None = None
    power_w: Annotated[float, Number("W", 0.001, 50000)] | None = None

    @model_validator(mode="after")
    def _no_more_than_apparent(self) -> Self:
        if self.power_w is not None and self.power_w > 1.001 * self.output_v * self.output_a:
            text = f"{self.power_w:g} W is more than {self.output_v * self.output_a:.4g} VA; true watts never are"
            raise PydanticCustomError("reading", "{text}", {"text": text})
        return self


class Load(StrictModel):
    """What the amplifier drives: drivers, how their coils are wired, and what the box makes of it.

    A measured `rise` is that at `rise_tone_hz`, the tone of the basis where none is stated. `coil_k_per_w` is how much
    a driver's coil warms for each watt in it, once settled.
    """

    drivers: Annotated[Quantity, Range("", 1, 16, whole=True)] = assumed(1)
    coils_per_driver: Annotated[Quantity, Range("", 1, 2, whole=True)] = assumed(1)
    coil_ohm: Annotated[Quantity, Range("ohm", 0.25, 32)] = assumed(4)
    wiring: Annotated[str, Field(max_length=120)] | None = None
    driver: Driver | None = None
    drivers_mixed: list[Driver] = Field(default_factory=list, max_length=16)
    box: Box | None = None
    sweep: Sweep | None = None
    rise: Annotated[Quantity, Range("", 0.5, 30)] = assumed(1)
    rise_tone_hz: Hertz | None = None
    power_factor: Annotated[Quantity, Range("", 0.05, 1)] = assumed(1)
    coil_temperature_rise_k: Annotated[Quantity, Range("K", 0, 250)] = assumed(0)
    coil_k_per_w: Annotated[Quantity, Range("K/W", 0.01, 10)] | None = None
    readings: list[LoadReading] = Field(default_factory=list, max_length=50)
    high_pass_hz: Hertz | None = None
    low_pass_hz: Hertz | None = None
    high_pass_order: Annotated[Quantity, Range("", 1, 8, whole=True)] | None = None
    low_pass_order: Annotated[Quantity, Range("", 1, 8, whole=True)] | None = None


class Gain(StrictModel):
    """How an amplifier's gain is set: read `volts` at its output with a full-scale tone, or as the sheet says.

    Volts are those across the load, of both channels of a bridge and of both strapped amplifiers. As the sheet says is
    to `criterion`, onto its load, alone, with a tone of `tone_hz` (40 Hz for bass, else 1 kHz) in the engine's state.
    """

    volts: Annotated[Quantity, Range("V", 0.05, 500)] | None = None
    load: Literal["drivers", "resistor", "none"] = "drivers"
    resistor_ohm: Annotated[Quantity, Range("ohm", 0.1, 100)] | None = None
    engine: Engine = "cruise"
    tone_hz: Annotated[Quantity, Range("Hz", 5, 20000)] | None = None
    criterion: Literal["thd1", "clip", "unstated"] = "thd1"


class Amplifier(AmplifierRecord):
    """An amplifier in the job, with its runs by value, its lead and what it drives.

    `output_scale` multiplies the volts of all its limits, `loss_scale` what it takes in besides output and idle: what
    readings in the car say of this one against its sheet. Its sink warms by `sink_k_per_w` for each watt of heat, with
    the time constant `sink_time_s`; at `trip_c` its protection trips.
    """

    id: Annotated[str, Field(min_length=1, max_length=40, pattern=r"^[\w-]+$")]
    at: NodeName = "front"
    lead: Lead | None = None
    speaker_lead: Wire | None = None
    connection: Connection = "single"
    partner: str | None = None
    runs: list[Measurement] = Field(default_factory=list, max_length=2000)
    claims: list[Claim] = Field(default_factory=list, max_length=100)
    load: Load | None = None
    level_db: Level = assumed(0)
    gain: Gain | None = None
    output_scale: Annotated[Quantity, Range("", 0.2, 5)] = assumed(1)
    loss_scale: Annotated[Quantity, Range("", 0.05, 20)] = assumed(1)
    sink_k_per_w: Annotated[Quantity, Range("K/W", 0.01, 10)] | None = None
    sink_time_s: Annotated[Quantity, Range("s", 10, 20000)] | None = None
    trip_c: Annotated[Quantity, Range("°C", 40, 150)] | None = None
    came_from: str | None = Field(default=None, max_length=200)


Octave = Literal["31.5", "63", "125", "250", "500", "1000", "2000", "4000", "8000", "16000"]
OCTAVES: tuple[Octave, ...] = get_args(Octave)
"""Names of the octave bands (IEC 61260-1), Hz."""


class ProgrammeFile(StrictModel):
    """A user's recording as its octave bands: RMS of each step, dB of a full-scale sine.

    `bands` is left out where the analysis is kept beside the job, under the recording's SHA-256.
    """

    name: str = Field(max_length=200)
    sha256: str = Field(pattern=r"^[0-9a-f]{64}$")
    bands: dict[Octave, list[Annotated[float, Number("dB", -200, 20)]]] | None = Field(default=None, min_length=1)
    step_s: Annotated[float, Number("s", 0.001, 0.1)] = 0.01

    @model_validator(mode="after")
    def _bands_are_of_one_length(self) -> Self:
        lengths = {len(each) for each in (self.bands or {}).values()}
        if len(lengths) > 1 or not all(0 < length <= MOST_PROGRAMME_STEPS for length in lengths):
            text = f"bands need lists of one length, 1 to {MOST_PROGRAMME_STEPS}"
            raise PydanticCustomError("bands", "{text}", {"text": text})
        return self


class Basis(StrictModel):
    """The state the headline figures are for: engine, what is played, how loud."""

    engine: Engine = "idle"
    programme: Programme = "tone"
    tone_hz: Annotated[Quantity, Range("Hz", 5, 20000)] = assumed(40)
    level_db: Level = assumed(0)
    criterion: Criterion = "thd1"
    burst_on_s: Annotated[Quantity, Range("s", 0.001, 60)] = assumed(0.02)
    burst_off_s: Annotated[Quantity, Range("s", 0.001, 600)] = assumed(0.48)
    burst_off_db: Annotated[Quantity, Range("dB", -120, 0)] = assumed(-20)
    programme_file: ProgrammeFile | None = None
    clamp_range_a: Annotated[Quantity, Range("A", 1, 5000)] | None = None

    @model_validator(mode="after")
    def _has_its_file(self) -> Self:
        if self.programme == "file" and self.programme_file is None:
            raise PydanticCustomError("file", "a recording is to be played, and none is there")
        return self


class Targets(StrictModel):
    """What the customer wants held. `speaker_loss` is the share of an output that its speaker lead may burn.

    `fuse` is the school: for the cable alone, or for the cable and no smaller than the amplifier's own where that fits.
    """

    terminal_v: Annotated[Quantity, Range("V", 9, 60)] = assumed(12.5)
    drop_v: Annotated[Quantity, Range("V", 0.05, 5)] = assumed(0.5)
    speaker_loss: Annotated[Quantity, Range("", 0.005, 0.5)] = assumed(0.05)
    delivered_w: Annotated[Quantity, Range("W", 1, 100000)] | None = None
    budget: Price | None = None
    fuse: Literal["cable", "amplifier"] = "cable"


GoalQuantity = Literal[
    "terminal_v", "front_v", "delivered_w", "gain_db", "engine_off_min", "cost", "hours", "weight_kg"
]


class Goal(StrictModel):
    """A number that the customer wants: no less or no more of something, in a state of the car.

    What is not stated is that of the basis. Volts are the lowest of all amplifiers (or of the front posts), watts those
    of all, at the loudest moment after the mean load has run for so many `minutes`: a full battery hides a shortfall.
    """

    quantity: GoalQuantity
    at_least: Annotated[float, Number("", -100, 1_000_000)] | None = None
    at_most: Annotated[float, Number("", -100, 1_000_000)] | None = None
    engine: Engine | None = None
    programme: Programme | None = None
    tone_hz: Annotated[float, Number("Hz", 5, 20000)] | None = None
    minutes: Annotated[float, Number("min", 0, 600)] = 30.0

    @model_validator(mode="after")
    def _wants_one_thing(self) -> Self:
        if (self.at_least is None) == (self.at_most is None):
            raise PydanticCustomError("goal", "a goal needs either the least or the most that is wanted")
        return self


class Wishes(StrictModel):
    """What a plan has to heed: parts to keep as they are, parts never to use, parts that must come."""

    keep: list[Name] = Field(default_factory=list, max_length=50)
    never: list[Name] = Field(default_factory=list, max_length=200)
    pins: list[Name] = Field(default_factory=list, max_length=50)


class JobDocument(StrictModel):
    """A whole job. Lists may be empty; an empty job still answers. `state` is how far the work on the car is."""

    format: Literal["under-hood/job"] = "under-hood/job"
    version: Literal[1] = 1
    title: Name = "Untitled job"
    customer: Annotated[str, Field(max_length=120)] = ""
    vehicle_plate: Annotated[str, Field(max_length=20)] = ""
    tags: list[Tag] = Field(default_factory=list, max_length=12)
    notes: Note = ""
    state: Literal["found", "planned", "fitted", "proved"] = "found"
    vehicle: Vehicle = Field(default_factory=Vehicle)
    chargers: list[Charger] = Field(default_factory=list, max_length=4)
    banks: list[Bank] = Field(default_factory=list, max_length=12)
    capacitors: list[Capacitor] = Field(default_factory=list, max_length=12)
    nodes: list[Node] = Field(default_factory=list, max_length=40)
    cables: list[Cable] = Field(default_factory=list, max_length=60)
    amplifiers: list[Amplifier] = Field(default_factory=list, max_length=16)
    basis: Basis = Field(default_factory=Basis)
    targets: Targets = Field(default_factory=Targets)
    goals: list[Goal] = Field(default_factory=list, max_length=12)
    plan: Wishes = Field(default_factory=Wishes)

    @model_validator(mode="after")
    def _names_are_single(self) -> Self:
        for field, names in (
            ("amplifiers", [amplifier.id for amplifier in self.amplifiers]),
            ("cables", [cable.name for cable in self.cables]),
            ("nodes", [node.name for node in self.nodes]),
        ):
            twice = [name for name in names if names.count(name) > 1]
            if twice:
                text = f"{field} holds {twice[0]!r} twice; each needs a name of its own"
                raise PydanticCustomError("twice", "{text}", {"text": text})
        return self

    @model_validator(mode="after")
    def _goals_have_the_file(self) -> Self:
        for i, goal in enumerate(self.goals):
            if goal.programme == "file" and self.basis.programme_file is None:
                raise PydanticCustomError("file", "goal {i} is for a recording, and none is there", {"i": i + 1})
        return self

    def document(self) -> dict[str, Any]:
        """The job as the plain document that is stored, sent and exported."""
        return self.model_dump(mode="json", by_alias=True)


def json_schema() -> dict[str, Any]:
    """The published JSON Schema of the job file."""
    return JobDocument.model_json_schema(by_alias=True)
