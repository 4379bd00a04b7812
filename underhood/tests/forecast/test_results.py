"""Every figure of a result by the sum that defines it, worked out here from volts, ohms and the amplifier's law."""

import cmath
import math
import unittest
from dataclasses import replace

import numpy as np

from underhood.document.job import JobDocument
from underhood.errors import BadInput
from underhood.forecast import bottlenecks, cautions, load_curves, wiring_options
from underhood.forecast.build import build_result, result_of
from underhood.forecast.forecast import make_forecast, music_of
from underhood.forecast.results import Balance
from underhood.tests.examples import DRIVER, SEALED, document, job, loaded_and_gain, replaced, van


def made(**paths):
    return make_forecast(JobDocument.model_validate(replaced(document(), **paths)))


class Amplifiers(unittest.TestCase):
    def test_each_figure_follows_from_the_volts_of_the_two_states(self):
        for connection in ("single", "bridged", "per_driver"):
            for programme, level_db in (("tone", 0), ("burst", -3)):
                with self.subTest(f"{connection} {programme}"):
                    self.follows(
                        made(
                            amplifiers__0__connection=connection,
                            amplifiers__0__channels=2,
                            basis__programme=programme,
                            basis__level_db=level_db,
                        )
                    )

    def follows(self, forecast):
        (one,), loaded, point = forecast.amplifiers, forecast.circuit.loaded[0], forecast.point
        law, channels, series = loaded.law, loaded.channels, loaded.in_series
        end = point.circuit.node_of("amp:a1")
        self.assertEqual((one.terminal_v, one.terminal_low_v), (point.volts[end], point.peak_volts[end]))
        wanted = loaded_and_gain(point.circuit)[1] * 10 ** (forecast.job.basis.level_db.value / 20)
        channel_v = min(wanted, law.reference_v * one.terminal_low_v / 14.4)
        amps = channel_v / loaded.channel_ohm
        self.assertAlmostEqual(one.output_v, channel_v * series)
        self.assertAlmostEqual(one.output_a, amps * channels / series)
        # The lead is a resistance in front of the load, which alone is what its watts and volt-amperes are in.
        output = cmath.rect(loaded.channel_ohm, math.acos(loaded.channel_pf))
        load = output - output.real * loaded.lead_share
        self.assertAlmostEqual(one.apparent_w, channels * amps**2 * abs(load))
        self.assertAlmostEqual(one.delivered_w, channels * amps**2 * load.real)
        self.assertAlmostEqual(one.true_to_apparent, load.real / abs(load))
        out_w, taken = channels * amps**2 * loaded.channel_ohm * loaded.channel_pf, law.taken
        per = taken.idle_a * one.terminal_low_v + taken.linear_v * amps + taken.quadratic_ohm * amps**2
        self.assertAlmostEqual(one.efficiency, out_w / (out_w + channels * per))
        self.assertAlmostEqual(one.draw.peak, (out_w + channels * per) / one.terminal_low_v)
        self.assertAlmostEqual(one.idle_a, channels * taken.idle_a)
        self.assertAlmostEqual(one.lost_to_sag_db, 20 * math.log10(channel_v / wanted))
        self.assertAlmostEqual(one.input_w, one.delivered_mean_w + one.lead_heat_w + one.heat_w)
        self.assertAlmostEqual(one.lead_heat_w, one.delivered_mean_w * loaded.lead_share / (1 - loaded.lead_share))
        low, high = loaded.band(one.terminal_low_v)
        self.assertAlmostEqual(one.low_w / one.delivered_w, low**2)
        self.assertAlmostEqual(one.high_w / one.delivered_w, high**2)
        bench_v = loaded.fitted.output(loaded.nominal_channel_ohm, one.terminal_v)[0]
        self.assertAlmostEqual(one.bench_w, channels * bench_v**2 / loaded.nominal_channel_ohm)
        self.assertAlmostEqual(one.mean_w, (one.bench_w + one.delivered_w) / 2)
        self.assertAlmostEqual(one.volts_squared_va, one.output_v**2 / one.nominal_ohm * channels / series)

    def test_another_programme_is_forecast_on_the_same_circuit(self):
        forecast = made()
        self.assertIs(forecast.playing("tone"), forecast)
        for programme in ("burst", "everyday", "held_bass"):
            other = forecast.playing(programme)
            self.assertAlmostEqual(other.draw.mean, made(basis__programme=programme).draw.mean)
        self.assertEqual(
            [music_of(job(programme=p)) for p in ("tone", "burst", "everyday")],
            ["bass_heavy", "bass_heavy", "everyday"],
        )

    def test_reserve_is_what_the_chargers_have_left_for_sound(self):
        self.assertAlmostEqual(made().reserve_a, 62 - 14)
        unknown = {"chargers": [{"name": "Converter", "kind": "dc_dc"}], "vehicle__drive": "electric"}
        self.assertIsNone(made(**unknown).reserve_a)
        self.assertIsNone(made(banks=[], chargers=[]).reserve_a)
        self.assertEqual(made(banks=[], chargers=[]).draw.peak, 0.0)
        self.assertEqual(made(banks=[], chargers=[]).amplifiers, [])


