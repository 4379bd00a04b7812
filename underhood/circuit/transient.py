"""The supply over time: node volts of a tree, battery polarisation and charge, capacitor volts, step by step.

Backward Euler on polarisation and capacitor volts, input power held over each step; the nodes of a step are solved by
Newton's method, its equations eliminated from the leaves to the root. An amplifier below its cut-out switches off and
comes back after a second at volts above it. Left out: ripple at twice the tone, and the regulator's own dynamics.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numba
import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Ints = NDArray[np.int64]

MOST_ROUNDS = 40
AMPS_ERROR = 1e-6
BACK_ON_S = 1.0
FLOOR_V = 1.0
MEAN_A_S = 60.0
"""Peukert's law is applied to the mean current over this."""
RECTIFIED_MEAN = 2 * np.sqrt(2) / np.pi


@dataclass(frozen=True)
class Network:
    """A tree with node 0 as its root, (n,) each: a node's parent, siemens of the edge to it, constant amps drawn.

    Nodes are ordered so that a parent comes before its children.
    """

    parent: Ints
    siemens: Floats
    drawn_a: Floats


@dataclass(frozen=True)
class Chargers:
    """Regulated sources: node, volts, ohms behind them, and the most amps; (m,) each."""

    node: Ints
    set_v: Floats
    ohm: Floats
    limit_a: Floats


@dataclass(frozen=True)
class Banks:
    """Battery banks, (m,) each but the tables; charge and polarisation (`v1`) are those of the start.

    twenty_hour_a   amps of the 20-hour rate, above which Peukert's exponent counts
    r1_charge_ohm   fixed where above 0; otherwise it follows from the acceptance at the absorption volts
    acceptance      (m, 3): share of the capacity an hour at full charge, its rise with lack of charge, the most
    rest            (m, 2, k): rest volts over charge
    """

    node: Ints
    r0_ohm: Floats
    r1_discharge_ohm: Floats
    r1_charge_ohm: Floats
    c1_f: Floats
    capacity_as: Floats
    twenty_hour_a: Floats
    peukert: Floats
    absorption_v: Floats
    acceptance: Floats
    rest: Floats
    charge: Floats
    v1: Floats


@dataclass(frozen=True)
class Capacitors:
    """Capacitor banks: node, farads, ohms, volts at the start; (m,) each."""

    node: Ints
    farad: Floats
    esr_ohm: Floats
    volts: Floats


@dataclass(frozen=True)
class Amplifiers:
    """Amplifiers, (m,) each; ohms, power factor and volts are those of one channel.

    commanded_v     what is asked for at level 1; `reference_v` is what a 14.4 V supply allows
    linear_family   1 for class A, AB and B; `idle_a`, `linear_v`, `quadratic_ohm` as in `bench.input_power`
    flat_w          above 0: a constant power taken in place of a programme
    """

    node: Ints
    commanded_v: Floats
    reference_v: Floats
    ohm: Floats
    power_factor: Floats
    channels: Floats
    exponent: Floats
    dropout_v: Floats
    cutout_v: Floats
    idle_a: Floats
    linear_v: Floats
    quadratic_ohm: Floats
    linear_family: Ints
    flat_w: Floats


@dataclass(frozen=True)
class TransientResult:
    """What came of it, a row a step: (t, n) node volts, (t, m) the rest; discharge is positive.

    held_w         true watts out had the supply held 14.4 V
    switched_off   how often each amplifier fell below its cut-out, (m,)
    """

    volts: Floats
    charger_a: Floats
    bank_a: Floats
    capacitor_a: Floats
    in_w: Floats
    out_w: Floats
    held_w: Floats
    charge: Floats
    switched_off: Ints


def run(
    level: Floats,
    dt_s: float,
    network: Network,
    chargers: Chargers,
    banks: Banks,
    capacitors: Capacitors,
    amplifiers: Amplifiers,
    start_v: Floats,
) -> TransientResult:
    """The course of a programme: `level` (t,) is each step's share of the commanded volts, `start_v` (n,) its start."""
    steps = len(level)

    def rows(of: NDArray[Any]) -> Floats:
        return np.empty((steps, len(of)))

    out = TransientResult(
        volts=rows(network.parent),
        charger_a=rows(chargers.node),
        bank_a=rows(banks.node),
        capacitor_a=rows(capacitors.node),
        in_w=rows(amplifiers.node),
        out_w=rows(amplifiers.node),
        held_w=rows(amplifiers.node),
        charge=rows(banks.node),
        switched_off=np.zeros(len(amplifiers.node), np.int64),
    )
    parts = [each for part in (network, chargers, banks, capacitors, amplifiers) for each in _fields(part)]
    _steps(np.ascontiguousarray(level, float), dt_s, *parts, np.array(start_v, float), *_fields(out))
    return out


