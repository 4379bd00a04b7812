"""The supply over time, against ngspice on the same circuit, closed forms, and itself in half steps."""

import unittest
from typing import Any

import numpy as np

from underhood.circuit import kernel, over_time
from underhood.circuit import table as t
from underhood.circuit.build import build_circuit
from underhood.circuit.car import Car
from underhood.circuit.operating_point import solve
from underhood.circuit.states import open_circuit_v
from underhood.circuit.stretches import Start, Stretch, _run, clock, stretches
from underhood.document.job import Engine, JobDocument
from underhood.reference import table
from underhood.tests import spice
from underhood.tests.circuit.circuits import Drawn
from underhood.tests.examples import changed, two_banks

SECONDS, STEP_S = 24.0, 0.005
LEVELS = np.repeat(np.random.default_rng(3).choice([0.1, 0.35, 0.7, 1.0], 80), 60)
"""A made-up programme: a level every 0.3 s, in steps of 5 ms."""


class Circuit:
    """The same circuit for both solvers, from one set of numbers."""

    def __init__(self, job: JobDocument) -> None:
        self.job, self.point = job, solve(build_circuit(job), job.basis.engine)
        self.car = self.point.car
        self.start = Start(self.car)
        room, self.silence, _ = self.start.room(job.basis.engine, None, None)
        self.el, self.st, self.links, self.layout = room.el.copy(), room.st.copy(), room.links.copy(), self.car.layout
        self.amplifier = self.el[self.layout.first_amplifier]

    def ours(self, level: np.ndarray, step_s: float = STEP_S) -> Stretch:
        (whole,) = stretches(self.start, level[:, None], 1, len(level), len(level), step_s)
        return whole

    def netlist(self, level: np.ndarray) -> list[str]:
        """A node n0, n1 … each, written out by hand from the same values."""
        lay = self.layout
        lines = [f"BV n0 0 I={self.el[lay.load, t.LOAD_A]:.9g}"]
        for i, link in enumerate(self.links):
            a, b, ohm, diode_v = int(link[t.START]), int(link[t.END]), 1 / link[t.SIEMENS], link[t.DIODE_V]
            if diode_v < 0:
                a, b = b, a
            passing = f"max((v(n{a})-v(n{b})-{abs(diode_v)})/{ohm:.12g},0)"
            lines.append(f"BL{i} n{a} n{b} I={passing}" if diode_v else f"RC{i} n{a} n{b} {ohm:.12g}")
        for j, row in enumerate(self.el[: lay.chargers]):
            if row[t.KIND] == t.CHARGER:
                set_v, ohm, limit, node = row[t.SET_V], row[t.SOURCE_OHM], row[t.LIMIT_A], int(row[t.NODE])
                lines.append(f"BCH{j} 0 n{node} I=min(max(({set_v}-v(n{node}))/{ohm},0),{limit})")
        for j in range(lay.first_bank, lay.first_capacitor):
            lines += self.bank(j)
        for j in range(lay.first_capacitor, lay.load):
            row, volts = self.el[j], self.st[j, t.HELD_V]
            lines += [
                f"RESR{j} n{int(row[t.NODE])} cap{j} {row[t.ESR_OHM]}",
                f"CCAP{j} cap{j} 0 {row[t.FARAD]} ic={volts:.9g}",
            ]
        return [*lines, *self.programme(level), *self.load()]

    def bank(self, j: int) -> list[str]:
        """Open-circuit volts over charge, R0, two branches with an R for each sign, and what was drawn lately."""
        b, st = self.el[j], self.st[j]
        rows = [r for r in table("battery_rest_volts").rows if r["chemistry"] == "agm"]
        rest = f"pwl(v(q{j}), {', '.join(r['charge'] + ', ' + r['volts'] for r in rows)})"
        lately = f"100*max(v(d{j}),0)"
        accepted = f"({b[t.CAPACITY_AS] / 3600}*min(0.25,0.005+0.6*(1-v(q{j}))+{lately}))"
        charging = f"max({b[t.R0_OHM]},({b[t.ABSORPTION_V]}-v(rest{j}))/{accepted})"
        down = 0.5 * b[t.R1_DISCHARGE_OHM]
        return [
            f"BREST{j} rest{j} 0 V={rest}",
            f"BE{j} e{j} 0 V=v(rest{j})+v(p{j})+v(s{j})",
            f"VI{j} e{j} m{j} 0",
            f"R0{j} m{j} n{int(b[t.NODE])} {b[t.R0_OHM]}",
            f"C1{j} p{j} 0 {b[t.FAST_F]} ic={st[t.FAST_V]:.9g}",
            f"BP{j} p{j} 0 I=i(VI{j})",
            f"BR{j} p{j} 0 I=v(p{j})<0 ? v(p{j})/{down} : v(p{j})/(0.75*{charging})",
            f"C2{j} s{j} 0 {b[t.SLOW_F]} ic={st[t.SLOW_V]:.9g}",
            f"BS{j} s{j} 0 I=i(VI{j})",
            f"BT{j} s{j} 0 I=v(s{j})<0 ? v(s{j})/{down} : v(s{j})/(0.25*{charging})",
            f"CD{j} d{j} 0 1 ic=0",
            f"BD{j} 0 d{j} I=i(VI{j})/{b[t.CAPACITY_AS]}-v(d{j})/600",
            f"CQ{j} q{j} 0 {b[t.CAPACITY_AS]} ic={st[t.CHARGE]}",
            f"BQ{j} q{j} 0 I=i(VI{j})",
        ]

    def programme(self, level: np.ndarray) -> list[str]:
        edges = np.flatnonzero(np.diff(level)) + 1
        points = [f"0 {level[0]}"]
        for edge in edges:
            at = edge * STEP_S
            points += [f"{at - 1e-5:.6f} {level[edge - 1]}", f"{at:.6f} {level[edge]}"]
        return [f"VLEVEL level 0 PWL({' '.join(points)})", "RLEVEL level 0 1k"]

    def load(self) -> list[str]:
        a, full_v = self.amplifier, self.st[self.layout.first_amplifier, t.COMMANDED_V]
        node = f"v(n{int(a[t.NODE])})"
        amps = f"(min({full_v}*v(level),{a[t.REFERENCE_V]}*({node}/14.4))/{a[t.LOAD_OHM]})"
        out = f"{amps}*{amps}*{a[t.LOAD_OHM] * a[t.POWER_FACTOR]}"
        taken = f"({a[t.IDLE_A]}*{node}+{out}+{a[t.LINEAR_V]}*{amps}+{a[t.QUADRATIC_OHM]}*{amps}*{amps})"
        return [f"BAMP n{int(a[t.NODE])} 0 I={taken}/{node}"]


