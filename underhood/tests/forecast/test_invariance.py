"""What must hold of any car: its power balances, and saying the same thing in another way gives the same volts.

Jobs are drawn at random with every kind of element: alternators, converters that the circuit feeds, mains chargers,
batteries with relays, diodes and management, capacitors, amplifiers on leads, chassis and cable returns.
"""

import copy
import unittest
from dataclasses import replace
from typing import Any

from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

from underhood.circuit.gain import full_scale
from underhood.document.job import JobDocument
from underhood.forecast.build import result_of
from underhood.forecast.forecast import ENGINES, Forecast, make_forecast
from underhood.tests.examples import RUNS

PLACES = ("front", "rear", "block")


@st.composite
def cars(draw, *, calm: bool = False) -> dict[str, Any]:
    """A plain document; `calm` without what switches itself, which a doubled car may do at another moment.

    And without a converter that a cable bypasses: what it takes is found by repetition, to 10 mV near its limit.
    """

    def some(low: float, high: float) -> float:
        return round(draw(st.floats(low, high)), 5)

    def wire(length: float) -> dict[str, Any]:
        back = draw(st.sampled_from(({"kind": "chassis", "resistance_ohm": 0.001}, None)))
        size = draw(st.sampled_from(("1/0 AWG", "4 AWG", "35 mm²")))
        return {"size": size, "length_m": length, "return": back or {"kind": "cable", "size": size, "length_m": length}}

    chargers: list[dict[str, Any]] = [
        {"name": "Alternator", "at": "front", "rated_a": some(90, 200), "idle_a": some(50, 80)},
        {"name": "Converter", "kind": "dc_dc", "at": "rear", "from": "front", "limit_a": some(10, 60)},
        {
            "name": "Mains",
            "kind": "mains_charger",
            "at": "block",
            "limit_a": some(5, 40),
            "setpoint_v": some(13.5, 14.6),
        },
    ]
    chargers[1] |= {"always_on": draw(st.booleans()), "idle_w": some(0, 20), "setpoint_v": some(13.8, 14.8)}
    kept = [each for each in chargers if draw(st.booleans())]
    if calm:
        kept = [each for each in kept if each["name"] != "Converter"]
    banks: list[dict[str, Any]] = [
        {"name": place, "at": place, "chemistry": draw(st.sampled_from(("agm", "flooded", "lifepo4")))}
        for place in draw(st.sampled_from((("front",), ("front", "rear"), ("front", "block"), PLACES)))
    ]
    for bank in banks:
        bank |= {"capacity_ah": some(30, 120), "resistance_ohm": some(0.002, 0.01), "charge": some(0.5, 1.0)}
        if not calm:
            bank |= {"isolator": draw(st.sampled_from(("none", "none", "relay", "diode")))}
            bank |= {"discharge_limit_a": draw(st.sampled_from((None, 400, 60)))}
    capacitors = [
        {"name": place, "at": place, "farad": some(1, 600), "esr_ohm": some(0.001, 0.004)}
        for place in PLACES
        if draw(st.booleans())
    ]
    amplifiers = []
    for n in range(draw(st.integers(1, 3))):
        load = {"coil_ohm": draw(st.sampled_from((2, 4))), "power_factor": some(0.6, 1), "rise": some(1.2, 3)}
        load |= draw(st.sampled_from(({"low_pass_hz": 80}, {"high_pass_hz": 200}, {})))
        made = {"id": f"a{n}", "name": f"A{n}", "runs": RUNS, "load": load, "at": draw(st.sampled_from(PLACES[1:]))}
        made |= {"class": draw(st.sampled_from("DA")) if calm else draw(st.sampled_from("DB")), "cutout_v": 7}
        made |= {"supply": draw(st.sampled_from(("regulated", "unregulated"))), "level_db": some(-9, 0)}
        amplifiers.append(made | {"lead": wire(some(0.5, 2))} if draw(st.booleans()) else made)
    programme = draw(st.sampled_from(("tone", "burst", "everyday", "bass_heavy")))
    return {
        "vehicle": {"loads": [{"name": "All", "off_a": some(0, 5), "idle_a": some(5, 40), "cruise_a": some(5, 40)}]},
        "chargers": kept,
        "banks": banks,
        "capacitors": capacitors,
        "nodes": [{"name": "block"}],
        "cables": [
            {"name": "Run", "from": "front", "to": "rear", **wire(some(2, 6))},
            {"name": "On", "from": "rear", "to": "block", **wire(some(0.5, 2))},
        ],
        "amplifiers": amplifiers,
        "basis": {"programme": programme, "engine": draw(st.sampled_from(ENGINES)), "level_db": some(-6, 0)},
    }


def forecast(raw: dict[str, Any]) -> Forecast:
    return make_forecast(JobDocument.model_validate(raw))


def volts(raw: dict[str, Any]) -> dict[str, tuple[float, float]]:
    """Mean and lowest volts by place, of a car that holds its programme."""
    made = forecast(raw)
    assume(made.operating_point and made.point is not None and not made.point.chatters)
    assert made.point is not None
    pairs = zip(made.circuit.nodes, made.point.volts, made.point.peak_volts, strict=True)
    return {name: (float(mean), float(low)) for name, mean, low in pairs}


LIMITS = settings(max_examples=40, deadline=None, suppress_health_check=list(HealthCheck))