def _fields(part: Any) -> tuple[NDArray[Any], ...]:
    """A part's arrays in order, copied where the course would change what was given."""
    arrays = [getattr(part, name) for name in part.__dataclass_fields__]
    return tuple(arrays if isinstance(part, TransientResult) else [np.array(each) for each in arrays])


@numba.njit(cache=True)
def _rest_v(rest: Floats, charge: float) -> float:
    return float(np.interp(charge, rest[0], rest[1]))


@numba.njit(cache=True)
def _amplifier(
    volts: float,
    command: float,
    reference: float,
    ohm: float,
    pf: float,
    channels: float,
    exponent: float,
    dropout: float,
    idle: float,
    linear: float,
    quadratic: float,
    family: int,
    flat: float,
) -> tuple[float, float]:
    """(watts in, true watts out) of an amplifier at its volts."""
    if flat > 0.0:
        return flat, 0.0
    scale = min(1.0, volts / dropout) if exponent == 0.0 else (volts / 14.4) ** exponent
    amps = min(command, reference * scale) / ohm
    out = amps * amps * ohm * pf
    if family == 1:
        taken = idle * volts + linear * scale * RECTIFIED_MEAN * amps
    else:
        taken = idle * volts + out + linear * amps + quadratic * amps * amps
    return channels * taken, channels * out


