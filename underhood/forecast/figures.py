"""The sums behind a forecast's headline figures.

Each figure is put together from the same numbers that the forecast used; adding it up again gives the same value.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from underhood.amplifier.input_power import RECTIFIED_MEAN
from underhood.amplifier.measurement import REFERENCE_V
from underhood.cable import conductor, gauge
from underhood.circuit import battery
from underhood.circuit.build import Driven, Edge
from underhood.circuit.elements import AmplifierElement
from underhood.circuit.operating_point import State
from underhood.document.quantity import Given
from underhood.figure import Figure, Origin, given
from underhood.forecast.results import AmplifierReport

if TYPE_CHECKING:
    from underhood.forecast.forecast import Forecast

ENGINE_WORDS = {"off": "engine off", "idle": "at idle", "cruise": "at cruise"}


def headline(made: Forecast) -> dict[str, Figure]:
    """The figures the ledger, the job sheet and the command line show; empty where nothing supplies the setup."""
    state = made.state
    if state is None:
        return {}
    figures = {"front_v": front_volts(state), "reserve_a": reserve(state)}
    if made.reserve_a is None:
        del figures["reserve_a"]
    if made.amplifiers:
        driven, element, report = made.setup.driven[0], state.amplifiers[0], made.amplifiers[0]
        figures["terminal_v"] = amplifier_volts(state, driven)
        figures["drop_v"] = path_drop(state, driven)
        figures["delivered_w"] = delivered(state, driven, element, report)
        figures["bench_w"] = on_the_bench(driven, element, report)
        figures["apparent_w"] = apparent(driven, element, report)
        figures["lost_to_sag_db"] = lost_to_sag(driven, element, report, state)
        figures["draw_a"] = draw_of_all(made)
        if made.reserve_a is not None:
            figures["short_a"] = left_over(figures["reserve_a"], figures["draw_a"])
    return figures


def typed(symbol: str, name: str, value: Given, unit: str) -> Figure:
    """A figure of the job file."""
    return given(symbol, name, value.value, unit, value.origin)


def front_volts(state: State) -> Figure:
    """Front posts: what the regulator holds less its own drop; else what the battery holds under its current."""
    name, unit = "Front battery", "V"
    value = float(state.volts[0])
    regulating = _regulating_at_front(state)
    if regulating is not None:
        charger = state.setup.job.chargers[regulating]
        return Figure(
            "V_front", name, value, unit, words="set-point less the drop in the charger's own resistance",
            sum="V_set - I_ch * R_src",
            inputs=(
                given("V_set", "Set-point at this temperature", state.setpoints_v[regulating], "V",
                      charger.setpoint_v.origin),
                Figure("I_ch", "Charger current", state.charger_a[regulating], "A", words="solved with the loads"),
                typed("R_src", "Charger's own resistance", charger.source_ohm, "Ω"),
            ),
        )  # fmt: skip
    at_front = [i for i, bank in enumerate(state.setup.job.banks) if state.setup.node_of(bank.at) == 0]
    if not at_front:
        return Figure("V_front", name, value, unit, words="solved from the sources elsewhere in the tree")
    return _held_by_bank(state, at_front[0], name, value)


def _regulating_at_front(state: State) -> int | None:
    for i, (each, amps, most) in enumerate(
        zip(state.setup.job.chargers, state.charger_a, state.available_a, strict=True)
    ):
        if state.setup.node_of(each.at) == 0 and 0 < amps < most:
            return i
    return None


def _held_by_bank(state: State, i: int, name: str, value: float) -> Figure:
    bank, model, amps = state.setup.job.banks[i], state.banks[i], state.bank_a[i]
    discharging = amps > 0
    ohm, why = battery.series_ohm(bank)
    origin: Origin = bank.resistance_ohm.origin if bank.resistance_ohm else "assumed"
    slow = model.r1_discharge_ohm if discharging else model.r1_charge_ohm
    return Figure(
        "V_front", name, value, "V",
        words="rest volts less the drop in the battery, its slow part settled",
        sum="V_rest - I_bat * (R_0 + R_1)",
        inputs=(
            given("V_rest", "Battery's rest volts at this charge", model.ocv_v, "V",
                  "typed" if bank.ocv_v else "assumed", f"{bank.charge.value:.0%} charged, {bank.chemistry}"),
            Figure("I_bat", "Battery current, charging is negative", amps, "A", words="solved with the loads"),
            given("R_0", "Battery's series resistance, warmth, age and number counted in", model.r0_ohm, "Ω", origin,
                  f"{ohm * 1000:.2f} mΩ each, {why}"),
            given("R_1", "Slow part, settled", slow, "Ω", "assumed",
                  "a share of the series resistance" if discharging else "from the charging current it accepts"),
        ),
    )  # fmt: skip


def amplifier_volts(state: State, driven: Driven) -> Figure:
    """Volts at an amplifier: front posts less the drop of each cable on the way."""
    drops = _drops(state, driven, [float(a) for a in state.edge_a], "")
    node = state.setup.node_of(driven.node)
    return Figure(
        "V_amp", f"At the terminals of {driven.amplifier.name}", float(state.volts[node]), "V",
        words="front battery less the drop of each cable on the way",
        sum=" - ".join(["V_front", *(drop.symbol for drop in drops)]),
        inputs=(front_volts(state), *drops),
    )  # fmt: skip


def path_drop(state: State, driven: Driven) -> Figure:
    """The whole drop from the front posts to an amplifier at the loudest moment."""
    drops = _drops(state, driven, [float(a) for a in state.edge_peak_a], ", loudest")
    return Figure(
        "V_drop", "Dropped on the way, at the loudest moment", sum(drop.value for drop in drops), "V",
        words="the drops of the cables on the way, added up",
        sum=" + ".join(drop.symbol for drop in drops) or "0", inputs=drops,
    )  # fmt: skip


def _drops(state: State, driven: Driven, amps: list[float], when: str) -> tuple[Figure, ...]:
    """The drop of each cable from the front to an amplifier, against the way where current comes back."""
    drops, here = [], state.setup.nodes[0]
    for n, i in enumerate(state.setup.path_to(driven.node), start=1):
        edge = state.setup.edges[i]
        forward = edge.start == here
        here = edge.end if forward else edge.start
        current = amps[i] if forward else -amps[i]
        ohm = cable_ohm(state, i, edge, f"R_{n}")
        drops.append(
            Figure(
                f"V_{n}",
                f"{edge.name}{when}",
                current * ohm.value,
                "V",
                words="current times resistance, out and back",
                sum=f"I_{n} * R_{n}",
                inputs=(
                    Figure(f"I_{n}", f"Current in {edge.name}", current, "A", words="solved with the loads"),
                    ohm,
                ),
            )
        )
    return tuple(drops)


def cable_ohm(state: State, i: int, edge: Edge, symbol: str) -> Figure:
    """A cable's loop: conductor as warm as it is, the way back, joints and fuse."""
    wire, rms = edge.wire, float(state.edge_rms_a[i])
    out, back, back_from = edge.conductor.at(rms), edge.back_ohm(rms), edge.back_from
    origin, counted, source = gauge.rests_on(wire)
    per_m = Figure(
        "r", "Ohms a metre when warm", out.ohm * wire.runs.value / wire.length_m.value, "Ω/m", origin=origin,
        words=f"{wire.size} {conductor.CONDUCTOR_WORDS[wire.conductor]} at {out.conductor_c:.0f} °C{counted}",
        source=source,
    )  # fmt: skip
    way_back_origin: Origin = (
        "assumed"
        if back_from == "assumed"
        else "measured"
        if back_from == "measured"
        else ("typed" if back_from == "typed" else "table")
    )
    rest = [
        given("R_back", "Way back", back, "Ω", way_back_origin, back_from),
        typed("R_joints", "Joints and holder", wire.joints_ohm, "Ω"),
    ]
    if wire.fuse_ohm:
        rest.append(typed("R_fuse", "Fuse", wire.fuse_ohm, "Ω"))
    return Figure(
        symbol, f"Resistance of {edge.name}", state.tree.ohm[i], "Ω", words="conductor, way back and joints",
        sum=" + ".join(["r * L / n", *(each.symbol for each in rest)]),
        inputs=(per_m, typed("L", "Length", wire.length_m, "m"), typed("n", "Runs", wire.runs, ""), *rest),
    )  # fmt: skip


