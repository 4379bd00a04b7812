"""What a person reads for a field of the job file, a bench sheet, a part or the workshop's settings.

No path of a file reaches a person: refusals, flags and the list of what a save changed are told in these words, the
field's own (see the glossary). Left out: the paths themselves (see `paths`).
"""

from __future__ import annotations

from typing import Any

from underhood.errors import BadInput

__all__ = ["ITEMS", "UNSAID", "WORDS", "field_words", "path_words", "refusal"]

WORDS: dict[str, str] = {
    "absorption_v": "absorption voltage",
    "acc_a": "current with the radio on",
    "acceptance_a": "charge acceptance",
    "age_factor": "capacity left",
    "all_channels_driven": "all channels driven",
    "all_on_a": "current with everything on",
    "always_on": "runs with the engine off",
    "ambient_c": "air temperature",
    "amplifier": "amplifier",
    "amplifiers": "amplifiers",
    "amps": "amps",
    "as_read": "as first read",
    "at": "place",
    "at_least": "at least",
    "at_most": "at most",
    "band": "band",
    "bands": "octave bands",
    "banks": "batteries",
    "basis": "what is played",
    "bl_tm": "force factor Bl",
    "boost_hz": "boost frequency",
    "boost_max_db": "boost at most",
    "box": "box",
    "box_kind": "kind of box",
    "bridgeable": "bridgeable",
    "budget": "budget",
    "bundled": "cables in the bundle",
    "burst_off_db": "level between bursts",
    "burst_off_s": "time between bursts",
    "burst_on_s": "length of a burst",
    "c1_f": "polarisation capacitance",
    "cabin_longest_m": "length of the cabin",
    "cables": "cables",
    "came_from": "taken from",
    "capacitors": "capacitors",
    "capacity_ah": "capacity",
    "channels": "channels",
    "charge": "state of charge",
    "charge_limit_a": "charge current allowed",
    "chargers": "chargers",
    "chemistry": "chemistry",
    "claims": "claims",
    "clamp_range_a": "range of the clamp",
    "class": "class",
    "cms_mm_per_n": "compliance Cms",
    "coil_k_per_w": "warming of a coil",
    "coil_ohm": "ohms a coil",
    "coil_temperature_rise_k": "coils warmer by",
    "coils": "coils",
    "coils_per_driver": "coils of each driver",
    "cold_cranking_a": "cold cranking amps",
    "conductor": "conductor",
    "connection": "connection",
    "control": "control",
    "count": "equal ones in parallel",
    "criterion": "criterion",
    "cruise_a": "current at cruise",
    "cruise_rpm": "engine speed at cruise",
    "currency": "currency",
    "customer": "customer",
    "cut_ends_m": "length added for the ends of a cut",
    "cut_in_rpm": "cut-in speed",
    "cut_share": "share added to a cut",
    "cutout_v": "cut-out voltage",
    "damping_factor": "damping factor",
    "date": "date",
    "delivered_w": "watts wanted",
    "diode_v": "drop of its diode",
    "discharge_limit_a": "discharge current allowed",
    "discharge_peak_a": "discharge current for moments",
    "dislikes": "dislikes",
    "drive": "drive",
    "driver": "driver",
    "drivers": "number of drivers",
    "drivers_mixed": "drivers that differ",
    "drop_v": "voltage drop allowed",
    "dropout_v": "voltage at which it falls short",
    "efficiency": "efficiency",
    "engine": "engine",
    "engine_space": "runs through the engine bay",
    "esr_ohm": "internal resistance",
    "excluded": "left out of the fit",
    "excludes": "parts it excludes",
    "fans": "fans",
    "farad": "capacitance",
    "format": "format",
    "four_wire": "four-wire reading",
    "frequency_hz": "frequencies",
    "from": "from",
    "fs_hz": "resonance fs",
    "fuse_distance_mm": "distance of the fuse",
    "fuse_from_a": "fuse at its start",
    "fuse_kind": "kind of fuse",
    "fuse_ohm": "resistance of the fuse",
    "fuse_to_a": "fuse at its end",
    "fuses_a": "own fuses",
    "goals": "goals",
    "grommets": "panels it passes",
    "heatsink_c": "heat sink temperature",
    "high_pass_hz": "high-pass",
    "high_pass_order": "order of the high-pass",
    "high_pass_range_hz": "range of the high-pass",
    "high_pass_set_hz": "high-pass as measured",
    "hot_derating": "hot derating",
    "hours": "hours",
    "id": "mark",
    "idle_a": "idle current",
    "idle_rpm": "engine speed at idle",
    "idle_w": "idle power",
    "impedance_ohm": "impedance",
    "input_range_v": "input range",
    "inputs": "inputs",
    "insulation_c": "temperature of the insulation",
    "isolator": "isolator",
    "joints_ohm": "resistance of its joints",
    "keep": "parts to keep",
    "kept": "kept in the fit",
    "kind": "kind",
    "le_mh": "coil inductance Le",
    "lead": "power lead",
    "length_m": "length",
    "lengths": "unit of lengths",
    "level_db": "level",
    "lights": "lights",
    "likes": "likes",
    "limit_a": "current limit",
    "list_price": "list price",
    "list_price_date": "date of the list price",
    "load": "load",
    "load_kind": "kind of load",
    "load_ohm": "load",
    "loads": "loads of the vehicle",
    "loss_scale": "losses against its sheet",
    "low_pass_hz": "low-pass",
    "low_pass_order": "order of the low-pass",
    "low_pass_range_hz": "range of the low-pass",
    "low_pass_set_hz": "low-pass as measured",
    "mass_kg": "weight",
    "measured_as": "measured as",
    "measured_on": "measured on",
    "measured_ohm_per_m": "measured resistance of a metre",
    "meter": "meter",
    "meter_range": "range of the meter",
    "minimum_load_ohm": "lowest safe load",
    "minutes": "minutes",
    "mms_g": "moving mass Mms",
    "name": "name",
    "needs": "parts it needs",
    "never": "parts never to use",
    "nodes": "places",
    "note": "note",
    "notes": "notes",
    "ocv_v": "open-circuit voltage",
    "off_a": "current while parked",
    "output_a": "output current",
    "output_scale": "output against its sheet",
    "output_v": "output voltage",
    "overlap_db": "overlap of the gain setting",
    "partner": "its partner",
    "pass_band_hz": "pass band",
    "peukert": "Peukert exponent",
    "phase_deg": "phase",
    "pins": "parts that must come",
    "plan": "wishes of the plan",
    "power_factor": "power factor",
    "power_w": "power",
    "price": "price",
    "price_date": "date of the price",
    "price_per_m": "price of a metre",
    "programme": "programme",
    "programme_file": "recording",
    "protect": "protection tripped",
    "pulley_ratio": "pulley ratio",
    "qes": "electrical Q (Qes)",
    "ql": "leakage Q",
    "qms": "mechanical Q (Qms)",
    "qts": "total Q (Qts)",
    "quantity": "what is wanted",
    "quote_days": "days a quote holds",
    "r1_charge_ohm": "polarisation resistance on charge",
    "r1_discharge_ohm": "polarisation resistance on discharge",
    "rated_a": "rated output",
    "rated_w": "rated power",
    "re_ohm": "ohms of a coil, direct current",
    "readings": "readings",
    "reason": "reason",
    "remote_level": "remote level control",
    "resistance_ohm": "resistance",
    "restart_v": "restart voltage",
    "return": "ground return",
    "return_kind": "kind of ground return",
    "return_ohm": "resistance of the ground return",
    "rows": "readings",
    "rise": "impedance rise",
    "rise_tone_hz": "tone of the impedance rise",
    "runs": "runs",
    "sd_cm2": "cone area Sd",
    "semi_inductance": "semi-inductance",
    "setpoint_low_v": "lowered set-point",
    "setpoint_mv_per_k": "set-point's change with temperature",
    "setpoint_v": "set-point",
    "sha256": "fingerprint",
    "shelf": "shelf",
    "sink_k_per_w": "warming of the heat sink",
    "sink_time_s": "time constant of the heat sink",
    "size": "size",
    "size_inch": "size",
    "size_mm": "size",
    "sizes": "naming of sizes",
    "smoothing_octaves": "smoothing",
    "source_ohm": "internal resistance",
    "space_mm": "mounting space",
    "speaker_lead": "speaker lead",
    "speaker_loss": "loss allowed in speaker leads",
    "speaker_terminals": "speaker terminals",
    "state": "state of the work",
    "step_s": "step",
    "stock": "stock",
    "strand_mm": "diameter of a strand",
    "strands": "strands",
    "strappable": "strappable",
    "supply": "supply stage",
    "supply_a": "supply current",
    "supply_before_v": "supply voltage before",
    "supply_exponent": "exponent of the supply",
    "supply_max_v": "highest supply voltage",
    "supply_v": "supply voltage",
    "sweep": "sweep",
    "system_v": "system voltage",
    "tags": "tags",
    "targets": "targets",
    "tax_share": "tax",
    "temperature_c": "temperature",
    "template": "usual loads",
    "terminal_inputs": "power inputs",
    "terminal_kind": "kind of terminal",
    "terminal_max": "thickest cable its terminal takes",
    "terminal_v": "volts wanted at the amplifier",
    "thd_percent": "distortion",
    "title": "title",
    "to": "to",
    "tone_hz": "tone",
    "trip_c": "temperature at which its protection trips",
    "tuning_hz": "tuning",
    "vas_l": "equivalent volume Vas",
    "vehicle": "vehicle",
    "vehicle_plate": "plate",
    "version": "version",
    "volume_l": "volume",
    "weight_kg": "weight",
    "wiring": "wiring of the coils",
    "xmax_mm": "excursion Xmax",
}
"""By the field's name in the file."""

