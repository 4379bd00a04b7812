"""Search, order and reasons against plain loops: every set by its own forecast, every order by trial."""

import unittest
from contextlib import nullcontext
from itertools import combinations, product
from unittest import mock

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from underhood.circuit import table
from underhood.document.job import JobDocument
from underhood.document.job_file import read_job, write_job
from underhood.errors import BadInput
from underhood.forecast import goals, load_curves
from underhood.forecast.build import build_result
from underhood.forecast.forecast import make_forecast
from underhood.forecast.simulation import minutes_to_low
from underhood.harness import edits
from underhood.plan import ladder, parts_csv, reasons
from underhood.plan.answer import plan
from underhood.plan.at_once import AFTER_LOAD, EVERY_STATE, ONE_STATE, AtOnce, _State
from underhood.plan.cars import distinct
from underhood.plan.evaluate import Evaluator, Outcome, value_of
from underhood.plan.search import FIRST, Progress, _Run, not_dominated, search
from underhood.plan.sets import Sets, sets_within
from underhood.plan.steps import Line, Slot, Step, applied, slots
from underhood.tests.examples import changed, loaded_and_gain
from underhood.tests.plan.examples import car, parts


def titles(outcome: Outcome) -> list[str]:
    return sorted(step.title for step in outcome.steps)


def every(sets: Sets) -> list[tuple[Step, ...]]:
    return [sets.steps(i) for i in range(len(sets))]


def bought(name: str) -> list[Step]:
    return [step for slot in slots(car(), parts(name)) for step in slot.steps if step.part]


class Steps(unittest.TestCase):
    def test_in_whatever_order_they_are_taken_the_car_is_the_same(self):
        job = car()
        some = [slot.steps[-1] for slot in slots(job, parts())]
        self.assertGreater(len(some), 6)
        self.assertEqual(applied(job, some), applied(job, some[::-1]))
        self.assertEqual(applied(job, []), job)

    def test_a_cable_comes_by_the_metre_with_the_largest_fuse_that_its_metal_allows(self):
        """5.5 m of 2/0 at 19 and one fuse at the battery: 330 A of conductor (33 CFR 183.425) take the 300 A one."""
        job = car()
        step = next(slot for slot in slots(job, parts("Flex 2/0")) if slot.key == "cable:cables.0").steps[0]
        self.assertEqual(
            [(line.name, line.amount, line.price) for line in step.buys],
            [
                ("Flex 2/0", 5.5, 19),
                ("Mega 300", 1, 11),
            ],
        )
        cable = applied(job, [step]).cables[0]
        self.assertEqual((cable.size, cable.fuse_from_a.value, cable.fuse_to_a), ("2/0 AWG", 300, None))
        self.assertAlmostEqual(Evaluator(job, parts()).cost([step]), 5.5 * 19 + 11 + 1.5 * 60)
        self.assertAlmostEqual(step.weight_kg, 5.5 * 0.7)

    def test_a_battery_at_the_rear_comes_with_the_fuse_at_its_end(self):
        job = car()
        step = next(slot for slot in slots(job, parts("Curlew 90")) if slot.key == "bank:+").steps[0]
        made = applied(job, [step])
        # 1/0 of the run: 285 A; 4 AWG of the lead from there: 160 A.
        self.assertEqual([line.name for line in step.buys], ["Curlew 90", "Mega 200", "Mega 150"])
        self.assertEqual((made.banks[1].at, made.cables[0].fuse_to_a.value), ("rear", 200))
        without = [part for part in parts("Curlew 90") if part.kind != "fuse"]
        unpriced = next(slot for slot in slots(job, without) if slot.key == "bank:+").steps[0]
        self.assertIn("a fuse of at most", unpriced.unpriced[0])

    def test_a_gain_that_was_read_may_be_set_anew_for_nothing(self):
        low = changed(car(), amplifiers__0__gain={"volts": 12})
        anew, *lower = next(slot.steps for slot in slots(low, parts()) if slot.key == "gain")
        self.assertEqual(lower, list(next(slot.steps for slot in slots(car(), parts()) if slot.key == "gain")))
        evaluator, as_found = Evaluator(low, parts()), Evaluator(car(), parts()).as_found
        found = evaluator.of([anew])
        self.assertEqual((found.cost, found.terminal_v), (0.0, as_found.terminal_v))
        self.assertGreater(found.gain_db, 3.0)

    def test_other_voltages_and_what_nobody_wants_are_left_out(self):
        job = car(plan={"never": ["Heron 180"], "keep": ["Front battery"]})
        found = {slot.key for slot in slots(job, parts())}
        self.assertNotIn("charger:0", found)
        self.assertNotIn("bank:0", found)
        of_24 = [part.model_copy(update={"system_v": 24.0}) for part in parts("Curlew 90")]
        self.assertEqual({slot.key for slot in slots(job, of_24)}, {"wiring:0", "gain"})
        with self.assertRaisesRegex(BadInput, "none yet"):
            slots(job, [])
        unknown = parts("Curlew 90")[0].model_copy(update={"kind": "amplifier", "amplifier": "Nobody's"})
        with self.assertRaisesRegex(BadInput, "no amplifier of the workshop"):
            slots(job, [unknown])