def _volts_at(symbol: str, name: str, value: float) -> Figure:
    return Figure(symbol, name, value, "V", words="solved together with what is delivered")


def _share(driven: Driven, volts: Figure) -> Figure:
    """The output's share at a supply: its exponent, or the drop-out of a regulated amplifier."""
    found = driven.fitted
    value = found.scale(volts.value)
    if found.exponent == 0.0:
        return Figure(
            "s", "Output as a share of that at 14.4 V", value, "", words="regulated: holds down to its drop-out",
            sum=f"min(1, {volts.symbol} / V_do)",
            inputs=(volts, typed("V_do", "Drop-out volts", driven.amplifier.dropout_v, "V")),
        )  # fmt: skip
    origin: Origin = "assumed" if found.exponent_origin.startswith("unregulated") else "typed"
    if found.exponent_origin.startswith("slope"):
        origin = "measured"
    return Figure(
        "s", "Output as a share of that at 14.4 V", value, "", words="follows the supply volts",
        sum=f"({volts.symbol} / V_14)**k",
        inputs=(
            volts,
            given("V_14", "Reference supply", REFERENCE_V, "V", "table", "test voltage of CTA-2006"),
            given("k", "How the output follows the supply", found.exponent, "", origin, found.exponent_origin),
        ),
    )  # fmt: skip


