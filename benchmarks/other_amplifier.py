"""Made-up amplifiers that follow another equation than the one the core fits, for a fair test of the fit.

A smooth p-norm knee in place of the three sharp limits, a bench supply that sags, losses with another exponent, and a
reading error of 1 %. It also wrote the demo's invented bench sheets: `python -m benchmarks.other_amplifier DIRECTORY`.
"""

from __future__ import annotations

import sys
from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import date, timedelta
from pathlib import Path

import numpy as np

from underhood.amplifier import sheet_csv
from underhood.amplifier.sheet import Sheet
from underhood.document.amplifier import AmplifierRecord, Claim, Criterion, Measurement

LOADS = (8.0, 6.0, 4.0, 3.0, 2.0, 1.5, 1.0, 0.75)
ERROR = 0.01
LEVEL: dict[Criterion, float] = {"thd1": 1.0, "clip": 1.06, "burst": 1.12}


@dataclass(frozen=True, slots=True)
class Invented:
    """An amplifier by its other equation; volts, ohm, amps, watts at a 14.4 V supply.

    `slip` is a load at which the tester noted a share of the watts at 1 % THD: a planted bad reading.
    """

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
    tones_hz: tuple[float, ...] = (40.0,)
    slip: tuple[float, float] | None = None

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
    for tone_hz in amplifier.tones_hz:
        for criterion, level in LEVEL.items():
            for load in loads:
                runs.append(_run(amplifier, load, criterion, level, error).model_copy(update={"tone_hz": tone_hz}))
    if amplifier.slip:
        load, share = amplifier.slip
        at = next(i for i, run in enumerate(runs) if run.load_ohm == load)
        runs[at] = runs[at].model_copy(update={"power_w": round((runs[at].power_w or 0) * share)})
    return Sheet(amplifier.record, tuple(runs), amplifier.claims)


def _run(
    amplifier: Invented, load: float, criterion: Criterion, level: float, error: Callable[[], float]
) -> Measurement:
    before, source_ohm, supply = 14.6, 0.0055, 14.4
    for _ in range(30):  # the bench sags under its own load
        volts = amplifier.volts(load, supply) * level
        taken = amplifier.input_w(load, volts**2 / load, supply)
        supply = before - source_ohm * taken / supply * (0.5 if criterion == "burst" else 1.0)
    watts = volts**2 / load * (1 + error())
    amps = taken / supply * (1 + error() / 2)
    return Measurement(
        load_ohm=load,
        criterion=criterion,
        tone_hz=40.0,
        supply_before_v=before,
        supply_v=round(supply, 2),
        supply_a=round(amps, 1),
        power_w=round(watts) if watts > 100 else round(watts, 1),
        heatsink_c=round(29 + (taken - watts) / 45),
        four_wire=load < 1,
    )


def record(name: str, class_: str, **fields: object) -> AmplifierRecord:
    """A made-up amplifier's record, prices in euros."""
    return AmplifierRecord.model_validate({"name": name, "class": class_, "currency": "EUR", **fields})


BASS = {"band": "bass", "channels": 1, "inputs": ["line", "high_level"], "boost_max_db": 12, "boost_hz": 45}
FULL = {"band": "full", "pass_band_hz": [10, 20000], "inputs": ["line"], "measured_as": "channel"}


