"""A whole car: many at once and alone, compiled and not, on graphs with loops, through converters, at 24 volts."""

import copy
import shutil
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from typing import Any
from unittest import mock

import numpy as np
from hypothesis import given

from underhood.circuit import compiled, engine, gain, over_time
from underhood.circuit import table as t
from underhood.circuit.build import build_circuit
from underhood.circuit.car import Car
from underhood.circuit.operating_point import OperatingPoint, solve
from underhood.circuit.rows import Layout, Picks, Rows, picks_of
from underhood.circuit.stretches import Start, clock
from underhood.document.job import JobDocument
from underhood.forecast.build import build_result
from underhood.forecast.forecast import make_forecast
from underhood.forecast.simulation import LOW_V, minutes_to_low, simulate
from underhood.tests.examples import changed, document, two_banks
from underhood.tests.forecast.test_invariance import LIMITS, cars

MINUTES = 30.0


def rows_of(jobs: list[JobDocument]) -> tuple[Rows, Picks]:
    circuits = [build_circuit(job) for job in jobs]
    rows = Rows(Layout.of(circuits[0]), jobs[0].basis.engine)
    return rows, picks_of([rows.picks(each, gain.full_scale(each).volts) for each in circuits])


def point(job: JobDocument) -> OperatingPoint:
    found = solve(build_circuit(job), job.basis.engine)
    assert found is not None
    return found


def codes(job: JobDocument) -> set[str]:
    return {each.code for each in build_result(job).flags}


