"""The stand-in bench: against the sheet's own fit, through PyVISA, and with everything that a line can do wrong."""

import json
import time
import unittest
from typing import Any, ClassVar

import numpy as np
import pyvisa

from underhood.amplifier.sheet import fitted, predict
from underhood.document.written import OVERLOAD
from underhood.instruments import bench_model
from underhood.instruments.bench_model import BenchModel, Scene
from underhood.instruments.drivers import ROLES, Instrument, InstrumentError, resource_allowed
from underhood.instruments.exercises import EXERCISES, FAULTS, mark
from underhood.instruments.scpi_server import IDENTITY, BenchServer, serve
from underhood.tests.examples import sheet

MARRAM = sheet({4: 402.0, 2: 716.0, 1: 1186.0}, idle_a=1.4, minimum_load_ohm=1)
FOUND = fitted(MARRAM, "thd1", 40.0)


def bench(**scene) -> BenchModel:
    return BenchModel(FOUND, Scene(**scene))


def at_the_lamp(model: BenchModel):
    """The readings at the first level at which the lamp lights, as somebody raises it by tenths of a decibel."""
    for tenth in range(-300, 31):
        model.set(level_db=tenth / 10)
        shown = model.read()
        if shown.lamp:
            return shown
    return model.read()


class Bench(unittest.TestCase):
    def test_at_one_percent_it_gives_what_the_sheet_says_at_those_volts(self):
        for ohm in (4.0, 2.0, 1.0):
            shown = at_the_lamp(bench(load_ohm=ohm, supply_v=14.0))
            said = predict(FOUND, ohm, shown.supply_v)
            self.assertAlmostEqual(shown.power_w / said.power_w, 1.0, delta=0.04)
            self.assertAlmostEqual(shown.supply_a / said.supply_a, 1.0, delta=0.06)
            self.assertAlmostEqual(shown.power_w, shown.output_v * shown.output_a, delta=0.02 * shown.power_w)
            self.assertGreaterEqual(shown.distortion_percent, 0.98)

    def test_beyond_its_limit_the_wave_is_a_sine_cut_off(self):
        """Against numpy's own Fourier transform of such a wave, one cycle in 4,096 samples."""
        wave = np.sin(2 * np.pi * np.arange(4096) / 4096)
        for drive in (0.7, 1.05, 1.3, 2.0):
            cut = np.clip(drive * wave, -1, 1)
            lines = np.abs(np.fft.rfft(cut))
            thd = 100 * np.sqrt((lines[2:] ** 2).sum()) / lines[1]
            rms, distortion = bench_model._clipped(drive)
            self.assertAlmostEqual(rms, float(np.sqrt(np.mean(cut**2))), places=5)
            self.assertAlmostEqual(distortion, float(thd), delta=0.01)

    def test_it_warms_trips_and_comes_back_with_the_level_down(self):
        model = bench(load_ohm=1.0, level_db=0.0)
        before = model.sink_c
        model.after(60.0)
        self.assertGreater(model.sink_c, before + 2)
        for _ in range(90):
            model.after(60.0)
        self.assertTrue(model.read().protect)
        self.assertEqual(model.read().output_v, 0.0)
        model.set(level_db=-60.0)
        self.assertFalse(model.read().protect)

    def test_every_exercise_shows_its_fault_and_can_be_solved_and_failed(self):
        self.assertGreaterEqual(len(EXERCISES), 10)
        self.assertEqual({each.scene.fault for each in EXERCISES}, set(FAULTS))
        for each in EXERCISES:
            wrong = next(name for name in FAULTS if name != each.scene.fault)
            with self.subTest(each.key):
                self.assertTrue(mark(each.key, each.scene.fault).right)
                self.assertFalse(mark(each.key, wrong).right)
                self.assertIn(each.why, mark(each.key, each.scene.fault).words)

    def test_what_each_fault_does_to_the_readings(self):
        """Each of them as somebody at the bench would find it, by Ohm's law and by the law of energy."""
        clean = at_the_lamp(bench(load_ohm=1.0))
        amps = {
            bench(fault="clamp_range", clamp_range_a=1000.0, level_db=level).read().supply_a for level in (-30, -28)
        }
        self.assertEqual({round(a / 2.5, 6) % 1 for a in amps}, {0.0})
        self.assertGreater(bench(fault="clamp_zero", clamp_zeroed=False).read().supply_a, 5.5)
        self.assertLess(bench(fault="clamp_zero", clamp_zeroed=True).read().supply_a, 2.0)
        tired = at_the_lamp(bench(fault="clamp_cells", load_ohm=2.0))
        self.assertGreater(tired.power_w / (tired.supply_v * tired.supply_a), 0.87)
        self.assertLess(at_the_lamp(bench(fault="sagging_supply", load_ohm=1.0)).supply_v, clean.supply_v - 1.0)
        far = at_the_lamp(bench(fault="volts_at_the_supply", load_ohm=1.0))
        self.assertAlmostEqual(far.supply_v - clean.supply_v, 0.006 * far.supply_a, delta=0.15)
        deaf = bench(fault="low_pass", level_db=0.0).read()
        self.assertLess(deaf.output_v, 0.5 * bench(level_db=0.0).read().output_v)
        self.assertFalse(deaf.lamp)
        leads = bench(fault="leads_not_zeroed", load_ohm=1.0, level_db=-6.0).read()
        self.assertGreater(leads.load_ohm - leads.output_v / leads.output_a, 0.25)
        cone = bench(fault="reactive_load", load_ohm=2.0, level_db=-3.0).read()
        self.assertGreater(cone.output_v**2 / 2.0, 2 * cone.power_w)
        self.assertGreater(cone.phase_deg, 40)
        low = bench(fault="below_minimum", load_ohm=0.5, level_db=-1.0)
        low.after(1.0)
        self.assertTrue(low.read().protect)
        half = bench(fault="half_a_bridge", level_db=-6.0).read()
        self.assertAlmostEqual(half.output_a * 4.0 / half.output_v, 2.0, delta=0.05)
        self.assertGreater(bench(fault="hot_start").read().sink_c, 70)
        loud = at_the_lamp(bench(fault="source_clips"))
        self.assertLess(loud.output_v, 0.5 * at_the_lamp(bench()).output_v)
        self.assertEqual(bench(load_ohm=1.0, level_db=0.0, clamp_range_a=40.0).read().supply_a, OVERLOAD)


