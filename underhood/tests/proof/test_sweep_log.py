"""Logs of supply and output together, against the forecast of the same points."""

import unittest

from underhood.errors import BadInput
from underhood.proof import sweep_log
from underhood.proof.sweep_log import SweepLog, compare
from underhood.tests.examples import job

HEAD = "frequency_hz,supply_v,supply_a,output_v,output_a,phase_deg\n"


class Logged(unittest.TestCase):
    def made(self, over):
        """A log as the forecast itself has it, row by row."""
        grid = (
            [(f, 0.0) for f in (30.0, 40.0, 60.0)] if over == "frequency" else [(40.0, d) for d in (-20.0, -6.0, 0.0)]
        )
        rows = [
            {"frequency_hz": f, "level_db": d, "supply_v": 14, "supply_a": 60, "output_v": 1, "output_a": 1}
            for f, d in grid
        ]
        log = SweepLog.model_validate({"amplifier": "a1", "engine": "cruise", "over": over, "rows": rows})
        told = compare(job(), log).points
        return [
            row | {"supply_v": p.forecast_supply_v, "supply_a": p.forecast_input_w / p.forecast_supply_v,
                   "output_v": p.forecast_output_v, "output_a": p.forecast_output_w / p.forecast_output_v}
            for row, p in zip(rows, told, strict=True)
        ]  # fmt: skip

    def test_a_log_as_forecast_lies_on_the_forecast(self):
        for over in ("frequency", "level"):
            log = SweepLog.model_validate(
                {"amplifier": "a1", "engine": "cruise", "over": over, "rows": self.made(over)}
            )
            found = compare(job(), log)
            for each in found.points:
                self.assertAlmostEqual(each.output_w, each.forecast_output_w, places=6)
                self.assertAlmostEqual(each.efficiency, each.forecast_efficiency, places=6)
            self.assertFalse(any("cuts back" in words for words in found.said))

    def test_where_it_gives_less_than_forecast_is_said(self):
        rows = self.made("level")
        rows[-1]["output_v"] *= 0.7
        rows[-1]["output_a"] *= 0.7
        log = SweepLog.model_validate({"amplifier": "a1", "engine": "cruise", "over": "level", "rows": rows})
        said = " ".join(compare(job(), log).said)
        self.assertIn("At 0 dB it gives 3.1 dB less", said)
        self.assertIn("Most heat at 0 dB", said)

    def test_files_are_read_and_refused_by_line(self):
        found = sweep_log.read(HEAD + "30,14,30,20,10,40\n40,14,33,21,11,30\n", "a1", "idle")
        self.assertEqual(found.over, "frequency")
        for text, words in (
            (HEAD + "30,14,3,20,10,0\n40,14,33,21,11,30\n", "line 2.*W out of.*W in"),
            (HEAD + "30,14,30,20,10,140\n40,14,33,21,11,30\n", "line 2: phase_deg"),
            (HEAD, "less than two rows"),
            ("frequency_hz,volts\n30,1\n", "unknown column"),
        ):
            with self.subTest(words), self.assertRaisesRegex(BadInput, words):
                sweep_log.read(text, "a1", "idle")
