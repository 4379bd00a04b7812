"""Figures, formulas, findings, errors and levels: what every room of the core is built from."""

import math
import unittest
from pathlib import Path

import numpy as np
from pydantic import TypeAdapter
from scipy import stats

from underhood import constants
from underhood.decibels import decibels
from underhood.errors import BadInput, nearest
from underhood.expression import evaluate, pretty, substituted
from underhood.figure import Figure, given
from underhood.finding import Finding, Severity, most_serious_first
from underhood.number_format import percent, shown
from underhood.reference import column, table


class Constants(unittest.TestCase):
    def test_are_those_of_their_sources_or_follow_from_others(self):
        self.assertEqual(constants.REFERENCE_V, 14.4)  # CTA-2006
        self.assertEqual(constants.COPPER_PER_K, 0.00393)  # IEC 60028
        self.assertAlmostEqual(constants.BOTH_ENDS, stats.norm.ppf(0.975), places=2)
        wave = np.abs(np.sin(np.linspace(0, np.pi, 100_001)))
        self.assertAlmostEqual(constants.RECTIFIED_MEAN, wave.mean() / math.sqrt(np.mean(wave**2)), places=4)
        # Dry air as an ideal gas: molar mass 28.96 g/mol, ratio of the specific heats 1.4.
        kelvin, molar = 293.15, 0.02896
        self.assertAlmostEqual(constants.AIR_DENSITY, 101_325 * molar / (8.314 * kelvin), places=3)
        self.assertAlmostEqual(constants.SOUND_M_S, math.sqrt(1.4 * 8.314 * kelvin / molar), delta=0.2)


class Formulas(unittest.TestCase):
    def test_are_worked_out_like_python_does(self):
        values = {"a": 3.0, "b": -2.0, "V_14": 14.4}
        for formula, expected in [
            ("a + b * 2", 3 - 4),
            ("(a - b) / 2", 2.5),
            ("a**2 - -b", 9 - 2),
            ("sqrt(a * 12)", 6.0),
            ("min(1, a / V_14)", 3 / 14.4),
            ("max(a, b)", 3.0),
            ("20 * log10(a / 30)", -20.0),
            ("exp(b)", math.exp(-2)),
        ]:
            with self.subTest(formula):
                self.assertAlmostEqual(evaluate(formula, values), expected, places=12)

    def test_hold_arithmetic_only_and_every_symbol_has_a_value(self):
        for formula in (
            "__import__('os')",
            "a.real",
            "[a]",
            "a if a else 1",
            "open(a)",
            "a < 2",
            "min(a, key=a)",
            "'a'",
        ):
            with self.subTest(formula), self.assertRaises(TypeError):
                evaluate(formula, {"a": 1.0})
        with self.assertRaises(KeyError):
            evaluate("a + missing", {"a": 1.0})

    def test_are_written_as_an_installer_writes_them(self):
        self.assertEqual(pretty("n * V_out**2 / Z - sqrt(k**b)"), "n · V_out² / Z − √(k^b)")
        self.assertEqual(pretty("V * cosphi + rho_20 - rhombus"), "V · cos φ + ρ_20 − rhombus")
        self.assertEqual(substituted("V / R * min(V, 2)", {"V": "13.5", "R": "(-4)"}), "13.5 / (-4) · min(13.5, 2)")


class Figures(unittest.TestCase):
    def test_carry_their_derivation_down_to_what_was_given(self):
        amps = given("I", "Current", -4.0, "A", "measured")
        ohm = given("R", "Resistance", 0.25, "Ω", "assumed", "usual")
        volts = Figure("V", "Drop", -1.0, "V", formula="I * R", inputs=(amps, ohm), low=-2.0, high=0.0)
        self.assertEqual((volts.evaluate(), volts.substituted()), (-1.0, "(-4) · 0.25"))
        self.assertEqual((volts.estimate, amps.estimate, amps.evaluate()), (True, False, -4.0))
        told = TypeAdapter(Figure).dump_python(volts)
        self.assertEqual(told, volts.to_dict())
        self.assertEqual((told["formula"], told["origin"], told["low"], told["high"]), ("I · R", "computed", -2.0, 0.0))
        self.assertEqual([(each["symbol"], each["note"]) for each in told["inputs"]], [("I", ""), ("R", "usual")])

    def test_numbers_are_shown_with_four_significant_digits(self):
        for value, text in [(0.0, "0"), (1234.56, "1235"), (12.5, "12.5"), (0.00123456, "0.001235"), (-3.0, "-3")]:
            self.assertEqual(shown(value), text)
        self.assertEqual((shown(math.inf), shown(100000.0), percent(0.1249)), ("∞", "100000", "12\u00a0%"))

    def test_decibels_of_two_powers(self):
        """10·log10: twice the power is 3.01 dB, a tenth −10 dB; of nothing there is no end."""
        self.assertAlmostEqual(decibels(2), 3.0103, places=4)
        self.assertAlmostEqual(decibels(0.1), -10)
        self.assertEqual((decibels(0), decibels(-1)), (-math.inf, -math.inf))


class Refusals(unittest.TestCase):
    def test_name_file_line_and_field_and_keep_whatever_else_is_wrong(self):
        second = BadInput("is missing", "name")
        first = BadInput("9 is not allowed", "length_m", value=9, also=(second,))
        self.assertEqual(str(first.at(file="a.csv", line=3)), "a.csv: line 3: length_m: 9 is not allowed")
        self.assertEqual(str(first.at(line=3).at(line=4)), "line 3: length_m: 9 is not allowed")
        self.assertEqual([str(each) for each in first.each()], ["length_m: 9 is not allowed", "name: is missing"])
        self.assertEqual(
            [each.field for each in first.under("cables.0").each()], ["cables.0.length_m", "cables.0.name"]
        )
        self.assertEqual(BadInput("no").under("cables").field, "cables")
        self.assertEqual(first.at(file="a").at(file="b").file, "a")

    def test_hint_at_the_nearest_word_or_list_them_all(self):
        self.assertEqual(nearest("lenght_m", ["size", "length_m"]), "did you mean length_m?")
        self.assertEqual(nearest("zz", ["size", "length_m"]), "allowed: length_m, size")


class Findings(unittest.TestCase):
    def test_stand_by_severity_and_otherwise_as_they_came(self):
        severities: tuple[Severity, ...] = ("note", "act", "caution", "act")
        found = [Finding(str(n), severity, "") for n, severity in enumerate(severities)]
        self.assertEqual([each.code for each in most_serious_first(found)], ["1", "3", "2", "0"])


class Tables(unittest.TestCase):
    def test_state_where_they_come_from_and_give_their_columns(self):
        known = table("ampacity_33cfr183")
        self.assertIn("33 CFR 183", known.standard)
        self.assertTrue(known.edition and known.unit)
        self.assertEqual(known.from_memory, "(from memory)" in known.source)
        self.assertEqual(
            column("battery_rest_volts", "charge")[0], float(table("battery_rest_volts").rows[0]["charge"])
        )


class Glossary(unittest.TestCase):
    def test_names_for_each_word_a_room_that_there_is(self) -> None:
        core = Path(__file__).parents[1]
        rows = [line.split("|") for line in (core.parent / "docs/guide/glossary.md").read_text().splitlines()]
        rooms = [row[3].strip().strip("`") for row in rows if len(row) == 5 and "`" in row[3]]
        self.assertGreater(len(rooms), 80)
        self.assertEqual(
            [room for room in rooms if not (core / room).is_dir() and not (core / f"{room}.py").is_file()], []
        )
