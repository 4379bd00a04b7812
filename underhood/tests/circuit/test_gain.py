"""What gains are set to: the kernel's answer against the laws by hand, and what must not move it."""

import unittest
from typing import Any

import numpy as np
from pydantic import ValidationError

from underhood.circuit.build import build_circuit
from underhood.circuit.gain import full_scale
from underhood.circuit.varied import Varied
from underhood.document.job import JobDocument
from underhood.document.quantity import Quantity
from underhood.forecast.forecast import Forecast, make_forecast
from underhood.tests.examples import SEALED, changed, document, job

SET_UP: dict[str, Any] = {"basis__engine": "cruise", "basis__programme": "tone", "basis__tone_hz": 40}


def volts(of: JobDocument) -> list[float]:
    return full_scale(build_circuit(of)).volts.tolist()


def two(**more: Any) -> JobDocument:
    raw = document()
    raw["amplifiers"].append({**raw["amplifiers"][0], "id": "a2"})
    return changed(JobDocument.model_validate(raw), **more)


class AsTheSheetSays(unittest.TestCase):
    def test_it_is_what_the_amplifier_gives_at_the_volts_that_the_supply_then_has(self) -> None:
        """In the very state that it is set in, alone: the volts of its law at the terminals, and no more asked for."""
        made: Forecast = make_forecast(changed(job(), **SET_UP, amplifiers__0__band="bass"))
        loaded, told = made.circuit.loaded[0], made.amplifiers[0]
        by_hand = loaded.reference_v * told.terminal_v / 14.4
        self.assertLess(told.terminal_v, 14.0)
        self.assertAlmostEqual(full_scale(made.circuit).volts[0], by_hand, delta=1e-6 * by_hand)
        self.assertAlmostEqual(told.output_v, by_hand * loaded.in_series, delta=1e-6 * by_hand)

    def test_neither_the_screen_nor_the_knob_moves_it(self) -> None:
        here = volts(job())
        for paths in (
            {"basis__engine": "off"}, {"basis__programme": "held_bass"}, {"basis__level_db": -12},
            {"basis__criterion": "clip"}, {"basis__tone_hz": 63}, {"amplifiers__0__level_db": -3},
            {"amplifiers__0__load__low_pass_hz": 30}, {"amplifiers__0__load__high_pass_hz": 60},
        ):  # fmt: skip
            self.assertEqual(volts(changed(job(), **paths)), here, paths)

    def test_knob_and_filters_leave_a_share_of_it(self) -> None:
        """Butterworth of fourth order at its corner: 3.01 dB."""
        for paths, db in (
            ({"basis__level_db": -9}, -9.0),
            ({"basis__level_db": -6, "amplifiers__0__level_db": -3}, -9.0),
            ({"basis__level_db": -9, "amplifiers__0__load__low_pass_hz": 40}, -12.01),
        ):
            made = make_forecast(changed(job(), **SET_UP, **paths))
            point = made.point
            assert point is not None
            asked = point.amplifiers[0].commanded.peak_v
            self.assertAlmostEqual(20 * np.log10(asked / volts(made.job)[0]), db, delta=0.01)

    def test_of_music_level_1_is_the_knobs_share_of_it(self) -> None:
        made = make_forecast(changed(job(), basis__programme="everyday", basis__level_db=-9))
        point = made.point
        assert point is not None
        self.assertAlmostEqual(20 * np.log10(point.amplifiers[0].full_v / volts(made.job)[0]), -9.0)

    def test_bass_is_set_at_40_hz_and_the_rest_at_1_khz(self) -> None:
        boxed = changed(job(), **{f"amplifiers__0__load__{key}": value for key, value in SEALED.items()})
        at = {hz: volts(changed(boxed, amplifiers__0__gain={"tone_hz": hz}))[0] for hz in (40, 1000)}
        self.assertGreater(abs(at[40] - at[1000]), 0.1)
        for paths, hz in (
            ({"amplifiers__0__band": "bass"}, 40),
            ({"amplifiers__0__band": "full"}, 1000),
            ({"amplifiers__0__band": "full", "amplifiers__0__load__low_pass_hz": 80}, 40),
        ):
            self.assertEqual(volts(changed(boxed, **paths))[0], at[hz], paths)

    def test_a_job_that_shares_all_but_one_part_is_another(self) -> None:
        here = job()
        (before,) = volts(here)
        lower = here.chargers[0].model_copy(update={"setpoint_v": Quantity(13.6)})
        self.assertLess(volts(here.model_copy(update={"chargers": [lower]}))[0], before - 0.5)

    def test_what_moves_it_is_the_supply_the_state_the_tone_and_the_criterion(self) -> None:
        (here,) = volts(job())
        self.assertLess(volts(changed(job(), chargers__0__setpoint_v=13.8))[0], here)
        self.assertLess(volts(changed(job(), amplifiers__0__gain={"engine": "off"}))[0], here)
        self.assertLess(volts(changed(job(), cables__0__size="8 AWG"))[0], here)
        raw = changed(job(), amplifiers__0__gain={"criterion": "clip"}).document()
        runs = raw["amplifiers"][0]["runs"]
        runs += [{**run, "criterion": "clip", "power_w": 1.2 * run["power_w"]} for run in runs]
        self.assertGreater(volts(JobDocument.model_validate(raw))[0], 1.05 * here)

    def test_each_is_set_alone(self) -> None:
        alone, (first, second) = volts(job())[0], volts(two())
        self.assertAlmostEqual(first, second, delta=1e-9)
        # The other one's idle amps are all that it takes.
        self.assertLess(first, alone)
        self.assertGreater(first, 0.998 * alone)

    def test_where_the_supply_gives_way_before_its_limit_it_is_told(self) -> None:
        found = full_scale(build_circuit(job()))
        self.assertTrue(found.reached.all())
        weak = changed(
            job(), amplifiers__0__supply_exponent=0, amplifiers__0__dropout_v=6, amplifiers__0__cutout_v=6,
            cables__0__size="14 AWG", cables__0__length_m=9,
        )  # fmt: skip
        gone = full_scale(build_circuit(weak))
        self.assertFalse(gone.reached.any())
        self.assertLess(gone.volts[0], found.volts[0])