class Whole(unittest.TestCase):
    def test_the_head_is_the_first_amplifier_and_the_totals_are_sums(self):
        forecast = make_forecast(van())
        told, (first, second) = result_of(forecast), forecast.amplifiers
        self.assertEqual(
            (told.terminal_v, told.terminal_low_v, told.delivered_w, told.apparent_w, told.bench_w),
            (first.terminal_v, first.terminal_low_v, first.delivered_w, first.apparent_w, first.bench_w),
        )
        self.assertAlmostEqual(told.draw_a.mean, first.draw.mean + second.draw.mean)
        point = forecast.point
        self.assertAlmostEqual(told.charger_a + told.bank_a, told.draw_a.mean + point.vehicle_a, delta=1e-5)
        self.assertEqual(told.front_v, point.volts[0])
        for each in told.engines:
            at = forecast.at_engine(each.engine)
            self.assertEqual((each.charger_a, each.bank_a), (sum(at.charger_a), sum(at.bank_a)))
            self.assertEqual((each.front_v, each.draw_a, each.vehicle_a), (at.volts[0], at.mean_draw_a, at.vehicle_a))
            self.assertEqual(each.available_a, sum(at.available_a))
            self.assertEqual((each.terminal_v, each.operating_point), (at.volts[at.amplifiers[0].node], at.operating))
        converter = build_result(
            JobDocument.model_validate(
                replaced(document(), chargers=[{"name": "Converter", "kind": "dc_dc"}], vehicle__drive="electric")
            )
        )
        self.assertIsNone(converter.engines[-1].available_a)
        bare = build_result(JobDocument.model_validate(replaced(document(), banks=[], chargers=[])))
        self.assertEqual((bare.engines[0].terminal_v, bare.engines[0].available_a, bare.path.nodes), (None, None, []))

    def test_the_path_carries_the_amps_and_watts_of_the_mean_state(self):
        forecast = make_forecast(van())
        path, point = result_of(forecast).path, forecast.point
        volts = {each.name: each.volts for each in path.nodes}
        for flow, ohm in zip(path.edges, point.link_ohm, strict=True):
            self.assertAlmostEqual(flow.drop_v, volts[flow.start] - volts[flow.end], places=6)
            self.assertAlmostEqual(flow.amps, flow.drop_v / ohm, places=3)
            self.assertAlmostEqual(flow.heat_w, flow.amps**2 * ohm)
            far = volts[flow.end] if flow.amps >= 0 else volts[flow.start]
            self.assertAlmostEqual(flow.watts_out, abs(flow.amps) * far)
        for source in path.sources:
            self.assertAlmostEqual(source.watts, source.amps * volts[source.node])
        self.assertAlmostEqual(path.vehicle_w, path.vehicle_a * volts["front"])
        self.assertEqual([source.at_limit for source in path.sources], [True, False, False])
        light = result_of(make_forecast(van(level_db=-30))).path
        self.assertEqual([source.at_limit for source in light.sources], [False, False, False])
        resting = result_of(make_forecast(van(engine="off"))).path
        self.assertEqual([source.at_limit for source in resting.sources], [False, False, False])

    def test_what_does_not_balance_is_a_share_of_what_is_spent(self):
        even = Balance(600.0, 400.0, 0.0, 0.0, 200.0, 50.0, 150.0, 600.0)
        self.assertEqual(even.error, 0.0)
        self.assertAlmostEqual(replace(even, bank_w=390.0).error, 0.01)
        self.assertAlmostEqual(Balance(0.5, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 0.0).error, 0.5)


