"""What switches itself, as findings: isolators, converters at their cut-out, banks' management, managed alternators."""

from __future__ import annotations

from collections.abc import Iterator

from underhood.circuit.laws import JOINS_V, OPENS_V
from underhood.circuit.operating_point import OperatingPoint
from underhood.finding import Finding
from underhood.forecast.forecast import Forecast
from underhood.forecast.terminal_lines import TerminalLines


def build(forecast: Forecast) -> list[Finding]:
    """All of a forecast's."""
    point = forecast.point
    found = [*_managed(forecast)]
    if point is not None:
        found += [*_isolators(forecast, point), *_converters(forecast, point), *_management(forecast, point)]
    return found


def _isolators(forecast: Forecast, point: OperatingPoint) -> Iterator[Finding]:
    """Which isolators stand open, so that what lies beyond lives on its own battery; what diodes take."""
    for relay, closed in zip(point.relays, point.position.closed, strict=True):
        bank, either = forecast.job.banks[relay.bank], relay.bank in point.stands_otherwise[0]
        if closed and not (point.chatters or either):
            continue
        per_12 = point.circuit.per_12[relay.node]
        joins, opens = f"{JOINS_V * per_12:g}", f"{OPENS_V * per_12:g}"
        volts = float(point.volts[relay.charging])
        code = "isolator_open"
        told = f"is open at {volts:.2f} V of its charging side: what lies beyond lives on that battery alone."
        if point.chatters:
            code = "isolator_chatters"
            told = f"joins and opens again and again: its charging side goes to and fro between {opens} and {joins} V."
        elif closed:
            code = "isolator_either"
            told = f"is joined. Open before, it stays open: its charging side does not come to {joins} V without it."
        elif either:
            told += f" Joined before, it stays joined: its charging side then holds {opens} V."
        yield Finding(
            code,
            "caution" if point.chatters else "note",
            f"The isolator of {bank.name} {told}",
            "A relay joins the batteries only while they are charged.",
            "Play less at idle, or give the car more charging current.",
            "supply",
            f"banks.{relay.bank}.isolator",
        )
    if point.circuit.diodes:
        taken = max(forecast.job.banks[each.bank].diode_v.value for each in point.circuit.diodes)
        which = next(i for i, bank in enumerate(forecast.job.banks) if bank.isolator == "diode")
        yield Finding(
            "diode_isolator",
            "note",
            f"The diodes of the isolator take {taken:.1f} V: the batteries behind them are charged that much lower.",
            "A battery that never sees its full charging volts loses capacity.",
            "Let the regulator sense behind the diodes, or use a relay.",
            "supply",
            f"banks.{which}.isolator",
        )


def _converters(forecast: Forecast, point: OperatingPoint) -> Iterator[Finding]:
    """Converters that their input has stopped."""
    for each in point.fed:
        stopped, either = each.charger in point.position.stopped, each.charger in point.stands_otherwise[1]
        cycles = each.charger in point.cycles
        if not (cycles or stopped or either):
            continue
        charger = forecast.job.chargers[each.charger]
        cutout, restart = f"{charger.cutout_v.value:g}", f"{charger.restart_v.value:g}"
        code = "converter_stopped"
        told = f"stops below {cutout} V of what feeds it, and gives nothing."
        if cycles:
            code = "converter_cycles"
            told = f"stops and starts again and again: what feeds it goes to and fro between {cutout} and {restart} V."
        elif not stopped:
            code = "converter_either"
            told = f"runs. Stopped before, it stays so: what feeds it does not come to {restart} V."
        elif either:
            told += f" Running before, it runs on: what feeds it then stays above {cutout} V."
        yield Finding(
            code,
            "caution" if cycles or stopped else "note",
            f"{charger.name} {told}",
            "It takes more from there than that place has.",
            "Feed it from a stronger place, or ask less of it.",
            "supply",
            f"chargers.{each.charger}.cutout_v",
        )


def _management(forecast: Forecast, point: OperatingPoint) -> Iterator[Finding]:
    """Banks that their management has taken off."""
    for trip in point.position.trips:
        bank = forecast.job.banks[trip.bank]
        yield Finding(
            "management_trip",
            "act",
            f"The management of {bank.name} takes it off: {trip.amps:.0f} A, where it allows {trip.limit_a:.0f} A.",
            "Everything then hangs on what is left, at once and at full level.",
            "Play quieter, or use more of them, or one that its maker rates for these amps.",
            "supply",
            f"banks.{trip.bank}.{trip.limit}",
        )


def _managed(forecast: Forecast) -> Iterator[Finding]:
    """What a managed alternator leaves when it has lowered its volts."""
    low = forecast.at_low_setpoint
    if low is None:
        return
    i = next(i for i, each in enumerate(forecast.job.chargers) if each.control == "managed")
    charger = forecast.job.chargers[i]
    at = min((each.terminal_low_v for each in low.amplifiers), default=low.front_v)
    severity = None if at is None else TerminalLines.of(forecast.job).severity(at)
    told = (
        "nothing holds the programme" if at is None or not low.operating_point else f"{at:.2f} V at the loudest moment"
    )
    yield Finding(
        "managed_alternator",
        severity or "note",
        f"{charger.name} is managed: with a full battery it lowers its volts to {charger.setpoint_low_v.value:g} V, "
        f"which leaves {told}.",
        "What is measured an hour later differs from what was measured at the start.",
        "Ground amplifiers to the body, never past a sensor on the battery's negative post; ask the vehicle's maker.",
        "supply",
        f"chargers.{i}.control",
    )
