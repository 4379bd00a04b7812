"""What switches itself: diodes against their own equations, converters at their cut-out, banks' management."""

import unittest

import numpy as np
from scipy.optimize import fsolve

from underhood.circuit import switches
from underhood.circuit.build import build_circuit
from underhood.circuit.gain import full_scale
from underhood.circuit.operating_point import OperatingPoint, solve
from underhood.document.job import Bank, JobDocument
from underhood.forecast.build import build_result
from underhood.forecast.simulation import simulate
from underhood.tests.examples import changed, two_banks


def at(job: JobDocument) -> OperatingPoint:
    point = solve(build_circuit(job), job.basis.engine)
    assert point is not None
    return point


def codes(job: JobDocument) -> set[str]:
    return {each.code for each in build_result(job).flags}


class Diodes(unittest.TestCase):
    """A charging cable from the alternator to each battery's own post through one isolator of two diodes."""

    def car(self, **basis) -> JobDocument:
        raw = two_banks(programme="tone", **basis).document()
        raw["chargers"][0]["at"] = "charger"
        raw["cables"][0]["from"] = "charger"
        raw["cables"].append({"name": "Charging", "from": "charger", "to": "front", "size": "4 AWG", "length_m": 1})
        for bank in raw["banks"]:
            bank |= {"isolator": "diode", "diode_v": 0.6}
        raw["capacitors"] = []
        return JobDocument.model_validate(raw)

    def test_each_battery_is_charged_through_its_own_and_gives_nothing_back(self):
        job = self.car(engine="cruise", level_db=-20)
        point, names = at(job), build_circuit(job).nodes
        charger, front, rear, amp = (names.index(each) for each in ("charger", "front", "rear", "amp:a1"))
        ohm = {edge.name: value for edge, value in zip(point.circuit.edges, point.link_ohm, strict=True)}
        lead = next(value for name, value in ohm.items() if name not in ("Main run", "Charging"))
        (made,) = job.chargers
        drawn_a = point.mean_draw_a

        def unbalanced(v):
            to_front = max(v[charger] - v[front] - 0.6, 0) / ohm["Charging"]
            to_rear = max(v[charger] - v[rear] - 0.6, 0) / ohm["Main run"]
            to_amp = (v[rear] - v[amp]) / lead
            bank = []
            for node, model in ((front, point.banks[0]), (rear, point.banks[1])):
                over = v[node] - model.ocv_v
                bank.append(over / (model.r0_ohm + (model.r1_charge_ohm if over > 0 else model.r1_discharge_ohm)))
            given = min((made.setpoint_v.value - v[charger]) / made.source_ohm.value, point.available_a[0])
            out = np.empty(4)
            out[[charger, front, rear, amp]] = (
                given - to_front - to_rear,
                to_front - bank[0] - point.vehicle_a,
                to_rear - bank[1] - to_amp,
                to_amp - drawn_a,
            )
            return out

        found = fsolve(unbalanced, point.volts + 0.02, xtol=1e-12)
        np.testing.assert_allclose(point.volts, found, atol=2e-5)
        self.assertLess(build_result(job).balance.error, 1e-4)
        self.assertIn("diode_isolator", codes(job))

    def test_with_the_engine_off_each_lives_on_its_own(self):
        for programme in ("tone", "everyday"):
            off = at(changed(self.car(engine="off"), basis__programme=programme))
            self.assertAlmostEqual(off.bank_a[0], off.vehicle_a, delta=1e-4)
            self.assertAlmostEqual(off.bank_a[1], off.mean_draw_a, delta=1e-3)

    def test_over_time_it_is_the_same(self):
        job = changed(self.car(engine="idle"), basis__programme="everyday")
        found, point = simulate(job, 60), at(job)
        self.assertLess(found.error, 2e-3)
        for name, volts in zip(point.circuit.nodes, point.volts, strict=True):
            self.assertAlmostEqual(found.nodes[name].mean, volts, delta=0.06)