def _fitted_volts(driven: Driven, symbol: str, ohm: float, value: float) -> Figure:
    fit = driven.fitted.fit
    low, high = fit.band(ohm)
    centre = fit.output(ohm)[0]
    names = {
        "voltage": "its voltage limit",
        "current": "its current limit",
        "power": "its supply stage's power",
    }
    return Figure(
        symbol, f"Output volts into {ohm:.2f} Ω at 14.4 V", value, "V",
        origin="measured" if not fit.claimed else "assumed",
        words=f"fitted curve through {driven.fitted.basis}; {names[driven.rule]} rules",
        low=value * low / centre, high=value * high / centre,
    )  # fmt: skip


def _impedance(driven: Driven) -> Figure:
    """|Z| at one channel: nominal times rise, plus the lead."""
    load = driven.amplifier.load
    how = {
        "rise": "nominal ohms times the rise",
        "sweep": "from the measured sweep",
        "model": "from driver and box",
        "reading": "from volts and amps read near the tone",
    }
    words = how[driven.load.how] + (", with the speaker lead" if driven.lead_share else "")
    if load is not None and driven.load.how == "rise" and not driven.lead_share:
        halves = driven.nominal_channel_ohm / driven.load.nominal_ohm
        return Figure(
            "Z", "Ohms at the tone, one channel", driven.channel_ohm, "Ω", words=words,
            sum="Z_nom * rise" if halves == 1 else f"Z_nom * rise * {halves:g}",
            inputs=(
                given("Z_nom", f"Nominal, {driven.load.words}", driven.load.nominal_ohm, "Ω", load.coil_ohm.origin),
                typed("rise", "Impedance rise in the box", load.rise, ""),
            ),
        )  # fmt: skip
    origin: Origin = "measured" if driven.load.how in ("sweep", "reading") else "computed"
    if load is not None and driven.load.how == "rise":
        origin = load.rise.origin
    return Figure("Z", "Ohms at the tone, one channel", driven.channel_ohm, "Ω", origin=origin, words=words)


def _output_volts(state: State, driven: Driven, element: AmplifierElement, report: AmplifierReport) -> Figure:
    """Output of one channel at the loudest moment: what is asked for, unless the supply clips it."""
    low = _volts_at("V_s", "Supply at the loudest moment", report.terminal_low_v)
    share = _share(driven, low)
    return Figure(
        "V_out", "Output volts of one channel", report.output_v / driven.in_series, "V",
        words="what the programme asks for, unless the supply clips it first",
        sum="min(V_cmd, g * s)",
        inputs=(
            _commanded(driven, element, state),
            _fitted_volts(driven, "g", driven.channel_ohm, driven.reference_v),
            share,
        ),
    )  # fmt: skip


def _commanded(driven: Driven, element: AmplifierElement, state: State) -> Figure:
    job = state.setup.job
    knob = job.basis.level_db.value + driven.amplifier.level_db.value
    return Figure(
        "V_cmd", "Output volts asked for", element.commanded.peak_v, "V",
        words=f"full output at the charger's set-point, {knob:g} dB, at the programme's loudest",
    )  # fmt: skip