class Evaluations(unittest.TestCase):
    def test_a_set_is_the_forecast_of_its_own_job_file_to_the_last_digit(self):
        job = car(goals=[*car().document()["goals"], {"quantity": "delivered_w", "at_least": 300}])
        evaluator = Evaluator(job, parts())
        step = next(slot for slot in slots(job, parts()) if slot.key == "charger:0").steps[0]
        outcome = evaluator.of([step])
        told = build_result(read_job(write_job(outcome.job))).goals
        self.assertEqual([goal.value for goal in told], [goal.value for goal in outcome.goals])
        self.assertEqual(outcome.terminal_v, told[0].value)
        self.assertTrue(outcome.meets)
        self.assertFalse(evaluator.as_found.meets)
        self.assertEqual((evaluator.as_found.gain_db, evaluator.as_found.cost), (0.0, 0.0))
        self.assertAlmostEqual(value_of(evaluator.as_found), -10 * (12.5 - evaluator.as_found.terminal_v))

    def test_decibels_gained_are_those_of_the_level_where_driver_and_box_are_known(self):
        """A box of half the volume: what the curves say of the level at the tone, which its watts do not."""
        driver = {"re_ohm": 3.4, "fs_hz": 29, "qms": 5.5, "qes": 0.48, "vas_l": 60, "sd_cm2": 480, "le_mh": 1.9}
        raw = car(basis={"engine": "cruise", "programme": "tone", "tone_hz": 30}, goals=[]).document()
        raw["amplifiers"][0]["load"] |= {"driver": driver, "box": {"kind": "sealed", "volume_l": 60}, "rise": 1.0}
        job = JobDocument.model_validate(raw)
        small = parts("Tern 20")[0].model_copy(update={"kind": "box", "box_kind": "sealed", "volume_l": 30.0})
        step = next(slot for slot in slots(job, [small]) if slot.key == "box:0").steps[0]
        evaluator = Evaluator(job, [small, *parts("Tern 20")])
        level, watts = [], []
        for made in (make_forecast(job), make_forecast(applied(job, [step]))):
            told = load_curves.curves(*loaded_and_gain(made.circuit), made.amplifiers[0].terminal_v, np.array([30.0]))
            level.append(told.travel.level_db[0])
            watts.append(10 * np.log10(made.amplifiers[0].delivered_mean_w))
        gain_db = evaluator.of([step]).gain_db
        self.assertAlmostEqual(gain_db, level[1] - level[0], delta=0.005)
        self.assertGreater(abs(gain_db - (watts[1] - watts[0])), 0.3)
        sets = sets_within(slots(job, [small]), evaluator, 1500)
        found = AtOnce(sets, evaluator).values(sets.digits, sets.cost, sets.hours, sets.weight_kg)
        boxed = next(i for i in range(len(sets)) if sets.steps(i) == (step,))
        self.assertAlmostEqual(found.gain_db[boxed], gain_db, delta=1e-4)

    def test_what_has_no_price_is_asked_for(self):
        unpriced = [part.model_copy(update={"price": None}) for part in parts("Curlew 90")]
        step = next(slot for slot in slots(car(), unpriced) if slot.key == "bank:0").steps[0]
        with self.assertRaisesRegex(BadInput, "'Curlew 90' has no price"):
            Evaluator(car(), unpriced).cost([step])
        found = search(car(), unpriced, budget=1000)
        self.assertEqual(found.unpriced[0], "Curlew 90")
        self.assertTrue(all(not step.part for outcome in found.frontier for step in outcome.steps))