def invented() -> dict[str, Invented]:
    """The demo's amplifiers. Every name and number is made up."""
    return {
        "marram-1200-mono": Invented(
            record(
                "Marram 1200 mono",
                "D",
                **BASS,
                minimum_load_ohm=1,
                fuses_a=(40, 40, 40),
                price=310,
                price_date="2026-03-02",
                list_price=360,
                list_price_date="2026-03-02",
                idle_a=1.1,
                terminal_max="1/0 AWG",
                pass_band_hz=(15, 250),
                strappable=True,
                speaker_terminals=2,
                input_range_v=(0.2, 6),
                low_pass_range_hz=(40, 250),
                high_pass_range_hz=(10, 50),
                lights=("clip", "protect"),
                remote_level=True,
                fans=0,
                size_mm=(298, 192, 58),
                mass_kg=3.4,
                likes="Cool after an hour at half power; the clip light comes on where the scope says so.",
                dislikes="Terminal screws strip easily.",
            ),
            rail_v=41.5,
            output_ohm=0.11,
            current_a=41.0,
            power_w=1480.0,
            knee=9.0,
            claims=(
                Claim(load_ohm=1, power_w=1100, supply_v=14.4, thd_percent=1, kind="standard"),
                Claim(load_ohm=2, power_w=750, supply_v=14.4, thd_percent=1, kind="standard"),
            ),
        ),
        "skerry-800-mono": Invented(
            record(
                "Skerry 800 mono",
                "D",
                **BASS,
                minimum_load_ohm=2,
                fuses_a=(35, 35),
                price=215,
                price_date="2025-11-20",
                idle_a=1.1,
                terminal_max="4 AWG",
                pass_band_hz=(20, 200),
                input_range_v=(0.3, 5),
                low_pass_range_hz=(50, 200),
                lights=("protect",),
                size_mm=(240, 165, 52),
                mass_kg=2.2,
                dislikes="Runs into its current limit below 2 ohm.",
            ),
            rail_v=45.0,
            output_ohm=0.25,
            current_a=19.5,
            power_w=900.0,
            knee=11.0,
            loss_ohm=0.20,
            claims=(
                Claim(load_ohm=2, power_w=800, supply_v=14.4, thd_percent=1, kind="manual"),
                Claim(load_ohm=1, power_w=1000, supply_v=14.4, thd_percent=1, kind="box"),
            ),
        ),
        "saltpan-2x90": Invented(
            record(
                "Saltpan 2x90",
                "AB",
                **FULL,
                channels=2,
                bridgeable=True,
                minimum_load_ohm=2,
                fuses_a=(30,),
                price=180,
                price_date="2019-05-11",
                idle_a=1.6,
                terminal_max="8 AWG",
                speaker_terminals=2,
                input_range_v=(0.25, 4),
                low_pass_range_hz=(50, 400),
                high_pass_range_hz=(50, 400),
                fans=1,
                size_mm=(260, 220, 55),
                mass_kg=3.9,
                likes="Kept for its sound.",
            ),
            rail_v=20.5,
            output_ohm=0.18,
            current_a=11.5,
            power_w=190.0,
            knee=12.0,
            claims=(Claim(load_ohm=4, power_w=90, supply_v=14.4, thd_percent=1, kind="standard"),),
        ),
        "groyne-3000-mono": Invented(
            record(
                "Groyne 3000 mono",
                "D",
                **BASS,
                minimum_load_ohm=1,
                fuses_a=(),
                price=640,
                price_date="2026-01-17",
                list_price=799,
                list_price_date="2026-01-17",
                idle_a=2.2,
                terminal_max="1/0 AWG",
                terminal_inputs=2,
                pass_band_hz=(10, 180),
                strappable=True,
                speaker_terminals=2,
                input_range_v=(0.2, 9),
                low_pass_range_hz=(35, 180),
                lights=("clip", "protect"),
                remote_level=True,
                fans=2,
                size_mm=(520, 230, 62),
                mass_kg=8.7,
                dislikes="Short of its claim at every load.",
            ),
            rail_v=58.0,
            output_ohm=0.14,
            current_a=58.0,
            power_w=2450.0,
            knee=8.0,
            loss_ohm=0.10,
            claims=(
                Claim(load_ohm=1, power_w=3000, supply_v=14.4, thd_percent=1, kind="manual"),
                Claim(load_ohm=2, power_w=1900, supply_v=14.4, thd_percent=1, kind="manual"),
                Claim(load_ohm=1, power_w=6000, supply_v=14.4, kind="max"),
            ),
        ),
        "oarweed-500-mono": Invented(
            record(
                "Oarweed 500 mono",
                "D",
                **BASS,
                supply="regulated",
                minimum_load_ohm=2,
                fuses_a=(25, 25),
                price=260,
                price_date="2025-08-05",
                idle_a=0.9,
                terminal_max="8 AWG",
                pass_band_hz=(15, 160),
                input_range_v=(0.15, 5),
                low_pass_range_hz=(40, 160),
                lights=("protect",),
                fans=0,
                size_mm=(205, 150, 48),
                mass_kg=1.9,
                likes="The same output at 12 V as at 14.4 V.",
            ),
            rail_v=37.0,
            output_ohm=0.20,
            current_a=18.0,
            power_w=560.0,
            knee=10.0,
            regulated=True,
            claims=(
                Claim(load_ohm=2, power_w=500, supply_v=12.6, thd_percent=1, kind="standard"),
                Claim(load_ohm=4, power_w=300, supply_v=12.6, thd_percent=1, kind="standard"),
            ),
        ),
        "sandlance-1000-mono": Invented(
            record(
                "Sandlance 1000 mono",
                "D",
                **BASS,
                minimum_load_ohm=1,
                fuses_a=(40, 40),
                price=245,
                price_date="2026-02-10",
                idle_a=1.0,
                terminal_max="4 AWG",
                pass_band_hz=(15, 220),
                input_range_v=(0.2, 6),
                low_pass_range_hz=(50, 220),
                lights=("clip",),
                fans=1,
                size_mm=(270, 180, 54),
                mass_kg=2.7,
            ),
            rail_v=38.0,
            output_ohm=0.13,
            current_a=37.0,
            power_w=1120.0,
            knee=9.0,
            claims=(Claim(load_ohm=1, power_w=1000, supply_v=13.8, thd_percent=1, kind="standard"),),
            slip=(3.0, 0.78),
        ),
        "withy-4x70": Invented(
            record(
                "Withy 4x70",
                "AB",
                **FULL,
                channels=4,
                bridgeable=True,
                minimum_load_ohm=2,
                fuses_a=(30, 30),
                price=330,
                price_date="2024-10-01",
                idle_a=2.4,
                terminal_max="4 AWG",
                speaker_terminals=4,
                input_range_v=(0.25, 5),
                low_pass_range_hz=(50, 500),
                high_pass_range_hz=(50, 500),
                fans=1,
                size_mm=(350, 230, 55),
                mass_kg=4.8,
            ),
            rail_v=18.6,
            output_ohm=0.16,
            current_a=10.2,
            power_w=160.0,
            knee=12.0,
            tones_hz=(40.0, 1000.0),
            claims=(
                Claim(load_ohm=4, power_w=70, supply_v=14.4, thd_percent=1, kind="standard"),
                Claim(load_ohm=2, power_w=110, supply_v=14.4, thd_percent=1, kind="standard"),
            ),
        ),
        "cuttle-650-mono": Invented(
            record(
                "Cuttle 650 mono",
                "D",
                **BASS,
                minimum_load_ohm=2,
                fuses_a=(30, 30),
                price=165,
                price_date="2026-05-22",
                idle_a=0.8,
                terminal_max="8 AWG",
                pass_band_hz=(20, 250),
                input_range_v=(0.2, 8),
                low_pass_range_hz=(50, 250),
                lights=("clip", "protect"),
                remote_level=True,
                size_mm=(190, 140, 45),
                mass_kg=1.5,
                likes="The cheapest measured watt on the shelf.",
            ),
            rail_v=40.0,
            output_ohm=0.22,
            current_a=20.5,
            power_w=720.0,
            knee=10.0,
            claims=(Claim(load_ohm=2, power_w=570, supply_v=14.4, thd_percent=1, kind="standard"),),
        ),
    }


