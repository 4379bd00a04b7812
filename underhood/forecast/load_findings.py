"""Findings on an amplifier's load: what it is wired to, what the box shows of it, its drivers and its filters."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from underhood.circuit.loaded_amplifier import LoadedAmplifier
from underhood.document.job import Basis, Load
from underhood.finding import Finding
from underhood.forecast.results import AmplifierResult
from underhood.loudspeaker import crossover
from underhood.loudspeaker.coils import Mixed
from underhood.loudspeaker.load_at_tone import wired_as
from underhood.number_format import in_unit, percent

NOTEWORTHY_RISE = 1.3
BEYOND_FILTERS_DB = 3.1


def build(basis: Basis, report: AmplifierResult, loaded: LoadedAmplifier) -> Iterator[Finding]:
    """What is to be said of one amplifier's load."""
    field, load = f"amplifiers.{loaded.index}.load", loaded.job_load
    yield from _wired(report, loaded, field)
    yield from _in_the_box(report, loaded, field)
    yield from _drivers(report, loaded, load, field)
    yield from _filtered(report, load, basis, field)
    yield from _crossed(load, field)


def _wired(report: AmplifierResult, loaded: LoadedAmplifier, field: str) -> Iterator[Finding]:
    nominal = loaded.nominal_channel_ohm
    lowest = loaded.amplifier.minimum_load_ohm
    if lowest and nominal < lowest.value * 0.995:
        yield Finding(
            "below_minimum",
            "act",
            f"{report.name} is wired to {nominal:g} Ω; its maker allows {lowest.value:g} Ω and more.",
            "It may shut down, overheat or fail.",
            "Wire a higher load.",
            "load",
            f"{field}.wiring",
        )
    yield from _on_the_bench(report, loaded, field)


def _on_the_bench(report: AmplifierResult, loaded: LoadedAmplifier, field: str) -> Iterator[Finding]:
    """What the bench did not see of such a load, and what it saw."""
    nominal = loaded.nominal_channel_ohm
    if loaded.unseen_together:
        yield Finding(
            "channels_together",
            "note",
            f"All {loaded.channels} channels of {report.name} play; nobody said that they all did on the bench.",
            "They share one supply: together each may give less. The band goes down by 15 % for it.",
            "Measure one channel while all are driven, and say so in its record.",
            "amplifiers",
            f"amplifiers.{loaded.index}.all_channels_driven",
        )
    tripped = loaded.fitted.tripped_ohm
    if tripped and nominal <= 1.005 * tripped:
        yield Finding(
            "tripped",
            "caution",
            f"{report.name} is wired to {nominal:g} Ω; on the bench its protection tripped at {tripped:g} Ω.",
            "It may shut down at the loudest moments.",
            "Wire a higher load, or play it quieter.",
            "load",
            f"{field}.wiring",
        )
    if report.extrapolated:
        yield Finding(
            "below_measured",
            "caution",
            f"{report.name} was never measured as low as {loaded.channel_ohm:.2f} Ω; what it gives there is "
            "drawn on from its readings.",
            "Nothing shows that it gives so much, nor that it holds.",
            "Measure it at this load.",
            "load",
            f"{field}.wiring",
        )


def _in_the_box(report: AmplifierResult, loaded: LoadedAmplifier, field: str) -> Iterator[Finding]:
    if loaded.load.rise > NOTEWORTHY_RISE:
        watts = partial(in_unit, unit="W", half_band=report.half_band_w)
        yield Finding(
            "rise",
            "note",
            f"The box shows {report.impedance_ohm:.2f} Ω, not {report.nominal_ohm:g} Ω: "
            f"{watts(report.delivered_w)} W, not {watts(report.bench_w)} W.",
            "Impedance rises in the box; the bench figure is never reached.",
            "Measure it at the tone.",
            "load",
            f"{field}.rise",
        )
    if not loaded.load.phase_known:
        yield Finding(
            "phase_unknown",
            "caution",
            "The sweep has no phase: the power factor is unknown, 1 is assumed.",
            "True watts are lower than shown.",
            "Measure with phase.",
            "load",
            f"{field}.sweep",
        )


def _drivers(report: AmplifierResult, loaded: LoadedAmplifier, load: Load, field: str) -> Iterator[Finding]:
    wired = wired_as(load, one_driver=loaded.output_connection.one_driver)
    if isinstance(wired, Mixed) and wired.unequal:
        shares = ", ".join(percent(share) for share in wired.shares)
        yield Finding(
            "mixed_drivers",
            "caution",
            f"The drivers of {report.name} differ: they take {shares} of the watts.",
            "One of them reaches its limit long before the others.",
            "Use equal drivers, or a channel with its own level for each.",
            "load",
            f"{field}.drivers_mixed",
        )


def _crossed(load: Load, field: str) -> Iterator[Finding]:
    if load.high_pass_hz and load.low_pass_hz and load.high_pass_hz.value >= load.low_pass_hz.value:
        yield Finding(
            "filters_cross",
            "act",
            "The high-pass is at or above the low-pass: nothing gets through.",
            "The amplifier plays next to nothing.",
            "Set the high-pass below the low-pass.",
            "load",
            f"{field}.high_pass_hz",
        )


def _filtered(report: AmplifierResult, load: Load, basis: Basis, field: str) -> Iterator[Finding]:
    """A tone that lies beyond the filters: it plays, and the watts shown are what is left of it."""
    if basis.programme not in ("tone", "burst"):
        return
    tone_hz = basis.tone_hz.value
    down_db = crossover.loss_db(load, tone_hz)
    if down_db > BEYOND_FILTERS_DB:
        beyond = "low_pass_hz" if load.low_pass_hz and tone_hz > load.low_pass_hz.value else "high_pass_hz"
        yield Finding(
            "beyond_filters",
            "caution",
            f"The {tone_hz:g} Hz tone lies beyond the filters of {report.name}: they take {down_db:.1f} dB of it.",
            "The watts shown are what is left of the tone, not what the amplifier can do.",
            "Choose a tone within its band, or correct the filter.",
            "load",
            f"{field}.{beyond}",
        )
