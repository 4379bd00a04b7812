"""The set-up sheet of an amplifier and its load: the volts to set the gain to, and the gain structure before it.

The gain is set with a recorded tone below full scale (the overlap) until the output shows the volts of the chosen
criterion into the nominal load. Left out: what the ear prefers.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

from underhood.amplifier.sheet import CRITERION_WORDS, Sheet, fitted, input_watts, predict
from underhood.circuit.gain import usual_tone_hz
from underhood.document.amplifier import AmplifierRecord, Criterion
from underhood.document.quantity import Number, StrictModel
from underhood.figure import Figure, given
from underhood.forecast.cautions import CAUTIONS, SHOCK_V

METER_RANGES_V = (2.0, 6.0, 20.0, 60.0, 200.0, 600.0)
"""AC ranges of usual multimeters."""
STRONG_SIGNAL_V = 2.0


class SourceVolts(StrictModel):
    """What the source gives with a 0 dBFS tone at its last clean volume step."""

    clean_v: Annotated[float, Number("V", 0.01, 60)]
    clean_step: Annotated[float, Number("", 0, 1000)] | None = None
    last_step: Annotated[float, Number("", 1, 1000)] | None = None


class GainSetting(StrictModel):
    """What is to be set up, and onto what: the drivers, a resistor of the nominal ohms, or nothing.

    `supply_v` is what stands at the terminals while it plays loaded; `silent_supply_v` in silence, for setting it
    unloaded. `high_pass_hz` and `low_pass_hz` are to be restored afterwards.
    """

    load_ohm: Annotated[float, Number("ohm", 0.25, 32)]
    criterion: Criterion = "thd1"
    onto: Literal["drivers", "resistor", "unloaded"] = "drivers"
    supply_v: Annotated[float, Number("V", 9, 17)] = 14.4
    silent_supply_v: Annotated[float, Number("V", 9, 17)] = 14.4
    overlap_db: Annotated[float, Number("dB", 0, 20)] = 5.0
    tone_hz: Annotated[float, Number("Hz", 10, 1000)] | None = None
    rise: Annotated[float, Number("", 0.5, 30)] = 1.0
    power_factor: Annotated[float, Number("", 0.05, 1)] = 1.0
    high_pass_hz: Annotated[float, Number("Hz", 5, 20000)] | None = None
    low_pass_hz: Annotated[float, Number("Hz", 5, 20000)] | None = None
    source: SourceVolts | None = None
    bridged: bool = Field(default=False)


@dataclass(frozen=True, slots=True)
class Step:
    """One thing to do, and what to put back afterwards (empty where nothing)."""

    do: str
    restore: str = ""


@dataclass(frozen=True)
class GainStructure:
    """How the source's clean volts sit in the amplifier's input range."""

    verdict: Literal["in range", "too low", "overdriven", "unknown"]
    text: str
    source_v: Figure
    while_setting_v: Figure


@dataclass(frozen=True)
class GainSettingSheet:
    """Everything to have at hand with a screwdriver on the gain.

    target_v     at the output, V RMS; unloaded it is what the criterion takes with the load on, plus what the
                 amplifier's own output resistance will then drop
    clamp_a      what the supply cable carries meanwhile, and `terminal_v` the volts at the supply terminals
    """

    name: str
    target_v: Figure
    meter_range_v: float
    tone_hz: float
    overlap_db: float
    clamp_a: Figure
    terminal_v: float
    steps: list[Step]
    gain: GainStructure | None
    cautions: list[str]
    gaps: list[str]


def gain_setting_sheet(sheet: Sheet, to: GainSetting) -> GainSettingSheet:
    """The sheet for one amplifier. Raises BadInput where neither a reading nor a claim says what it delivers."""
    tone_hz = to.tone_hz or usual_tone_hz(sheet.record, to.low_pass_hz)
    target = target_volts(sheet, to, tone_hz)
    found = fitted(sheet, to.criterion, tone_hz)
    return GainSettingSheet(
        name=sheet.record.name,
        target_v=target,
        meter_range_v=next((r for r in METER_RANGES_V if r >= target.value * 1.1), METER_RANGES_V[-1]),
        tone_hz=tone_hz,
        overlap_db=to.overlap_db,
        clamp_a=clamp_amps(sheet, to, tone_hz, target.value),
        terminal_v=to.silent_supply_v if to.onto == "unloaded" else to.supply_v,
        steps=list(_steps(sheet.record, to, tone_hz, target.value)),
        gain=gain_structure(sheet.record, to) if to.source else None,
        cautions=_cautions(target.value, to.bridged),
        gaps=list(found.gaps),
    )


def _channels(sheet: Sheet, to: GainSetting) -> int:
    return 2 if to.bridged and sheet.record.measured_as == "channel" else 1


def target_volts(sheet: Sheet, to: GainSetting, tone_hz: float) -> Figure:
    """V = sqrt(P·Z) with the watts of the criterion into the nominal load, at the supply that it leaves.

    Onto the drivers as well: their box shows more ohms at one tone and near the nominal ones at another. An amplifier
    holds its gain whatever the supply, so that unloaded the volts differ only by what its damping factor lets drop.
    """
    own_ohm = sheet.record.output_ohm(to.load_ohm) or 0.0 if to.onto == "unloaded" else 0.0
    found, channels = fitted(sheet, to.criterion, tone_hz), _channels(sheet, to)
    each = predict(found, to.load_ohm, to.supply_v, in_series=channels)
    name = f"Watts {CRITERION_WORDS[to.criterion]} into {to.load_ohm:g} Ω at {to.supply_v:.2f} V"
    power = Figure(
        "P",
        name,
        each.power_w,
        "W",
        origin="assumed" if found.fit.claimed else "measured",
        note=f"fitted to {found.basis}",
        low=each.low_w,
        high=each.high_w,
    )
    return Figure(
        "V",
        "Set the output to",
        math.sqrt(each.power_w * to.load_ohm) * (1 + own_ohm / to.load_ohm),
        "V",
        note="volts that this power makes across the nominal load"
        + (", and what drops within the amplifier once it is on" if own_ohm else ""),
        formula="sqrt(P * Z) * (1 + R_out / Z)" if own_ohm else "sqrt(P * Z)",
        inputs=(
            power,
            given("Z", "Nominal load", to.load_ohm, "Ω", "typed"),
            *([given("R_out", "Output resistance, by its damping factor", own_ohm, "Ω", "typed")] if own_ohm else []),
        ),
        low=math.sqrt(each.low_w * to.load_ohm) * (1 + own_ohm / to.load_ohm),
        high=math.sqrt(each.high_w * to.load_ohm) * (1 + own_ohm / to.load_ohm),
    )


def clamp_amps(sheet: Sheet, to: GainSetting, tone_hz: float, target_v: float) -> Figure:
    """What a clamp should show while the tone holds `target_v` at the output, on what it is set onto."""
    found, channels = fitted(sheet, to.criterion, tone_hz), _channels(sheet, to)
    rise, power_factor = (to.rise, to.power_factor) if to.onto == "drivers" else (1.0, 1.0)
    unloaded = to.onto == "unloaded"
    volts, supply_v = (0.0, to.silent_supply_v) if unloaded else (target_v, to.supply_v)
    ohm = to.load_ohm * rise
    watts_in = input_watts(found, ohm, supply_v, volts, power_factor, in_series=channels)
    assumed = found.input(ohm / channels).assumed
    origin: Literal["measured", "assumed"] = "assumed" if assumed else "measured"
    return Figure(
        "I",
        "A clamp should show about",
        watts_in / supply_v,
        "A",
        note="watts in over supply volts",
        formula="P_in / V_s",
        inputs=(
            Figure(
                "P_in",
                "Watts in, idle" if unloaded else f"Watts in, {ohm:.3g} Ω at the tone",
                watts_in,
                "W",
                origin=origin,
                note="output and losses",
            ),
            given("V_s", "At its supply terminals", supply_v, "V", "typed"),
        ),
    )


def _steps(record: AmplifierRecord, to: GainSetting, tone_hz: float, target_v: float) -> Iterator[Step]:
    yield Step("With the power off, turn the amplifier's gain fully down.")
    yield _load_step(to)
    high, low = record.high_pass_range_hz, record.low_pass_range_hz
    yield _filter("high-pass", high[0] if high else None, "lowest", to.high_pass_hz)
    yield _filter("low-pass", low[1] if low else None, "highest", to.low_pass_hz)
    yield Step(
        "Set bass boost, remote level and every tone control to 0 dB or flat.",
        "Leave the boost at 0 dB: every dB of it is a dB less of clean volts elsewhere.",
    )
    if to.source and to.source.clean_step is not None:
        yield Step(f"Set the source to step {to.source.clean_step:g}, its last clean one.")
    yield Step(
        f"Play the {tone_hz:g} Hz tone recorded at −{to.overlap_db:g} dB; engine or supply then holds "
        f"{to.silent_supply_v if to.onto == 'unloaded' else to.supply_v:.1f} V at its terminals."
    )
    yield Step(f"Raise the gain until the output shows {target_v:.1f} V AC, then stop the tone.")


def _load_step(to: GainSetting) -> Step:
    if to.onto == "drivers":
        return Step("Leave the drivers on; keep the tone short and stay clear of them.")
    off = "Take the speaker leads off its terminals"
    if to.onto == "unloaded":
        return Step(f"{off}: it is set without a load.", "Put the speaker leads back with the power off.")
    return Step(
        f"{off} and put a resistor of {to.load_ohm:g} Ω on, rated for the watts; it gets hot.",
        "Take the resistor off and put the speaker leads back, with the power off.",
    )


def _filter(name: str, end_hz: float | None, end: str, restore_hz: float | None) -> Step:
    at = f" ({end_hz:g} Hz)" if end_hz else ""
    back = f"Set the {name} back to {restore_hz:g} Hz." if restore_hz else f"Set the {name} back to where it stood."
    return Step(f"Switch the {name} off, or turn it to its {end}{at}.", back)


def _cautions(volts: float, bridged: bool) -> list[str]:
    shock = [CAUTIONS["shock"]] if volts > SHOCK_V or bridged else []
    return [*shock, CAUTIONS["hearing"], CAUTIONS["makers_rules"]]


def gain_structure(record: AmplifierRecord, to: GainSetting) -> GainStructure:
    """The source's clean volts against the amplifier's input range."""
    assert to.source is not None
    clean = given("V_clean", "Source, last clean step, 0 dBFS", to.source.clean_v, "V", "measured")
    setting_v = clean.value * 10 ** (-to.overlap_db / 20)
    setting = Figure(
        "V_set",
        "At the input while the overlap tone plays",
        setting_v,
        "V",
        note="clean volts, less the overlap",
        formula="V_clean * 10**(-overlap / 20)",
        inputs=(clean, given("overlap", "Overlap", to.overlap_db, "dB", "typed")),
    )
    if record.input_range_v is None:
        return GainStructure("unknown", "The amplifier's input range is not on its record: enter it.", clean, setting)
    low, high = record.input_range_v
    step = f" Its volume clips above step {to.source.clean_step:g}." if to.source.clean_step is not None else ""
    if clean.value > high:
        over = 20 * math.log10(clean.value / high)
        text = (
            f"{clean.value:g} V is {over:.1f} dB above the {high:g} V that the input takes: it clips before the "
            f"gain does. Turn the source down, or use the high-level input.{step}"
        )
        return GainStructure("overdriven", text, clean, setting)
    if setting.value < low:
        short = 20 * math.log10(low / setting.value)
        text = (
            f"{setting.value:.2g} V while setting is {short:.1f} dB below the {low:g} V for full output: the gain "
            f"will be at its end and the hiss with it. Use a stronger output, or less overlap.{step}"
        )
        return GainStructure("too low", text, clean, setting)
    strong = "" if clean.value >= STRONG_SIGNAL_V else " A stronger source would keep the noise down."
    text = f"{clean.value:g} V lies within {low:g} to {high:g} V: the gain can be set.{strong}{step}"
    return GainStructure("in range", text, clean, setting)
