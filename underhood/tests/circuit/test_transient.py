"""The supply over time, against ngspice on the same circuit, closed forms, and itself in half steps."""

import unittest
from typing import Any

import numpy as np

from underhood.circuit import transient
from underhood.circuit.build import build_circuit
from underhood.circuit.circuit_arrays import (
    NO_CAPACITORS,
    Amplifiers,
    Banks,
    Capacitors,
    Chargers,
    CircuitArrays,
    Network,
)
from underhood.circuit.solver import solve
from underhood.circuit.transient_parts import TransientParts
from underhood.document.job import JobDocument
from underhood.reference import table
from underhood.tests import spice
from underhood.tests.examples import changed, two_banks

SECONDS, STEP_S = 24.0, 0.005
LEVELS = np.repeat(np.random.default_rng(3).choice([0.1, 0.35, 0.7, 1.0], 80), 60)
"""A made-up programme: a level every 0.3 s, in steps of 5 ms."""


class Circuit:
    """The same circuit for both solvers, from one set of numbers."""

    def __init__(self, job: JobDocument) -> None:
        made = build_circuit(job)
        self.job, self.point = job, solve(made, job.basis.engine)
        self.parts = TransientParts(made, self.point, job.basis.engine)
        self.amplifier = self.parts.amplifiers()
        self.banks = self.parts.banks()
        self.chargers = self.parts.chargers(job.basis.engine)

    def ours(self, level: np.ndarray, step_s: float = STEP_S) -> transient.TransientResult:
        return transient.simulate(
            level,
            step_s,
            CircuitArrays(
                self.parts.network,
                self.chargers,
                self.banks,
                self.parts.capacitors(),
                self.amplifier,
                self.parts.silence,
            ),
        )

    def netlist(self, level: np.ndarray) -> list[str]:
        """Nodes n0 (front), n1 (rear), n2 (amplifier), written out by hand from the same values."""
        network, start = self.parts.network, self.parts.silence
        lines = [f"BV n0 0 I={network.drawn_a[0]:.9g}"]
        for i in range(1, len(start)):
            ohm, parent = 1 / network.siemens[i], network.parent[i]
            passing = f"max((v(n{parent})-v(n{i})-{network.diode_v[i]})/{ohm:.12g},0)"
            lines.append(
                f"BL{i} n{parent} n{i} I={passing}" if network.diode_v[i] else f"RC{i} n{parent} n{i} {ohm:.12g}"
            )
        for j, node in enumerate(self.chargers.node):
            set_v, ohm, limit = (getattr(self.chargers, n)[j] for n in ("set_v", "ohm", "limit_a"))
            lines.append(f"BCH{j} 0 n{node} I=min(max(({set_v}-v(n{node}))/{ohm},0),{limit})")
        for j in range(len(self.banks.node)):
            lines += self.bank(j)
        capacitors = self.parts.capacitors()
        for j, node in enumerate(capacitors.node):
            lines += [
                f"RESR{j} n{node} cap{j} {capacitors.esr_ohm[j]}",
                f"CCAP{j} cap{j} 0 {capacitors.farad[j]} ic={capacitors.volts[j]:.9g}",
            ]
        return [*lines, *self.programme(level), *self.load()]

    def bank(self, j: int) -> list[str]:
        """Open-circuit volts over charge, R0, two branches with an R for each sign, and what was drawn lately."""
        b = self.banks
        rows = [r for r in table("battery_rest_volts").rows if r["chemistry"] == "agm"]
        rest = f"pwl(v(q{j}), {', '.join(r['charge'] + ', ' + r['volts'] for r in rows)})"
        lately = f"100*max(v(d{j}),0)"
        accepted = f"({b.capacity_as[j] / 3600}*min(0.25,0.005+0.6*(1-v(q{j}))+{lately}))"
        charging = f"max({b.r0_ohm[j]},({b.absorption_v[j]}-v(rest{j}))/{accepted})"
        return [
            f"BREST{j} rest{j} 0 V={rest}",
            f"BE{j} e{j} 0 V=v(rest{j})+v(p{j})+v(s{j})",
            f"VI{j} e{j} m{j} 0",
            f"R0{j} m{j} n{b.node[j]} {b.r0_ohm[j]}",
            f"C1{j} p{j} 0 {b.fast_f[j]} ic={b.fast_v[j]:.9g}",
            f"BP{j} p{j} 0 I=i(VI{j})",
            f"BR{j} p{j} 0 I=v(p{j})<0 ? v(p{j})/{0.5 * b.r1_discharge_ohm[j]} : v(p{j})/(0.75*{charging})",
            f"C2{j} s{j} 0 {b.slow_f[j]} ic={b.slow_v[j]:.9g}",
            f"BS{j} s{j} 0 I=i(VI{j})",
            f"BT{j} s{j} 0 I=v(s{j})<0 ? v(s{j})/{0.5 * b.r1_discharge_ohm[j]} : v(s{j})/(0.25*{charging})",
            f"CD{j} d{j} 0 1 ic=0",
            f"BD{j} 0 d{j} I=i(VI{j})/{b.capacity_as[j]}-v(d{j})/600",
            f"CQ{j} q{j} 0 {b.capacity_as[j]} ic={b.charge[j]}",
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
        a = self.amplifier
        node = f"v(n{a.node[0]})"
        amps = f"(min({a.commanded_v[0]}*v(level),{a.reference_v[0]}*({node}/14.4))/{a.ohm[0]})"
        out = f"{amps}*{amps}*{a.ohm[0] * a.power_factor[0]}"
        taken = f"({a.idle_a[0]}*{node}+{out}+{a.linear_v[0]}*{amps}+{a.quadratic_ohm[0]}*{amps}*{amps})"
        return [f"BAMP n{a.node[0]} 0 I={taken}/{node}"]


class AgainstNgspice(unittest.TestCase):
    def test_every_node_within_5_mv_of_the_mean_and_20_mv_of_the_lowest(self):
        for engine, isolator in (("idle", "none"), ("off", "none"), ("idle", "diode")):
            with self.subTest(engine, isolator=isolator):
                circuit = Circuit(changed(two_banks(engine=engine), banks__1__isolator=isolator))
                self.assertEqual(circuit.amplifier.exponent[0], 1.0)
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
                lines += [f"VQ{j} q{j} 0 {charge}" for j, charge in enumerate(circuit.banks.charge)]
                lines += [f"VD{j} d{j} 0 0" for j in range(len(circuit.banks.charge))]
                theirs = spice.operating_point(lines, [f"n{i}" for i in range(len(circuit.parts.order))])
                self.assertEqual(len(theirs), len(circuit.parts.order))
                for node, volts in zip(circuit.parts.order, theirs, strict=True):
                    self.assertAlmostEqual(float(circuit.point.volts[node]), volts, delta=0.001)


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
        node = circuit.parts.order[-1]
        self.assertAlmostEqual(found.volts[-1, -1], circuit.point.volts[node], delta=0.01)

    @staticmethod
    def parked(amps: float, seconds: float, step_s: float) -> transient.TransientResult:
        """A full 70 Ah AGM battery that was charged at 14.2 V for long, and then only a load."""
        raw = two_banks(engine="idle").document()
        raw["capacitors"], raw["vehicle"]["loads"] = [], []
        raw["banks"] = [{"name": "One", "chemistry": "agm", "capacity_ah": 70, "resistance_ohm": 0.005, "charge": 1.0}]
        raw["chargers"][0] |= {"setpoint_v": 14.2, "source_ohm": 0.0005}
        circuit = Circuit(JobDocument.model_validate(raw))
        drawn = np.where(np.arange(len(circuit.parts.order)) == 0, amps, 0.0)
        return transient.simulate(
            np.ones(round(seconds / step_s)),
            step_s,
            CircuitArrays(
                circuit.parts.network._replace(drawn_a=drawn),
                circuit.parts.chargers("off"),
                circuit.parts.banks(),
                NO_CAPACITORS,
                circuit.parts.amplifiers([1e-6]),
                circuit.parts.silence,
            ),
        )

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
        network = Network(
            np.zeros(1, np.int64),
            np.zeros(1),
            np.zeros(1),
            np.full(1, -1, np.int64),
            np.zeros(1, np.int64),
            np.zeros(1),
        )
        none, nowhere = np.empty(0), np.empty(0, np.int64)
        no_charger: dict[str, Any] = dict.fromkeys(Chargers._fields, none)
        no_charger |= dict.fromkeys(("node", "input_node", "stopped"), nowhere)
        chargers = Chargers(**no_charger)
        no_bank = dict.fromkeys(Banks._fields, none)
        tables: dict[str, Any] = {"acceptance": np.empty((0, 4)), "ocv": np.empty((0, 2, 2))}
        tables |= {"limits_a": np.empty((0, 3)), "dropped": nowhere}
        banks = Banks(**{**no_bank, "node": nowhere, **tables})
        capacitors = Capacitors(np.zeros(1, np.int64), np.array([500.0]), np.array([1e-6]), np.array([14.0]))
        one = np.ones(1)
        idle = dict.fromkeys(Amplifiers._fields, one)
        at_root = {"node": np.zeros(1, np.int64), "linear": np.zeros(1, np.int64), "flat_w": np.array([300.0])}
        amplifiers = Amplifiers(**{**idle, **at_root})
        found = transient.simulate(
            np.ones(4000), 0.005, CircuitArrays(network, chargers, banks, capacitors, amplifiers, np.array([14.0]))
        )
        energy = 500 * (14.0**2 - found.volts[-1, 0] ** 2) / 2
        self.assertAlmostEqual(energy / (300 * 20), 1.0, delta=0.001)

    def test_open_circuit_volts_between_the_rows_are_numpys(self):
        banks = Circuit(two_banks()).banks
        for ocv in banks.ocv:
            for charge in (0.0, 0.1, 0.25, 0.4999, 0.5, 0.63, 0.75, 0.99, 1.0):
                self.assertAlmostEqual(transient.open_circuit_v(ocv, charge), float(np.interp(charge, *ocv)), places=12)

    def test_peukerts_law_in_its_published_form(self):
        """t = H·(C/(I·H))^k with H = 20 h: 60 Ah at 30 A and k = 1.2 last 20·(60/600)^1.2 = 1.262 h."""
        raw = two_banks(engine="off").document()
        raw["banks"] = [
            {"name": "One", "chemistry": "agm", "capacity_ah": 60, "peukert": 1.2, "resistance_ohm": 0.0005}
        ]
        raw["vehicle"]["loads"] = [{"name": "Lamp", "off_a": 30}]
        raw["capacitors"] = []
        circuit = Circuit(JobDocument.model_validate(raw))
        silent = circuit.parts.amplifiers([1e-6])
        found = transient.simulate(
            np.ones(1200),
            10.0,
            CircuitArrays(
                circuit.parts.network,
                circuit.parts.chargers("off"),
                circuit.parts.banks(1.0),
                NO_CAPACITORS,
                silent,
                circuit.parts.silence,
            ),
        )
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
        found = transient.simulate(
            np.ones(1500),
            0.1,
            CircuitArrays(
                circuit.parts.network,
                circuit.parts.chargers("off"),
                circuit.parts.banks(),
                NO_CAPACITORS,
                circuit.parts.amplifiers([1e-6]),
                circuit.parts.silence,
            ),
        )
        t = (np.arange(15_000) + 0.5) * 0.01
        mean = 30 * -np.expm1(-t / 60)
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
        held = circuit.amplifier.reference_v[0] ** 2 / circuit.amplifier.ohm[0] * circuit.amplifier.power_factor[0]
        np.testing.assert_allclose(found.held_w[[0, 30], 0] / held, [1.0, 0.0004], rtol=1e-6)
