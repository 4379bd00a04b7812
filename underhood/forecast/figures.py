"""The sums behind a forecast's headline figures.

Each figure is put together from the same numbers that the forecast used; adding it up again gives the same value.
"""

from __future__ import annotations

from underhood.cable import conductor, gauge
from underhood.circuit import battery
from underhood.circuit.build import Edge
from underhood.circuit.elements import AmplifierElement
from underhood.circuit.loaded_amplifier import LoadedAmplifier
from underhood.circuit.operating_point import OperatingPoint
from underhood.constants import RECTIFIED_MEAN, REFERENCE_V
from underhood.document.quantity import Quantity
from underhood.figure import Figure, Rests, given
from underhood.forecast.forecast import Forecast
from underhood.forecast.results import AmplifierResult
from underhood.forecast.wording import ENGINE_WORDS

__all__ = ["headline"]


def headline(forecast: Forecast) -> dict[str, Figure]:
    """The figures the ledger, the job sheet and the command line show; empty where nothing supplies the setup."""
    point = forecast.point
    if point is None:
        return {}
    figures = {"front_v": front_volts(point), "reserve_a": reserve(point)}
    if forecast.reserve_a is None:
        del figures["reserve_a"]
    if forecast.amplifiers:
        loaded, element, report = forecast.circuit.loaded[0], point.amplifiers[0], forecast.amplifiers[0]
        figures["terminal_v"] = amplifier_volts(point, loaded)
        figures["drop_v"] = path_drop(point, loaded)
        figures["delivered_w"] = delivered(point, loaded, element, report)
        figures["bench_w"] = on_the_bench(loaded, element, report)
        figures["apparent_w"] = apparent(loaded, element, report)
        figures["lost_to_sag_db"] = lost_to_sag(loaded, element, report, point)
        figures["draw_a"] = draw_of_all(forecast)
        if forecast.reserve_a is not None:
            figures["short_a"] = left_over(figures["reserve_a"], figures["draw_a"])
    return figures


def typed(symbol: str, name: str, value: Quantity, unit: str) -> Figure:
    """A figure of the job file."""
    return given(symbol, name, value.value, unit, value.origin)


def front_volts(point: OperatingPoint) -> Figure:
    """Front posts: what the regulator holds less its own drop; else what the battery holds under its current."""
    name, unit = "Front battery", "V"
    value = float(point.volts[0])
    regulating = _regulating_at_front(point)
    if regulating is not None:
        charger = point.circuit.job.chargers[regulating]
        return Figure(
            "V_front",
            name,
            value,
            unit,
            note="set-point less the drop in the charger's internal resistance",
            formula="V_set - I_ch * R_src",
            inputs=(
                given(
                    "V_set",
                    "Set-point at this temperature",
                    point.setpoints_v[regulating],
                    "V",
                    charger.setpoint_v.origin,
                ),
                Figure("I_ch", "Charger current", point.charger_a[regulating], "A", note="solved with the loads"),
                typed("R_src", "Charger's internal resistance", charger.source_ohm, "Ω"),
            ),
        )
    at_front = [i for i, bank in enumerate(point.circuit.job.banks) if point.circuit.node_of(bank.at) == 0]
    if not at_front:
        return Figure("V_front", name, value, unit, note="solved from the sources elsewhere in the tree")
    return _held_by_bank(point, at_front[0], name, value)


def _regulating_at_front(point: OperatingPoint) -> int | None:
    for i, (each, amps, most) in enumerate(
        zip(point.circuit.job.chargers, point.charger_a, point.available_a, strict=True)
    ):
        if point.circuit.node_of(each.at) == 0 and 0 < amps < most:
            return i
    return None


def _held_by_bank(point: OperatingPoint, i: int, name: str, value: float) -> Figure:
    bank, model, amps = point.circuit.job.banks[i], point.banks[i], point.bank_a[i]
    discharging = amps > 0
    ohm, why = battery.series_ohm(bank)
    origin: Rests = bank.resistance_ohm.origin if bank.resistance_ohm else "assumed"
    slow = model.r1_discharge_ohm if discharging else model.r1_charge_ohm
    return Figure(
        "V_front",
        name,
        value,
        "V",
        note="open-circuit volts less the drop in the battery, its slow part settled",
        formula="V_rest - I_bat * (R_0 + R_1)",
        inputs=(
            given(
                "V_rest",
                "Battery's open-circuit volts at this charge",
                model.ocv_v,
                "V",
                "typed" if bank.ocv_v else "assumed",
                f"{bank.charge.value:.0%} charged, {bank.chemistry}",
            ),
            Figure("I_bat", "Battery current, charging is negative", amps, "A", note="solved with the loads"),
            given(
                "R_0",
                "Battery's series resistance, warmth, age and number counted in",
                model.r0_ohm,
                "Ω",
                origin,
                f"{ohm * 1000:.2f} mΩ each, {why}",
            ),
            given(
                "R_1",
                "Slow part, settled",
                slow,
                "Ω",
                "assumed",
                "a share of the series resistance" if discharging else "from the charging current it accepts",
            ),
        ),
    )


