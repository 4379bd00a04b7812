"""`make bench`: accuracy of the fit, speed of core, API and interface. Prints tables; asserts nothing.

`python -m benchmarks plans` prints some of them alone.
"""

from __future__ import annotations

import argparse
import os
import subprocess
import sys

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "underhood_server.config.settings")

import django

django.setup()

from benchmarks import accuracy, bands, interface, people, plans, speed  # noqa: E402 - Django must be set up first
from underhood.amplifier import sheet_csv  # noqa: E402
from underhood_server.demo.services import DATA  # noqa: E402


def _accuracy() -> None:
    print("Readings left out of a fit, misses in watts (goals: median ≤ 2.5 %, worst where tight ≤ 6 %, held ≥ 90 %)")
    print(f"  {'sheets':<42}{'left out':>9}{'median':>9}{'worst':>9}{'of tight':>9}{'held':>9}{'± band':>9}")
    read = [sheet_csv.read(path.read_bytes(), path.name) for path in sorted(DATA.glob("bench/*.csv"))]
    demo = [accuracy.sound(sheet) for sheet in read if sheet.runs]
    for sheet in demo:
        accuracy.show(sheet.record.name, accuracy.score([sheet]))
    accuracy.show("the demo's sheets together", accuracy.score(demo))
    for words, bounded in (("within ± 1 %", True), ("deviation 1 %", False)):
        sheets = accuracy.random_sheets(40, bounded=bounded)
        accuracy.show(f"40 of another equation, {words}", accuracy.score(sheets))
    bands.show()


def _speed() -> None:
    print("\nSpeed, median of repeats (machines are noisy)")
    speed.show()


TABLES = {
    "accuracy": _accuracy,
    "speed": _speed,
    "plans": plans.show,
    "interface": interface.show,
    "people": people.show,
}


def main() -> None:
    """All tables, or those that are named, each in a process of its own: its memory is not that of the one before."""
    parser = argparse.ArgumentParser(prog="python -m benchmarks", description=__doc__)
    parser.add_argument("tables", nargs="*", metavar="table", help=f"of {', '.join(TABLES)}; all where none is named")
    named = parser.parse_args().tables or list(TABLES)
    if unknown := [name for name in named if name not in TABLES]:
        parser.error(f"{unknown[0]!r} is no table; name some of {', '.join(TABLES)}")
    if len(named) == 1:
        TABLES[named[0]]()
        return
    for name in named:
        subprocess.run([sys.executable, "-m", "benchmarks", name], check=True)  # noqa: S603 - a name of TABLES


if __name__ == "__main__":
    main()