class Management(unittest.TestCase):
    def test_a_bank_that_gives_too_much_drops_out_and_stays_out(self):
        """Engine off, a tone: the rear bank gives its amps until its limit is lower, then the front gives all."""
        off = two_banks(programme="tone", engine="off")
        gives = at(off).bank_a[1]
        held = at(changed(off, banks__1__discharge_limit_a=gives * 1.01))
        self.assertEqual(held.position.trips, ())
        out = changed(off, banks__1__discharge_limit_a=gives * 0.99)
        point = at(out)
        (trip,) = point.position.trips
        self.assertEqual((trip.bank, trip.limit), (1, "discharge_limit_a"))
        self.assertAlmostEqual(trip.amps, gives, delta=0.01 * gives)
        self.assertAlmostEqual(point.bank_a[1], 0.0, delta=1e-4)
        self.assertAlmostEqual(point.bank_a[0], point.mean_draw_a + point.vehicle_a, delta=1e-3)
        self.assertIn("management_trip", codes(out))
        over_time = simulate(out, 60)
        rear = next(each for each in over_time.sources if each.name == "Rear")
        self.assertLess(rear.mean_a, 0.3 * gives)  # gone after seconds

    def test_a_peak_takes_it_off_where_the_mean_would_not_and_nothing_left_names_it(self):
        off = two_banks(programme="burst", engine="off")
        point = at(off)
        self.assertGreater(point.bank_peak_a[1], 2 * point.bank_a[1])
        between = (point.bank_peak_a[1] + point.bank_a[1]) / 2
        tripped = at(changed(off, banks__1__discharge_peak_a=between, banks__1__discharge_limit_a=between))
        self.assertEqual([each.limit for each in tripped.position.trips], ["discharge_peak_a"])
        self.assertEqual(at(changed(off, banks__1__discharge_limit_a=point.bank_peak_a[1] / 1.9)).position.trips, ())
        alone = changed(off, banks=off.document()["banks"][1:])
        alone = changed(alone, banks__0__at="front", banks__0__discharge_limit_a=1)
        nothing = build_result(alone)
        self.assertFalse(nothing.operating_point)
        self.assertIn("management_trip", {each.code for each in nothing.flags})

    def test_limits_are_of_all_batteries_of_a_bank_and_twice_as_much_for_moments(self):
        three = Bank.model_validate({"name": "B", "count": 3, "charge_limit_a": 20, "discharge_limit_a": 50})
        self.assertEqual(switches.limits_a(three), (60, 150, 300))
        one = Bank.model_validate({"name": "B", "discharge_peak_a": 40})
        self.assertEqual(switches.limits_a(one), (float("inf"), 40, 40))
        charged = at(changed(two_banks(programme="tone", engine="idle", level_db=-40), banks__1__charge_limit_a=0.5))
        self.assertEqual([each.limit for each in charged.position.trips], ["charge_limit_a"])


class Converters(unittest.TestCase):
    def car(self, **converter) -> JobDocument:
        raw = two_banks(programme="tone", engine="off").document()
        made = {"name": "Converter", "kind": "dc_dc", "at": "rear", "from": "front", "limit_a": 40, "always_on": True}
        raw["chargers"].append(made | converter)
        return JobDocument.model_validate(raw)

    def test_it_stops_below_its_cut_out_and_takes_its_idle_watts_while_it_runs(self):
        running = at(self.car(idle_w=0))
        idling = at(self.car(idle_w=24))
        self.assertAlmostEqual(idling.converter_w - running.converter_w, 24, delta=1.5)
        self.assertLess(build_result(self.car(idle_w=24)).balance.error, 1e-4)
        front_v = float(running.volts[0])
        above = self.car(cutout_v=front_v + 0.3, restart_v=14.0)
        stopped = at(above)
        self.assertEqual((stopped.position.stopped, stopped.charger_a[1], stopped.converter_w), ({1}, 0.0, 0.0))
        self.assertIn("converter_stopped", codes(above))
        over_time = simulate(above, 30)
        self.assertLess(over_time.error, 2e-3)
        converter = next(each for each in over_time.sources if each.name == "Converter")
        self.assertEqual(converter.mean_a, 0.0)

    def test_one_whose_own_load_takes_its_input_under_cycles(self):
        """At rest the front stands above the restart volts, loaded below the cut-out."""
        loaded_v = float(at(self.car()).volts[0])
        idle_v = float(at(self.car(always_on=False)).volts[0])
        job = self.car(cutout_v=(loaded_v + idle_v) / 2, restart_v=(loaded_v + 3 * idle_v) / 4)
        self.assertEqual((at(job).cycles, at(job).chatters), ({1}, False))
        self.assertIn("converter_cycles", codes(job))


