"""`make bench`: accuracy of the fit, speed of core, API and interface. Prints tables; asserts nothing."""

from __future__ import annotations

import os

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "underhood_server.config.settings")

import django

django.setup()

from benchmarks import accuracy, bands, interface, people, plans, speed  # noqa: E402 - Django must be set up first
from underhood.amplifier import sheet_csv  # noqa: E402
from underhood_server.demo.services import DATA  # noqa: E402


def main() -> None:
    """All tables."""
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
    print("\nSpeed, median of repeats (machines are noisy)")
    speed.show()
    plans.show()
    interface.show()
    people.show()


if __name__ == "__main__":
    main()