@numba.njit(cache=True)
def _run(  # type: ignore[no-untyped-def]  # numba infers the types; `run` states them
    level,
    dt,
    parent,
    siemens,
    drawn,
    ch_node,
    ch_v,
    ch_ohm,
    ch_limit,
    b_node,
    b_r0,
    b_r1d,
    b_r1c,
    b_c1,
    b_cap,
    b_i20,
    b_k,
    b_abs,
    b_accept,
    b_rest,
    b_charge,
    b_v1,
    c_node,
    c_farad,
    c_esr,
    c_volts,
    a_node,
    a_cmd,
    a_ref,
    a_ohm,
    a_pf,
    a_ch,
    a_k,
    a_drop,
    a_cut,
    a_idle,
    a_lin,
    a_quad,
    a_family,
    a_flat,
    v,
    o_volts,
    o_ch,
    o_bank,
    o_cap,
    o_in,
    o_out,
    o_held,
    o_charge,
    o_off,
):
    n, steps = len(parent), len(level)
    nb, na = len(b_node), len(a_node)
    slope, miss, diagonal, step = np.empty(n), np.empty(n), np.empty(n), np.empty(n)
    b_e, b_r, b_mean = np.empty(nb), np.empty(nb), np.zeros(nb)
    off_until = np.zeros(na)
    fade = min(dt / MEAN_A_S, 1.0)
    for t in range(steps):
        now = t * dt
        for j in range(nb):
            rest = _rest_v(b_rest[j], b_charge[j])
            r1 = b_r1d[j]
            if b_v1[j] >= 0.0:
                r1 = b_r1c[j]
                if r1 <= 0.0:
                    lack = b_accept[j, 0] + b_accept[j, 1] * (1.0 - b_charge[j])
                    accepted = b_cap[j] / 3600.0 * min(b_accept[j, 2], lack)
                    r1 = max(b_r0[j], (b_abs[j] - rest) / accepted)
            g = 1.0 / (b_c1[j] / dt + 1.0 / r1)
            b_e[j] = rest + g * b_c1[j] / dt * b_v1[j]
            b_r[j] = b_r0[j] + g
        for _ in range(MOST_ROUNDS):
            for i in range(n):
                miss[i], slope[i], diagonal[i] = -drawn[i], 0.0, 0.0
            for j in range(len(ch_node)):
                i = ch_node[j]
                amps = (ch_v[j] - v[i]) / ch_ohm[j]
                if amps >= ch_limit[j]:
                    miss[i] += ch_limit[j]
                elif amps > 0.0:
                    miss[i] += amps
                    slope[i] -= 1.0 / ch_ohm[j]
            for j in range(nb):
                i = b_node[j]
                miss[i] += (b_e[j] - v[i]) / b_r[j]
                slope[i] -= 1.0 / b_r[j]
            for j in range(len(c_node)):
                i, ohm = c_node[j], c_esr[j] + dt / c_farad[j]
                miss[i] += (c_volts[j] - v[i]) / ohm
                slope[i] -= 1.0 / ohm
            for j in range(na):
                if now < off_until[j]:
                    continue
                i = a_node[j]
                here, _ = _amplifier(
                    v[i],
                    a_cmd[j] * level[t],
                    a_ref[j],
                    a_ohm[j],
                    a_pf[j],
                    a_ch[j],
                    a_k[j],
                    a_drop[j],
                    a_idle[j],
                    a_lin[j],
                    a_quad[j],
                    a_family[j],
                    a_flat[j],
                )
                there, _ = _amplifier(
                    v[i] + 1e-5,
                    a_cmd[j] * level[t],
                    a_ref[j],
                    a_ohm[j],
                    a_pf[j],
                    a_ch[j],
                    a_k[j],
                    a_drop[j],
                    a_idle[j],
                    a_lin[j],
                    a_quad[j],
                    a_family[j],
                    a_flat[j],
                )
                miss[i] -= here / v[i]
                slope[i] -= (there / (v[i] + 1e-5) - here / v[i]) / 1e-5
            for i in range(1, n):
                amps = siemens[i] * (v[parent[i]] - v[i])
                miss[i] += amps
                miss[parent[i]] -= amps
            worst = 0.0
            for i in range(n):
                worst = max(worst, abs(miss[i]))
                diagonal[i] += -slope[i]
            if worst < AMPS_ERROR:
                break
            for i in range(1, n):
                diagonal[i] += siemens[i]
                diagonal[parent[i]] += siemens[i]
            for i in range(n):
                step[i] = miss[i]
            for i in range(n - 1, 0, -1):
                d = diagonal[i] if diagonal[i] > 1e-6 else 1e-6
                step[parent[i]] += siemens[i] / d * step[i]
                diagonal[parent[i]] -= siemens[i] * siemens[i] / d
                diagonal[i] = d
            step[0] /= diagonal[0] if diagonal[0] > 1e-3 else 1e-3
            largest = abs(step[0])
            for i in range(1, n):
                step[i] = (step[i] + siemens[i] * step[parent[i]]) / diagonal[i]
                largest = max(largest, abs(step[i]))
            shorter = 0.5 / largest if largest > 0.5 else 1.0
            for i in range(n):
                v[i] = max(v[i] + shorter * step[i], FLOOR_V)
        for j in range(nb):
            amps = (b_e[j] - v[b_node[j]]) / b_r[j]
            b_v1[j] = v[b_node[j]] - _rest_v(b_rest[j], b_charge[j]) + amps * b_r0[j]
            b_mean[j] += (amps - b_mean[j]) * fade
            faster = 1.0
            if amps > 0.0 and b_mean[j] > b_i20[j]:
                faster = (b_mean[j] / b_i20[j]) ** (b_k[j] - 1.0)
            b_charge[j] = min(max(b_charge[j] - amps * faster * dt / b_cap[j], 0.0), 1.0)
            o_bank[t, j], o_charge[t, j] = amps, b_charge[j]
        for j in range(len(c_node)):
            amps = (c_volts[j] - v[c_node[j]]) / (c_esr[j] + dt / c_farad[j])
            c_volts[j] -= amps * dt / c_farad[j]
            o_cap[t, j] = amps
        for j in range(len(ch_node)):
            o_ch[t, j] = min(max((ch_v[j] - v[ch_node[j]]) / ch_ohm[j], 0.0), ch_limit[j])
        for j in range(na):
            i = a_node[j]
            o_in[t, j], o_out[t, j] = 0.0, 0.0
            _, o_held[t, j] = _amplifier(
                14.4,
                a_cmd[j] * level[t],
                a_ref[j],
                a_ohm[j],
                a_pf[j],
                a_ch[j],
                a_k[j],
                a_drop[j],
                a_idle[j],
                a_lin[j],
                a_quad[j],
                a_family[j],
                a_flat[j],
            )
            if now >= off_until[j]:
                o_in[t, j], o_out[t, j] = _amplifier(
                    v[i],
                    a_cmd[j] * level[t],
                    a_ref[j],
                    a_ohm[j],
                    a_pf[j],
                    a_ch[j],
                    a_k[j],
                    a_drop[j],
                    a_idle[j],
                    a_lin[j],
                    a_quad[j],
                    a_family[j],
                    a_flat[j],
                )
            if v[i] < a_cut[j]:
                if now >= off_until[j]:
                    o_off[j] += 1
                off_until[j] = now + BACK_ON_S
        for i in range(n):
            o_volts[t, i] = v[i]


_steps: Callable[..., None] = _run
