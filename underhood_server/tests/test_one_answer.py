"""The same quantity asked through forecast, curves, simulation, set-up sheet, cable and path strip is the same number.

A walk over the demo's jobs in every state of the engine and with every programme. Identities are held to rounding;
the simulation, which solves the same moments step by step with live batteries, to a share of its own.
"""

import unittest
from collections.abc import Iterator
from typing import Any, get_args

import numpy as np
from scipy.optimize import brentq

from underhood.amplifier.sheet import Sheet
from underhood.cable.stock import of_shelf
from underhood.circuit import gain
from underhood.circuit.loaded_amplifier import LoadedAmplifier
from underhood.document.amplifier import AmplifierRecord
from underhood.document.job import JobDocument, Programme
from underhood.document.workshop import WorkshopSettings
from underhood.forecast import load_curves
from underhood.forecast.build import result_of
from underhood.forecast.forecast import ENGINES, Forecast, make_forecast
from underhood.forecast.gain_setting import GainSetting, GainSettingSheet, gain_setting_sheet
from underhood.forecast.results import AmplifierResult, ForecastResult
from underhood.forecast.simulation import simulate
from underhood.harness import schedule, speaker_leads
from underhood_server.demo.services import DATA, demo_job

SHOP = WorkshopSettings()
PROGRAMMES = [each for each in get_args(Programme) if each != "file"]
NAMES = sorted(path.stem for path in DATA.glob("job-*.json"))


def playing(name: str, *, open_up: bool = False, **basis: Any) -> JobDocument:
    """A demo job with another basis; `open_up` takes the filters off and each amplifier's own level up."""
    raw = demo_job(name).model_dump(mode="json", by_alias=True)
    for amplifier in raw["amplifiers"] if open_up else ():
        amplifier["load"] |= {"high_pass_hz": None, "low_pass_hz": None}
        amplifier["level_db"] = 0
    return JobDocument.model_validate(raw | {"basis": raw["basis"] | basis})


def states() -> Iterator[tuple[str, JobDocument]]:
    for name in NAMES:
        for programme in PROGRAMMES:
            for engine in ENGINES:
                yield f"{name} {programme} {engine}", playing(name, programme=programme, engine=engine, level_db=-1)


def held(name: str, i: int, level_db: float) -> tuple[LoadedAmplifier, AmplifierResult]:
    """An amplifier of a demo job with a tone at some level, nothing in its way."""
    forecast = make_forecast(playing(name, open_up=True, programme="tone", engine="cruise", level_db=level_db))
    return forecast.circuit.loaded[i], forecast.amplifiers[i]


def set_up_sheet(loaded: LoadedAmplifier, one: AmplifierResult) -> GainSettingSheet:
    """What the bench says of the same amplifier, load and supply."""
    amplifier = loaded.amplifier
    record = AmplifierRecord.model_validate(amplifier.model_dump(include=set(AmplifierRecord.model_fields)))
    return gain_setting_sheet(
        Sheet(record, tuple(amplifier.runs), tuple(amplifier.claims)),
        GainSetting(
            load_ohm=loaded.nominal_channel_ohm * loaded.in_series,
            supply_v=one.terminal_v,
            rise=loaded.channel_ohm / loaded.nominal_channel_ohm,
            power_factor=loaded.channel_pf,
            tone_hz=40,
            bridged=loaded.in_series == 2,
        ),
    )


