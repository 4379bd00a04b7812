"""The maker's claims held against what was measured, at the claim's own supply volts; price per measured watt.

Left out: distortion above the criterion that the sheet was read at.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import groupby
from typing import Literal

from underhood.amplifier import measurement
from underhood.amplifier.sheet import CRITERIA, CRITERION_WORDS, Fitted, Sheet, fitted, meant_for_ohm, predict
from underhood.constants import REFERENCE_V
from underhood.decibels import decibels
from underhood.document.amplifier import Claim, ClaimKind, Criterion
from underhood.errors import BadInput
from underhood.figure import Figure, given
from underhood.number_format import percent

MEETS_SHARE = 0.97
"""A reading within its own spread of the claim meets it [P]."""
THD_OF_CLIPPING = 3.0
"""Claims at more distortion than this are held against clipping, not against 1 % THD [P]."""
KIND_WORDS: dict[ClaimKind, str] = {
    "standard": "standard rating",
    "manual": "manual's figure",
    "box": "figure on the box",
    "max": "“max” figure",
}
ClaimStatus = Literal["meets", "short", "unmeasured"]


@dataclass(frozen=True)
class ClaimCheck:
    """A claim and what was measured at its own load and supply volts.

    measured   watts with their sum and band; None where nothing was measured near it
    share      measured over claimed; decibels the same as a level
    """

    claim: Claim
    criterion: Criterion
    standing: ClaimStatus
    measured: Figure | None
    share: float | None
    db: float | None
    remark: str


@dataclass(frozen=True)
class PerWatt:
    """price per measured watt of all channels, into the load the amplifier is meant for, at 14.4 V."""

    criterion: Criterion
    load_ohm: float
    watts: float
    price_per_watt: Figure


@dataclass(frozen=True)
class ClaimsReport:
    """All that claims, fuses and price say of an amplifier."""

    verdict: str
    claims: list[ClaimCheck]
    fuses: Figure | None
    prices: list[PerWatt]


def judge(sheet: Sheet) -> ClaimsReport:
    """Claims against readings, what the fuses allow, and price per watt."""
    weighed = [weigh(sheet, claim) for claim in sheet.claims]
    return ClaimsReport(verdict(weighed), weighed, fuses_allow(sheet), prices(sheet))


def _measured(sheet: Sheet, criterion: Criterion) -> Fitted | None:
    """The fit to readings at a criterion; None where claims would have to stand in."""
    try:
        found = fitted(sheet, criterion, None)
    except BadInput:
        return None
    return None if found.fit.claimed else found


def weigh(sheet: Sheet, claim: Claim) -> ClaimCheck:
    """One claim against the readings."""
    criterion: Criterion = "clip" if (claim.thd_percent or 0.0) > THD_OF_CLIPPING else "thd1"
    found = _measured(sheet, criterion)
    if found is None:
        return ClaimCheck(claim, criterion, "unmeasured", None, None, None, "nothing was measured")
    if found.fit.extrapolated(claim.load_ohm):
        remark = f"never measured below {found.fit.load_ohm[0]:g} Ω"
        return ClaimCheck(claim, criterion, "unmeasured", None, None, None, remark)
    watts = at_claims_supply(found, claim)
    share = watts.value / claim.power_w
    standing: ClaimStatus = "meets" if share >= MEETS_SHARE else "short"
    return ClaimCheck(claim, criterion, standing, watts, share, decibels(share), "")


def at_claims_supply(found: Fitted, claim: Claim) -> Figure:
    """Measured watts carried to the claim's supply volts, with the sum."""
    load, supply = claim.load_ohm, claim.supply_v
    at_reference, answer = predict(found, load, REFERENCE_V), predict(found, load, supply)
    share = Figure(
        "share",
        "Output volts as a share of those at 14.4 V",
        found.scale(supply),
        "",
        note=f"follows the supply: {found.exponent_origin}",
        inputs=(
            given("V_claim", "Supply volts of the claim", supply, "V", "typed"),
            given("k", "How output volts follow supply volts", found.exponent, "", "computed"),
        ),
        formula="(V_claim / 14.4)**k" if found.exponent else "",
    )
    reference = Figure(
        "P_ref",
        f"Measured into {load:g} Ω, carried to 14.4 V",
        at_reference.power_w,
        "W",
        origin="measured",
        note=f"fitted to {found.basis}",
        low=at_reference.low_w,
        high=at_reference.high_w,
    )
    return Figure(
        "P",
        f"Measured into {load:g} Ω at {supply:g} V",
        answer.power_w,
        "W",
        note="watts at 14.4 V, times the square of the volts' share",
        formula="P_ref * share**2",
        inputs=(reference, share),
        low=answer.low_w,
        high=answer.high_w,
    )