class Goals(unittest.TestCase):
    def test_half_an_hour_of_the_load_tells_what_a_full_battery_hides(self):
        """The charge that the mean load takes: I·t·(I/I20)^(k − 1) of the forecast's own amps, k = 1.12 (Peukert)."""
        held = {"quantity": "terminal_v", "at_least": 12.5, "programme": "held_bass", "engine": "idle"}
        now, later = (goals.answers(car(goals=[held | {"minutes": minutes}]))[0] for minutes in (0, 30))
        self.assertGreater(now.value, later.value + 0.05)
        self.assertEqual((later.met, later.words.split(",")[0]), (False, "at least 12.5 V at the amplifier"))
        forecast = goals.worn(make_forecast(goals.state_of(car(), car().goals[0])), 30)
        amps = make_forecast(car()).point.bank_a[0]
        taken = amps * 0.5 / 70 * (amps / (70 / 20)) ** 0.12
        worn = forecast.point.car
        self.assertAlmostEqual(1 - worn.states[worn.layout.first_bank, table.CHARGE], taken, delta=0.05 * taken)

    def test_older_targets_are_goals_and_a_car_alone_has_no_cost(self):
        job = changed(car(goals=[]), targets__budget=900, targets__delivered_w=500)
        told = goals.answers(job)
        self.assertEqual([goal.quantity for goal in told], ["cost", "delivered_w"])
        self.assertEqual((told[0].value, told[0].met), (None, None))
        with self.assertRaises(ValueError):
            car(goals=[{"quantity": "cost"}])

    def test_minutes_with_the_engine_off_are_the_simulations_clock(self):
        goal = {"quantity": "engine_off_min", "at_least": 30, "programme": "everyday"}
        told = goals.answers(car(goals=[goal]))[0]
        clock = minutes_to_low(changed(car(), basis__engine="off", basis__programme="everyday"))
        self.assertEqual(told.value, clock)
        self.assertEqual(told.met, clock >= 30)