class AnyCar(unittest.TestCase):
    def alike(self, one: dict[str, Any], other: dict[str, Any], within_v: float) -> None:
        before, after = volts(one), volts(other)
        for name, pair in before.items():
            for was, now in zip(pair, after[name], strict=True):
                self.assertAlmostEqual(was, now, delta=within_v, msg=name)

    @LIMITS
    @given(cars())
    def test_power_balances(self, raw):
        made = forecast(raw)
        for engine in ENGINES:
            point = made.at_engine(engine)
            if point is None or point.drive < 1.0:
                continue
            at = forecast(raw | {"basis": raw["basis"] | {"engine": engine}})
            balance = result_of(at).balance
            assert balance is not None
            self.assertLess(balance.error, 2e-3, (engine, point.position))

    @LIMITS
    @given(cars(), st.sampled_from(PLACES))
    def test_a_tenth_of_a_farad_gives_no_more_than_the_charge_in_it(self, raw, place):
        """In a burst it gives 0.1 F x swing: that much less out of the surface layer (0.15 F per Ah), and less drop.

        Kept loose by the smallest bank and the largest resistance; an endless battery would lift by the whole swing.
        """
        tiny = {"name": "Tiny", "at": place, "farad": 0.1, "esr_ohm": 0.002}
        before, after = volts(raw), volts(raw | {"capacitors": [*raw["capacitors"], tiny]})
        surface_f = 0.15 * min(bank["capacity_ah"] for bank in raw["banks"])
        ohm = max(bank["resistance_ohm"] for bank in raw["banks"]) + 0.005  # and the cables
        for name, (mean, low) in before.items():
            self.assertAlmostEqual(mean, after[name][0], delta=0.002, msg=name)
            charge = 0.1 * (mean - low)
            self.assertAlmostEqual(low, after[name][1], delta=0.002 + charge * (1 / surface_f + ohm / 0.02), msg=name)

    @LIMITS
    @given(cars())
    def test_two_batteries_are_one_of_half_the_ohms_and_twice_the_capacity(self, raw):
        two, one = copy.deepcopy(raw), copy.deepcopy(raw)
        for bank in two["banks"]:
            bank["count"] = 2
        for bank in one["banks"]:
            bank |= {"resistance_ohm": bank["resistance_ohm"] / 2, "capacity_ah": 2 * bank["capacity_ah"]}
            if bank.get("discharge_limit_a"):
                bank["discharge_limit_a"] *= 2
        self.alike(two, one, 1e-5)

    @LIMITS
    @given(cars(), st.floats(0.2, 0.8))
    def test_two_cables_in_a_row_are_one_of_their_sum(self, raw, share):
        parted = copy.deepcopy(raw)
        run = parted["cables"][0]
        halves = [
            {**copy.deepcopy(run), "name": name, "from": a, "to": b, "length_m": run["length_m"] * part}
            for name, a, b, part in (("One", "front", "between", share), ("Other", "between", "rear", 1 - share))
        ]
        for half, part in zip(halves, (share, 1 - share), strict=True):
            half["joints_ohm"] = 0.0004 * part
            key = "resistance_ohm" if run["return"]["kind"] == "chassis" else "length_m"
            half["return"][key] = run["return"][key] * part
        parted["cables"] = [*halves, raw["cables"][1]]
        parted["nodes"] = [*raw["nodes"], {"name": "between"}]
        self.alike(raw, parted, 2e-5)

    @LIMITS
    @given(cars(calm=True))
    def test_twice_of_everything_keeps_the_volts(self, raw):
        """All watts and all conductances together: two of each bank, capacitor, run and amplifier, twice the amps."""
        made = forecast(raw).circuit  # gains as they were set: alone on twice the supply each would be set higher
        for loaded, full_v in zip(made.loaded, full_scale(made).volts.tolist(), strict=True):
            raw["amplifiers"][loaded.index]["gain"] = {"volts": max(full_v * loaded.in_series, 0.05)}
        double = copy.deepcopy(raw)
        for load in double["vehicle"]["loads"]:
            load |= {key: 2 * value for key, value in load.items() if key.endswith("_a")}
        for charger in double["chargers"]:
            charger |= {key: 2 * charger[key] for key in ("rated_a", "idle_a", "limit_a", "idle_w") if key in charger}
            charger["source_ohm"] = 0.0025
        for part in (*double["banks"], *double["capacitors"]):
            part["count"] = 2
        for cable in double["cables"]:
            cable |= {"runs": 2, "joints_ohm": 0.0002}
            back = cable["return"]
            back |= {"resistance_ohm": 0.0005} if back["kind"] == "chassis" else {"runs": 2}
        again = [{**each, "id": f"{each['id']}b", "name": f"{each['name']} b"} for each in double["amplifiers"]]
        double["amplifiers"] += again
        self.alike(raw, double, 0.01)  # another choice of levels stands for what several amplifiers play together

    @LIMITS
    @given(cars(calm=True), st.floats(1.0, 30.0))
    def test_more_current_into_a_node_never_lowers_any(self, raw, amps):
        """What a vehicle takes less is put in at every voltage alike; held by a tone, every node stands higher.

        Gains as they were set: a supply that stands higher while they are set would ask for more.
        """
        raw["basis"]["programme"] = "tone"
        more = copy.deepcopy(raw)
        for load in more["vehicle"]["loads"]:
            load |= {key: max(value - amps, 0.0) for key, value in load.items() if key.endswith("_a")}
        before = forecast(raw)
        gains = tuple(full_scale(before.circuit).volts.tolist())
        after = Forecast(replace(forecast(more).circuit, gains=gains))
        assume(before.operating_point and before.point is not None)
        self.assertTrue(after.operating_point)
        for was, now in zip(before.point.volts, after.point.volts, strict=True):
            self.assertGreater(now, was - 1e-3)  # warmer cables take some of it
