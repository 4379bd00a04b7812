"""An estate car in trouble at idle and a small parts list to mend it from. All invented."""

from __future__ import annotations

from typing import Any

from underhood.document.job import JobDocument
from underhood.document.part import Part
from underhood.plan import parts_csv
from underhood.tests.examples import document

PARTS = """\
kind,name,price,hours,weight_kg,rated_a,idle_a,chemistry,capacity_ah,resistance_ohm,farad,size,amps,return_ohm
charger,Heron 180,420,3,7,180,95,,,,,,,
bank,Curlew 90,180,0.5,24,,,agm,90,0.0035,,,,
capacitor,Tern 20,60,1,2,,,,,,20,,,
cable,Flex 2/0,19,1.5,0.7,,,,,,,2/0 AWG,,
fuse,Mega 150,8,,,,,,,,,,150,
fuse,Mega 200,9,,,,,,,,,,200,
fuse,Mega 300,11,,,,,,,,,,300,
return,Body bolts,12,0.5,,,,,,,,,,0.0006
labour,Hour,60,,,,,,,,,,,
"""


def car(**more: Any) -> JobDocument:
    """Held bass at idle is more than the alternator has: below 12.5 V after half an hour."""
    raw = document()
    raw["amplifiers"][0]["load"] |= {"low_pass_hz": 80, "rise": 1.5}
    raw["chargers"][0] |= {"idle_a": 45, "rated_a": 90}
    raw["vehicle"]["loads"][0] |= {"idle_a": 32, "cruise_a": 34}
    raw["goals"] = [{"quantity": "terminal_v", "at_least": 12.5, "engine": "idle", "programme": "held_bass"}]
    raw["basis"] = {"engine": "idle", "programme": "held_bass"}
    return JobDocument.model_validate(raw | more)


def parts(*names: str) -> list[Part]:
    """Some parts of the list by name, all where none is named; an hour of labour always."""
    found = parts_csv.read(PARTS)
    return [part for part in found if not names or part.name in names or part.kind in ("labour", "fuse")]
