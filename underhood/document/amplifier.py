"""What is known of an amplifier: its record, the runs measured on it, and what its maker claims.

Names, units and ranges only, as the job file and the bench sheet spell them; what follows from them is in `bench`.
"""

from __future__ import annotations

from datetime import date as Date  # noqa: N812 - `date` is a field name of the file format
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from underhood.document.quantity import Name, Note, Number, Ohms, Price, Quantity, Range, StrictModel, Volts, assumed
from underhood.document.words import field_words

Criterion = Literal["thd1", "clip", "burst", "unstated"]


class Measurement(StrictModel):
    """One reading of an amplifier on the bench; the columns of a bench sheet.

    One whose protection tripped (`protect`) may have no output at all: it says where the amplifier stops.
    `meter_range` is full scale of the meter that read `supply_a`, or `output_v` where no amps were read. After the
    audit a reading may be `excluded` from the fit, `kept` although something speaks against it, or corrected, with what
    was first read in `as_read`; `reason` says why.
    """

    load_ohm: Annotated[float, Number("ohm", 0.1, 64)]
    load_kind: Literal["resistive", "reactive"] = "resistive"
    criterion: Criterion
    tone_hz: Annotated[float, Number("Hz", 5, 20000)] | None = None
    supply_before_v: Annotated[float, Number("V", 5, 64)] | None = None
    supply_v: Annotated[float, Number("V", 5, 64)] | None = None
    supply_a: Annotated[float, Number("A", 0.01, 5000)] | None = None
    power_w: Annotated[float, Number("W", 0.01, 50000)] | None = None
    output_v: Annotated[float, Number("V", 0.01, 500)] | None = None
    output_a: Annotated[float, Number("A", 0.01, 2000)] | None = None
    power_factor: Annotated[float, Number("", 0.01, 1)] | None = None
    heatsink_c: Annotated[float, Number("°C", -40, 200)] | None = None
    protect: bool = False
    note: Note = ""
    impedance_ohm: Annotated[float, Number("ohm", 0.1, 500)] | None = None
    level_db: Annotated[float, Number("dB", -60, 0)] | None = None
    meter: Annotated[str, Field(max_length=120)] = ""
    meter_range: Annotated[float, Number("", 0, 100000)] | None = None
    four_wire: bool = False
    date: Date | None = None
    excluded: bool = False
    kept: bool = False
    as_read: Note = ""
    reason: Note = ""

    @model_validator(mode="after")
    def _states_its_output(self) -> Self:
        if self.power_w is None and self.output_v is None and not self.protect:
            raise PydanticCustomError("output", "no output is given; give its watts or its volts")
        return self


ClaimKind = Literal["standard", "manual", "box", "max"]


class Claim(StrictModel):
    """What the maker says the amplifier delivers. `standard` is CTA-2006: 14.4 V, at most 1 % THD+N."""

    load_ohm: Annotated[float, Number("ohm", 0.1, 64)]
    power_w: Annotated[float, Number("W", 0.01, 50000)]
    supply_v: Annotated[float, Number("V", 5, 64)] = 14.4
    thd_percent: Annotated[float, Number("%", 0, 100)] | None = None
    kind: ClaimKind


Hertz = Annotated[float, Number("Hz", 1, 50000)]
HertzRange = Annotated[tuple[Hertz, ...], Field(min_length=2, max_length=2)]
VoltsRange = Annotated[tuple[Annotated[float, Number("V", 0.01, 50)], ...], Field(min_length=2, max_length=2)]
Millimetres = Annotated[tuple[Annotated[float, Number("mm", 1, 10000)], ...], Field(min_length=3, max_length=3)]