class AgainstNgspice(unittest.TestCase):
    def test_every_node_within_5_mv_of_the_mean_and_20_mv_of_the_lowest(self):
        for engine, isolator in (("idle", "none"), ("off", "none"), ("idle", "diode")):
            with self.subTest(engine, isolator=isolator):
                circuit = Circuit(changed(two_banks(engine=engine), banks__1__isolator=isolator))
                self.assertEqual(circuit.amplifier[t.EXPONENT], 1.0)
                ours = circuit.ours(LEVELS)
                nodes = [f"n{i}" for i in range(ours.volts.shape[1])]
                time, theirs = spice.transient(circuit.netlist(LEVELS), SECONDS, STEP_S, nodes)
                self.assertGreater(len(time), 4000)
                for i in range(len(nodes)):
                    self.assertAlmostEqual(ours.volts[:, i].mean(), theirs[1:, i].mean(), delta=0.005)
                    self.assertAlmostEqual(ours.volts[:, i].min(), theirs[1:, i].min(), delta=0.020)
                self.assertGreater(np.ptp(ours.volts[:, -1]), 0.3)


class SteadyAgainstNgspice(unittest.TestCase):
    def test_the_mean_state_of_a_tone_is_ngspices_operating_point(self):
        """Charge held where it is, capacitors open: the same circuit without its course. Within a millivolt."""
        for engine in ("off", "idle", "cruise"):
            with self.subTest(engine):
                circuit = Circuit(two_banks(engine=engine, programme="tone"))
                lines = [line for line in circuit.netlist(np.ones(2)) if not line.startswith(("BQ", "CQ", "BD", "CD"))]
                banks = range(circuit.layout.first_bank, circuit.layout.first_capacitor)
                lines += [f"VQ{j} q{j} 0 {circuit.st[j, t.CHARGE]}" for j in banks]
                lines += [f"VD{j} d{j} 0 0" for j in banks]
                theirs = spice.operating_point(lines, [f"n{i}" for i in range(len(circuit.point.volts))])
                np.testing.assert_allclose(circuit.point.volts, theirs, atol=0.001)


def constant(start: Start, engine: Engine, flat_w: list[float], seconds: float, step_s: float) -> Stretch:
    """A constant load in steps of any length."""
    room = start.room(engine, None, flat_w)
    (whole,) = _run(start, room, np.ones((1, len(flat_w))), 1, round(seconds / step_s), 10**6, step_s)
    return whole


