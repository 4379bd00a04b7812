"""What a corrected number means in the car, in words: how much more or less than thought, and where to look.

Common practice of the trade. Left out: which number it is (see `correction`).
"""

from __future__ import annotations

from underhood.proof.parameters import Parameter

LOOK_AT = {
    "return.resistance_ohm": "look at the ground point: bare metal, a clean ring, a tight bolt",
    "joints_ohm": "look at its joints, the fuse and the fuse holder",
    "source_ohm": "look at the charging cable and at the straps between engine, body and battery",
    "idle_a": "look at the belt and at how hot it runs; read its output with a clamp",
    "rated_a": "read its output with a clamp",
    "setpoint_v": "read the volts at its own terminals; its regulator may follow temperature or the vehicle's wishes",
    "resistance_ohm": "test the battery under load; one that is worn or cold has more",
    "charge": "charge the battery fully and read its resting volts again",
    "acceptance_a": "the battery takes another current than usual while it is charged",
    "loads": "find out what else of the vehicle is switched on",
    "length_m": "look for thin or aluminium conductor; measure the ohms of a metre",
    "load.rise": "read volts and amps at the output once more, at the tone",
    "load.power_factor": "read the phase, or true watts, at the tone",
    "output_scale": "see that its gain stands where the set-up sheet has it, filters open",
    "loss_scale": "its losses are not those of its sheet; read its amps on the bench",
}
USUAL = "within what was allowed for"
WORTH_SAYING = 0.05
"""Of a value, that a correction has to move it by before it is said to be more or less [P]."""


def _kind(field: str) -> str:
    """The end of a field's name that the words go by."""
    return max((end for end in LOOK_AT if field.endswith(end)), key=len, default="")


def where_to_look(of: Parameter) -> str:
    """The place in the car that explains a number which is not what was thought."""
    return LOOK_AT.get(_kind(of.field), "")


def part_words(of: Parameter) -> str:
    """A number and the part it belongs to: "Ground return of Main run"."""
    return f"{of.name} of {of.part}" if of.part not in of.name else of.name


def verdict_words(of: Parameter, after: float, unit: str) -> str:
    """What a correction says: how much more or less it is than was typed or assumed, and where to look."""
    before = of.given.value
    if of.form != "add" and abs(after / before - 1) < WORTH_SAYING:
        return f"{part_words(of)} is as {of.given.origin}."
    more = "more" if after > before else "less"
    shown = f"{_shown(after, unit)}, {_shown(abs(after - before), unit)} {more} than {of.given.origin}"
    return f"{part_words(of)} is {shown}: {where_to_look(of)}."


def _shown(value: float, unit: str) -> str:
    """A number with its unit, small ohms in milliohms."""
    if unit == "Ω" and abs(value) < 0.1:
        return f"{1000 * value:.3g} mΩ"
    if unit == "Ω/m":
        return f"{1000 * value:.3g} mΩ/m"
    if not unit:
        return f"{100 * value:.0f} %"
    return f"{value:.3g} {unit}"
