"""`under-hood bench`: readings of an amplifier."""

from __future__ import annotations

import argparse
from typing import Any

from underhood.cli.answer import Answer, command, content, within
from underhood.constants import REFERENCE_V
from underhood.number_format import shown

LOAD_RANGE_OHM = (0.1, 64.0)
SUPPLY_RANGE_V = (5.0, 64.0)
CRITERIA = ("thd1", "clip", "burst", "unstated")


def add_commands(groups: Any) -> None:
    """`bench predict` and `bench audit`."""
    bench = groups.add_parser("bench", help="readings of an amplifier").add_subparsers(required=True)
    predict = command(bench, "predict", _predict, "what an amplifier delivers into a load")
    predict.add_argument("sheet", metavar="SHEET.csv")
    predict.add_argument("--load", type=float, required=True, metavar="OHM")
    predict.add_argument("--supply", type=float, default=REFERENCE_V, metavar="V")
    predict.add_argument("--criterion", default="thd1", choices=CRITERIA)
    audit = command(bench, "audit", _audit, "what is wrong with a bench sheet")
    audit.add_argument("sheet", metavar="SHEET.csv")


BEYOND = {
    "below": "below the lowest measured load, so its largest measured current is the limit",
    "above": "above the highest measured load, where nothing but the fit says what it gives",
}


def _predict(options: argparse.Namespace) -> Answer:
    from underhood.amplifier import sheet_csv
    from underhood.amplifier.sheet import Prediction, fitted, predict

    load = within("--load", options.load, LOAD_RANGE_OHM, "ohm")
    supply = within("--supply", options.supply, SUPPLY_RANGE_V, "V")
    sheet = sheet_csv.read(*content(options.sheet))
    found = fitted(sheet, options.criterion, None)
    one: Prediction = predict(found, load, supply)
    answer = {name: getattr(one, name) for name in Prediction.__dataclass_fields__} | {
        "basis": found.basis,
        "supply_exponent": found.exponent,
        "gaps": list(found.gaps),
    }
    lines = [
        f"{sheet.record.name} into {load:g} Ω at {supply:g} V",
        f"  {one.power_w:8.0f} W     from {one.low_w:.0f} to {one.high_w:.0f} W, fitted to {found.basis}",
        f"  {one.output_v:8.2f} V     P = V²/Z = {shown(one.output_v)}² / {load:g}",
        f"  {one.supply_a:8.1f} A     {one.efficiency:.0%} efficient",
        f"  {one.limited_by} limit; output follows supply volts to the power {found.exponent:.2f} "
        f"({found.exponent_origin})",
        *(f"  note: {gap}" for gap in found.gaps),
        *([f"  note: {BEYOND[one.outside]}"] if one.outside else []),
    ]
    return Answer(answer, "\n".join(lines))


def _audit(options: argparse.Namespace) -> Answer:
    from underhood.amplifier import sheet_csv
    from underhood.amplifier.audit import audit

    sheet = sheet_csv.read(*content(options.sheet))
    findings = audit(sheet)
    answer = {
        "findings": [
            {"code": f.code, "severity": f.severity, "row": f.row, "text": f"{f.title}: {f.text}"} for f in findings
        ]
    }
    lines = [f"{sheet.record.name}: {len(sheet.runs)} readings, {len(findings) or 'no'} findings"]
    for each in findings:
        where = f"reading {each.row}" if each.row else "the sheet"
        lines.append(f"  {each.severity}: {where}: {each.title}: {each.text}")
        lines.append(f"      {each.why} {each.remedy}")
    return Answer(answer, "\n".join(lines))
