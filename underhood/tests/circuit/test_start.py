"""What a job starts from answers at once, calls nothing in it known, and is no more than the trade's usual values."""

import unittest
from typing import Any

from underhood.circuit.build import build_circuit
from underhood.circuit.start import starts, usual_amplifier
from underhood.document import differences
from underhood.document.amplifier import AmplifierRecord, Claim, Measurement
from underhood.document.job import JobDocument
from underhood.document.quantity import Quantity
from underhood.forecast.build import build_result
from underhood.tests.examples import changed


def amplifier(**known: Any):
    claim = Claim(load_ohm=2, power_w=600, kind="box")
    return usual_amplifier(AmplifierRecord(name="Unread", **known), claims=[claim])


def origins(part: Any) -> set[str]:
    """Where every quantity that somebody set comes from."""
    if isinstance(part, Quantity):
        return {part.origin}
    inside = (
        part
        if isinstance(part, list | tuple)
        else [getattr(part, name) for name in getattr(part, "model_fields_set", ())]
    )
    return set().union(*map(origins, inside))


class Starts(unittest.TestCase):
    def test_each_answers_with_all_of_it_assumed_and_its_volts_believable(self) -> None:
        found = starts()
        self.assertGreater(len(found), 4)
        for start in found:
            with self.subTest(start.name):
                self.assertEqual(origins(start.document), {"assumed"})
                again = JobDocument.model_validate(start.document.document())
                self.assertEqual(differences.differences(start.document.document(), again.document()), [])
                system_v = start.document.vehicle.system_v
                job = start.document.model_copy(update={"amplifiers": [amplifier(system_v=system_v)]})
                made = build_result(job)
                self.assertTrue(made.operating_point)
                self.assertTrue(11 < made.figures["terminal_v"].value * 12 / system_v < 14.6)
                # Nothing was read: the answer is called an estimate.
                self.assertTrue(made.figures["terminal_v"].estimate)

    def test_of_a_truck_what_nobody_stated_is_that_of_24_volts(self) -> None:
        (truck,) = (each.document for each in starts() if each.document.vehicle.system_v == 24)
        job = truck.model_copy(update={"amplifiers": [amplifier(system_v=24.0)]})
        usual = build_result(job).usual
        self.assertNotIn("chargers.0.setpoint_v", usual)  # 28.2 V of such a truck, as its file says
        self.assertEqual((usual["chargers.0.setpoint_low_v"], usual["amplifiers.0.cutout_v"]), (2 * 12.6, 2 * 9.5))
        self.assertEqual(build_circuit(job).series(0), 2)
        read = changed(job, chargers__0__setpoint_v=28.8)
        self.assertNotIn("chargers.0.setpoint_v", build_result(read).usual)
        of_12 = [each.document for each in starts() if each.document.vehicle.system_v == 12]
        self.assertEqual([build_result(each).usual for each in of_12], [{}] * 6)  # one of them is regulated to 14.2 V
        plain = changed(job, chargers__0__setpoint_v={"value": 14.4, "origin": "assumed"})
        self.assertAlmostEqual(build_result(plain).usual["chargers.0.setpoint_v"], 28.8)

    def test_an_electric_one_has_a_converter_and_all_others_an_alternator_with_less_at_idle(self) -> None:
        for start in starts():
            (charger,) = start.document.chargers
            if start.document.vehicle.drive == "electric":
                self.assertEqual((charger.kind, charger.rated_a), ("dc_dc", None))
            else:
                self.assertEqual(charger.kind, "alternator")
                self.assertLess(charger.idle_a.value, charger.rated_a.value)

    def test_coils_are_wired_for_the_lowest_load_that_is_known_to_hold_and_no_lower(self) -> None:
        self.assertEqual(amplifier().load.wiring, "coils parallel")  # claimed at 2 ohms: two coils of 4 in parallel
        self.assertEqual(amplifier(minimum_load_ohm=4).load.wiring, "coils series")
        self.assertIsNone(usual_amplifier(AmplifierRecord(name="Nothing known")).load.wiring)
        run = Measurement(load_ohm=4, criterion="thd1", power_w=90)
        tripped = Measurement(load_ohm=2, criterion="thd1", protect=True)
        left_out = Measurement(load_ohm=2, criterion="thd1", power_w=900, excluded=True)
        for runs in ([run], [run, tripped], [run, left_out]):
            benched = usual_amplifier(AmplifierRecord(name="Benched"), runs)
            self.assertEqual((benched.load.wiring, benched.runs), ("coils series", runs))