class Search(unittest.TestCase):
    def test_the_winners_are_those_of_forecasting_every_set(self):
        """Thirty lists and budgets drawn at random: all of the product, each its own evaluation."""
        rng, kept = np.random.default_rng(20261126), {"keep": ["Gain", f"Coils of {car().amplifiers[0].name}"]}
        names = [part.name for part in parts() if part.kind not in ("labour", "fuse")]
        for number in range(30):
            chosen = parts(*rng.choice(names, rng.integers(1, 3), replace=False))
            job, budget = car(plan=kept if number % 5 else {}), float(rng.integers(50, 800))
            with self.subTest([part.name for part in chosen], budget=budget):
                found, evaluator, every = search(job, chosen, budget=budget), Evaluator(job, chosen), []
                for pick in product(*[(None, *slot.steps) for slot in slots(job, chosen)]):
                    steps = tuple(step for step in pick if step)
                    if evaluator.cost(steps) <= budget:
                        every.append(evaluator.of(steps))
                self.assertTrue(found.complete)
                self.assertEqual((found.sets, found.listed), (len(every), len(every)))
                safe = [each for each in every if evaluator.safe(each)]
                cheapest = min((each.cost for each in safe if each.meets), default=None)
                named = [plan.outcome for plan in found.plans if "every goal" in plan.name]
                self.assertEqual([each.cost for each in named], [] if cheapest is None else [cheapest])
                best = max(value_of(each) for each in safe)
                self.assertAlmostEqual(value_of(found.frontier[-1]), best, delta=0.002)

    def test_what_the_screen_leaves_out_would_not_have_been_chosen(self):
        """Held bass at idle and half an hour with the engine off, a bank with a management's limits among the parts."""
        columns = "kind,name,price,hours,chemistry,capacity_ah,resistance_ohm,discharge_limit_a"
        chosen = [*parts(), *parts_csv.read(f"{columns}\nbank,Plover 60,240,1,lifepo4,60,0.004,350\n")]
        wanted = {"quantity": "front_v", "at_least": 12.6, "programme": "everyday", "engine": "off", "minutes": 30}
        lasting = {"quantity": "engine_off_min", "at_least": 100, "programme": "everyday"}
        closer: list[int] = []
        for floor, budget in ((12.5, 500.0), (12.8, 450.0), (12.2, 400.0)):
            job = car(goals=[car().document()["goals"][0] | {"at_least": floor}, wanted, lasting])
            sets = sets_within(slots(job, chosen), evaluator := Evaluator(job, chosen), budget)
            at_once, of = AtOnce(sets, evaluator), (sets.digits, sets.cost, sets.hours, sets.weight_kg)
            one, all_states, worn = (at_once.values(*of, far=far) for far in (ONE_STATE, EVERY_STATE, AFTER_LOAD))
            for less, more in ((one, all_states), (all_states, worn)):
                np.testing.assert_array_equal(less.gain_db, more.gain_db)
                self.assertTrue(np.all(less.meets >= more.meets) and np.all(less.below_v <= more.below_v))
                closer.append(int(np.sum(less.meets > more.meets) + np.sum(less.below_v < more.below_v)))
            with mock.patch.object(_State, "bounded", lambda _, digits: np.zeros(len(digits), bool)):
                loose = at_once.values(*of, far=ONE_STATE)
            self.assertTrue(loose.meets.all() and not loose.below_v.any())
            limited = [any(step.part == "Plover 60" for step in sets.steps(i)) for i in range(len(sets))]
            for state in at_once.states.values():
                np.testing.assert_array_equal(state.bounded(sets.digits), ~np.array(limited))
            told = []
            unscreened = mock.patch.object(_Run, "_beaten", lambda _, some: np.zeros(len(some), bool))
            for how in (nullcontext(), unscreened):
                with how:
                    found = search(job, chosen, budget=budget)
                told.append((found.frontier, found.plans, found.alone))
            self.assertEqual(*told)
        self.assertTrue(min(sum(closer[::2]), sum(closer[1::2])) > 0, closer)

    def test_how_far_sets_are_solved_is_what_their_goals_ask_for(self):
        first = car().document()["goals"][0] | {"minutes": 0}
        off, most = first | {"engine": "off"}, {"quantity": "front_v", "at_most": 12.7, "engine": "off", "minutes": 30}
        for goals_, far in (([first], ONE_STATE), ([first, off], EVERY_STATE), ([first, most], AFTER_LOAD)):
            sets = sets_within(
                slots(car(goals=goals_), parts()), evaluator := Evaluator(car(goals=goals_), parts()), 150
            )
            at_once, of = AtOnce(sets, evaluator), (sets.digits, sets.cost, sets.hours, sets.weight_kg)
            self.assertEqual(at_once.farthest, far)
            # What may be at most so much is met by what the load takes away: before it nobody knows.
            every_state, after = at_once.values(*of, far=EVERY_STATE), at_once.values(*of)
            self.assertTrue(np.all(every_state.meets >= after.meets))
        self.assertTrue(np.any(every_state.meets > after.meets) or after.meets.any())

    def test_rows_are_told_apart_as_by_comparing_them(self):
        rng = np.random.default_rng(5)
        for count, widths in (
            (1, (3,)),
            (500, (2, 3, 2)),
            (500, (2**16, 2**16, 7)),
            (5000, (4, 9)),
            (300, (2**20,) * 4),
        ):
            columns = [rng.integers(-2, width, count) for width in widths]
            columns = [each[rng.integers(0, count, 2 * count)] for each in columns] if count < 400 else columns
            which, inverse = distinct(columns)
            rows = np.stack(columns, axis=1)
            first = np.unique(rows, axis=0, return_index=True)[1]
            self.assertEqual(sorted(which.tolist()), sorted(first.tolist()))
            np.testing.assert_array_equal(rows[which][inverse], rows)

    def test_a_knapsack_of_a_known_optimum(self):
        """Ten things of 165 at most: 309 is the best (P01 of a public collection of knapsack problems, from memory)."""
        weights, profits = (23, 31, 29, 44, 53, 38, 63, 85, 89, 82), (92, 57, 49, 68, 60, 43, 67, 84, 87, 72)
        things = [
            Step(f"s{i}", str(profit), (Line(str(i), 1, "", weight),), (), 0.0, 0.0, str(i), lambda _: None)
            for i, (weight, profit) in enumerate(zip(weights, profits, strict=True))
        ]
        sets = sets_within([Slot(step.slot, step.slot, (step,)) for step in things], Evaluator(car(), parts()), 165)
        worth = [(sum(int(step.title) for step in sets.steps(i)), sets.digits[i].tolist()) for i in range(len(sets))]
        self.assertEqual(max(worth), (309, [1, 1, 1, 1, 0, 1, 0, 0, 0, 0]))

    def test_it_can_be_stopped_and_says_so(self):
        seen: list[tuple[int, int, int]] = []

        def told(so_far: Progress) -> bool:
            seen.append((so_far.done, so_far.of, len(so_far.points().cost)))
            return so_far.done == 0

        found = search(car(), parts(), budget=900, seen=told)
        self.assertEqual((found.complete, found.sets), (False, FIRST))
        self.assertEqual([(done, of) for done, of, _ in seen], [(0, found.listed), (FIRST, found.listed)])
        self.assertEqual(seen[0][2], 0)
        self.assertGreater(seen[1][2], 50)
        sizes = [len(steps) for steps in every(sets_within(slots(car(), parts()), Evaluator(car(), parts()), 900))]
        self.assertEqual(found.every, max(n for n in range(9) if all(size > n for size in sizes[FIRST:])))
        singles = search(car(), parts("Tern 20", "Body bolts"), budget=130, most=12)
        self.assertEqual((singles.complete, singles.sets, singles.every), (False, 12, 1))
        self.assertEqual(search(car(), parts("Tern 20"), budget=0).complete, True)

    def test_a_budget_that_nothing_fits_is_told_the_least_that_would_help(self):
        found = search(car(), parts("Tern 20"), budget=1)
        self.assertEqual(found.least[1], min(Evaluator(car(), parts()).cost([step]) for step in bought("Tern 20")))
        self.assertIsNone(search(car(), parts("Tern 20"), budget=900).least)

    def test_every_set_comes_out_at_once_as_by_its_own_forecast(self):
        """Volts, minutes and watts of sets with every kind of step, some in a state that nothing holds."""
        wanted = [
            {"quantity": "terminal_v", "at_least": 12.5, "programme": "held_bass", "engine": "idle"},
            {"quantity": "delivered_w", "at_least": 300, "programme": "tone", "engine": "off", "minutes": 0},
            {"quantity": "engine_off_min", "at_least": 60, "programme": "everyday"},
        ]
        (one,) = car().document()["amplifiers"]
        two = [one | {"level_db": -6}, one | {"id": "a2", "level_db": -12, "band": "full"}]
        cables = [
            *car().document()["cables"],
            {"name": "Charge lead", "from": "charger", "to": "front", "size": "6 AWG"},
        ]
        cables[-1]["length_m"] = 2.5
        lead = {"cables": cables, "chargers__0__at": "charger"}
        for more, count in (
            ({}, 60),
            ({"amplifiers__0__gain": {"volts": 31}}, 12),
            ({"amplifiers__0__gain": {"engine": "off", "tone_hz": 63}}, 12),
            ({"amplifiers": two}, 12),
            (lead, 24),
        ):
            job = changed(car(goals=wanted), **more)
            evaluator = Evaluator(job, parts())
            sets = sets_within(slots(job, parts()), evaluator, 1500)
            some = np.union1d(np.arange(12), np.random.default_rng(7).choice(len(sets), count, replace=False))
            found = AtOnce(sets, evaluator).values(
                sets.digits[some], sets.cost[some], sets.hours[some], sets.weight_kg[some]
            )
            for k, i in enumerate(some):
                alone = evaluator.of(sets.steps(i))
                self.assertAlmostEqual(found.terminal_v[k], alone.terminal_v, delta=5e-4)
                self.assertEqual(found.meets[k], alone.meets)
                if alone.gain_db is not None:
                    self.assertAlmostEqual(found.gain_db[k], alone.gain_db, delta=1e-3)
                self.assertEqual(found.engine_off_min[k], next(goal.value for goal in alone.goals[2:]))
                self.assertAlmostEqual(found.below_v[k], alone.below_v, delta=5e-4)
            self.assertAlmostEqual(found.gain_db[k], alone.gain_db, delta=1e-3)
            self.assertEqual(found.meets[k], alone.meets)
            self.assertAlmostEqual(sets.cost[i], alone.cost)
            self.assertAlmostEqual(sets.weight_kg[i], alone.weight_kg)

    def test_straps_isolators_of_all_kinds_and_a_converter_are_steps(self):
        """A car with its engine strap and a second battery: every set at once as by its own forecast."""
        job = car(banks=[car().document()["banks"][0], {"name": "Rear", "at": "rear", "capacity_ah": 60}])
        for key in ("charging", "engine_strap", "body_strap"):
            job = edits.change(job, key)
        rows = (
            "kind,name,price,hours,size,isolator,limit_a,from,idle_w,input_limit_a\nstrap,Strap 70,20,0.5,70 mm²,,,,,\n"
            "isolator,Relay,60,1,,relay,,,,\nisolator,Diodes,90,1,,diode,,,,\n"
            "charger,Drongo 25,200,2,,,25,front,6,30\n"
        )
        chosen = [*parts_csv.read(rows), *parts("Tern 20")]
        found = {slot.key: [step.title for step in slot.steps] for slot in slots(job, chosen)}
        self.assertEqual(found["isolator:1"], ["Relay before Rear", "Diodes before Rear"])
        self.assertEqual(found["charger:+"], ["Drongo 25 added, front to rear"])
        self.assertEqual([len(found[key]) for key in found if key.startswith("strap:")], [1, 1])
        evaluator = Evaluator(job, chosen)
        sets = sets_within(slots(job, chosen), evaluator, 1000)
        values = AtOnce(sets, evaluator).values(sets.digits, sets.cost, sets.hours, sets.weight_kg)
        seen = set()
        for k in range(0, len(sets), 11):
            alone = evaluator.of(sets.steps(k))
            self.assertAlmostEqual(values.terminal_v[k], alone.terminal_v, delta=5e-4)
            self.assertAlmostEqual(values.gain_db[k], alone.gain_db, delta=1e-3)
            seen |= {step.part for step in sets.steps(k)}
        self.assertLessEqual({"Relay", "Diodes", "Drongo 25"}, seen)

    def test_pins_needs_and_what_excludes_each_other(self):
        job, chosen = car(plan={"pins": ["Curlew 90"]}), parts("Curlew 90", "Body bolts")
        evaluator = Evaluator(job, chosen)
        pinned = every(sets_within(slots(job, chosen), evaluator, 2000, pins=["Curlew 90"]))
        self.assertTrue(all("Curlew 90" in {step.part for step in steps} for steps in pinned))
        with self.assertRaisesRegex(BadInput, "is no part that fits"):
            sets_within(slots(job, chosen), evaluator, 2000, pins=["Nothing"])
        needing = [
            part.model_copy(update={"needs": ("Body bolts",)}) if part.kind == "bank" else part for part in chosen
        ]
        for steps in every(sets_within(slots(car(), needing), Evaluator(car(), needing), 2000)):
            names = {step.part for step in steps}
            self.assertTrue("Curlew 90" not in names or "Body bolts" in names)

    def test_without_a_budget_it_is_asked_for(self):
        with self.assertRaisesRegex(BadInput, "budget: is missing"):
            search(car(), parts())
        self.assertEqual(search(car(goals=[{"quantity": "cost", "at_most": 5}]), parts("Tern 20")).budget, 5)

    @settings(max_examples=60, deadline=None)
    @given(st.lists(st.tuples(st.integers(0, 30), st.integers(-30, 30)), min_size=1, max_size=40))
    def test_what_no_other_beats_is_found_as_its_definition_says(self, points):
        cost, value = (np.array(each, float) for each in zip(*points, strict=True))
        expected = {a for a in points if not any(b[0] <= a[0] and b[1] >= a[1] and b != a for b in points)}
        found = [(int(cost[i]), int(value[i])) for i in not_dominated(cost, value)]
        self.assertEqual((set(found), found), (expected, sorted(expected)))