class Curves(unittest.TestCase):
    def test_a_bridge_puts_both_channels_volts_in_series_on_the_load(self):
        for connection, series, channels in (("bridged", 2, 2), ("per_driver", 1, 2), ("single", 1, 1)):
            forecast = made(amplifiers__0__connection=connection, amplifiers__0__channels=2)
            loaded = forecast.circuit.loaded[0]
            found = load_curves.curves(*loaded_and_gain(forecast.circuit), 13.0, np.array([40.0]))
            per_driver = loaded.load.impedance_ohm if connection == "per_driver" else found.impedance_ohm[0]
            self.assertAlmostEqual(found.impedance_ohm[0], per_driver)
            channel = found.impedance_ohm[0] / series
            lead = loaded.output_connection.lead_ohm
            at_output = math.hypot(channel * 0.8 + lead, channel * 0.6)
            amps = found.output_v[0] / series / at_output
            self.assertAlmostEqual(found.output_a[0], amps * channels / series)
            self.assertAlmostEqual(found.apparent_va[0], channels * amps**2 * channel)
            self.assertAlmostEqual(found.true_w[0], 0.8 * found.apparent_va[0])

    def test_level_at_a_metre_is_that_of_the_pumped_volume(self):
        """Half-space piston: p = ρ·A·a/(2π·r) of the RMS acceleration; with ρ = 1.2 kg/m³ within half a decibel."""
        forecast = made(**{f"amplifiers__0__load__{key}": value for key, value in SEALED.items()})
        found = load_curves.curves(*loaded_and_gain(forecast.circuit), 13.0, np.array([30.0, 60.0]))
        for hz, peak_mm, level in zip((30, 60), found.travel.peak_mm, found.travel.level_db, strict=True):
            accelerated = (2 * math.pi * hz) ** 2 * peak_mm / 1000 / math.sqrt(2)
            pascal = 1.2 * 2 * 0.048 * accelerated / (2 * math.pi)
            self.assertAlmostEqual(level, 20 * math.log10(pascal / 20e-6), delta=0.5)
        self.assertTrue(found.travel.cabin_assumed)
        self.assertFalse(
            load_curves.curves(*loaded_and_gain(forecast.circuit), 13.0, np.array([30.0]), 4.0).travel.cabin_assumed
        )

    def test_a_multimeter_on_unlike_drivers(self):
        """3.3 and 1.6 ohm, the second with two coils: in series 3.3 + 0.8; in parallel 1/(1/3.3 + 1/0.8)."""
        two = [DRIVER, {**DRIVER, "re_ohm": 1.6, "coils": 2}]
        for wiring, ohm in (("drivers series", 4.1), ("drivers parallel", 1 / (1 / 3.3 + 1 / 0.8))):
            forecast = made(amplifiers__0__load__drivers_mixed=two, amplifiers__0__load__wiring=wiring)
            self.assertAlmostEqual(load_curves.dc_ohm(forecast.circuit.loaded[0].job_load), ohm)
            (said,) = {load_curves.curves(*loaded_and_gain(forecast.circuit), 13.0, np.array([40.0])).no_travel_why}
            self.assertIn("need the driver's parameters", said)

    def test_the_whole_load_of_an_amplifier_by_its_place_in_the_job(self):
        raw = document()
        silent = {**raw["amplifiers"][0], "id": "a0", "load": None}
        raw["amplifiers"] = [silent, raw["amplifiers"][0]]
        two = JobDocument.model_validate(raw)
        found = load_curves.build(two, 1)
        self.assertIn(found.tone_hz, found.curves.frequency_hz)
        self.assertEqual(len(found.curves.frequency_hz), 241)
        self.assertAlmostEqual(found.dc_ohm, 0.8 * 4 / 4)
        self.assertEqual(found.lead_ohm, make_forecast(two).circuit.loaded[0].output_connection.lead_ohm)
        for index, field, words in ((0, "amplifiers.0", "has no load"), (2, "index", "give 0 to 1"), (-1, "index", "")):
            with self.subTest(index), self.assertRaises(BadInput) as caught:
                load_curves.build(two, index)
            self.assertEqual(caught.exception.field, field)
            self.assertIn(words, caught.exception.text)
        bridged = {"amplifiers__0__connection": "bridged", "amplifiers__0__channels": 2}
        one = load_curves.build(JobDocument.model_validate(replaced(document(), **bridged)), 0)
        self.assertTrue(found.lead_ohm < one.lead_ohm < 1.15 * found.lead_ohm)  # the same lead, warmer by more amps
        with self.assertRaisesRegex(BadInput, "nothing supplies"):
            load_curves.build(JobDocument.model_validate(replaced(document(), banks=[], chargers=[])), 0)

    def test_sweep_and_readings_are_sent_as_measured_and_a_long_sweep_thinned(self):
        hz = np.geomspace(10, 200, 2400).tolist()
        forecast = made(
            amplifiers__0__load__sweep={"frequency_hz": hz, "impedance_ohm": [4.0] * 2400},
            amplifiers__0__load__readings=[{"tone_hz": 40, "output_v": 20, "output_a": 4, "phase_deg": 60}],
        )
        found = load_curves.curves(*loaded_and_gain(forecast.circuit), 13.0, np.array([40.0]))
        self.assertEqual(found.sweep.frequency_hz, hz[::4])
        self.assertEqual(set(found.sweep.phase_deg), {None})
        self.assertEqual((found.readings.impedance_ohm, found.readings.phase_deg), ([5.0], [60]))