class Measured(unittest.TestCase):
    def test_volts_that_were_read_stay_whatever_load_is_put_on(self) -> None:
        read = changed(job(), **SET_UP, amplifiers__0__gain={"volts": 12.5})
        for paths in ({}, {"basis__engine": "off"}, {"amplifiers__0__load__coil_ohm": 4}):
            made = make_forecast(changed(read, **paths))
            self.assertEqual(volts(made.job), [12.5])
            self.assertAlmostEqual(made.amplifiers[0].output_v, 12.5)

    def test_a_bridge_is_read_across_both_channels(self) -> None:
        bridged = changed(
            job(), amplifiers__0__connection="bridged", amplifiers__0__channels=2, amplifiers__0__gain={"volts": 12.5}
        )
        self.assertEqual(volts(bridged), [6.25])

    def test_bursts_set_no_gain(self) -> None:
        with self.assertRaises(ValidationError):
            changed(job(), amplifiers__0__gain={"criterion": "burst"})


class Drawn(unittest.TestCase):
    def test_a_draw_is_the_gain_of_a_job_with_those_numbers(self) -> None:
        car = Varied(build_circuit(two(amplifiers__1__gain={"volts": 9})))
        shares = {"amplifiers.0.output_scale": np.array([1.0, 0.8]), "banks.0.resistance_ohm": np.array([1.0, 3.0])}
        found = car.full_scale(shares, 2)
        changed_too = two(
            amplifiers__1__gain={"volts": 9}, amplifiers__0__output_scale=0.8, banks__0__resistance_ohm=0.015
        )
        for row, of in zip(found, (car.circuit.job, changed_too), strict=True):
            np.testing.assert_allclose(row, volts(of), rtol=1e-4)
        self.assertEqual(found[:, 1].tolist(), [9.0, 9.0])