def amplifier_volts(point: OperatingPoint, loaded: LoadedAmplifier) -> Figure:
    """Volts at an amplifier: front posts less the drop of each cable on the way."""
    drops = _drops(point, loaded, [float(a) for a in point.edge_a], "")
    node = point.circuit.node_of(loaded.node)
    return Figure(
        "V_amp",
        f"At the terminals of {loaded.amplifier.name}",
        float(point.volts[node]),
        "V",
        note="front battery less the drop of each cable on the way",
        formula=" - ".join(["V_front", *(drop.symbol for drop in drops)]),
        inputs=(front_volts(point), *drops),
    )


def path_drop(point: OperatingPoint, loaded: LoadedAmplifier) -> Figure:
    """The whole drop from the front posts to an amplifier at the loudest moment."""
    drops = _drops(point, loaded, [float(a) for a in point.edge_peak_a], ", loudest")
    return Figure(
        "V_drop",
        "Dropped on the way, at the loudest moment",
        sum(drop.value for drop in drops),
        "V",
        note="the drops of the cables on the way, added up",
        formula=" + ".join(drop.symbol for drop in drops) or "0",
        inputs=drops,
    )


def _drops(point: OperatingPoint, loaded: LoadedAmplifier, amps: list[float], when: str) -> tuple[Figure, ...]:
    """The drop of each cable from the front to an amplifier, against the way where current comes back."""
    drops, here = [], point.circuit.nodes[0]
    for n, i in enumerate(point.circuit.path_to(loaded.node), start=1):
        edge = point.circuit.edges[i]
        forward = edge.start == here
        here = edge.end if forward else edge.start
        current = amps[i] if forward else -amps[i]
        ohm = cable_ohm(point, i, edge, f"R_{n}")
        drops.append(
            Figure(
                f"V_{n}",
                f"{edge.name}{when}",
                current * ohm.value,
                "V",
                note="current times resistance, out and back",
                formula=f"I_{n} * R_{n}",
                inputs=(
                    Figure(f"I_{n}", f"Current in {edge.name}", current, "A", note="solved with the loads"),
                    ohm,
                ),
            )
        )
    return tuple(drops)


def cable_ohm(point: OperatingPoint, i: int, edge: Edge, symbol: str) -> Figure:
    """A cable's loop: conductor as warm as it is, the ground return, joints and fuse."""
    wire, rms = edge.wire, float(point.edge_rms_a[i])
    out, back, return_from = edge.conductor.at(rms), edge.return_ohm(rms), edge.return_from
    origin, counted, source = gauge.rests_on(wire)
    per_m = Figure(
        "r",
        "Ohms a metre when warm",
        out.ohm * wire.runs.value / wire.length_m.value,
        "Ω/m",
        origin=origin,
        note=f"{wire.size} {conductor.CONDUCTOR_WORDS[wire.conductor]} at {out.conductor_c:.0f} °C{counted}",
        source=source,
    )
    return_origin: Rests = (
        "assumed"
        if return_from == "assumed"
        else "measured"
        if return_from == "measured"
        else ("typed" if return_from == "typed" else "table")
    )
    rest = [
        given("R_back", "Ground return", back, "Ω", return_origin, return_from),
        typed("R_joints", "Joints and holder", wire.joints_ohm, "Ω"),
    ]
    if wire.fuse_ohm:
        rest.append(typed("R_fuse", "Fuse", wire.fuse_ohm, "Ω"))
    return Figure(
        symbol,
        f"Resistance of {edge.name}",
        point.tree.ohm[i],
        "Ω",
        note="conductor, ground return and joints",
        formula=" + ".join(["r * L / n", *(each.symbol for each in rest)]),
        inputs=(per_m, typed("L", "Length", wire.length_m, "m"), typed("n", "Runs", wire.runs, ""), *rest),
    )


