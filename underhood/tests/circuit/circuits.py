"""Circuits written down as rows for the engine, without a job: what its tests try it on."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

from underhood.circuit import compiled, kernel, switching
from underhood.circuit import table as t

FLAT = np.zeros((3, 0, 6, 2))


class Drawn:
    """A circuit drawn element by element; node 0 is the front battery's."""

    def __init__(self, nodes: int) -> None:
        self.count = nodes
        self._el: list[np.ndarray] = []
        self._st: list[np.ndarray] = []
        self._links: list[np.ndarray] = []
        self.amplifiers = 0

    def _put(self, of: dict[int, float], state: dict[int, float] | None = None) -> int:
        row, st = np.zeros(t.ELEMENT_COLUMNS), np.zeros(t.STATE_COLUMNS)
        row[list(of)] = list(of.values())
        if state:
            st[list(state)] = list(state.values())
        self._el.append(row)
        self._st.append(st)
        return len(self._el) - 1

    def charger(self, node: int, set_v: float, ohm: float, limit_a: float, **of: float) -> int:
        """A charger; with `source` a converter fed from that node."""
        return self._put({
            t.KIND: t.CHARGER, t.NODE: node, t.SET_V: set_v, t.SOURCE_OHM: ohm, t.LIMIT_A: limit_a,
            t.INPUT: of.get("source", -1), t.EFFICIENCY: of.get("efficiency", 0.9), t.IDLE_W: of.get("idle_w", 0.0),
            t.INPUT_LIMIT_A: of.get("input_limit_a", math.inf), t.CUTOUT_V: of.get("cutout_v", 1.0),
            t.RESTART_V: of.get("restart_v", 1.0),
        })  # fmt: skip

    def bank(self, node: int, ocv_v: float, discharge_ohm: float, charge_ohm: float) -> int:
        """A bank with ohms of either way in all, a fifth of the first its polarisation's."""
        r0 = discharge_ohm / 1.2
        return self._put(
            {
                t.KIND: t.BANK, t.NODE: node, t.R0_OHM: r0, t.R1_DISCHARGE_OHM: discharge_ohm - r0,
                t.R1_CHARGE_OHM: charge_ohm - r0, t.FAST_F: 10.0, t.SLOW_F: 2000.0, t.CAPACITY_AS: 252_000.0,
                t.TWENTY_HOUR_A: 3.5, t.PEUKERT: 1.0, t.ABSORPTION_V: 14.7, t.FULL: 0.005, t.CHARGE_LIMIT_A: math.inf,
                t.STEADY_LIMIT_A: math.inf, t.PEAK_LIMIT_A: math.inf, t.START_CHARGE: 1.0,
                **{t.OCV_CHARGE + k: min(k, 1) for k in range(t.OCV_POINTS)},
                **{t.OCV_VOLTS + k: ocv_v for k in range(t.OCV_POINTS)},
            },
            {t.CHARGE: 1.0, t.OCV_V: ocv_v, t.CHARGING_OHM: charge_ohm - r0},
        )  # fmt: skip

    def load(self, node: int, amps: float) -> int:
        """Constant amps."""
        return self._put({t.KIND: t.LOAD, t.NODE: node, t.LOAD_A: amps})

    def power(self, node: int, watts: float, dropout_v: float = 1e-3, off_below_v: float = 0.0) -> int:
        """A regulated amplifier without losses: constant watts; below its drop-out a resistance."""
        self.amplifiers += 1
        return self._put(
            {
                t.KIND: t.AMPLIFIER, t.NODE: node, t.ORDINAL: self.amplifiers - 1, t.REFERENCE_V: math.sqrt(watts),
                t.LOAD_OHM: 1.0, t.POWER_FACTOR: 1.0, t.CHANNELS: 1.0, t.EXPONENT: 0.0, t.DROPOUT_V: dropout_v,
                t.OFF_BELOW_V: off_below_v, t.SUPPLY_SCALE: 1.0, t.PEAK_LEVEL: 1.0, t.FULL_SHARE: 1.0,
            },
            {t.COMMANDED_V: math.sqrt(watts)},
        )  # fmt: skip

    def capacitor(self, node: int, farad: float, ohm: float, volts: float) -> int:
        """A capacitor bank at some volts."""
        return self._put({t.KIND: t.CAPACITOR, t.NODE: node, t.FARAD: farad, t.ESR_OHM: ohm}, {t.HELD_V: volts})

    def link(self, start: int, end: int, ohm: float, diode_v: float = 0.0) -> int:
        """A cable, perhaps with a diode."""
        row = np.zeros(t.LINK_COLUMNS)
        of = {t.START: start, t.END: end, t.COLD_OHM: ohm, t.DIODE_V: diode_v, t.SWITCH: -1, t.SWITCH_2: -1}
        row[list(of)] = list(of.values())
        self._links.append(row)
        return len(self._links) - 1

    def arrays(self) -> tuple[np.ndarray, ...]:
        """(el, st, links, nodes, levels, held, work), laid."""
        m, e, n, c = self.amplifiers, len(self._el), self.count, len(self._links)
        el, st = np.array(self._el), np.array(self._st)
        links = np.array(self._links).reshape(-1, t.LINK_COLUMNS)
        nodes = np.zeros((n, t.NODE_COLUMNS))
        for row in el:
            if row[t.KIND] == t.AMPLIFIER:
                nodes[int(row[t.NODE]), t.LOWEST_V] = max(nodes[int(row[t.NODE]), t.LOWEST_V], row[t.OFF_BELOW_V])
        switching.lay(st, links)
        switching.enliven(el, st, links, nodes)
        held = np.array([[1.0] * m, [1.0] * m, [0.0] * m])
        return el, st, links, nodes, np.zeros((3, m, 6, 2)), held, np.zeros((kernel.MATRIX + n, max(n, e, c)))

    def volts(self, dt: float = math.inf, newton: Callable[..., int] | None = None) -> tuple[np.ndarray, float]:
        """(node volts, drive) followed from silence; drive -1 for none."""
        el, st, links, nodes, levels, held, work = self.arrays()
        v = np.zeros(work.shape[1])
        drive = kernel.solved(
            newton or compiled.newton(), el, st, links, nodes, levels, held, t.HELD, dt, False, v, work
        )
        return v[: self.count], drive

    def missing(self, v: np.ndarray, dt: float = math.inf) -> np.ndarray:
        """Amps that do not balance at each node at some volts."""
        el, st, links, _, levels, held, work = self.arrays()
        given = np.zeros(work.shape[1])
        given[: self.count] = v
        kernel.balance(el, st, links, levels, held, t.HELD, 1.0, dt, given, work)
        return work[kernel.MISS, : self.count].copy()

    def downhill(self, start: np.ndarray) -> np.ndarray | None:
        """The stable state that volts come to; None for none."""
        el, st, links, nodes, levels, held, work = self.arrays()
        v = np.zeros(work.shape[1])
        v[: self.count] = start
        ended = compiled.newton()(el, st, links, nodes, levels, held, t.HELD, 1.0, math.inf, v, work, kernel.MOST_STEPS)
        return v[: self.count] if ended == kernel.STABLE else None