class EitherWay(unittest.TestCase):
    """A position that rests beside the one that a car comes to: what stood so before stays so."""

    def told(self, job: JobDocument, code: str) -> str:
        return next(each.text for each in build_result(job).flags if each.code == code)

    def test_a_relay_that_would_stay_as_it_was(self):
        joined = changed(
            two_banks(programme="tone", engine="idle"),
            banks__1__isolator="relay",
            chargers__0__idle_a=88,
            amplifiers__0__at="front",
        )
        alone = changed(joined, banks=joined.document()["banks"][:1])
        without, beside = (float(at(each).volts[0]) for each in (alone, changed(joined, banks__1__isolator="none")))
        self.assertTrue(without < 13.3 and beside > 12.8)  # both rest
        self.assertEqual((at(joined).position.closed, at(joined).stands_otherwise), ((True,), ({1}, set())))
        self.assertIn("Open before, it stays open", self.told(joined, "isolator_either"))
        low = changed(joined, chargers__0__setpoint_v=13.25, basis__programme="everyday")
        self.assertEqual((at(low).position.closed, at(low).stands_otherwise), ((False,), ({1}, set())))
        self.assertIn("Joined before, it stays joined", self.told(low, "isolator_open"))
        # With more from the alternator it joins whatever it was before; with less it opens.
        for idle_a, closed in ((100, True), (40, False)):
            sure = at(changed(joined, chargers__0__idle_a=idle_a))
            self.assertEqual((sure.position.closed, sure.stands_otherwise), ((closed,), (set(), set())))

    def test_a_converter_that_would_stay_as_it_was(self):
        made = Converters().car
        loaded_v, idle_v = (float(at(made(always_on=on)).volts[0]) for on in (True, False))
        job = made(cutout_v=loaded_v - 0.1, restart_v=idle_v + 0.1)
        self.assertEqual((at(job).position.stopped, at(job).stands_otherwise), (set(), (set(), {1})))
        self.assertIn("Stopped before, it stays so", self.told(job, "converter_either"))
        self.assertEqual(at(made(cutout_v=loaded_v - 0.1, restart_v=idle_v - 0.05)).stands_otherwise[1], set())


class WithTheRadioOn(unittest.TestCase):
    def test_listening_counts_what_the_car_takes_with_the_radio_on(self):
        loads = [{"name": "Radio", "off_a": 0.05, "acc_a": 6, "idle_a": 8}]
        listening = at(changed(two_banks(engine="off"), vehicle__loads=loads))
        self.assertEqual(listening.vehicle_a, 6.0)
        parked = at(changed(two_banks(engine="off"), vehicle__loads=[loads[0] | {"acc_a": None}]))
        self.assertEqual(parked.vehicle_a, 0.05)
        job = changed(two_banks(engine="off", programme="everyday"), vehicle__loads=loads)
        hours = [simulate(each, 10).time_to_half_s for each in (job, changed(job, vehicle__loads__0__acc_a=None))]
        self.assertLess(hours[0], 0.8 * hours[1])


class Managed(unittest.TestCase):
    def test_a_managed_alternator_is_told_at_both_of_its_volts(self):
        """Gains stay as they were set; what is left is the forecast of a car whose set-point is the low one."""
        fixed = two_banks(programme="tone", engine="cruise", level_db=-6)
        job = changed(fixed, chargers__0__control="managed", chargers__0__setpoint_low_v=12.9)
        told = next(each for each in build_result(job).flags if each.code == "managed_alternator")
        self.assertIn("12.9 V", told.text)
        self.assertEqual(told.severity, "note")
        sunk = changed(job, chargers__0__setpoint_low_v=12.0, basis__level_db=0)
        self.assertEqual(
            next(f for f in build_result(sunk).flags if f.code == "managed_alternator").severity, "caution"
        )
        gain = {"volts": float(full_scale(build_circuit(fixed)).volts[0])}
        low = at(changed(fixed, chargers__0__setpoint_v=12.9, amplifiers__0__gain=gain))
        self.assertIn(f"{low.peak_volts[build_circuit(job).nodes.index('amp:a1')]:.2f} V", told.text)
        self.assertEqual(build_result(job).terminal_v, build_result(fixed).terminal_v)
        self.assertNotIn("managed_alternator", codes(fixed))