class AmplifierRecord(StrictModel):
    """What is known of an amplifier besides its runs; the header keys of a bench sheet. Only the name is needed.

    `band` is `bass` for one that plays nothing above its pass band. Several `speaker_terminals` of a mono amplifier are
    one output. Its supply terminals take bare wire or ferrules (`clamp`) or rings (`stud`). `damping_factor` is its
    maker's, into the lowest load. It takes `supply_max_v` at most; `system_v` is what it is
    made for. `all_channels_driven` says whether
    every channel played while it was measured. `overlap_db` is how far below full scale the tone was that its gain is
    set with (common practice: 5 to 10). `high_pass_set_hz` and `low_pass_set_hz` are its
    filters as they stood while it was measured. `size_mm` is length, width and height over all.
    """

    name: Name
    class_: Literal["A", "AB", "B", "D", "G", "H"] = Field(default="D", alias="class")
    band: Literal["full", "bass"] | None = None
    pass_band_hz: HertzRange | None = None
    supply: Literal["regulated", "unregulated"] | None = None
    supply_exponent: Annotated[Quantity, Range("", 0, 1)] | None = None
    idle_a: Annotated[Quantity, Range("A", 0, 50)] | None = None
    dropout_v: Volts = assumed(11.0)
    cutout_v: Volts = assumed(9.5)
    system_v: Annotated[float, Number("V", 6, 60)] = 12.0
    supply_max_v: Volts = assumed(16.0)
    all_channels_driven: bool | None = None
    overlap_db: Annotated[Quantity, Range("dB", 0, 20)] = assumed(5.0)
    channels: Annotated[Quantity, Range("", 1, 12, whole=True)] = assumed(1)
    measured_as: Literal["channel", "bridged"] = "channel"
    minimum_load_ohm: Ohms | None = None
    bridgeable: bool | None = None
    strappable: bool | None = None
    fuses_a: tuple[Annotated[float, Number("A", 0.5, 1000)], ...] = Field(default=(), max_length=12)
    terminal_max: Annotated[str, Field(max_length=20)] | None = None
    terminal_inputs: Annotated[Quantity, Range("", 1, 4, whole=True)] = assumed(1)
    terminal_kind: Literal["clamp", "stud"] | None = None
    damping_factor: Annotated[float, Number("", 1, 10000)] | None = None
    speaker_terminals: Annotated[float, Number("", 1, 24, whole=True)] | None = None
    inputs: tuple[Literal["line", "high_level"], ...] = Field(default=(), max_length=2)
    input_range_v: VoltsRange | None = None
    high_pass_range_hz: HertzRange | None = None
    low_pass_range_hz: HertzRange | None = None
    high_pass_set_hz: Hertz | None = None
    low_pass_set_hz: Hertz | None = None
    boost_max_db: Annotated[float, Number("dB", 0, 30)] | None = None
    boost_hz: Hertz | None = None
    lights: tuple[Literal["clip", "protect"], ...] = Field(default=(), max_length=2)
    remote_level: bool | None = None
    fans: Annotated[float, Number("", 0, 12, whole=True)] | None = None
    size_mm: Millimetres | None = None
    mass_kg: Annotated[float, Number("kg", 0.05, 200)] | None = None
    price: Price | None = None
    price_date: Date | None = None
    list_price: Price | None = None
    list_price_date: Date | None = None
    currency: Annotated[str, Field(pattern=r"^[A-Z]{3}$")] | None = None
    likes: Note = ""
    dislikes: Note = ""

    @model_validator(mode="after")
    def _ranges_rise(self) -> Self:
        for name in ("pass_band_hz", "input_range_v", "high_pass_range_hz", "low_pass_range_hz"):
            pair = getattr(self, name)
            if pair and pair[0] >= pair[1]:
                text = f"{pair[0]:g} to {pair[1]:g} is not a range; give the lower end first"
                raise PydanticCustomError("pair", "{name}: {text}", {"name": field_words(name), "text": text})
        return self

    @property
    def one_output(self) -> bool:
        """Whether extra pairs of speaker terminals are the same output again: on a mono amplifier they are."""
        return self.channels.value == 1 and (self.speaker_terminals or 1) > 1

    def output_ohm(self, nominal_ohm: float) -> float | None:
        """Its output resistance: makers state the damping factor into the lowest load they allow, else the nominal."""
        if self.damping_factor is None:
            return None
        lowest = self.minimum_load_ohm
        return (lowest.value if lowest else nominal_ohm) / self.damping_factor

    @property
    def outputs(self) -> int:
        """How many outputs like the measured one it has: its channels, or its bridged pairs."""
        return max(int(self.channels.value) // (2 if self.measured_as == "bridged" else 1), 1)