def delivered(state: State, driven: Driven, element: AmplifierElement, report: AmplifierReport) -> Figure:
    """True watts in the drivers at the loudest moment."""
    return Figure(
        "P", f"Delivered by {driven.amplifier.name}", report.delivered_w, "W",
        words="true watts in the drivers: volts squared over ohms, times the power factor"
        + (", less the lead's share" if driven.lead_share else ""),
        sum="n * V_out**2 / Z * cosphi * (1 - lead)",
        inputs=(
            given("n", "Channels at work", driven.channels, "", "typed"),
            _output_volts(state, driven, element, report),
            _impedance(driven),
            _power_factor(driven),
            Figure("lead", "Share burnt in the speaker lead", driven.lead_share, ""),
        ),
        low=report.low_w, high=report.high_w,
    )  # fmt: skip


def _power_factor(driven: Driven) -> Figure:
    load = driven.amplifier.load
    typed_in = load is not None and driven.load.how == "rise" and not driven.lead_share
    origin: Origin = load.power_factor.origin if typed_in and load is not None else "computed"
    if not driven.load.phase_known:
        origin = "assumed"
    return given("cosphi", "Power factor of the load", driven.channel_pf, "", origin)


def apparent(driven: Driven, element: AmplifierElement, report: AmplifierReport) -> Figure:
    """Volt-amperes: what a volts-only reading would be taken for."""
    return Figure(
        "S", "Volt-amperes, as volts alone would show", report.apparent_w, "VA", words="volts squared over ohms",
        sum="n * V_out**2 / Z * (1 - lead)",
        inputs=(
            given("n", "Channels at work", driven.channels, "", "typed"),
            _volts_at("V_out", "Output volts of one channel", report.output_v / driven.in_series),
            _impedance(driven),
            Figure("lead", "Share burnt in the speaker lead", driven.lead_share, ""),
        ),
    )  # fmt: skip


def on_the_bench(driven: Driven, element: AmplifierElement, report: AmplifierReport) -> Figure:
    """Watts into the nominal resistor at the same terminal volts."""
    nominal = driven.nominal_channel_ohm
    volts = _volts_at("V_s", "Supply at the terminals", report.terminal_v)
    return Figure(
        "P_bench", f"On a {nominal:g} Ω resistor at these volts", report.bench_w, "W",
        words="the fitted curve at the nominal load, at the terminal volts found with the real one",
        sum="n * (g * s)**2 / Z_nom",
        inputs=(
            given("n", "Channels at work", driven.channels, "", "typed"),
            _fitted_volts(driven, "g", nominal, driven.fitted.fit.output(nominal)[0]),
            _share(driven, volts),
            given("Z_nom", "Nominal load of one channel", nominal, "Ω", "typed"),
        ),
    )  # fmt: skip


def lost_to_sag(driven: Driven, element: AmplifierElement, report: AmplifierReport, state: State) -> Figure:
    """Decibels that the sagging supply takes from the loudest moment."""
    return Figure(
        "dB", "Lost to sag", report.lost_to_sag_db, "dB", words="output volts got against those asked for",
        sum="20 * log10(V_out / V_cmd)",
        inputs=(
            _volts_at("V_out", "Output volts of one channel", report.output_v / driven.in_series),
            _commanded(driven, element, state),
        ),
    )  # fmt: skip


def draw_of_all(made: Forecast) -> Figure:
    """Mean supply current of all amplifiers."""
    assert made.state is not None
    parts = tuple(
        draw_of(driven, element, report, f"I_{n}")
        for n, (driven, element, report) in enumerate(
            zip(made.setup.driven, made.state.amplifiers, made.amplifiers, strict=True), start=1
        )
    )
    return Figure(
        "I_draw", "Drawn by the amplifiers, mean", made.draw.mean, "A", words="each amplifier's draw, added up",
        sum=" + ".join(part.symbol for part in parts), inputs=parts,
    )  # fmt: skip


def draw_of(driven: Driven, element: AmplifierElement, report: AmplifierReport, symbol: str) -> Figure:
    """Mean supply current of one amplifier: watts in over volts."""
    volts = _volts_at("V_amp", "Supply at the terminals", report.terminal_v)
    return Figure(
        symbol, f"Drawn by {driven.amplifier.name}, mean", report.draw.mean, "A", words="watts in over volts",
        sum="P_in / V_amp", inputs=(_input_watts(driven, element, report), volts),
    )  # fmt: skip


