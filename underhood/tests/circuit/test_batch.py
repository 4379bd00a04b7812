"""The compiled solve of many cars against the one that solves them one by one."""

import unittest
from typing import Any

import numpy as np
from hypothesis import given

from underhood.circuit import batch
from underhood.circuit.batch_arrays import Answers, Cars
from underhood.circuit.batch_rows import WORTH_A_TABLE, RowBook, UnsuitedError, suited
from underhood.circuit.batch_states import ASK, NOTHING
from underhood.circuit.build import build_circuit
from underhood.document.job import JobDocument
from underhood.forecast import goals
from underhood.forecast.forecast import make_forecast
from underhood.forecast.simulation import LOW_V, minutes_to_low
from underhood.tests.examples import two_banks
from underhood.tests.forecast.test_invariance import LIMITS, cars

MINUTES = 30.0
SAME_V, SAME_SHARE = 5e-4, 1e-4
"""Half a millivolt, a ten-thousandth of the watts."""


def book_of(jobs: list[JobDocument]) -> tuple[RowBook, Cars]:
    circuits = [build_circuit(job) for job in jobs]
    job = jobs[0]
    book = RowBook(circuits[0], job.basis.engine, [bank.at for bank in job.banks], [c.at for c in job.capacitors])
    return book, book.cars(circuits)


def one_by_one(job: JobDocument) -> list[float]:
    """Mean watts; then lowest volts, front volts and loudest watts after the load: what goals are told."""
    made = make_forecast(job)
    worn = goals.worn(made, MINUTES)
    told = [np.nan] * 4
    if made.operating_point:
        told[0] = sum(each.delivered_mean_w for each in made.amplifiers)
    if worn.operating_point and worn.point is not None:
        lowest = min(each.terminal_low_v for each in worn.amplifiers)
        told[1:] = [lowest, float(worn.point.peak_volts[0]), sum(each.delivered_w for each in worn.amplifiers)]
    return told


class OneByOne(unittest.TestCase):
    def same(self, job: JobDocument, found: Answers, i: int) -> None:
        told = (found.mean_w[i], found.terminal_v[i], found.front_v[i], found.loudest_w[i])
        for ours, theirs, volts in zip(told, one_by_one(job), (False, True, True, False), strict=True):
            self.assertEqual(np.isnan(ours), np.isnan(theirs), (told, one_by_one(job)))
            if not np.isnan(theirs):
                self.assertAlmostEqual(ours, theirs, delta=SAME_V if volts else SAME_SHARE * theirs)

    @LIMITS
    @given(cars())
    def test_any_car_comes_out_as_it_does_alone(self, raw: dict[str, Any]) -> None:
        """Relays, management limits, capacitors, several amplifiers; what it leaves out it refuses."""
        job = JobDocument.model_validate(raw)
        try:
            suited(build_circuit(job))
            book, cars_ = book_of([job])
        except UnsuitedError:
            fed = any(each["kind"] == "dc_dc" for each in raw["chargers"] if "kind" in each)
            self.assertTrue(fed or any(bank["isolator"] == "diode" for bank in raw["banks"]))
            return
        found = book.solved(cars_, MINUTES)
        if found.status[0] == ASK:
            return
        if found.status[0] == NOTHING:
            self.assertIsNone(make_forecast(job).point)
        self.same(job, found, 0)

    def test_cars_of_one_layout_differ_by_rows_and_places_may_stand_empty(self) -> None:
        raw = two_banks(programme="held_bass", engine="idle").document()
        jobs = []
        for ohm, farad, length in ((0.004, 1.0, 5.0), (0.008, 500.0, 5.0), (0.004, 500.0, 2.0)):
            each = JobDocument.model_validate(raw).document()
            each["banks"][1]["resistance_ohm"] = ohm
            each["capacitors"] = [{"name": "Rear", "at": "rear", "farad": farad, "esr_ohm": 0.002, "count": 3}]
            each["banks"][0]["count"] = 2
            each["cables"][0]["length_m"] = length
            jobs.append(JobDocument.model_validate(each))
        book, rows = book_of(jobs)
        self.assertEqual([len(np.unique(column)) for column in (rows.bank[:, 1], rows.capacitor[:, 0])], [2, 2])
        bare = rows._replace(bank=np.array([[b[0], -1] for b in rows.bank]), capacitor=np.full_like(rows.capacitor, -1))
        for i, job in enumerate(jobs):
            self.same(job, book.solved(rows, MINUTES), i)
            alone = job.document() | {"banks": job.document()["banks"][:1], "capacitors": []}
            self.same(JobDocument.model_validate(alone), book.solved(bare, MINUTES), i)

    def test_whole_minutes_are_solved_by_what_was_compiled_for_any(self) -> None:
        book, rows = book_of([two_banks(programme="everyday", engine="idle")])
        found = book.solved(rows, 30.0)
        known = len(batch._compiled().signatures)  # type: ignore[attr-defined]
        whole = book.solved(rows, 30)
        self.assertEqual(len(batch._compiled().signatures), known)  # type: ignore[attr-defined]
        np.testing.assert_array_equal(whole.terminal_v, found.terminal_v)

    def test_tabulated_amps_answer_as_the_laws_themselves(self) -> None:
        """Enough cars play one sound for its table; each differs in its cable, so that the volts do."""
        for programme, engine in (("held_bass", "idle"), ("everyday", "off"), ("tone", "cruise")):
            raw = two_banks(programme=programme, engine=engine).document()
            jobs = []
            for k in range(WORTH_A_TABLE):
                raw["cables"][0]["length_m"] = 1.0 + 1.5 * k
                jobs.append(JobDocument.model_validate(raw))
            book, rows = book_of(jobs)
            direct = book.solved(rows, MINUTES)
            self.assertFalse(book._tables)
            tabulated = book.solved(rows._replace(sound=np.zeros_like(rows.sound)), MINUTES)
            self.assertEqual(list(book._tables), [0])
            self.assertGreater(np.ptp(direct.terminal_v), 0.05)
            np.testing.assert_allclose(tabulated.terminal_v, direct.terminal_v, atol=SAME_V)
            np.testing.assert_allclose(tabulated.mean_w, direct.mean_w, rtol=SAME_SHARE)

    def test_the_clock_with_the_engine_off_is_the_forecasts(self) -> None:
        for isolator in ("none", "relay"):
            raw = two_banks(programme="everyday", engine="off").document()
            raw["banks"][1]["isolator"] = isolator
            job = JobDocument.model_validate(raw)
            book, rows = book_of([job])
            self.assertEqual(book.solved(rows, 0.0, LOW_V).minutes[0], minutes_to_low(job))
