"""Cautions, each shown next to the work that it belongs to. They defer to makers, local codes and licensed people."""

from __future__ import annotations

from underhood.document.job import JobDocument

CAUTIONS: dict[str, str] = {
    "fuse_near_source": "Fit a fuse within 450 mm (18 in) of every battery, on every cable that leaves it.",
    "short_circuit": "Disconnect the negative terminal first: a short on a car battery burns and welds.",
    "lithium": "A lithium pack needs its management system, a fuse, and a charger made for it.",
    "mixed_chemistry": "Never join different chemistries in parallel without an isolator.",
    "lead_acid": "Charge lead-acid batteries where there is air, and wear eye protection.",
    "alternator": "A larger alternator needs its belt, pulley and wiring checked by somebody qualified.",
    "high_voltage": "Orange cables in electric and hybrid vehicles are lethal: only trained people work on them.",
    "dc_dc_limit": "Never load a DC-DC converter past its maker's limit.",
    "shock": "Above 50 V AC the speaker terminals are a shock hazard. Bridged outputs float: no grounded scope lead.",
    "resistor_bank": "Resistors reach 200 °C and more and burn skin, cable and bench: bolt them to metal, keep "
    "them clear, let them cool before you touch them, and never leave them loaded alone.",
    "test_tone": "Start with the volume down: a steady full-scale tone burns coils and harms hearing within minutes. "
    "Play it only as long as it takes to read the meter.",
    "link": "A link of two batteries carries what the starter draws from the rear one: fuse both ends for the cable, "
    "unless an isolator opens it.",
    "chassis": "Bolt a return to bare, clean body metal with a bolt of its own: never one of a seat belt, an airbag, "
    "a seat or the fuel system. Ask the vehicle's maker where bonded or aluminium bodies may be used.",
    "strap": "Leave the vehicle maker's own straps in place: the starter's current comes back through them. Take no "
    "strap off while the engine runs: the alternator's volts then rise and destroy electronics.",
    "charging_live": "A charging cable is live from the battery with the engine off.",
    "aluminium": "Aluminium conductors need terminals rated for them, cleaned strands, and tightening again once they "
    "have been warm.",
    "routing": "Keep cables off airbags, fuel lines, moving parts and hot parts.",
    "indoors": "Run no engine indoors.",
    "hearing": "Loud bass harms hearing: wear protection while testing.",
    "makers_rules": "These are estimates. The amplifier's, fuse's and vehicle's makers, local codes and a licensed "
    "technician come first.",
}
SHOCK_V = 50.0
"""AC volts above which a terminal is treated as a shock hazard (IEC 60364-4-41's limit for extra-low voltage, from
memory)."""


STATIONS = ("load", "amplifiers", "draw", "supply", "cable")


def for_station(job: JobDocument, station: str, output_v: float) -> list[str]:
    """The cautions that apply to a job at a station, most serious first."""
    chemistries = {bank.chemistry for bank in job.banks}
    applies = {
        "load": [("shock", output_v > SHOCK_V), ("hearing", True)],
        "amplifiers": [("shock", output_v > SHOCK_V), ("makers_rules", True)],
        "draw": [("indoors", job.vehicle.drive != "electric"), ("hearing", True)],
        "supply": [
            ("high_voltage", job.vehicle.drive != "combustion"),
            ("mixed_chemistry", len(chemistries) > 1),
            ("lithium", bool(chemistries & {"lifepo4", "lto"})),
            ("dc_dc_limit", any(each.kind == "dc_dc" for each in job.chargers)),
            ("lead_acid", bool(chemistries & {"flooded", "agm"})),
            ("alternator", any(each.kind == "alternator" for each in job.chargers)),
        ],
        "cable": [
            ("high_voltage", job.vehicle.drive != "combustion"),
            ("short_circuit", True),
            ("makers_rules", True),
        ],
    }
    return [CAUTIONS[key] for key, relevant in applies.get(station, []) if relevant]


def by_station(job: JobDocument, output_v: float) -> dict[str, list[str]]:
    """The cautions of every station."""
    return {station: for_station(job, station, output_v) for station in STATIONS}


ROOMS = {
    "At the car": ("short_circuit", "fuse_near_source", "indoors", "routing", "high_voltage"),
    "Batteries and chargers": ("lead_acid", "lithium", "mixed_chemistry", "link", "alternator", "dc_dc_limit"),
    "Cable and return": ("chassis", "strap", "charging_live", "aluminium"),
    "Amplifier, bench and tones": ("shock", "resistor_bank", "test_tone", "hearing"),
    "All of it": ("makers_rules",),
}
"""The cautions as the guide lists them: each once."""


def in_markdown() -> str:
    """The guide's page of cautions."""
    lines = ["# Cautions", "", "Each stands beside the work that it belongs to; here they are together.", ""]
    for room, keys in ROOMS.items():
        lines += [f"## {room}", "", *(f"- {CAUTIONS[key]}" for key in keys), ""]
    return "\n".join(lines).rstrip() + "\n"
