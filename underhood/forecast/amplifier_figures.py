"""The sums behind what an amplifier delivers and draws: from its fitted volts to the watts in the coils and the amps.

Each figure is put together from the same numbers that the forecast used; adding it up again gives the same value.
"""

from __future__ import annotations

from dataclasses import replace
from typing import NamedTuple

from underhood.amplifier.sheet import CRITERION_WORDS
from underhood.circuit import gain
from underhood.circuit.build import Circuit
from underhood.circuit.loaded_amplifier import LoadedAmplifier
from underhood.circuit.operating_point import OperatingPoint, Phase
from underhood.circuit.playing import PlayingAmplifier
from underhood.constants import RECTIFIED_MEAN, REFERENCE_V
from underhood.figure import Figure, Rests, given
from underhood.forecast.results import AmplifierResult
from underhood.forecast.supply_figures import of_phases, typed, volts_at
from underhood.forecast.wording import ENGINE_WORDS


def _share(loaded: LoadedAmplifier, volts: Figure) -> Figure:
    """The output's share at a supply: its exponent, or the drop-out of a regulated amplifier."""
    found = loaded.fitted
    value = found.scale(volts.value)
    if found.exponent == 0.0:
        return Figure(
            "s",
            "Output as a share of that at 14.4 V",
            value,
            "",
            note="regulated: holds down to its drop-out",
            formula=f"min(1, {volts.symbol} / V_do)",
            inputs=(volts, typed("V_do", "Drop-out volts", loaded.amplifier.dropout_v, "V")),
        )
    origin: Rests = "assumed" if found.exponent_origin.startswith("unregulated") else "typed"
    if found.exponent_origin.startswith("slope"):
        origin = "measured"
    return Figure(
        "s",
        "Output as a share of that at 14.4 V",
        value,
        "",
        note="follows the supply volts",
        formula=f"({volts.symbol} / V_14)**k",
        inputs=(
            volts,
            given("V_14", "Reference supply", REFERENCE_V, "V", "table", "test voltage of CTA-2006"),
            given("k", "How the output follows the supply", found.exponent, "", origin, found.exponent_origin),
        ),
    )


def _fitted_volts(loaded: LoadedAmplifier, symbol: str, ohm: float, value: float) -> Figure:
    fit = loaded.fitted.fit
    low, high = loaded.fitted.band(ohm, REFERENCE_V)
    scale = loaded.fitted.output_scale
    in_the_car = "" if scale == 1 else f", times {scale:.3g} as read in the car"
    names = {
        "voltage": "its voltage limit",
        "current": "its current limit",
        "power": "its supply stage's power",
    }
    return Figure(
        symbol,
        f"Output volts into {ohm:.2f} Ω at 14.4 V",
        value,
        "V",
        origin="measured" if not fit.claimed else "assumed",
        note=f"fitted curve through {loaded.fitted.basis}; {names[loaded.rule]} rules{in_the_car}",
        low=value * low,
        high=value * high,
    )


def _impedance(loaded: LoadedAmplifier) -> Figure:
    """|Z| at one channel: nominal times rise, plus the lead."""
    load = loaded.amplifier.load
    how = {
        "rise": "nominal ohms times the rise",
        "sweep": "from the measured sweep",
        "model": "from driver and box",
        "reading": "from volts and amps read near the tone",
    }
    words = how[loaded.load.how] + (", with the speaker lead" if loaded.lead_share else "")
    if load is not None and loaded.load.how == "rise" and not loaded.lead_share:
        halves = loaded.nominal_channel_ohm / loaded.load.nominal_ohm
        return Figure(
            "Z",
            "Ohms at the tone, one channel",
            loaded.channel_ohm,
            "Ω",
            note=words,
            formula="Z_nom * rise" if halves == 1 else f"Z_nom * rise * {halves:g}",
            inputs=(
                given("Z_nom", f"Nominal, {loaded.load.words}", loaded.load.nominal_ohm, "Ω", load.coil_ohm.origin),
                typed("rise", "Impedance rise in the box", load.rise, ""),
            ),
        )
    origin: Rests = "measured" if loaded.load.how in ("sweep", "reading") else "computed"
    if load is not None and loaded.load.how == "rise":
        origin = load.rise.origin
    return Figure("Z", "Ohms at the tone, one channel", loaded.channel_ohm, "Ω", origin=origin, note=words)


def _output_volts(
    point: OperatingPoint, loaded: LoadedAmplifier, element: PlayingAmplifier, report: AmplifierResult
) -> Figure:
    """Output of one channel at the loudest moment: what is asked for, unless the supply clips it."""
    low = volts_at("V_s", "Supply at the loudest moment", report.terminal_low_v)
    share = _share(loaded, low)
    return Figure(
        "V_out",
        "Output volts of one channel",
        report.output_v / loaded.in_series,
        "V",
        note="what the programme asks for, unless the supply clips it first",
        formula="min(V_cmd, g * s)",
        inputs=(
            _commanded(loaded, element, point),
            _fitted_volts(loaded, "g", loaded.channel_ohm, loaded.reference_v),
            share,
        ),
    )