class OneAnswer(unittest.TestCase):
    def test_every_quantity_is_the_same_wherever_it_is_asked(self) -> None:
        seen = 0
        for words, job in states():
            forecast = make_forecast(job)
            result = result_of(forecast)
            with self.subTest(words):
                self.assertTrue(result.operating_point)
                self.path_strip(result)
                self.engine_row(result, job.basis.engine)
                self.cables(forecast, result)
                self.curves(forecast, result)
                seen += 1
        self.assertEqual(seen, len(NAMES) * len(PROGRAMMES) * len(ENGINES))
        self.assertGreaterEqual(len(NAMES), 3)

    def path_strip(self, result: ForecastResult) -> None:
        volts, balance = {each.name: each.volts for each in result.path.nodes}, result.balance
        assert balance is not None
        for one in result.amplifiers:
            self.assertEqual(volts[f"amp:{one.id}"], one.terminal_v)
        self.assertEqual(volts["front"], result.front_v)
        leads_w = sum(each.lead_heat_w for each in result.amplifiers)
        self.assertAlmostEqual(sum(each.heat_w for each in result.path.edges) + leads_w, balance.cable_w)
        self.assertAlmostEqual(sum(each.watts for each in result.path.sources), balance.charger_w + balance.bank_w)
        self.assertAlmostEqual(result.path.vehicle_w, balance.vehicle_w)
        self.assertAlmostEqual(sum(each.delivered_mean_w for each in result.amplifiers), balance.speaker_w)
        self.assertAlmostEqual(sum(each.heat_w for each in result.amplifiers), balance.amplifier_heat_w)
        self.assertAlmostEqual(sum(each.draw.mean for each in result.amplifiers), result.draw_a.mean)
        self.assertLess(balance.error, 1e-3)

    def engine_row(self, result: ForecastResult, engine: str) -> None:
        row = next(each for each in result.engines if each.engine == engine)
        self.assertEqual(
            (row.terminal_v, row.terminal_low_v, row.front_v, row.draw_a, row.charger_a, row.bank_a),
            (
                result.terminal_v,
                result.terminal_low_v,
                result.front_v,
                result.draw_a.mean,
                result.charger_a,
                result.bank_a,
            ),
        )

    def cables(self, forecast: Forecast, result: ForecastResult) -> None:
        flows = {each.name: each for each in result.path.edges}
        for cable in result.cables:
            flow = flows[cable.name]
            self.assertAlmostEqual(cable.mean_a, flow.amps, places=5)  # as near as currents are balanced
            if forecast.job.basis.programme in ("tone", "burst"):
                self.assertAlmostEqual(cable.loss_w, flow.heat_w)
            self.assertLessEqual(flow.heat_w, cable.loss_w + 1e-6)
            self.assertLessEqual(cable.mean_a * flow.drop_v, flow.heat_w + 1e-6)
            self.assertGreaterEqual(cable.worst_rms_a, cable.rms_a)
            self.assertGreaterEqual(cable.worst_peak_a, cable.peak_a)
        leads = {each.end: each for each in result.cables if each.end.startswith("amp:")}
        found = speaker_leads.leads(forecast, of_shelf(SHOP.shelf))
        for one, lead, loaded in zip(result.amplifiers, found, forecast.circuit.loaded, strict=True):
            share = loaded.lead_share
            self.assertAlmostEqual(lead.lost_w, one.delivered_w * share / (1 - share))
            self.assertAlmostEqual(one.lead_heat_w, one.delivered_mean_w * share / (1 - share))
            if f"amp:{one.id}" in leads:
                self.assertAlmostEqual(leads[f"amp:{one.id}"].mean_a, one.draw.mean, places=5)
                self.assertAlmostEqual(leads[f"amp:{one.id}"].peak_a, one.draw.peak, places=5)

    def test_the_fuse_that_the_schedule_advises_is_the_cable_s_own(self) -> None:
        """Of the demo's jobs with their fuses taken out: those that are stated stand as they are."""
        advised = 0
        for name in NAMES:
            raw = playing(name).model_dump(mode="json", by_alias=True)
            for wire in [*raw["cables"], *(each["lead"] for each in raw["amplifiers"] if each["lead"])]:
                wire |= {"fuse_from_a": None, "fuse_to_a": None}
            job = JobDocument.model_validate(raw)
            cut = {row.field: row for row in schedule.schedule(job, SHOP).rows}
            for cable in result_of(make_forecast(job)).cables:
                for fuse in (cut[cable.field].fuse_start, cut[cable.field].fuse_end):
                    if fuse is not None:
                        self.assertEqual((fuse.fitted, fuse.rating_a), (False, cable.fuse_a))
                        advised += 1
        self.assertGreaterEqual(advised, len(NAMES))

    def curves(self, forecast: Forecast, result: ForecastResult) -> None:
        """At the loudest moment's volts a curve has at the tone what the forecast has; so has the loss budget's end.

        Filters act on a tone, while the programmes of music are taken as what has passed them.
        """
        tone = np.array([forecast.job.basis.tone_hz.value])
        for i, (loaded, one) in enumerate(zip(forecast.circuit.loaded, result.amplifiers, strict=True)):
            self.assertAlmostEqual(load_curves.loss_budget(forecast, i)[-1].watts, one.delivered_w)
            if forecast.job.basis.programme not in ("tone", "burst"):
                continue
            full_scale_v = float(gain.full_scale(forecast.circuit).volts[i])
            curve = load_curves.curves(loaded, full_scale_v, one.terminal_low_v, tone)
            for of, here, drawn in (
                ("true", one.delivered_w, curve.true_w),
                ("apparent", one.apparent_w, curve.apparent_va),
                ("volts", one.output_v, curve.output_v),
                ("amps", one.output_a, curve.output_a),
                ("supply", one.draw.peak, curve.supply_a),
            ):
                self.assertAlmostEqual(drawn[0] / here, 1, msg=of)

    def test_the_set_up_sheet_shows_on_the_clamp_what_the_forecast_draws_at_its_target(self) -> None:
        """Filters off, knobs up, the engine fast; where channels have a driver each the sheet sets one of them."""
        for name in NAMES:
            for i in range(len(demo_job(name).amplifiers)):
                with self.subTest(name, amplifier=i):
                    self.set_up(name, i)

    def set_up(self, name: str, i: int) -> None:
        # The level at which the tone holds the target, which itself follows the volts that this level leaves.
        def missing_v(level_db: float) -> float:
            loaded, one = held(name, i, level_db)
            return set_up_sheet(loaded, one).target_v.value - one.output_v

        level_db = brentq(missing_v, -10, 0, xtol=1e-6)
        loaded, one = held(name, i, level_db)
        made = set_up_sheet(loaded, one)
        clamp_a = made.clamp_a.value
        self.assertAlmostEqual(made.target_v.value, one.output_v, delta=0.01)
        self.assertAlmostEqual(clamp_a + (loaded.loads - 1) * (clamp_a - one.idle_a), one.draw.peak, delta=0.05)

    def test_the_simulation_gives_what_the_forecast_says(self) -> None:
        """Music's mean watts within 0.8 percent, volts within 0.04 V RMS (what two levels are good for) and 0.1 V each,
        also where the mean draw is just what the charger has left.

        A tone's forecast is the state that it settles in, so the end of five minutes is held against it.
        """
        missed_v = []
        for name in NAMES:
            for programme in ("tone", "burst", "everyday", "bass_heavy", "held_bass"):
                job = playing(name, programme=programme)
                result, simulated = result_of(make_forecast(job)), simulate(job, 300)
                with self.subTest(f"{name} {programme}"):
                    assert simulated.terminal_v is not None and result.terminal_v is not None
                    settled = programme == "tone"
                    volts = simulated.series.terminal_v[-1] if settled else simulated.terminal_v.mean
                    self.assertAlmostEqual(volts, result.terminal_v, delta=0.1)
                    missed_v.append(volts - result.terminal_v)
                    watts = sum(each.delivered_mean_w for each in result.amplifiers)
                    if not settled:
                        self.assertAlmostEqual(simulated.delivered_w / watts, 1, delta=0.008)
        self.assertLess(np.sqrt(np.mean(np.square(missed_v))), 0.04)