class OverTheLine(unittest.TestCase):
    server: ClassVar[BenchServer]
    address: ClassVar[str]

    @classmethod
    def setUpClass(cls):
        cls.server = serve(0)
        cls.address = f"TCPIP::127.0.0.1::{cls.server.port}::SOCKET"

    @classmethod
    def tearDownClass(cls):
        cls.server.shutdown()
        cls.server.server_close()

    def instrument(self, name: str, timeout_ms: int = 700) -> Instrument:
        one = Instrument(self.address, timeout_ms)
        self.addCleanup(one.close)
        one.write(f'BENC:SEL "{name}"')
        raw: dict[str, Any] = {
            "record": MARRAM.record.model_dump(mode="json", by_alias=True),
            "scene": {"load_ohm": 2.0},
        }
        raw["runs"] = [each.model_dump(mode="json") for each in MARRAM.runs]
        one.write("BENCH:CONFIGURE " + json.dumps(raw))
        return one

    def test_common_commands_and_the_queue_of_errors_are_those_of_the_standard(self):
        """By PyVISA itself. IEEE 488.2: *IDN? has four fields; SCPI-99: SYST:ERR? gives number and text, 0 if none."""
        manager = pyvisa.ResourceManager("@py")
        session: Any = manager.open_resource(self.address)
        session.read_termination = session.write_termination = "\n"
        session.timeout = 2000
        self.addCleanup(session.close)
        self.assertEqual(session.query("*IDN?"), IDENTITY)
        self.assertEqual(len(session.query("*IDN?").split(",")), 4)
        self.assertEqual(session.query("SYST:ERR?"), '0,"No error"')
        session.write("MEAS:NONSENSE 4")
        session.write("*WAI")  # not one of ours: a second error behind the first
        said = session.query(":SYSTem:ERRor?")
        self.assertTrue(said.startswith(("-113,", "-221,")), said)
        self.assertNotEqual(session.query("SYST:ERR:NEXT?"), '0,"No error"')
        self.assertEqual(session.query("SYSTEM:ERROR?"), '0,"No error"')
        session.write("MEAS:NONSENSE")
        session.write("*CLS")
        self.assertEqual(session.query("SYST:ERR?"), '0,"No error"')
        session.write("*RST")
        self.assertEqual(session.query("*OPC?"), "1")

    def test_drivers_read_the_bench_and_set_it(self):
        one = self.instrument("drivers")
        self.assertEqual(one.identity(), IDENTITY)
        one.write("SOUR:LEV -3")
        shown = {role: one.reading(role) for role in ROLES}
        self.assertAlmostEqual(
            shown["true_power"], shown["output_v"] * shown["output_a"], delta=0.03 * shown["true_power"]
        )
        self.assertAlmostEqual(shown["output_v"] / shown["output_a"], 2.0, delta=0.05)
        self.assertAlmostEqual(shown["coil_ohm"], 2.02, delta=0.03)
        one.write("LOAD:RES 4")
        self.assertAlmostEqual(one.reading("output_v") / one.reading("output_a"), 4.0, delta=0.08)
        self.assertEqual(one.errors(), [])
        one.write("LOAD:RES many")
        self.assertTrue(one.errors()[0].startswith("-224,"))

    def test_two_benches_do_not_meddle(self):
        one, other = self.instrument("first"), self.instrument("second")
        one.write("LOAD:RES 1")
        self.assertGreater(other.number("MEAS:RES?"), 1.9)

    def test_what_a_line_does_wrong_is_said_in_words_and_the_next_question_works(self):
        for trouble, words in (("hang", "does not answer"), ("garbage", "which is no number")):
            one = self.instrument(f"trouble {trouble}")
            one.write(f"BENCH:TROUBLE {trouble}")
            begun = time.monotonic()
            with self.subTest(trouble), self.assertRaisesRegex(InstrumentError, words):
                one.reading("volts")
            self.assertLess(time.monotonic() - begun, 5.0)
            fresh = Instrument(self.address)
            self.addCleanup(fresh.close)
            self.assertEqual(fresh.identity(), IDENTITY)
        dropped = self.instrument("trouble drop")
        dropped.write("BENCH:TROUBLE drop")
        with self.assertRaises(InstrumentError):
            dropped.reading("volts")
        self.assertEqual(dropped.identity(), IDENTITY)  # the line is opened anew, on a bench without trouble
        over = self.instrument("over")
        over.write("SENS:CURR:RANG 6")
        over.write("SOUR:LEV 0")
        with self.assertRaisesRegex(InstrumentError, "next range up"):
            over.reading("amps")
        nobody = Instrument("TCPIP::127.0.0.1::9::SOCKET", 700)
        with self.assertRaisesRegex(InstrumentError, "cannot be reached|does not answer"):
            nobody.identity()

    def test_only_sockets_and_serial_lines_are_opened(self):
        for address in ("TCPIP::10.0.0.7::5025::SOCKET", "ASRL/dev/ttyUSB0::INSTR", "ASRL3::INSTR"):
            self.assertTrue(resource_allowed(address), address)
        for address in ("file:///etc/passwd", "USB0::1::2::3::INSTR", "TCPIP::a b::1::SOCKET", "http://x"):
            with self.subTest(address), self.assertRaises(InstrumentError):
                Instrument(address)