class OverTime(unittest.TestCase):
    def test_half_the_step_gives_the_same_answer(self):
        circuit = Circuit(two_banks())
        whole, half = circuit.ours(LEVELS), circuit.ours(np.repeat(LEVELS, 2), STEP_S / 2)
        np.testing.assert_allclose(whole.volts[-1], half.volts[-1], atol=0.002)
        np.testing.assert_allclose(whole.volts.min(axis=0), half.volts.min(axis=0), atol=0.005)

    def test_a_held_tone_settles_to_the_steady_state(self):
        """After many polarisation time constants, with charge held, the course is the steady mean state."""
        raw = two_banks(engine="off").document()
        raw["capacitors"] = []
        for bank in raw["banks"]:
            bank["capacity_ah"], bank["c1_f"] = 2000, 500  # charge held, and a slow branch that settles in seconds
            bank["r1_charge_ohm"] = 0.05
        circuit = Circuit(JobDocument.model_validate(raw))
        found = circuit.ours(np.ones(40_000))
        self.assertAlmostEqual(found.volts[-1, -1], circuit.point.volts[-1], delta=0.01)

    @staticmethod
    def parked(amps: float, seconds: float, step_s: float) -> Stretch:
        """A full 70 Ah AGM battery that was charged at 14.2 V for long, and then only a load."""
        raw = two_banks(engine="idle").document()
        raw["capacitors"], raw["vehicle"]["loads"] = [], [{"name": "Lamps", "off_a": amps, "idle_a": 0}]
        raw["banks"] = [{"name": "One", "chemistry": "agm", "capacity_ah": 70, "resistance_ohm": 0.005, "charge": 1.0}]
        raw["chargers"][0] |= {"setpoint_v": 14.2, "source_ohm": 0.0005}
        start = Circuit(JobDocument.model_validate(raw)).start
        return constant(start, "off", [0.0], seconds, step_s)

    def test_a_full_battery_reads_what_practice_knows(self):
        """Common practice: 20 A of overload read 13.07 V after half a second and 12.99 after ten; lamps of 10 A leave
        12.79 V after two minutes; stopped without load it is at 13.23 V after two minutes, 12.89 after two hours."""
        for amps, seconds, step_s, volts in (
            (20, 0.5, 0.01, 13.07),
            (20, 10, 0.01, 12.99),
            (10, 120, 0.1, 12.79),
            (0, 120, 0.1, 13.23),
            (0, 7200, 1.0, 12.89),
        ):
            self.assertAlmostEqual(self.parked(amps, seconds, step_s).volts[-1, 0], volts, delta=0.07)

    def test_steps_of_ten_seconds_agree_with_fine_ones(self):
        for amps, seconds in ((20, 10), (10, 120), (0, 120), (0, 7200)):
            fine, coarse = (self.parked(amps, seconds, step).volts[-1, 0] for step in (0.05, 10.0))
            self.assertAlmostEqual(fine, coarse, delta=0.03, msg=f"{amps} A, {seconds} s")

    def test_a_capacitor_gives_half_c_times_the_difference_of_squares(self):
        """Nothing but a capacitor and a constant power: C·(V1² − V2²)/2 leaves it (energy of a capacitor)."""
        drawn = Drawn(1)
        drawn.capacitor(0, 500.0, 1e-6, 14.0)
        drawn.power(0, 300.0)
        el, st, links, nodes, levels, held, work = drawn.arrays()
        v, amps = np.full(work.shape[1], 14.0), np.zeros(work.shape[1])
        for k in range(4000):
            over_time.step(kernel.newton, el, st, links, nodes, levels, held, k * 0.005, 0.005, v, amps, work)
        energy = 500 * (14.0**2 - v[0] ** 2) / 2
        self.assertAlmostEqual(energy / (300 * 20), 1.0, delta=0.001)

    def test_open_circuit_volts_between_the_rows_are_numpys(self):
        circuit = Circuit(two_banks())
        for k in range(circuit.layout.first_bank, circuit.layout.first_capacitor):
            points = circuit.el[k, t.OCV_CHARGE :][: 2 * t.OCV_POINTS].reshape(2, -1)
            for charge in (0.0, 0.1, 0.25, 0.4999, 0.5, 0.63, 0.75, 0.99, 1.0):
                self.assertAlmostEqual(
                    open_circuit_v(circuit.el, k, charge), float(np.interp(charge, *points)), places=12
                )

    def test_peukerts_law_in_its_published_form(self):
        """t = H·(C/(I·H))^k with H = 20 h: 60 Ah at 30 A and k = 1.2 last 20·(60/600)^1.2 = 1.262 h."""
        raw = two_banks(engine="off").document()
        raw["banks"] = [
            {"name": "One", "chemistry": "agm", "capacity_ah": 60, "peukert": 1.2, "resistance_ohm": 0.0005}
        ]
        raw["vehicle"]["loads"] = [{"name": "Lamp", "off_a": 30}]
        raw["capacitors"] = []
        circuit = Circuit(JobDocument.model_validate(raw))
        found = clock(circuit.start, "off", 12_000, [0.0], 1.0)
        empty = np.flatnonzero(found.charge[:, 0] <= 0)[0] * 10 / 3600
        self.assertAlmostEqual(empty, 20 * (60 / 600) ** 1.2, delta=0.02)

    def test_peukert_follows_the_mean_over_a_minute(self):
        """30 A from rest: the mean is 30·(1 − e^(−t/60 s)) and passes 3 A, the 20-hour rate, after 6.3 s. Until then
        coulombs count as they are, afterwards (mean/3)^0.2 times as fast. Summed here in steps of 0.01 s."""
        raw = two_banks(engine="off").document()
        raw["banks"] = [{"name": "One", "chemistry": "agm", "capacity_ah": 60, "peukert": 1.2, "charge": 0.8}]
        raw["vehicle"]["loads"] = [{"name": "Lamp", "off_a": 30}]
        raw["capacitors"] = []
        circuit = Circuit(JobDocument.model_validate(raw))
        found = constant(circuit.start, "off", [0.0], 150.0, 0.1)
        mean = 30 * -np.expm1(-(np.arange(15_000) + 0.5) * 0.01 / 60)
        used = np.cumsum(30 * np.where(mean > 3, (mean / 3) ** 0.2, 1.0) * 0.01) / (60 * 3600)
        for seconds in (5, 20, 150):
            self.assertAlmostEqual((0.8 - found.charge[seconds * 10 - 1, 0]) / used[seconds * 100 - 1], 1, delta=0.004)

    def test_an_amplifier_that_fell_off_is_away_for_a_second(self):
        """A cut-out between the volts of the loud and the quiet: off once a loud stretch, back a second later."""
        raw = two_banks(engine="off", programme="burst").document()
        raw["capacitors"] = []
        raw["amplifiers"][0]["cutout_v"] = 12.5
        circuit = Circuit(JobDocument.model_validate(raw))
        level = np.tile(np.repeat([1.0, 0.02], [20, 380]), 3)  # 0.1 s loud, 1.9 s quiet
        found = circuit.ours(level)
        self.assertLess(found.volts[0, -1], 12.5)
        self.assertGreater(found.volts[-1, -1], 12.5)
        self.assertEqual(found.switched_off.tolist(), [3])
        working = found.in_w[:400, 0] > 0
        self.assertEqual((int(np.argmin(working)), int(np.argmax(working[1:]) + 1)), (1, 200))
        a = circuit.amplifier
        full_v = circuit.st[circuit.layout.first_amplifier, t.COMMANDED_V]
        held = full_v**2 / a[t.LOAD_OHM] * a[t.POWER_FACTOR]
        np.testing.assert_allclose(found.held_w[[0, 30], 0] / held, [1.0, 0.0004], rtol=1e-6)