class Options(unittest.TestCase):
    def test_each_driver_on_a_channel_of_its_own_has_its_coils_as_named(self):
        changed = {"amplifiers__0__channels": 2, "amplifiers__0__load__drivers": 2}
        options = wiring_options.options(JobDocument.model_validate(replaced(document(), **changed)), 0)
        own = {each.words: each for each in options if each.connection == "per_driver"}
        self.assertEqual(
            {words: each.load_ohm for words, each in own.items()}, {"coils series": 8, "coils parallel": 2}
        )
        self.assertEqual([each.coil_share for each in own.values()], [0.25, 0.25])
        bridged = next(each for each in options if each.connection == "bridged" and each.load_ohm == 4)
        self.assertEqual((bridged.channel_ohm, bridged.connection_words), (2, "bridged"))

    def test_what_cannot_be_wired_is_refused_at_its_place(self):
        for index, paths, field in ((1, {}, "index"), (-1, {}, "index"), (0, {"load": None}, "amplifiers.0.load")):
            changed = {f"amplifiers__0__{key}": value for key, value in paths.items()}
            with self.assertRaises(BadInput) as caught:
                wiring_options.build(JobDocument.model_validate(replaced(document(), **changed)), index)
            self.assertEqual(caught.exception.field, field)


class Origins(unittest.TestCase):
    def leaves(self, figure):
        yield figure
        for each in figure.inputs:
            yield from self.leaves(each)

    def origin(self, symbol: str, **paths) -> str:
        told = build_result(JobDocument.model_validate(replaced(document(), **paths))).figures
        return next(leaf.origin for figure in told.values() for leaf in self.leaves(figure) if leaf.symbol == symbol)

    def test_each_leaf_says_whether_it_was_typed_measured_assumed_or_worked_out(self):
        load = "amplifiers__0__load__"
        for paths, origin in (
            ({}, "computed"),
            ({"amplifiers__0__speaker_lead": None}, "typed"),
            (
                {"amplifiers__0__speaker_lead": None, f"{load}power_factor": {"value": 0.7, "origin": "measured"}},
                "measured",
            ),
            (
                {
                    "amplifiers__0__speaker_lead": None,
                    f"{load}sweep": {"frequency_hz": [20, 80], "impedance_ohm": [2, 3]},
                },
                "assumed",
            ),
        ):
            self.assertEqual(self.origin("cosphi", **paths), origin)


class Cautions(unittest.TestCase):
    def said(self, station: str, output_v: float = 10.0, **paths):
        one = JobDocument.model_validate(replaced(document(), **paths))
        words = cautions.for_station(one, station, output_v)
        return [key for key, text in cautions.CAUTIONS.items() if text in words]

    def test_each_stands_where_its_danger_is_and_nowhere_else(self):
        bank = {"name": "B", "capacity_ah": 70}
        lithium, agm = ({**bank, "chemistry": kind} for kind in ("lifepo4", "agm"))
        converter = [{"name": "C", "kind": "dc_dc", "limit_a": 30}]
        for station, paths, expected in (
            ("load", {}, ["hearing"]),
            ("load", {"output_v": 50.1}, ["shock", "hearing"]),
            ("load", {"output_v": 50.0}, ["hearing"]),
            ("amplifiers", {"output_v": 51.0}, ["shock", "makers_rules"]),
            ("draw", {}, ["indoors", "hearing"]),
            ("draw", {"vehicle__drive": "hybrid"}, ["indoors", "hearing"]),
            ("draw", {"vehicle__drive": "electric"}, ["hearing"]),
            ("supply", {}, ["lead_acid", "alternator"]),
            ("supply", {"vehicle__drive": "hybrid", "banks": [agm]}, ["lead_acid", "alternator", "high_voltage"]),
            ("supply", {"chargers": converter, "banks": [lithium]}, ["lithium", "dc_dc_limit"]),
            (
                "supply",
                {"banks": [lithium, {**agm, "name": "A"}]},
                ["lithium", "mixed_chemistry", "lead_acid", "alternator"],
            ),
            ("cable", {}, ["short_circuit", "makers_rules"]),
            ("cable", {"vehicle__drive": "electric"}, ["short_circuit", "high_voltage", "makers_rules"]),
            ("elsewhere", {}, []),
        ):
            with self.subTest(f"{station} {paths}"):
                self.assertEqual(self.said(station, **paths), expected)
        self.assertEqual(tuple(cautions.by_station(job(), 10.0)), cautions.STATIONS)