def _input_watts(driven: Driven, element: AmplifierElement, report: AmplifierReport) -> Figure:
    """Watts in; with a steady tone as the fitted sum, with a programme as the mean over its levels."""
    power = driven.fitted.input(driven.channel_ohm)
    name, unit = f"Taken in by {driven.amplifier.name}", "W"
    basis = "the usual efficiency of its class" if power.assumed else f"{power.readings} readings of current"
    if len(element.commanded.weight) > 1:
        return Figure("P_in", name, report.input_w, unit, words=f"mean over the programme; losses from {basis}")
    origin: Origin = "assumed" if power.assumed else "measured"
    record = driven.amplifier
    idle_origin: Origin = record.idle_a.origin if record.idle_a else "assumed"
    channel_w = report.delivered_w / driven.channels / (1 - driven.lead_share)
    linear = power.family == "linear"
    common = (
        given("n", "Channels at work", driven.channels, "", "typed"),
        given("I_0", "Idle current", power.idle_a, "A", idle_origin),
        _volts_at("V_amp", "Supply at the terminals", report.terminal_v),
        Figure(
            "I_out",
            "Output amps of one channel",
            report.output_v / driven.in_series / driven.channel_ohm,
            "A",
        ),
    )
    if linear:
        return Figure(
            "P_in", name, report.input_w, unit, words="idle, and the rail through the output devices",
            sum=f"n * (I_0 * V_amp + V_rail * s * {RECTIFIED_MEAN!r} * I_out)",
            inputs=(*common, given("V_rail", "Rail volts at 14.4 V", power.linear_v, "V", origin, basis),
                    _share(driven, common[2])),
        )  # fmt: skip
    return Figure(
        "P_in", name, report.input_w, unit, words="idle, watts out, and losses that grow with the output current",
        sum="n * (I_0 * V_amp + P_out + a * I_out + b * I_out**2)",
        inputs=(
            *common,
            Figure("P_out", "True watts out of one channel", channel_w, "W"),
            given("a", "Loss for each output ampere", power.linear_v, "V", origin, basis),
            given("b", "Loss resistance", power.quadratic_ohm, "Ω", origin, basis),
        ),
    )  # fmt: skip


def reserve(state: State) -> Figure:
    """Amps available from the chargers less what the vehicle itself uses."""
    job = state.setup.job
    parts = tuple(_available(state, i) for i in range(len(job.chargers)))
    where = ENGINE_WORDS[state.engine]
    used = Figure("I_car", f"The vehicle itself, {where}", state.vehicle_a, "A",
                  words="its loads in this state, added up")  # fmt: skip
    return Figure(
        "I_res", f"Reserve, {where}", sum(part.value for part in parts) - state.vehicle_a, "A",
        words="what the chargers can give less what the vehicle uses",
        sum=" + ".join(part.symbol for part in parts) + " - I_car" if parts else "0 - I_car",
        inputs=(*parts, used),
    )  # fmt: skip


def _available(state: State, i: int) -> Figure:
    charger, value = state.setup.job.chargers[i], state.available_a[i]
    symbol, name = f"I_av{i + 1}", f"{charger.name} can give"
    if charger.kind == "alternator" and state.engine == "idle" and charger.idle_a:
        return Figure(
            symbol, name, value, "A", words="output at idle, less what heat takes", sum="I_idle * hot",
            inputs=(typed("I_idle", "Output at idle", charger.idle_a, "A"),
                    typed("hot", "Hot derating", charger.hot_derating, "")),
        )  # fmt: skip
    words = "nothing while the engine stands" if value == 0 else "from its output curve at this speed"
    origin: Origin = "computed" if charger.kind == "alternator" else "typed"
    return Figure(symbol, name, value, "A", origin=origin, words=words if origin == "computed" else "its limit")


def left_over(reserved: Figure, drawn: Figure) -> Figure:
    """Reserve less the amplifiers' mean draw; negative is what the batteries have to give."""
    return Figure(
        "I_left", "Left over after the amplifiers", reserved.value - drawn.value, "A",
        words="negative: the batteries have to give it", sum="I_res - I_draw", inputs=(reserved, drawn),
    )  # fmt: skip
