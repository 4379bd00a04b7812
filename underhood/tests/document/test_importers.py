"""Every file that is read from elsewhere: whatever it holds, it is taken, or refused in one line."""

import json
import tempfile
import unittest
from collections.abc import Callable
from pathlib import Path
from typing import Any

from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from underhood.amplifier import sheet_csv
from underhood.document.job import JobDocument
from underhood.document.job_file import read_job
from underhood.errors import BadInput
from underhood.harness import schedule_csv
from underhood.loudspeaker import files
from underhood.plan import parts_csv
from underhood.programme import recording
from underhood.proof import readings_csv, sweep_log
from underhood.tests.amplifier.test_sheet_csv import SHEET
from underhood.tests.examples import document

PARTS = "kind,name,price,hours,at,rated_a\ncharger,Big one,300,2.5,front,160\nlabour,Hour,60,,,\n"
READINGS = "what,from,value,unit,engine,programme,taken_at\nvolts,front,14.1,V,idle,silent,2026-11-01T10:00\n"
SWEEP = "frequency_hz,impedance_ohm,phase_deg\n20,4.1,10\n30,9.5,2\n40,6,-30\n"
DRIVERS = "name,re_ohm,fs_hz,qms,qes,vas_l,sd_cm2,xmax_mm\nGannet 12,3.4,28,5,0.5,60,480,14\n"
LOG = "frequency_hz,supply_v,supply_a,output_v,output_a,phase_deg\n" + "".join(
    f"{hz},13.9,40,28,16,20\n" for hz in (40, 50, 60)
)
SCHEDULE = "tag,cable,part,size,conductor,length_m\nP1,Main run,positive,4 AWG,copper,5\n"


def heard(raw: bytes) -> Any:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "song"
        path.write_bytes(raw)
        return recording.analyse(path, "song.wav")


READERS: dict[str, tuple[Callable[[bytes], Any], str]] = {
    "a bench sheet": (lambda raw: sheet_csv.read(raw, "a.csv"), SHEET),
    "claims": (lambda raw: sheet_csv.read_claims(raw, "a.csv"), "load_ohm,power_w,kind\n4,400,standard\n"),
    "a job file": (lambda raw: read_job(raw, "a.json"), json.dumps(document())),
    "parts": (lambda raw: parts_csv.read(raw, "a.csv"), PARTS),
    "readings": (lambda raw: readings_csv.read(raw, "a.csv"), READINGS),
    "a sweep": (lambda raw: files.read_sweep(raw, "a.csv"), SWEEP),
    "drivers": (lambda raw: files.read_drivers(raw, "a.csv"), DRIVERS),
    "a sweep of everything": (lambda raw: sweep_log.read(raw, "a1", "idle", "a.csv"), LOG),
    "a schedule": (lambda raw: schedule_csv.read(JobDocument.model_validate(document()), raw, "a.csv"), SCHEDULE),
    "a recording": (heard, "RIFF\x24\x00\x00\x00WAVEfmt "),
}
PIECES = [b"", b",", b";", b"\n", b"-1", b"1e999", b"nan", b"=1+1", b"\x00", b"\xff", b'"', b"{", b"9" * 40]


class Readers(unittest.TestCase):
    def test_take_the_good_files_that_the_others_are_spoilt_from(self) -> None:
        for name, (read, text) in READERS.items():
            if name not in ("a recording", "a schedule"):  # a head alone; one of another job
                with self.subTest(name):
                    self.assertTrue(read(text.encode()))

    def check(self, name: str, raw: bytes) -> None:
        try:
            READERS[name][0](raw)
        except BadInput as refused:
            self.assertNotIn("\n", str(refused), name)
            self.assertTrue(refused.text.strip(), name)

    @settings(max_examples=150, deadline=None, suppress_health_check=list(HealthCheck))
    @given(st.sampled_from(sorted(READERS)), st.binary(max_size=300))
    def test_take_or_refuse_any_bytes(self, name: str, raw: bytes) -> None:
        self.check(name, raw)

    @settings(max_examples=400, deadline=None, suppress_health_check=list(HealthCheck))
    @given(st.sampled_from(sorted(READERS)), st.data())
    def test_take_or_refuse_a_good_file_with_something_put_in_or_left_out(self, name: str, data: st.DataObject) -> None:
        raw = READERS[name][1].encode()
        for _ in range(data.draw(st.integers(1, 3))):
            at = data.draw(st.integers(0, len(raw)))
            gone = data.draw(st.integers(0, 12))
            raw = raw[:at] + data.draw(st.sampled_from(PIECES)) + raw[at + gone :]
        self.check(name, raw)