class ConstantLoad(unittest.TestCase):
    """The mean load that wears batteries, in steps that grow, as the engine runs it for every car."""

    @staticmethod
    def charge_after(job: JobDocument, seconds: float) -> np.ndarray:
        car = Car(build_circuit(job), job.basis.engine, seconds / 60)
        return car.states[car.layout.first_bank : car.layout.first_capacitor, t.CHARGE]

    def test_what_a_battery_gives_is_amps_times_time_whatever_the_steps(self) -> None:
        """3 A are below the 20-hour rate of 70 Ah, so that Peukert's law takes nothing: 3 A · t / 252,000 A·s."""
        raw: dict[str, Any] = two_banks(engine="off", level_db=-60).document()
        raw["banks"] = [{"name": "One", "chemistry": "agm", "capacity_ah": 70, "resistance_ohm": 0.005, "charge": 0.8}]
        raw["vehicle"]["loads"], raw["capacitors"] = [{"name": "Lamp", "off_a": 3.0}], []
        raw["amplifiers"][0]["idle_a"] = 0
        for seconds in (10, 100, 200.5, 1800, 7230):
            (charge,) = self.charge_after(JobDocument.model_validate(raw), seconds)
            self.assertAlmostEqual(charge, 0.8 - 3 * seconds / 252_000, delta=2e-6 * seconds / 10)

    def test_growing_steps_tell_what_steps_of_a_second_do_and_with_a_relay_those_of_the_clock(self) -> None:
        states: list[tuple[Engine, str, float, float]] = [
            ("off", "none", 1.0, 2e-3),
            ("idle", "none", 1.0, 2e-3),
            ("cruise", "none", 1.0, 2e-3),
            ("idle", "relay", 10.0, 1e-12),
        ]
        for engine, isolator, step_s, near in states:
            job = changed(two_banks(engine=engine), banks__1__isolator=isolator)
            circuit = Circuit(job)
            flat_w = circuit.car.given[:, t.IN_W].tolist()
            told = constant(circuit.start, engine, flat_w, 1800, step_s).charge[-1]
            np.testing.assert_allclose(self.charge_after(job, 1800), told, atol=near)