class Supply(unittest.TestCase):
    def test_reserves_by_hand_in_every_state(self):
        loads = [{"name": "All", "off_a": 1, "idle_a": 14, "cruise_a": 16, "all_on_a": 60}]
        found = bottlenecks.reserves(made(vehicle__loads=loads))
        cruise = found[2].available_a
        told = [(each.state, each.vehicle_a, each.available_a, each.reserve_a) for each in found]
        self.assertEqual(told[0], ("engine off", 1, 0.0, -1.0))
        self.assertEqual(told[1][:2], ("idle", 14))
        self.assertAlmostEqual(told[1][3], 62 - 14)
        self.assertTrue(62 < cruise < 108)
        self.assertEqual(told[2], ("cruise", 16, cruise, cruise - 16))
        self.assertEqual(told[3], ("cruise, everything on", 60, cruise, cruise - 60))
        self.assertIsNone(found[0].shaft_w)
        point = made(vehicle__loads=loads).at_engine("cruise")
        efficiency = made().job.chargers[0].efficiency.value
        self.assertAlmostEqual(found[2].shaft_w, point.volts[0] * point.charger_a[0] / efficiency)
        unknown = bottlenecks.reserves(made(chargers=[{"name": "C", "kind": "dc_dc"}], vehicle__drive="electric"))
        rows = {(each.available_a, each.reserve_a, each.shaft_w) for each in unknown}
        self.assertEqual(rows, {(None, None, None), (0.0, -0.05, None)})  # with the vehicle off it does not run

    def test_a_class_d_beside_a_class_ab_for_the_same_watts(self):
        (beside,) = bottlenecks.classes(made())
        (one,) = made().amplifiers
        self.assertEqual((beside.own_class, beside.other_class), ("D", "AB"))
        self.assertAlmostEqual(beside.own_a, one.draw.mean)
        self.assertAlmostEqual(beside.own_heat_w, one.heat_w)
        self.assertGreater(beside.other_a, 1.15 * beside.own_a)
        self.assertAlmostEqual(beside.other_heat_w - one.heat_w, (beside.other_a - beside.own_a) * one.terminal_v)
        (back,) = bottlenecks.classes(made(**{"amplifiers__0__class": "AB"}))
        self.assertEqual((back.own_class, back.other_class), ("AB", "D"))
        self.assertEqual(bottlenecks.classes(made(banks=[], chargers=[])), [])

    def test_sentences_on_what_gives_hold_their_own_sums(self):
        """Short by what is drawn and used less what is made; the battery from 90 % to half covers 0.4·70 Ah of it."""
        evening = [{"name": "All of an evening", "idle_a": 30, "cruise_a": 40}]
        loud = {"amplifiers__0__load__rise": 1.0, "vehicle__loads": evening}
        forecast = made(banks__0__charge=0.9, **loud)
        found = {each.text: each.severity for each in bottlenecks.gives_first(forecast)}
        for engine, where in (("idle", "At idle"), ("cruise", "At cruise")):
            point = forecast.at_engine(engine)
            short = point.mean_draw_a + point.vehicle_a - point.available_a[0]
            text = next((each for each in found if f"short by {short:.0f} A with" in each and where in each), None)
            self.assertGreater(short, 0.5)
            self.assertIsNotNone(text, found)
            self.assertGreater(sum(point.bank_a), 0.5)
            self.assertEqual(found[text], "act")
            minutes = 60 * 0.4 * 70 / short
            self.assertIn(f"{minutes:.0f} min" if minutes < 120 else f"{minutes / 60:.1f} h", text)
        empty = bottlenecks.gives_first(made(banks__0__charge=0.4, **loud))
        self.assertTrue(any("no battery covers it" in each.text for each in empty))
        unknown = bottlenecks.gives_first(made(chargers=[{"name": "Box", "kind": "dc_dc"}], vehicle__drive="electric"))
        self.assertTrue(any("the Box gives" in each.text and "limit is unknown" in each.text for each in unknown))
        ranks = [("act", "caution", "note").index(each.severity) for each in bottlenecks.gives_first(forecast)]
        self.assertEqual(ranks, sorted(ranks))
