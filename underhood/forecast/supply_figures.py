"""The sums behind the volts and the reserve of a supply: front posts, the way to an amplifier, its cables' ohms.

Each figure is put together from the same numbers that the forecast used; adding it up again gives the same value.
"""

from __future__ import annotations

from collections.abc import Callable

from underhood.cable import conductor, gauge
from underhood.circuit import battery
from underhood.circuit.build import Edge
from underhood.circuit.charger import idle_is_known
from underhood.circuit.loaded_amplifier import LoadedAmplifier
from underhood.circuit.operating_point import OperatingPoint, Phase
from underhood.document.quantity import Quantity
from underhood.figure import Figure, Rests, given
from underhood.forecast.wording import ENGINE_WORDS


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
    if len(point.phases) > 1:
        return of_phases(point, "V_front", name, unit, lambda phase: float(phase.volts[0]), "V")
    at_front = [i for i, bank in enumerate(point.circuit.job.banks) if point.circuit.node_of(bank.at) == 0]
    if not at_front:
        return Figure("V_front", name, value, unit, note="solved from the sources elsewhere in the tree")
    return _held_by_bank(point, at_front[0], name, value)


def _regulating_at_front(point: OperatingPoint) -> int | None:
    """The charger at the front that regulates throughout, so that its mean volts follow from its mean current."""
    for i, (each, most) in enumerate(zip(point.circuit.job.chargers, point.available_a, strict=True)):
        if point.circuit.node_of(each.at) == 0 and all(0 < phase.charger_a[i] < most for phase in point.phases):
            return i
    return None


def of_phases(
    point: OperatingPoint, symbol: str, name: str, unit: str, of: Callable[[Phase], float], each: str
) -> Figure:
    """The mean over a programme of something that its quiet and its loud part have.

    each   symbol of it within the formula
    """
    quiet, loud = point.phases
    return Figure(
        symbol,
        name,
        point.mean(of),
        unit,
        note="the mean of the programme's loud and quiet parts, each solved with its own loads",
        formula=f"w * {each}_loud + (1 - w) * {each}_quiet",
        inputs=(
            Figure("w", "Share of the time that is loud", loud.share, "", note="of more than the mean power"),
            Figure(f"{each}_loud", f"{name}, while it is loud", of(loud), unit, note="solved with the loads"),
            Figure(f"{each}_quiet", f"{name}, while it is quiet", of(quiet), unit, note="solved with the loads"),
        ),
    )


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
    node = point.circuit.node_of(loaded.node)
    isolated = point.open_links | {link for each in point.circuit.diodes for link in each.links}
    if isolated & set(point.circuit.path_to(loaded.node)):
        name = f"At the terminals of {loaded.amplifier.name}"
        return volts_at("V_amp", f"{name}, behind an isolator", float(point.volts[node]))
    drops = _drops(point, loaded, [float(a) for a in point.edge_a], "")
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
        point.link_ohm[i],
        "Ω",
        note="conductor, ground return and joints",
        formula=" + ".join(["r * L / n", *(each.symbol for each in rest)]),
        inputs=(per_m, typed("L", "Length", wire.length_m, "m"), typed("n", "Runs", wire.runs, ""), *rest),
    )


def volts_at(symbol: str, name: str, value: float) -> Figure:
    return Figure(symbol, name, value, "V", note="solved together with what is delivered")


def reserve(point: OperatingPoint) -> Figure:
    """Amps that the sources bring less what the car itself takes."""
    found = point.reserve
    parts = tuple(_available(point, i, amps) for i, amps in found.brings.items())
    idle = tuple(_idling(point, i, amps) for i, amps in found.idle_a.items())
    where = ENGINE_WORDS[point.engine]
    used = Figure(
        "I_car", f"The vehicle itself, {where}", point.vehicle_a, "A", note="its loads in this state, added up"
    )
    return Figure(
        "I_res",
        f"Reserve, {where}",
        found.left_a,
        "A",
        note="what the sources bring less what the car takes; a converter within the car brings nothing",
        formula=" - ".join(
            [" + ".join(part.symbol for part in parts) or "0", "I_car", *(part.symbol for part in idle)]
        ),
        inputs=(*parts, used, *idle),
    )


def _idling(point: OperatingPoint, i: int, amps: float) -> Figure:
    each = point.circuit.job.chargers[i]
    return Figure(
        f"I_own{i + 1}",
        f"{each.name} itself, idling",
        amps,
        "A",
        note="what it takes while it gives nothing, at nominal volts",
        formula=f"P_own{i + 1} / V_nom{i + 1}",
        inputs=(
            typed(f"P_own{i + 1}", "Taken while idling", each.idle_w, "W"),
            given(f"V_nom{i + 1}", "Nominal volts", each.idle_w.value / amps, "V", "table"),
        ),
    )


def _available(point: OperatingPoint, i: int, value: float) -> Figure:
    charger = point.circuit.job.chargers[i]
    symbol, name = f"I_av{i + 1}", f"{charger.name} can give"
    if charger.kind == "alternator" and point.engine == "idle" and charger.idle_a and idle_is_known(charger):
        return Figure(
            symbol,
            name,
            value,
            "A",
            note="output at idle in the car",
            formula="I_idle",
            inputs=(typed("I_idle", "Output at idle", charger.idle_a, "A"),),
        )
    words = "nothing while the engine stands" if value == 0 else "from its output curve at this speed"
    origin: Rests = "computed" if charger.kind == "alternator" else "typed"
    return Figure(symbol, name, value, "A", origin=origin, note=words if origin == "computed" else "its limit")
