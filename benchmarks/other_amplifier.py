"""Made-up amplifiers that follow another equation than the one the core fits, for a fair test of the fit.

A smooth p-norm knee in place of the three sharp limits, a bench supply that sags, losses with another exponent, and a
reading error of 1 %. It also wrote the demo's invented bench sheets: `python -m benchmarks.other_amplifier DIRECTORY`.
"""

from __future__ import annotations

import sys
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from underhood.amplifier import AmplifierRecord, Claim, Criterion, Run
from underhood.bench import sheet_csv
from underhood.bench.sheet import Sheet

LOADS = (8.0, 6.0, 4.0, 3.0, 2.0, 1.5, 1.0, 0.75)
ERROR = 0.01
LEVEL: dict[Criterion, float] = {"thd1": 1.0, "clip": 1.06, "burst": 1.12}


@dataclass(frozen=True, slots=True)
class Invented:
    """An amplifier by its other equation; volts, ohm, amps, watts at a 14.4 V supply."""

    record: AmplifierRecord
    rail_v: float
    output_ohm: float
    current_a: float
    power_w: float
    knee: float
    regulated: bool = False
    efficiency: float = 0.86
    loss_ohm: float = 0.12
    claims: tuple[Claim, ...] = ()

    def volts(self, load_ohm: float, supply_v: float) -> float:
        """Output volts: the three limits joined by a p-norm of order `knee`."""
        limits = np.array(
            [
                self.rail_v * load_ohm / (load_ohm + self.output_ohm),
                self.current_a * load_ohm,
                np.sqrt(self.power_w * load_ohm),
            ]
        )
        share = 1.0 if self.regulated else supply_v / 14.4
        return float(share * np.sum(limits**-self.knee) ** (-1 / self.knee))

    def input_w(self, load_ohm: float, out_w: float, supply_v: float) -> float:
        """Watts in: idle, a constant efficiency, and a loss with the current to the power 1.8."""
        amps = np.sqrt(out_w / load_ohm)
        if self.record.class_ == "AB":
            return float(1.6 * supply_v + 2.35 * self.rail_v * (supply_v / 14.4) * amps * 0.62)
        return float(1.1 * supply_v + out_w / self.efficiency + self.loss_ohm * amps**1.8)


def measured(amplifier: Invented, seed: int, loads: tuple[float, ...] = LOADS, *, bounded: bool = False) -> Sheet:
    """Readings of the amplifier on a bench whose supply sags, each with a random error of its own.

    The error of the watts is normal with a deviation of 1 %, or `bounded`: anywhere within ± 1 %, as meters state it.
    """
    draw = np.random.default_rng(seed)

    def error() -> float:
        return ERROR * float(draw.uniform(-1, 1) if bounded else draw.standard_normal())

    runs = []
    for criterion, level in LEVEL.items():
        for load in loads:
            runs.append(_run(amplifier, load, criterion, level, error))
    return Sheet(amplifier.record, tuple(runs), amplifier.claims)


def _run(amplifier: Invented, load: float, criterion: Criterion, level: float, error: Callable[[], float]) -> Run:
    before, source_ohm, supply = 14.6, 0.0055, 14.4
    for _ in range(30):  # the bench sags under its own load
        volts = amplifier.volts(load, supply) * level
        taken = amplifier.input_w(load, volts**2 / load, supply)
        supply = before - source_ohm * taken / supply * (0.5 if criterion == "burst" else 1.0)
    watts = volts**2 / load * (1 + error())
    amps = taken / supply * (1 + error() / 2)
    return Run(
        load_ohm=load, criterion=criterion, tone_hz=40.0, supply_before_v=before, supply_v=round(supply, 2),
        supply_a=round(amps, 1), power_w=round(watts) if watts > 100 else round(watts, 1),
        heatsink_c=round(29 + (taken - watts) / 45), four_wire=load < 1,
    )  # fmt: skip


def invented() -> dict[str, Invented]:
    """The demo's amplifiers. Every name and number is made up."""

    def record(**fields: object) -> AmplifierRecord:
        return AmplifierRecord.model_validate(fields)

    return {
        "marram-1200-mono": Invented(
            record(name="Marram 1200 mono", **{"class": "D"}, minimum_load_ohm=1, fuses_a=(40, 40, 40), price=310,
                   currency="EUR", idle_a=1.1, terminal_max="1/0 AWG", pass_band_hz=(15, 250)),
            rail_v=41.5, output_ohm=0.11, current_a=41.0, power_w=1480.0, knee=9.0,
            claims=(Claim(load_ohm=1, power_w=1200, supply_v=14.4, thd_percent=1, kind="standard"),
                    Claim(load_ohm=2, power_w=800, supply_v=14.4, thd_percent=1, kind="standard")),
        ),
        "skerry-800-mono": Invented(
            record(name="Skerry 800 mono", **{"class": "D"}, minimum_load_ohm=2, fuses_a=(35, 35), price=215,
                   currency="EUR", idle_a=1.1, terminal_max="4 AWG", pass_band_hz=(20, 200)),
            rail_v=45.0, output_ohm=0.25, current_a=19.5, power_w=900.0, knee=11.0, loss_ohm=0.20,
            claims=(Claim(load_ohm=2, power_w=800, supply_v=14.4, thd_percent=1, kind="manual"),
                    Claim(load_ohm=1, power_w=1000, supply_v=14.4, thd_percent=1, kind="box")),
        ),
        "saltpan-2x90": Invented(
            record(name="Saltpan 2x90", **{"class": "AB"}, minimum_load_ohm=2, fuses_a=(30,), price=180, currency="EUR",
                   idle_a=1.6, channels=2, measured_as="channel", terminal_max="8 AWG", pass_band_hz=(10, 20000)),
            rail_v=20.5, output_ohm=0.18, current_a=11.5, power_w=190.0, knee=12.0,
            claims=(Claim(load_ohm=4, power_w=90, supply_v=14.4, thd_percent=1, kind="standard"),),
        ),
    }  # fmt: skip


def main(directory: Path) -> None:
    """Write the demo's bench sheets."""
    for seed, (name, amplifier) in enumerate(invented().items()):
        loads = LOADS if amplifier.record.class_ == "D" else (16.0, 8.0, 6.0, 4.0, 3.0, 2.5, 2.0, 1.5)
        (directory / f"{name}.csv").write_text(sheet_csv.write(measured(amplifier, seed, loads)), encoding="utf-8")


if __name__ == "__main__":
    main(Path(sys.argv[1]))