PAPER = Sheet(
    record(
        "Winkle 1500 max",
        "D",
        **BASS,
        minimum_load_ohm=2,
        fuses_a=(30,),
        price=89,
        price_date="2026-06-30",
        size_mm=(230, 160, 50),
    ),
    (),
    (Claim(load_ohm=2, power_w=1500, supply_v=14.4, kind="max"),),
)
"""An amplifier of which nothing but a claim is known."""
OLD = "marram-1200-mono"
OLD_SHARE, OLD_DAY = 0.85, date(2022, 6, 2)
"""The amplifier that was measured before, when it gave a little less."""


def main(directory: Path) -> None:
    """Write the demo's bench sheets."""
    for seed, (name, amplifier) in enumerate(invented().items()):
        loads = LOADS if amplifier.record.class_ == "D" else (16.0, 8.0, 6.0, 4.0, 3.0, 2.5, 2.0, 1.5)
        day = date(2026, 3, 3) + timedelta(days=9 * seed)
        _write(directory, name, dated(measured(amplifier, seed, loads), day))
    now = invented()[OLD]
    before = replace(now, power_w=now.power_w * OLD_SHARE, rail_v=now.rail_v * OLD_SHARE**0.5, claims=())
    _write(directory, f"{OLD}-2022", dated(measured(before, 99), OLD_DAY))
    _write(directory, "winkle-1500-max", PAPER)


def dated(sheet: Sheet, day: date) -> Sheet:
    """The sheet with every reading taken on one day."""
    return replace(sheet, runs=tuple(run.model_copy(update={"date": day}) for run in sheet.runs))


def _write(directory: Path, name: str, sheet: Sheet) -> None:
    (directory / f"{name}.csv").write_text(sheet_csv.write(sheet), encoding="utf-8")


if __name__ == "__main__":
    main(Path(sys.argv[1]))
