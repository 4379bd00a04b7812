"""A part that can be bought: what a plan chooses from. Its columns are the job file's own names.

Left out: what a part does to a job (see `plan.steps`).
"""

from __future__ import annotations

from typing import Annotated, Literal, Self, get_args

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from underhood.document.job import Chemistry, Conductor, Isolator
from underhood.document.quantity import Name, NodeName, Note, Number, StrictModel

PartKind = Literal[
    "charger",
    "bank",
    "capacitor",
    "cable",
    "fuse",
    "return",
    "strap",
    "isolator",
    "driver",
    "box",
    "amplifier",
    "labour",
]
KINDS: tuple[PartKind, ...] = get_args(PartKind)
Stock = Literal["in_stock", "order", "second_hand", "never"]
NEEDED: dict[PartKind, tuple[tuple[str, ...], ...]] = {
    "charger": (("rated_a", "idle_a", "limit_a"),),
    "bank": (("capacity_ah",),),
    "capacitor": (("farad",),),
    "cable": (("size",),),
    "fuse": (("amps",),),
    "return": (("return_ohm", "size"),),
    "strap": (("size",),),
    "isolator": (),
    "driver": (("driver",),),
    "box": (("box_kind",),),
    "amplifier": (("amplifier",),),
    "labour": (),
}
"""Of each group one field at least must be given."""
OWN: dict[PartKind, tuple[str, ...]] = {
    "charger": (
        "rated_a",
        "idle_a",
        "setpoint_v",
        "source_ohm",
        "limit_a",
        "input_limit_a",
        "efficiency",
        "from",
        "idle_w",
        "cutout_v",
        "restart_v",
        "always_on",
    ),
    "bank": (
        "chemistry",
        "series",
        "capacity_ah",
        "resistance_ohm",
        "charge_limit_a",
        "discharge_limit_a",
        "isolator",
    ),
    "capacitor": ("farad", "esr_ohm"),
    "cable": ("size", "conductor", "measured_ohm_per_m"),
    "fuse": ("amps",),
    "return": ("return_kind", "return_ohm", "size", "conductor"),
    "strap": ("size", "conductor", "measured_ohm_per_m"),
    "isolator": ("isolator",),
    "driver": ("driver",),
    "box": ("box_kind", "volume_l", "tuning_hz"),
    "amplifier": ("amplifier",),
    "labour": (),
}
"""What each kind has besides what all have."""
EVERY = ("kind", "name", "price", "hours", "weight_kg", "stock", "at", "system_v", "needs", "excludes", "notes")


class Part(StrictModel):
    """A part of the workshop's list. The price of a cable is a metre's, that of labour an hour's.

    A price that is not given is asked for when a plan wants the part, never taken for nothing. An empty `at` fits every
    slot of the kind. `driver` and `amplifier` name an entry of the workshop. `needs` are parts that must be there with
    it, `excludes` parts that may not.
    """

    kind: PartKind
    name: Name
    price: Annotated[float, Number("", 0, 1_000_000)] | None = None
    hours: Annotated[float, Number("h", 0, 200)] = 0.0
    weight_kg: Annotated[float, Number("kg", 0, 500)] | None = None
    stock: Stock = "in_stock"
    at: NodeName | None = None
    series: Annotated[float, Number("", 1, 8, whole=True)] | None = None
    idle_w: Annotated[float, Number("W", 0, 200)] | None = None
    cutout_v: Annotated[float, Number("V", 5, 60)] | None = None
    restart_v: Annotated[float, Number("V", 5, 60)] | None = None
    always_on: bool | None = None
    input_limit_a: Annotated[float, Number("A", 0.5, 1000)] | None = None
    rated_a: Annotated[float, Number("A", 1, 1000)] | None = None
    idle_a: Annotated[float, Number("A", 0.5, 1000)] | None = None
    setpoint_v: Annotated[float, Number("V", 10, 60)] | None = None
    source_ohm: Annotated[float, Number("ohm", 0.00005, 1)] | None = None
    limit_a: Annotated[float, Number("A", 0.5, 1000)] | None = None
    efficiency: Annotated[float, Number("", 0.2, 1)] | None = None
    from_: NodeName | None = Field(default=None, alias="from")
    chemistry: Chemistry | None = None
    capacity_ah: Annotated[float, Number("Ah", 1, 2000)] | None = None
    resistance_ohm: Annotated[float, Number("ohm", 0.00005, 1)] | None = None
    charge_limit_a: Annotated[float, Number("A", 0.5, 5000)] | None = None
    discharge_limit_a: Annotated[float, Number("A", 0.5, 5000)] | None = None
    isolator: Isolator | None = None
    farad: Annotated[float, Number("F", 0.01, 50000)] | None = None
    esr_ohm: Annotated[float, Number("ohm", 0.00005, 1)] | None = None
    size: Annotated[str, Field(max_length=20)] | None = None
    conductor: Conductor | None = None
    measured_ohm_per_m: Annotated[float, Number("ohm/m", 0.00001, 1)] | None = None
    amps: Annotated[float, Number("A", 0.5, 1000)] | None = None
    return_kind: Literal["chassis", "cable"] | None = None
    return_ohm: Annotated[float, Number("ohm", 0, 1)] | None = None
    box_kind: Literal["infinite_baffle", "sealed", "vented"] | None = None
    volume_l: Annotated[float, Number("l", 0.5, 5000)] | None = None
    tuning_hz: Annotated[float, Number("Hz", 10, 200)] | None = None
    driver: Name | None = None
    amplifier: Name | None = None
    system_v: Annotated[float, Number("V", 6, 60)] = 12.0
    needs: tuple[Name, ...] = Field(default=(), max_length=20)
    excludes: tuple[Name, ...] = Field(default=(), max_length=20)
    notes: Note = ""

    @model_validator(mode="after")
    def _is_what_its_kind_wants(self) -> Self:
        for group in NEEDED[self.kind]:
            if all(getattr(self, name) is None for name in group):
                text = f"a {self.kind} needs {' or '.join(group)}"
                raise PydanticCustomError("part", "{name}: {text}", {"name": group[0], "text": text})
        foreign = [
            column
            for column in COLUMNS
            if column not in (*EVERY, *OWN[self.kind]) and getattr(self, FIELDS.get(column, column)) is not None
        ]
        if foreign:
            text = f"a {self.kind} has none; it has {', '.join(OWN[self.kind]) or 'nothing besides'}"
            raise PydanticCustomError("part", "{name}: {text}", {"name": foreign[0], "text": text})
        if self.kind == "box" and self.box_kind != "infinite_baffle" and self.volume_l is None:
            raise PydanticCustomError("part", "volume_l: a {kind} box needs it", {"kind": self.box_kind or ""})
        return self


FIELDS = {"from": "from_"}
"""Columns whose field is spelt differently."""
COLUMNS: tuple[str, ...] = tuple(field.alias or name for name, field in Part.model_fields.items())
"""Of the parts list, in the order of the published format."""