def _commanded(loaded: LoadedAmplifier, element: PlayingAmplifier, point: OperatingPoint) -> Figure:
    """Volts asked for at the loudest: what the gain was set to, times what knob, filters and programme leave of it."""
    i = point.circuit.loaded.index(loaded)
    full = full_scale_figure(point.circuit, i)
    through = "filters" if loaded.tone_hz else f"{loaded.amplifier.overlap_db.value:g} dB of overlap"
    share = element.commanded.peak_v / full.value
    note = f"{loaded.level_db:g} dB of knob and trim, {through}, the programme's loudest"
    return Figure(
        "V_cmd",
        "Output volts asked for",
        element.commanded.peak_v,
        "V",
        note="what the gain was set to, times what is played of it",
        formula="V_full * a",
        inputs=(full, Figure("a", "Share of full scale that is played", share, "", note=note)),
    )


def full_scale_figure(circuit: Circuit, i: int) -> Figure:
    """What full scale asks of one channel of a circuit's i-th amplifier."""
    loaded, set_up = circuit.loaded[i], circuit.loaded[i].amplifier.gain or gain.AS_THE_SHEET_SAYS
    if set_up.volts is not None:
        note = "read at its output, and held whatever load is on"
    else:
        words, engine = CRITERION_WORDS[set_up.criterion], ENGINE_WORDS[set_up.engine]
        note = f"as its sheet says: {words} onto its load at {gain.set_up_tone_hz(loaded):g} Hz, {engine}, alone"
    volts = float(gain.full_scale(circuit).volts[i])
    origin: Rests = "measured" if set_up.volts else "computed"
    return Figure("V_full", "Full-scale output volts, as the gain is set", volts, "V", origin=origin, note=note)


def delivered(
    point: OperatingPoint, loaded: LoadedAmplifier, element: PlayingAmplifier, report: AmplifierResult
) -> Figure:
    """True watts in the drivers at the loudest moment."""
    return Figure(
        "P",
        f"Delivered by {loaded.amplifier.name}",
        report.delivered_w,
        "W",
        note="true watts in the drivers: volts squared over ohms, times the power factor"
        + (", less the lead's share" if loaded.lead_share else ""),
        formula="n * V_out**2 / Z * cosphi * (1 - lead)",
        inputs=(
            given("n", "Channels at work", loaded.channels, "", "typed"),
            _output_volts(point, loaded, element, report),
            _impedance(loaded),
            _power_factor(loaded),
            Figure("lead", "Share burnt in the speaker lead", loaded.lead_share, ""),
        ),
        low=report.low_w,
        high=report.high_w,
    )


def _power_factor(loaded: LoadedAmplifier) -> Figure:
    load = loaded.amplifier.load
    typed_in = load is not None and loaded.load.how == "rise" and not loaded.lead_share
    origin: Rests = load.power_factor.origin if typed_in and load is not None else "computed"
    if not loaded.load.phase_known:
        origin = "assumed"
    return given("cosphi", "Power factor of the load", loaded.channel_pf, "", origin)


def apparent(loaded: LoadedAmplifier, element: PlayingAmplifier, report: AmplifierResult) -> Figure:
    """Volt-amperes: what a volts-only reading would be taken for."""
    return Figure(
        "S",
        "Volt-amperes, as volts alone would show",
        report.apparent_w,
        "VA",
        note="volts squared over ohms" + (", less what stands across the speaker lead" if loaded.lead_share else ""),
        formula="n * V_out**2 / Z * sqrt((cosphi * (1 - lead))**2 + 1 - cosphi**2)",
        inputs=(
            given("n", "Channels at work", loaded.channels, "", "typed"),
            volts_at("V_out", "Output volts of one channel", report.output_v / loaded.in_series),
            _impedance(loaded),
            _power_factor(loaded),
            Figure("lead", "Share burnt in the speaker lead", loaded.lead_share, ""),
        ),
    )


def on_the_bench(loaded: LoadedAmplifier, element: PlayingAmplifier, report: AmplifierResult) -> Figure:
    """Watts into the nominal resistor at the same terminal volts."""
    nominal = loaded.nominal_channel_ohm
    volts = volts_at("V_s", "Supply at the terminals", report.terminal_v)
    return Figure(
        "P_bench",
        f"On a {nominal:g} Ω resistor at these volts",
        report.bench_w,
        "W",
        note="the fitted curve at the nominal load, at the terminal volts found with the real one",
        formula="n * (g * s)**2 / Z_nom",
        inputs=(
            given("n", "Channels at work", loaded.channels, "", "typed"),
            _fitted_volts(loaded, "g", nominal, loaded.fitted.output(nominal, REFERENCE_V)[0]),
            _share(loaded, volts),
            given("Z_nom", "Nominal load of one channel", nominal, "Ω", "typed"),
        ),
    )


