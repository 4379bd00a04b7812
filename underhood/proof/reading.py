"""A reading in the finished car: what was measured where, in which state of the car, with which meter, when, by whom.

Left out: what it should have been (see `observe`), and what it says of the car (see `correction`).
"""

from __future__ import annotations

import datetime as dt
from typing import Annotated, Any, Literal, NamedTuple, Self, get_args

from pydantic import AfterValidator, Field, model_validator
from pydantic_core import PydanticCustomError

from underhood.document.job import Engine, Programme
from underhood.document.quantity import Note, Number, StrictModel, quote
from underhood.document.written import number_written
from underhood.errors import BadInput
from underhood.number_format import shown

What = Literal[
    "volts",
    "drop",
    "amps",
    "output_v",
    "output_a",
    "phase",
    "true_power",
    "coil_ohm",
    "resting_v",
    "sink_temperature",
]
Playing = Literal[Programme, "silent"]
Hold = Literal["mean", "min", "max"]
LATEST = dt.timedelta(minutes=10)
"""How far a clock may be ahead before a reading is said to lie in the future."""
FULL_SHARE = 0.98
"""Of its range, from which on a clamp is taken to stand at its end."""


class Kind(NamedTuple):
    """A kind of reading: its words, unit, what is allowed, and the accuracy of an ordinary meter, % [P].

    place   what `from` names: a place of the tree, an element of it, an amplifier, or nothing
    """

    words: str
    unit: str
    low: float
    high: float
    accuracy_percent: float
    place: Literal["node", "cable", "element", "bank", "amplifier"]


KINDS: dict[What, Kind] = {
    "volts": Kind("volts at", "V", 0.0, 60.0, 0.5, "node"),
    "drop": Kind("voltage drop", "V", -5.0, 20.0, 0.5, "cable"),
    "amps": Kind("current through", "A", -3000.0, 3000.0, 2.0, "element"),
    "output_v": Kind("output volts of", "V", 0.0, 500.0, 1.0, "amplifier"),
    "output_a": Kind("output amps of", "A", 0.0, 500.0, 2.0, "amplifier"),
    "phase": Kind("phase of", "°", -90.0, 90.0, 0.0, "amplifier"),
    "true_power": Kind("true power of", "W", 0.0, 50000.0, 2.0, "amplifier"),
    "coil_ohm": Kind("ohms at", "Ω", 0.02, 64.0, 1.0, "amplifier"),
    "resting_v": Kind("resting volts of", "V", 0.0, 60.0, 0.5, "bank"),
    "sink_temperature": Kind("heat sink of", "°C", -40.0, 200.0, 0.0, "amplifier"),
}


def in_words(reading: Reading) -> str:
    """A reading in a few words, without its place: "volts 12.43 V"."""
    kind = KINDS[reading.what]
    words = kind.words.removesuffix(" at").removesuffix(" of").removesuffix(" through")
    return f"{words} {shown(reading.value)} {kind.unit}"


def _zoned(at: dt.datetime) -> dt.datetime:
    """A time without a zone is as the clock on the wall has it."""
    return at.astimezone() if at.tzinfo is None else at


class Asked(StrictModel):
    """What is read where, in which state of the car: a reading without its value.

    `from` is a place of the tree (volts, to its own ground), an element (amps: a charger, bank, cable, amplifier or
    `vehicle`), a bank (resting volts), a cable (drop: with `to` = `joints` over its joints and fuse holder alone), or
    one end of a drop with `to` the other. `side` of a drop: the positive, or the ground. `level_db` is that of the
    system, below full scale; None where it is as the job has it. `since_s` is how long the state has lasted.
    """

    what: What
    from_: Annotated[str, Field(max_length=120)] = Field(default="", alias="from")
    to: Annotated[str, Field(max_length=120)] = ""
    amplifier: Annotated[str, Field(max_length=120)] = ""
    engine: Engine = "off"
    programme: Playing = "silent"
    tone_hz: Annotated[float, Number("Hz", 5, 20000)] | None = None
    level_db: Annotated[float, Number("dB", -60, 0)] | None = None
    load: Literal["drivers", "resistor", "none"] = "drivers"
    hold: Hold = "mean"
    side: Literal["positive", "ground"] | None = None
    since_s: Annotated[float, Number("s", 0, 864000)] | None = None

    @model_validator(mode="after")
    def _has_its_place(self) -> Self:
        kind = KINDS[self.what]
        if self.what == "resting_v" and (self.engine != "off" or self.programme != "silent"):
            raise PydanticCustomError("state", "resting volts are read with the engine off and nothing playing")
        if kind.place == "amplifier" and not self.amplifier:
            raise PydanticCustomError("amplifier", "{text}", {"text": f"{kind.words} needs its amplifier"})
        if kind.place != "amplifier" and not self.from_:
            raise PydanticCustomError("from", "{text}", {"text": f"{kind.words} needs the place where it was read"})
        return self

    @property
    def unit(self) -> str:
        """Of its value."""
        return KINDS[self.what].unit

    @property
    def accuracy_share(self) -> float:
        """Of its value, that an ordinary meter may be off by."""
        return KINDS[self.what].accuracy_percent / 100


class Reading(Asked):
    """One reading. Its value may come as somebody writes it: `350m`, `1.2k`, `14,2`."""

    value: float
    meter: Annotated[str, Field(max_length=80)] = ""
    meter_range: Annotated[float, Number("", 0.000001, 100000)] | None = None
    accuracy_percent: Annotated[float, Number("%", 0.001, 50)] | None = None
    taken_at: Annotated[dt.datetime, AfterValidator(_zoned)] | None = None
    by: Annotated[str, Field(max_length=80)] = ""
    note: Note = ""
    excluded: bool = False

    @model_validator(mode="before")
    @classmethod
    def _as_written(cls, raw: Any) -> Any:
        """The value as a number, where it came as somebody wrote it."""
        if not isinstance(raw, dict) or not isinstance(raw.get("value"), str) or raw.get("what") not in KINDS:
            return raw
        try:
            return {**raw, "value": number_written(raw["value"], KINDS[raw["what"]].unit)}
        except BadInput as problem:
            raise PydanticCustomError("value", "{text}", {"text": problem.text}) from None

    @model_validator(mode="after")
    def _is_possible(self) -> Self:
        kind = KINDS[self.what]
        if not kind.low <= self.value <= kind.high:
            text = f"{quote(self.value)} is not allowed; give a number from {kind.low:g} to {kind.high:g} {kind.unit}"
            raise PydanticCustomError("value", "{text}", {"text": text})
        if self.taken_at is not None and self.taken_at > dt.datetime.now(dt.UTC) + LATEST:
            text = f"{self.taken_at:%Y-%m-%d %H:%M} lies in the future; set the clock, or correct the date"
            raise PydanticCustomError("taken_at", "{text}", {"text": text})
        return self

    @property
    def accuracy_share(self) -> float:
        """Of its value, that its meter may be off by: as stated, else as ordinary meters are."""
        return (self.accuracy_percent or KINDS[self.what].accuracy_percent) / 100


assert set(get_args(What)) == set(KINDS)


def near_its_end(reading: Reading) -> bool:
    """Whether a clamp stands at the end of its range: what it shows is then no reading."""
    full = reading.meter_range
    return reading.what in ("amps", "output_a") and full is not None and abs(reading.value) >= FULL_SHARE * full