class ManyAndOne(unittest.TestCase):
    def test_cars_of_one_layout_differ_by_rows_and_places_may_stand_empty(self) -> None:
        raw = two_banks(programme="held_bass", engine="idle").document()
        jobs = []
        for ohm, farad, length in ((0.004, 1.0, 5.0), (0.008, 500.0, 5.0), (0.004, 500.0, 2.0)):
            each = copy.deepcopy(raw)
            each["banks"][1]["resistance_ohm"] = ohm
            each["capacitors"] = [{"name": "Rear", "at": "rear", "farad": farad, "esr_ohm": 0.002, "count": 3}]
            each["cables"][0]["length_m"] = length
            jobs.append(JobDocument.model_validate(each))
        rows, picks = rows_of(jobs)
        layout = rows.layout
        self.assertEqual([len(np.unique(picks.elements[:, k])) for k in (layout.first_bank + 1,
                                                                         layout.first_capacitor)], [2, 2])  # fmt: skip
        together = engine.solve(rows, picks, minutes=MINUTES)
        bare = picks.elements.copy()
        bare[:, [layout.first_bank + 1, layout.first_capacitor]] = -1
        without = engine.solve(rows, picks._replace(elements=bare), minutes=MINUTES)
        for i, job in enumerate(jobs):
            np.testing.assert_array_equal(engine.solve(*rows_of([job]), minutes=MINUTES).values[0], together.values[i])
            alone = job.document() | {"banks": job.document()["banks"][:1], "capacitors": []}
            bare_rows, bare_picks = rows_of([JobDocument.model_validate(alone)])
            bare_picks = bare_picks._replace(full_scale_v=picks.full_scale_v[i : i + 1])
            found = engine.solve(bare_rows, bare_picks, minutes=MINUTES)
            np.testing.assert_allclose(found.values[0], without.values[i], rtol=1e-9)

    def test_two_hundred_on_both_cores_are_what_each_is(self) -> None:
        raw = two_banks(programme="everyday", engine="off").document()
        jobs = []
        for k in range(engine.WORTH_A_THREAD + 3):
            raw["cables"][0]["length_m"] = 1.0 + 0.05 * k
            jobs.append(JobDocument.model_validate(raw))
        rows, picks = rows_of(jobs)
        found = engine.solve(rows, picks).of(t.TERMINAL_V)
        self.assertTrue((np.diff(found) < 0).all())
        self.assertEqual(found[-1], engine.solve(*rows_of(jobs[-1:])).of(t.TERMINAL_V)[0])

    def test_a_state_beside_another_of_the_same_circuit_is_that_by_itself(self) -> None:
        farads = [{"name": "Caps", "at": "rear", "farad": 3.0, "esr_ohm": 0.002}]
        job = changed(
            two_banks(programme="everyday"), banks__1__isolator="relay", banks__1__charge=0.6, capacitors=farads
        )
        circuit = build_circuit(job)
        idle = Car(circuit, "idle")
        self.assertTrue(idle.found)
        for engine_state in ("off", "cruise"):
            beside, alone = Car(circuit, engine_state, like=idle), Car(circuit, engine_state)
            for name in ("trail", "states", "links", "given"):
                np.testing.assert_array_equal(getattr(beside, name), getattr(alone, name))

    @LIMITS
    @given(cars())
    def test_compiled_and_not_compiled_any_car_is_the_same(self, raw: dict[str, Any]) -> None:
        """Relays, diodes, converters, management, several amplifiers; then half an hour of the load."""
        compiled.prepare()
        rows, picks = rows_of([JobDocument.model_validate(raw)])
        minutes = 3.0
        one = engine.solve(rows, picks, minutes=minutes, looked_at=True)
        with mock.patch.dict(compiled._ready, clear=True), mock.patch.object(compiled, "prepare"):
            other = engine.solve(rows, picks, minutes=minutes, looked_at=True)
        for mine, theirs in zip(
            (one.values, one.given, one.trails), (other.values, other.given, other.trails), strict=True
        ):
            np.testing.assert_allclose(mine, theirs, rtol=1e-7, atol=1e-7)

    def test_half_an_hour_in_long_steps_is_that_of_steps_a_fiftieth_as_long(self) -> None:
        for engine_state, capacity_ah in (("off", 70), ("off", 25), ("idle", 70)):
            job = changed(two_banks(programme="held_bass", engine=engine_state), banks__0__capacity_ah=capacity_ah)
            rows, picks = rows_of([job])
            told = engine.solve(rows, picks, minutes=MINUTES).values[0]
            with (
                mock.patch.dict(compiled._ready, clear=True),
                mock.patch.object(compiled, "prepare"),
                mock.patch.object(over_time, "CLOCK_STEP_S", over_time.CLOCK_STEP_S / 50),
            ):
                short = engine.solve(rows, picks, minutes=MINUTES).values[0]
            for column in (t.TERMINAL_V, t.FRONT_V):
                self.assertAlmostEqual(told[column], short[column], delta=0.004)
            self.assertNotEqual(told[t.FRONT_V], short[t.FRONT_V])

    def test_over_time_too(self) -> None:
        compiled.prepare()
        job = changed(two_banks(engine="idle"), banks__1__isolator="relay")
        made = clock(Start(point(job).car), "off", 3000.0, [300.0])
        with mock.patch.dict(compiled._ready, clear=True), mock.patch.object(compiled, "prepare"):
            slow = clock(Start(point(job).car), "off", 3000.0, [300.0])
        for mine, theirs in zip(made, slow, strict=True):
            np.testing.assert_allclose(mine, theirs, rtol=1e-9, atol=1e-9)

    def test_the_clock_with_the_engine_off_is_the_forecasts(self) -> None:
        for isolator in ("none", "relay"):
            job = changed(two_banks(programme="everyday", engine="off"), banks__1__isolator=isolator)
            rows, picks = rows_of([job])
            told = engine.solve(rows, picks, low_v=LOW_V).of(t.MINUTES)[0]
            self.assertEqual(told, minutes_to_low(job))
            seconds = simulate(job, 1.0).time_to_12v_s
            self.assertAlmostEqual(told * 60, seconds, delta=10.0)


