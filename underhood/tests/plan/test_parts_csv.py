"""The parts list as a file: what comes back, and what is refused with its line and column."""

import unittest
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from underhood.document.part import COLUMNS, KINDS, NEEDED, Part, PartKind
from underhood.errors import BadInput
from underhood.plan import parts_csv

FORMAT = (
    "kind,name,price,hours,weight_kg,stock,at,series,idle_w,cutout_v,restart_v,always_on,input_limit_a,rated_a,idle_a,setpoint_v,source_ohm,limit_a,efficiency,from,chemistry,"
    "capacity_ah,resistance_ohm,charge_limit_a,discharge_limit_a,isolator,farad,esr_ohm,size,conductor,"
    "measured_ohm_per_m,amps,return_kind,return_ohm,box_kind,volume_l,tuning_hz,driver,amplifier,system_v,needs,"
    "excludes,notes"
)
WHOLE: dict[PartKind, dict[str, Any]] = {
    "charger": {"rated_a": 150, "from": "front", "limit_a": 40, "efficiency": 0.92},
    "bank": {"capacity_ah": 80, "chemistry": "agm", "isolator": "diode", "discharge_limit_a": 200},
    "capacitor": {"farad": 500, "esr_ohm": 0.002},
    "cable": {"size": "35 mm²", "conductor": "cca15", "measured_ohm_per_m": 0.0006},
    "fuse": {"amps": 200},
    "return": {"return_kind": "cable", "size": "1/0 AWG"},
    "strap": {"size": "1/0 AWG"},
    "isolator": {"isolator": "relay"},
    "driver": {"driver": "Gannet 12"},
    "box": {"box_kind": "vented", "volume_l": 60, "tuning_hz": 33},
    "amplifier": {"amplifier": "Marram 1200 mono"},
    "labour": {},
}


class Lists(unittest.TestCase):
    def test_the_columns_are_the_published_ones(self):
        self.assertEqual(",".join(COLUMNS), FORMAT)
        self.assertEqual(set(WHOLE), set(KINDS))
        self.assertEqual(set(NEEDED), set(KINDS))

    @settings(max_examples=40, deadline=None)
    @given(
        st.lists(
            st.tuples(
                st.sampled_from(KINDS),
                st.text(st.characters(codec="utf-8", exclude_categories=("C", "Z")), min_size=1, max_size=20),
                st.none() | st.floats(0, 1e5),
                st.floats(0, 20),
            ),
            min_size=1,
            max_size=8,
            unique_by=lambda each: each[1],
        )
    )
    def test_any_parts_come_back_as_they_were(self, rows):
        made = [
            Part.model_validate({"kind": kind, "name": name, "price": price, "hours": hours, **WHOLE[kind]})
            for kind, name, price, hours in rows
        ]
        made[0] = made[0].model_copy(update={"needs": ("A part", "=another"), "excludes": ("C",), "notes": "-1, “x”"})
        self.assertEqual(parts_csv.read(parts_csv.write(made)), made)

    def test_semicolons_and_decimal_commas_are_read(self):
        (part,) = parts_csv.read("kind;name;price;farad\ncapacitor;Tern;60,5;20\n")
        self.assertEqual((part.price, part.farad), (60.5, 20))

    def test_what_cannot_be_used_is_named_by_line_and_column(self):
        for text, words in (
            ("", "holds no part"),
            ("kind,name\nbank,A\n", "line 2: capacity_ah: a bank needs capacity_ah"),
            ("kind,name\ncharger,A\n", "rated_a: a charger needs rated_a or idle_a or limit_a"),
            ("kind,name,amps\nlabour,Hour,3\n", "amps: a labour has none"),
            ("kind,name,amps,price\nfuse,A,60,-1\n", "line 2: price: -1 is not allowed"),
            ("kind,name,amps\nfuse,A,60\n# a remark\nfuse,A,80\n", "line 4: name: 'A' stands in line 2 too"),
            ("kind,name,volts\nfuse,A,60\n", "unknown column 'volts'"),
            ("kind,name,amps\nfuze,A,60\n", 'kind: "fuze" is not allowed'),
            ("kind,name,box_kind\nbox,A,sealed\n", "volume_l"),
            ("kind,name,amps\n" + "fuse,A,60\n" * 5001, "may hold 5000"),
        ):
            with self.subTest(words), self.assertRaises(BadInput) as caught:
                parts_csv.read(text, "p.csv")
            self.assertIn(words, str(caught.exception))
            self.assertTrue(str(caught.exception).startswith("p.csv"))