def verdict(weighed: Sequence[ClaimCheck]) -> str:
    """One plain sentence for each kind of claim."""
    if not weighed:
        return "No claim on file."
    parts = []
    for kind, group in groupby(
        sorted(weighed, key=lambda each: list(KIND_WORDS).index(each.claim.kind)), key=lambda each: each.claim.kind
    ):
        parts.append(_of_kind(kind, sorted(group, key=lambda each: -each.claim.load_ohm)))
    return " ".join(parts)


def _of_kind(kind: ClaimKind, group: Sequence[ClaimCheck]) -> str:
    said = []
    if met := [each for each in group if each.standing == "meets"]:
        said.append(f"meets its {KIND_WORDS[kind]} at {_listed(met)}")
    for each in group:
        if each.standing == "short" and each.share is not None:
            whose = "" if said else f" of its {KIND_WORDS[kind]}"
            said.append(f"{percent(1 - each.share)} short{whose} at {each.claim.load_ohm:g} Ω")
    if open_ := [each for each in group if each.standing == "unmeasured"]:
        said.append(f"{'its ' + KIND_WORDS[kind] if not said else 'that'} at {_listed(open_)} was not measured")
    text = ", ".join(said)
    return f"{text[0].upper()}{text[1:]}."


def _listed(group: Sequence[ClaimCheck]) -> str:
    loads = [f"{each.claim.load_ohm:g}" for each in group]
    return f"{' and '.join([', '.join(loads[:-1]), loads[-1]]) if len(loads) > 1 else loads[0]} Ω"


def fuses_allow(sheet: Sheet) -> Figure | None:
    """Watts out that the amplifier's own fuses can feed for long, at 14.4 V and its efficiency at full output."""
    if not sheet.record.fuses_a:
        return None
    try:
        found = fitted(sheet, "thd1", None)
    except BadInput:
        return None
    ohm = meant_for_ohm(found, sheet.record)
    efficiency = predict(found, ohm, REFERENCE_V).efficiency
    fuses = sum(sheet.record.fuses_a)
    return Figure(
        "P_fuse",
        "What its own fuses allow, all channels",
        fuses * REFERENCE_V * efficiency,
        "W",
        note="amps of all fuses, times the supply, times its efficiency",
        formula="I_fuse * V_ref * eta",
        inputs=(
            given("I_fuse", "Its fuses together", fuses, "A", "typed"),
            given("V_ref", "Supply", REFERENCE_V, "V", "table", "test voltage of CTA-2006"),
            given(
                "eta",
                f"Efficiency at full output into {ohm:g} Ω",
                efficiency,
                "",
                "assumed" if found.input(ohm).assumed else "measured",
            ),
        ),
    )


def prices(sheet: Sheet) -> list[PerWatt]:
    """Price per measured watt at every criterion that was read."""
    price = sheet.record.price
    if price is None:
        return []
    out = []
    for criterion in CRITERIA:
        if not measurement.at_criterion(sheet.runs, criterion) or (found := _measured(sheet, criterion)) is None:
            continue
        ohm = meant_for_ohm(found, sheet.record)
        watts = predict(found, ohm, REFERENCE_V).power_w * sheet.record.outputs
        name = f"Price per watt {CRITERION_WORDS[criterion]}, {ohm:g} Ω, 14.4 V"
        currency = sheet.record.currency or ""
        paid = given("price", "Price paid", price.value, currency, price.origin)
        measured = given("P", "Measured watts of all channels", watts, "W", "measured")
        figure = Figure(
            "c",
            name,
            price.value / watts,
            f"{currency}/W",
            note="price paid over measured watts",
            formula="price / P",
            inputs=(paid, measured),
        )
        out.append(PerWatt(criterion, ohm, watts, figure))
    return out