class Compiled(unittest.TestCase):
    def test_nobody_waits_for_the_compiler_who_has_an_answer_sooner(self) -> None:
        """A goal of minutes once made the first forecast of an installation take forty seconds."""
        with (
            tempfile.TemporaryDirectory() as folder,
            mock.patch.dict(compiled._ready, clear=True),
            mock.patch.object(compiled, "kept_in", lambda: Path(folder)),
            mock.patch.object(compiled, "_spent_s", []),
            mock.patch.object(compiled, "prepare") as prepare,
        ):
            minutes_to_low(two_banks(programme="everyday", engine="off"))
            for _ in range(100):
                make_forecast(two_banks())
            prepare.assert_not_called()
            for _ in range(20):
                compiled.prepare_for(1.9)
            prepare.assert_called()  # by then it would have been compiled
            prepare.reset_mock()
            compiled._spent_s.clear()
            (Path(folder) / compiled.MARK).touch()
            compiled.prepare_for(0.1)
            prepare.assert_not_called()
            compiled.prepare_for(1.0)
            prepare.assert_called_once()

    def test_an_engine_of_the_same_text_is_read_wherever_it_lies(self) -> None:
        """Unpacked anew it was compiled again, for forty seconds before the first page of a demo."""
        compiled.prepare()
        counts = "sum(each.made.stats.cache_hits.values()), sum(each.made.stats.cache_misses.values())"
        told = f"c.__file__, [({counts}) for each in c._ready.values()]"
        code = f"from underhood.circuit import compiled as c; c.prepare(); print({told})"
        with tempfile.TemporaryDirectory() as folder:
            mine, other = Path(compiled.__file__).parents[1], Path(folder).resolve() / "underhood"
            shutil.copytree(mine, other, ignore=shutil.ignore_patterns("tests"), copy_function=shutil.copyfile)
            run = [sys.executable, "-c", code]
            found = subprocess.run(run, cwd=folder, capture_output=True, text=True, check=True).stdout  # noqa: S603
        self.assertEqual(found.strip(), f"{other / 'circuit' / 'compiled.py'} {[(1, 0)] * len(compiled.PIECES)}")

    def test_one_specialisation_is_compiled_whatever_the_document(self) -> None:
        """No loads, no banks, no amplifier, whole minutes: an `int` for a float once had all compiled again."""
        compiled.prepare()
        bare = {"amplifiers": [], "vehicle": {"loads": []}, "capacitors": []}
        several: tuple[dict[str, Any], ...] = (
            {}, {"banks": []}, {"vehicle": {"loads": []}}, {"amplifiers": []}, bare, {"cables": [], **bare},
        )  # fmt: skip
        for more in several:
            job = JobDocument.model_validate(document() | more)
            rows, picks = rows_of([job])
            for minutes in (0, 30, 0.5):
                engine.solve(rows, picks, minutes=minutes, looked_at=True)
            made = solve(build_circuit(job), "idle")
            if made is not None:
                clock(Start(made.car), "idle", 100, [0] * len(job.amplifiers))
        for name in compiled.PIECES:
            self.assertEqual(len(compiled._ready[name].made.signatures), 1, name)

    def test_all_that_the_loops_call_is_what_is_kept_by_its_text(self) -> None:
        """Every function that is reached from a loop is of a module whose text tells what is compiled apart."""
        known, waiting = set(), [function for function, _, _ in compiled.PIECES.values()]
        homes = {home.__name__ for home in compiled.HOMES}
        while waiting:
            function = waiting.pop()
            known.add(function)
            self.assertIn(function.__module__, homes)
            for name in function.__code__.co_names:
                found = function.__globals__.get(name)
                if getattr(found, "__code__", None) is not None and found not in known:
                    waiting.append(found)
        self.assertGreater(len(known), 30)