class Losses(unittest.TestCase):
    def test_they_add_up_from_the_bench_to_the_cone_and_each_has_its_cheapest_cure(self):
        job = car()
        told = plan(job, parts(), budget=900)
        first = make_forecast(goals.state_of(job, job.goals[0])).amplifiers[0]
        bench_v, _ = make_forecast(job).circuit.loaded[0].fitted.output(first.nominal_ohm, 14.4)
        whole = 10 * np.log10(first.delivered_w / (bench_v**2 / first.nominal_ohm))
        self.assertAlmostEqual(sum(each.db for each in told.losses), whole, delta=0.02)
        evaluator = Evaluator(job, parts())
        source = next(each for each in told.losses if each.name == "Charger and battery")
        of = [
            step for slot in slots(job, parts()) for step in slot.steps if slot.key in ("charger:0", "bank:0", "bank:+")
        ]
        prices = {step.title: evaluator.cost([step]) / evaluator.of([step]).gain_db for step in of}
        self.assertEqual(source.cure.title, min((p, t) for t, p in prices.items() if p > 0)[1])
        self.assertAlmostEqual(source.cure.per_db, prices[source.cure.title], delta=0.01 * source.cure.per_db)


class Ladders(unittest.TestCase):
    def brute(self, outcome: Outcome, evaluator: Evaluator) -> float:
        """The least sum over every order of stages, tried one by one."""
        end = value_of(outcome)

        def least(done):
            rest = [step for step in outcome.steps if step not in done]
            if not rest:
                return 0.0
            missing, sums = end - value_of(evaluator.of(done)), []
            for size in range(1, len(rest) + 1):
                for stage in combinations(rest, size):
                    after = (*done, *stage)
                    if len(after) < len(outcome.steps) and not evaluator.safe(evaluator.of(after)):
                        continue
                    sums.append(sum(evaluator.cost([step]) for step in stage) * missing + least(after))
            return min(sums)

        return least(())

    def test_the_order_is_the_best_of_all_and_every_stage_is_safe(self):
        job, chosen = car(), parts()
        evaluator, found = Evaluator(job, chosen), {slot.key: slot for slot in slots(job, chosen)}
        for keys in (("charger:0", "cable:cables.0", "return:cables.0"), ("bank:+", "charger:0", "bank:0", "gain")):
            outcome = evaluator.of([found[key].steps[0] for key in keys])
            order = ladder.order_of(outcome, evaluator)
            self.assertEqual(sorted(step.title for stage in order for step in stage), titles(outcome))
            done: tuple[Step, ...] = ()
            sum_ = 0.0
            for stage in order:
                missing = value_of(outcome) - value_of(evaluator.of(done))
                sum_ += sum(evaluator.cost([step]) for step in stage) * missing
                done = (*done, *stage)
            self.assertAlmostEqual(sum_, self.brute(outcome, evaluator), places=4)
            stages = ladder.fitted_in(order, evaluator)
            self.assertAlmostEqual(sum(stage.cost for stage in stages), outcome.cost)
            self.assertAlmostEqual(sum(stage.gain_db for stage in stages), outcome.gain_db)
            self.assertTrue(all(evaluator.safe(stage.outcome) for stage in stages))

    def test_an_order_that_leaves_something_to_act_on_says_why(self):
        """A second chemistry at the rear is joined without an isolator until the front is of it too."""
        lithium = parts("Curlew 90")[0].model_copy(update={"name": "Curlew 40", "chemistry": "lifepo4"})
        job, chosen = car(), [*parts("Curlew 90"), lithium]
        evaluator, found = Evaluator(job, chosen), {slot.key: slot for slot in slots(job, chosen)}
        front, rear = (next(s for s in found[key].steps if s.part == "Curlew 40") for key in ("bank:0", "bank:+"))
        with self.assertRaisesRegex(BadInput, "mixed chemistry to act on"):
            ladder.fitted_in([[rear], [front]], evaluator)
        self.assertEqual(len(ladder.fitted_in([[front], [rear]], evaluator)), 2)

    def test_a_step_that_buys_nothing_is_left_out(self):
        job, chosen = car(), parts("Heron 180", "Tern 20")
        evaluator, found = Evaluator(job, chosen), {slot.key: slot for slot in slots(job, chosen)}
        both = evaluator.of([found["charger:0"].steps[0], found["capacitor:+"].steps[0]])
        self.assertEqual([step.part for step in ladder.without_the_idle(both, evaluator).steps], ["Heron 180"])


class Reasons(unittest.TestCase):
    def test_each_step_is_told_alone_and_in_company(self):
        job, chosen = car(), parts("Heron 180", "Curlew 90")
        evaluator, every = Evaluator(job, chosen), slots(job, chosen)
        charger = next(slot for slot in every if slot.key == "charger:0").steps[0]
        rear = next(slot for slot in every if slot.key == "bank:+").steps[0]
        told = reasons.reasons(evaluator.of([charger]), evaluator, every)
        taken, left = told[0], next(reason for reason in told if reason.title == rear.title)
        self.assertAlmostEqual(taken.alone_v, evaluator.of([charger]).terminal_v - evaluator.as_found.terminal_v)
        self.assertIn("Without it the plan misses: at least 12.5 V", taken.words)
        both = evaluator.of([charger, rear])
        self.assertAlmostEqual(left.company_v, both.terminal_v - evaluator.of([charger]).terminal_v)
        self.assertAlmostEqual(left.alone_db, evaluator.of([rear]).gain_db)
        self.assertTrue(left.words.startswith("Not taken: Curlew 90 added at the rear. It buys"))