ITEMS: dict[str, str] = {
    "amplifiers": "amplifier",
    "banks": "battery",
    "bands": "octave band",
    "cables": "cable",
    "capacitors": "capacitor",
    "chargers": "charger",
    "claims": "claim",
    "drivers_mixed": "driver",
    "fuses_a": "fuse",
    "goals": "goal",
    "loads": "load of the vehicle",
    "nodes": "place",
    "readings": "reading",
    "rows": "row",
    "runs": "run",
    "shelf": "cable on the shelf",
    "tags": "tag",
}
"""One of a list."""

UNSAID = ("vehicle", "basis", "targets", "value", "origin", "spread", "readings")
"""Steps on the way that say nothing more than what comes after them."""


def field_words(name: str) -> str:
    """What a person reads for a field by its name; a name that is not known has its underscores taken out."""
    return WORDS.get(name, name.replace("_", " "))


def path_words(path: str, document: Any = None) -> str:
    """What a person reads for a dotted path: "Main amplifier, box: volume" for `amplifiers.0.load.box.volume_l`.

    document   the plain document it leads through, so that what has a name there is called by it; else by its number
    """
    words: list[str] = []
    here, around = document, ""
    steps = path.split(".") if path else []
    for i, step in enumerate(steps):
        here = _inside(here, step)
        if step.isdigit():
            name = here.get("name") if isinstance(here, dict) else None
            item = ITEMS.get(around, field_words(around))
            words[-1] = str(name) if name and i < len(steps) - 1 else f"{item} {int(step) + 1}"
        elif step not in UNSAID or step == path:
            words.append(field_words(step))
        around = step
    *way, last = words or ["the document"]
    if len(way) > 1 and "load" in way:
        way.remove("load")  # its drivers and its box are told apart without it
    text = f"{', '.join(way)}: {last}" if way else last
    return text[0].upper() + text[1:]


def refusal(problem: BadInput) -> str:
    """A refusal as a sentence for a person: file, line and field in words, then what is wrong."""
    where = [
        problem.file,
        f"line {problem.line}" if problem.line else "",
        path_words(problem.field) if problem.field else "",
    ]
    return ": ".join([part for part in where if part] + [problem.text])


def _inside(document: Any, step: str) -> Any:
    if isinstance(document, dict):
        return document.get(step)
    if isinstance(document, list) and step.isdigit() and int(step) < len(document):
        return document[int(step)]
    return None