class AnyGraph(unittest.TestCase):
    def test_a_rear_battery_fed_by_nothing_but_a_converter(self) -> None:
        """No cable joins it: what the converter takes, and its losses, come from the front; it charges the rear."""
        raw = two_banks(programme="tone", engine="idle", level_db=-6).document()
        raw["cables"] = []
        made = {"name": "Converter", "kind": "dc_dc", "at": "rear", "from": "front", "limit_a": 20, "idle_w": 5}
        raw["chargers"].append(made | {"efficiency": 0.8})
        job = JobDocument.model_validate(raw)
        found = point(job)
        rear_v, front_v = (float(found.volts[found.circuit.node_of(each)]) for each in ("rear", "front"))
        self.assertAlmostEqual(found.charger_a[1], 20.0, places=6)
        self.assertAlmostEqual(found.charger_a[1] + found.bank_a[1], found.mean_draw_a, places=4)
        taken = (20 * rear_v / 0.8 + 5) / front_v
        self.assertAlmostEqual(found.charger_a[0] + found.bank_a[0], found.vehicle_a + taken, places=4)
        told = build_result(job)
        self.assertLess(told.balance.error, 1e-6)
        self.assertNotIn("converter_bypassed", {each.code for each in told.flags})
        # The reserve is the alternator's alone, less what the car takes and the converter idles at.
        self.assertAlmostEqual(told.reserve_a, found.available_a[0] - found.vehicle_a - 5 / 12)
        self.assertLess(simulate(job, 20).error, 2e-3)

    def test_bypassed_by_a_cable_it_is_solved_and_said(self) -> None:
        raw = two_banks(programme="tone", engine="idle").document()
        raw["chargers"].append({"name": "Converter", "kind": "dc_dc", "at": "rear", "from": "front", "limit_a": 30})
        job = JobDocument.model_validate(raw)
        self.assertIn("converter_bypassed", codes(job))
        self.assertLess(build_result(job).balance.error, 1e-6)
        self.assertNotIn("converter_bypassed", codes(changed(job, banks__1__isolator="relay")))

    def test_in_a_ring_an_isolator_opens_every_way_to_the_charger(self) -> None:
        raw = two_banks(programme="tone", engine="off").document()
        raw["nodes"] = [{"name": "block"}]
        for name, a, b in (("Ring", "front", "block"), ("Ring's end", "block", "rear")):
            raw["cables"].append({"name": name, "from": a, "to": b, "size": "4 AWG", "length_m": 3})
        raw["banks"][1]["isolator"] = "relay"
        found = point(JobDocument.model_validate(raw))
        names = {found.circuit.edges[link].name for link in found.open_links}
        self.assertEqual(names, {"Main run", "Ring's end"})
        self.assertAlmostEqual(found.bank_a[1], found.mean_draw_a, places=4)

    def test_a_ring_of_grounds_carries_by_its_ohms(self) -> None:
        """Two ways to the rear, 1/0 AWG of 5.5 m and of 11 m with twice the rest: amps two to one."""
        raw = two_banks(programme="tone", engine="off").document()
        run = raw["cables"][0] | {"joints_ohm": 0.0004, "measured_ohm_per_m": 0.0004}
        raw["nodes"], raw["banks"] = [{"name": "block"}], raw["banks"][:1]
        half = run | {"joints_ohm": 0.0004, "return": {"kind": "chassis", "resistance_ohm": 0.001}}
        raw["cables"] = [run, half | {"name": "A", "to": "block"}, half | {"name": "B", "from": "block"}]
        found = point(JobDocument.model_validate(raw))
        amps = {edge.name: float(a) for edge, a in zip(found.circuit.edges, found.edge_a, strict=True)}
        self.assertAlmostEqual(amps["Main run"] / amps["A"], 2.0, delta=0.02)
        self.assertAlmostEqual(amps["A"], amps["B"], places=5)
        self.assertAlmostEqual(amps["Main run"] + amps["A"], found.mean_draw_a, delta=0.01)

    def test_what_hangs_on_a_part_that_nothing_feeds_has_no_operating_point(self) -> None:
        raw = two_banks(programme="tone", engine="off").document()
        raw["cables"], raw["banks"] = [], raw["banks"][:1]
        raw["chargers"].append({"name": "Converter", "kind": "dc_dc", "at": "rear", "from": "front", "limit_a": 90})
        self.assertIsNone(solve(build_circuit(JobDocument.model_validate(raw)), "off"))
        self.assertIsNotNone(solve(build_circuit(JobDocument.model_validate(raw)), "idle"))


def times(part: dict[str, Any], factor: float, *names: str) -> None:
    """Some of a part's values multiplied, where they are stated."""
    for name in names:
        was = part.get(name)
        if was is not None:
            part[name] = factor * (was["value"] if isinstance(was, dict) else was)