def _volts_at(symbol: str, name: str, value: float) -> Figure:
    return Figure(symbol, name, value, "V", note="solved together with what is delivered")


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
    low, high = fit.band(ohm)
    centre = fit.output(ohm)[0]
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
        note=f"fitted curve through {loaded.fitted.basis}; {names[loaded.rule]} rules",
        low=value * low / centre,
        high=value * high / centre,
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
    point: OperatingPoint, loaded: LoadedAmplifier, element: AmplifierElement, report: AmplifierResult
) -> Figure:
    """Output of one channel at the loudest moment: what is asked for, unless the supply clips it."""
    low = _volts_at("V_s", "Supply at the loudest moment", report.terminal_low_v)
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


def _commanded(loaded: LoadedAmplifier, element: AmplifierElement, point: OperatingPoint) -> Figure:
    job = point.circuit.job
    knob = job.basis.level_db.value + loaded.amplifier.level_db.value
    return Figure(
        "V_cmd",
        "Output volts asked for",
        element.commanded.peak_v,
        "V",
        note=f"full output at the charger's set-point, {knob:g} dB, at the programme's loudest",
    )


def delivered(
    point: OperatingPoint, loaded: LoadedAmplifier, element: AmplifierElement, report: AmplifierResult
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


def apparent(loaded: LoadedAmplifier, element: AmplifierElement, report: AmplifierResult) -> Figure:
    """Volt-amperes: what a volts-only reading would be taken for."""
    return Figure(
        "S",
        "Volt-amperes, as volts alone would show",
        report.apparent_w,
        "VA",
        note="volts squared over ohms",
        formula="n * V_out**2 / Z * (1 - lead)",
        inputs=(
            given("n", "Channels at work", loaded.channels, "", "typed"),
            _volts_at("V_out", "Output volts of one channel", report.output_v / loaded.in_series),
            _impedance(loaded),
            Figure("lead", "Share burnt in the speaker lead", loaded.lead_share, ""),
        ),
    )


def on_the_bench(loaded: LoadedAmplifier, element: AmplifierElement, report: AmplifierResult) -> Figure:
    """Watts into the nominal resistor at the same terminal volts."""
    nominal = loaded.nominal_channel_ohm
    volts = _volts_at("V_s", "Supply at the terminals", report.terminal_v)
    return Figure(
        "P_bench",
        f"On a {nominal:g} Ω resistor at these volts",
        report.bench_w,
        "W",
        note="the fitted curve at the nominal load, at the terminal volts found with the real one",
        formula="n * (g * s)**2 / Z_nom",
        inputs=(
            given("n", "Channels at work", loaded.channels, "", "typed"),
            _fitted_volts(loaded, "g", nominal, loaded.fitted.fit.output(nominal)[0]),
            _share(loaded, volts),
            given("Z_nom", "Nominal load of one channel", nominal, "Ω", "typed"),
        ),
    )


def lost_to_sag(
    loaded: LoadedAmplifier, element: AmplifierElement, report: AmplifierResult, point: OperatingPoint
) -> Figure:
    """Decibels that the sagging supply takes from the loudest moment."""
    return Figure(
        "dB",
        "Lost to sag",
        report.lost_to_sag_db,
        "dB",
        note="output volts got against those asked for",
        formula="20 * log10(V_out / V_cmd)",
        inputs=(
            _volts_at("V_out", "Output volts of one channel", report.output_v / loaded.in_series),
            _commanded(loaded, element, point),
        ),
    )


def draw_of_all(forecast: Forecast) -> Figure:
    """Mean supply current of all amplifiers."""
    assert forecast.point is not None
    parts = tuple(
        draw_of(loaded, element, report, f"I_{n}")
        for n, (loaded, element, report) in enumerate(
            zip(forecast.circuit.loaded, forecast.point.amplifiers, forecast.amplifiers, strict=True), start=1
        )
    )
    return Figure(
        "I_draw",
        "Drawn by the amplifiers, mean",
        forecast.draw.mean,
        "A",
        note="each amplifier's draw, added up",
        formula=" + ".join(part.symbol for part in parts),
        inputs=parts,
    )


def draw_of(loaded: LoadedAmplifier, element: AmplifierElement, report: AmplifierResult, symbol: str) -> Figure:
    """Mean supply current of one amplifier: watts in over volts."""
    volts = _volts_at("V_amp", "Supply at the terminals", report.terminal_v)
    return Figure(
        symbol,
        f"Drawn by {loaded.amplifier.name}, mean",
        report.draw.mean,
        "A",
        note="watts in over volts",
        formula="P_in / V_amp",
        inputs=(_input_watts(loaded, element, report), volts),
    )


def _input_watts(loaded: LoadedAmplifier, element: AmplifierElement, report: AmplifierResult) -> Figure:
    """Watts in; with a steady tone as the fitted sum, with a programme as the mean over its levels."""
    power = loaded.fitted.input(loaded.channel_ohm)
    name, unit = f"Taken in by {loaded.amplifier.name}", "W"
    basis = "the usual efficiency of its class" if power.assumed else f"{power.readings} readings of current"
    if len(element.commanded.weight) > 1:
        return Figure("P_in", name, report.input_w, unit, note=f"mean over the programme; losses from {basis}")
    origin: Rests = "assumed" if power.assumed else "measured"
    record = loaded.amplifier
    idle_origin: Rests = record.idle_a.origin if record.idle_a else "assumed"
    channel_w = report.delivered_w / loaded.channels / (1 - loaded.lead_share)
    linear = power.family == "linear"
    common = (
        given("n", "Channels at work", loaded.channels, "", "typed"),
        given("I_0", "Idle current", power.law.idle_a, "A", idle_origin),
        _volts_at("V_amp", "Supply at the terminals", report.terminal_v),
        Figure(
            "I_out",
            "Output amps of one channel",
            report.output_v / loaded.in_series / loaded.channel_ohm,
            "A",
        ),
    )
    if linear:
        return Figure(
            "P_in",
            name,
            report.input_w,
            unit,
            note="idle, and the rail through the output devices",
            formula=f"n * (I_0 * V_amp + V_rail * s * {RECTIFIED_MEAN!r} * I_out)",
            inputs=(
                *common,
                given("V_rail", "Rail volts at 14.4 V", power.law.linear_v, "V", origin, basis),
                _share(loaded, common[2]),
            ),
        )
    return Figure(
        "P_in",
        name,
        report.input_w,
        unit,
        note="idle, watts out, and losses that grow with the output current",
        formula="n * (I_0 * V_amp + P_out + a * I_out + b * I_out**2)",
        inputs=(
            *common,
            Figure("P_out", "True watts out of one channel", channel_w, "W"),
            given("a", "Loss for each output ampere", power.law.linear_v, "V", origin, basis),
            given("b", "Loss resistance", power.law.quadratic_ohm, "Ω", origin, basis),
        ),
    )


def reserve(point: OperatingPoint) -> Figure:
    """Amps available from the chargers less what the vehicle itself uses."""
    job = point.circuit.job
    parts = tuple(_available(point, i) for i in range(len(job.chargers)))
    where = ENGINE_WORDS[point.engine]
    used = Figure(
        "I_car", f"The vehicle itself, {where}", point.vehicle_a, "A", note="its loads in this state, added up"
    )
    return Figure(
        "I_res",
        f"Reserve, {where}",
        point.reserve_a,
        "A",
        note="what the chargers can give less what the vehicle uses",
        formula=" + ".join(part.symbol for part in parts) + " - I_car" if parts else "0 - I_car",
        inputs=(*parts, used),
    )


def _available(point: OperatingPoint, i: int) -> Figure:
    charger, value = point.circuit.job.chargers[i], point.available_a[i]
    symbol, name = f"I_av{i + 1}", f"{charger.name} can give"
    if charger.kind == "alternator" and point.engine == "idle" and charger.idle_a:
        return Figure(
            symbol,
            name,
            value,
            "A",
            note="output at idle, less what heat takes",
            formula="I_idle * hot",
            inputs=(
                typed("I_idle", "Output at idle", charger.idle_a, "A"),
                typed("hot", "Hot derating", charger.hot_derating, ""),
            ),
        )
    words = "nothing while the engine stands" if value == 0 else "from its output curve at this speed"
    origin: Rests = "computed" if charger.kind == "alternator" else "typed"
    return Figure(symbol, name, value, "A", origin=origin, note=words if origin == "computed" else "its limit")


def left_over(reserved: Figure, drawn: Figure) -> Figure:
    """Reserve less the amplifiers' mean draw; negative is what the batteries have to give."""
    return Figure(
        "I_left",
        "Left over after the amplifiers",
        reserved.value - drawn.value,
        "A",
        note="negative: the batteries have to give it",
        formula="I_res - I_draw",
        inputs=(reserved, drawn),
    )
