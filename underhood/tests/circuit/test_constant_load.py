"""Some time of a constant load against charge counted by hand, and against steps of a second."""

import unittest
from typing import Any

import numpy as np

from underhood.circuit import constant_load, transient
from underhood.circuit.build import build_circuit
from underhood.circuit.circuit_arrays import NO_CAPACITORS, CircuitArrays
from underhood.circuit.solver import solve
from underhood.circuit.transient_parts import TransientParts
from underhood.document.job import Engine, JobDocument
from underhood.tests.examples import two_banks


def loaded(engine: Engine, flat_w: float, drawn_a: float, **more: Any) -> CircuitArrays:
    """The car with two batteries, its amplifier taking a constant power, and amps drawn at the front."""
    circuit = build_circuit(JobDocument.model_validate(two_banks(engine=engine).document() | more))
    point = solve(circuit, engine)
    assert point is not None
    parts = TransientParts(circuit, point, engine)
    drawn = np.where(np.arange(len(parts.order)) == 0, drawn_a, 0.0)
    network = parts.network._replace(drawn_a=drawn)
    amplifiers = parts.amplifiers([flat_w for _ in circuit.loaded])
    return CircuitArrays(network, parts.chargers(engine), parts.banks(), NO_CAPACITORS, amplifiers, parts.silence)


class ConstantLoad(unittest.TestCase):
    def test_what_a_battery_gives_is_amps_times_time_whatever_the_steps(self) -> None:
        """3 A are below the 20-hour rate of 70 Ah, so that Peukert's law takes nothing: 3 A · t / 252,000 A·s."""
        one = [{"name": "One", "chemistry": "agm", "capacity_ah": 70, "resistance_ohm": 0.005, "charge": 0.8}]
        circuit = loaded("off", 1e-6, 3.0, banks=one)
        for seconds in (10, 100, 200.5, 1800, 7230):
            (charge,) = constant_load.charge_after(seconds, circuit)
            self.assertAlmostEqual(charge, 0.8 - 3 * seconds / 252_000, places=6)

    def test_growing_steps_tell_what_steps_of_a_second_do(self) -> None:
        states: tuple[tuple[Engine, float], ...] = (("off", 250.0), ("idle", 900.0), ("cruise", 50.0))
        for engine, flat_w in states:
            circuit = loaded(engine, flat_w, 20.0)
            fine = transient.simulate(np.ones(1800), 1.0, circuit).charge[-1]
            self.assertGreater(np.abs(fine - circuit.banks.charge).max(), 0.005)
            np.testing.assert_allclose(constant_load.charge_after(1800, circuit), fine, atol=2e-3)

    def test_with_a_relay_every_step_is_the_clocks(self) -> None:
        banks = two_banks().document()["banks"]
        circuit = loaded("idle", 900.0, 30.0, banks=[banks[0], banks[1] | {"isolator": "relay"}])
        self.assertGreaterEqual(circuit.network.charging.max(), 0)
        clock = transient.simulate(np.ones(60), 10.0, circuit).charge[-1]
        np.testing.assert_allclose(constant_load.charge_after(600, circuit), clock, rtol=1e-12)