def doubled(raw: dict[str, Any]) -> dict[str, Any]:
    """The same car of 24 V: twice the volts, half the amps, half the Ah of each battery, four times the ohms."""
    out = copy.deepcopy(raw)
    out["vehicle"]["system_v"] = 24
    for load in out["vehicle"]["loads"]:
        times(load, 0.5, "off_a", "idle_a", "cruise_a")
    for each in out["chargers"]:
        times(each, 0.5, "rated_a", "idle_a")
        times(each, 4, "source_ohm")
    for bank in out["banks"]:
        times(bank, 0.5, "capacity_ah")
        times(bank, 2, "resistance_ohm", "diode_v")
    for each in out["capacitors"]:
        times(each, 0.25, "farad")
        times(each, 4, "esr_ohm")
    for wire in [*out["cables"], *(amplifier["lead"] for amplifier in out["amplifiers"])]:
        times(wire, 4, "measured_ohm_per_m", "joints_ohm")
        times(wire["return"], 4, "resistance_ohm")
    for amplifier in out["amplifiers"]:
        amplifier["system_v"] = 24
        times(amplifier, 0.5, "idle_a")
        for run in amplifier["runs"]:
            times(run, 2, "supply_v")
            times(run, 0.5, "supply_a")
    return out


class TwiceTheVolts(unittest.TestCase):
    def car(self, isolator: str, **basis: Any) -> dict[str, Any]:
        raw = two_banks(**basis).document()
        raw["banks"][1]["isolator"] = isolator
        for wire in (raw["cables"][0], raw["amplifiers"][0]["lead"]):
            wire |= {"measured_ohm_per_m": 0.0005, "joints_ohm": 0.0004, "size": "4/0 AWG"}
            wire["return"] = {"kind": "chassis", "resistance_ohm": 0.001}
        return raw

    def test_half_the_amps_and_four_times_the_ohms_are_the_same_watts_minutes_and_shares(self) -> None:
        for isolator in ("none", "relay", "diode"):
            for programme in ("tone", "everyday", "bass_heavy"):
                for running in ("off", "idle", "cruise"):
                    raw = self.car(isolator, programme=programme, engine=running, level_db=-3)
                    with self.subTest(isolator, programme=programme, engine=running):
                        self.same(JobDocument.model_validate(raw), JobDocument.model_validate(doubled(raw)))

    def same(self, low: JobDocument, high: JobDocument) -> None:
        one, two = build_result(low), build_result(high)
        self.assertAlmostEqual(two.terminal_low_v / 2, one.terminal_low_v, delta=0.02)
        self.assertAlmostEqual(two.terminal_v / 2, one.terminal_v, delta=0.02)
        self.assertAlmostEqual(two.delivered_w / one.delivered_w, 1.0, delta=0.01)
        self.assertAlmostEqual(2 * two.draw_a.mean / one.draw_a.mean, 1.0, delta=0.01)
        self.assertAlmostEqual(2 * two.reserve_a, one.reserve_a, places=6)
        # What is said of the supply is the same; a cable of the same size carries half the amps.
        clamp = {"charger_short"}  # told from half an amp on: what a clamp reads
        said = [{f.code for f in result.flags if f.station == "supply"} - clamp for result in (one, two)]
        self.assertEqual(*said)
        self.assertAlmostEqual(minutes_to_low(high) / minutes_to_low(low), 1.0, delta=0.03)

    def test_older_files_with_the_rest_volts_of_the_whole_read_as_before(self) -> None:
        """A bank at 25.4 V without a number in series is one battery at 25.4 V, its ohms those that are stated."""
        raw = two_banks(engine="off").document()
        for bank in raw["banks"]:
            bank["ocv_v"] = 25.4
        made = build_circuit(JobDocument.model_validate(raw))
        self.assertEqual([made.series(i) for i in (0, 1)], [1, 1])
        self.assertEqual((made.model(0).ocv_v, made.model(0).r0_ohm), (25.4, 0.0052))
        stated = changed(JobDocument.model_validate(raw), banks__0__ocv_v=12.7, banks__0__series=2)
        self.assertEqual((build_circuit(stated).model(0).ocv_v, build_circuit(stated).model(0).r0_ohm), (25.4, 0.0104))


if __name__ == "__main__":
    unittest.main()