def lost_to_sag(loaded: LoadedAmplifier, element: PlayingAmplifier, report: AmplifierResult) -> Figure:
    """Decibels that the sagging supply takes from the loudest moment."""
    return Figure(
        "dB",
        "Lost to sag",
        report.lost_to_sag_db,
        "dB",
        note="output volts got against those with the supply that the gain was set at",
        formula="20 * log10(V_out / V_set)",
        inputs=(
            volts_at("V_out", "Output volts of one channel", report.output_v / loaded.in_series),
            volts_at("V_set", f"The same at {loaded.set_at_v:g} V", element.peak_output_v(loaded.set_at_v)),
        ),
    )


def draw_of(point: OperatingPoint, i: int, report: AmplifierResult, symbol: str) -> Figure:
    """Mean supply current of one amplifier: watts in over volts, of a programme in its loud and its quiet part."""
    loaded, element = point.circuit.loaded[i], point.amplifiers[i]
    if len(point.phases) > 1:
        name = f"Drawn by {loaded.amplifier.name}, mean"

        def drawn(phase: Phase) -> float:
            return phase.amplifiers[i].drawn_a(float(phase.volts[phase.amplifiers[i].node]))

        summed = of_phases(point, symbol, name, "A", drawn, symbol)
        return replace(summed, low=report.draw.low, high=report.draw.high)
    volts = volts_at("V_amp", "Supply at the terminals", report.terminal_v)
    return Figure(
        symbol,
        f"Drawn by {loaded.amplifier.name}, mean",
        report.draw.mean,
        "A",
        note="watts in over volts",
        formula="P_in / V_amp",
        inputs=(_input_watts(loaded, element, report), volts),
        low=report.draw.low,
        high=report.draw.high,
    )


def _input_watts(loaded: LoadedAmplifier, element: PlayingAmplifier, report: AmplifierResult) -> Figure:
    """Watts in; with a steady tone as the fitted sum, with a programme as the mean over its levels."""
    power = loaded.taken
    name, unit = f"Taken in by {loaded.amplifier.name}", "W"
    basis = "the usual efficiency of its class" if power.assumed else f"{power.readings} readings of current"
    if len(element.commanded.weight) > 1:
        return Figure("P_in", name, report.input_w, unit, note=f"mean over the programme; losses from {basis}")
    origin: Rests = "assumed" if power.assumed else "measured"
    record = loaded.amplifier
    idle_origin: Rests = record.idle_a.origin if record.idle_a else "assumed"
    common = (
        given("n", "Channels at work", loaded.channels, "", "typed"),
        given("I_0", "Idle current, all channels", power.law.idle_a, "A", idle_origin),
        volts_at("V_amp", "Supply at the terminals", report.terminal_v),
        Figure(
            "I_out",
            "Output amps of one channel",
            report.output_v / loaded.in_series / loaded.channel_ohm,
            "A",
        ),
    )
    note, formula, inputs = (_of_linear if power.family == "linear" else _of_switching)(loaded, report, origin, basis)
    return Figure("P_in", name, report.input_w, unit, note=note, formula=formula, inputs=(*common, *inputs))


class _Taken(NamedTuple):
    note: str
    formula: str
    inputs: tuple[Figure, ...]


def _of_linear(loaded: LoadedAmplifier, report: AmplifierResult, origin: Rests, basis: str) -> _Taken:
    law = loaded.taken.law
    return _Taken(
        "idle, and the rail through the output devices",
        f"I_0 * V_amp + n * (V_rail * s * {RECTIFIED_MEAN!r} * I_out + b * I_out**2)",
        (
            given("V_rail", "Rail volts at 14.4 V", law.linear_v, "V", origin, basis),
            _share(loaded, volts_at("V_amp", "Supply at the terminals", report.terminal_v)),
            given("b", "What losses read in the car leave to the output", law.quadratic_ohm, "Ω", origin),
        ),
    )


def _of_switching(loaded: LoadedAmplifier, report: AmplifierResult, origin: Rests, basis: str) -> _Taken:
    law = loaded.taken.law
    channel_w = report.delivered_w / loaded.channels / (1 - loaded.lead_share)
    return _Taken(
        "idle, watts out, and losses that grow with the output current",
        "I_0 * V_amp + n * (P_out + a * I_out + b * I_out**2)",
        (
            Figure("P_out", "True watts out of one channel", channel_w, "W"),
            given("a", "Loss for each output ampere", law.linear_v, "V", origin, basis),
            given("b", "Loss resistance", law.quadratic_ohm, "Ω", origin, basis),
        ),
    )
