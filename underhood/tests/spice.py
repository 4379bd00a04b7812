"""Run a circuit in ngspice and read its answer: the outside check of circuits."""

from __future__ import annotations

import subprocess
import tempfile
from pathlib import Path

import numpy as np


def ac(elements: list[str], low_hz: float, high_hz: float, points_per_decade: int) -> tuple[np.ndarray, np.ndarray]:
    """(Hz, complex impedance) seen by a 1 A source from node 1 to ground, by ngspice's AC analysis."""
    with tempfile.TemporaryDirectory() as folder:
        out = Path(folder) / "out.txt"
        netlist = [
            "impedance",
            *elements,
            "I1 0 1 AC 1",
            f".ac dec {points_per_decade} {low_hz} {high_hz}",
            ".control",
            "set wr_singlescale",
            "set numdgt=12",
            "option numdgt=12",
            "run",
            f"wrdata {out} v(1)",
            "quit",
            ".endc",
            ".end",
        ]
        path = Path(folder) / "circuit.cir"
        path.write_text("\n".join(netlist) + "\n", encoding="utf-8")
        subprocess.run(["ngspice", "-b", str(path)], capture_output=True, check=True, timeout=60)  # noqa: S603, S607
        hz, real, imaginary = np.loadtxt(out).T[:3]
        return hz, real + 1j * imaginary


def transient(netlist: list[str], seconds: float, step_s: float, nodes: list[str]) -> tuple[np.ndarray, np.ndarray]:
    """(time, volts (t, n)) of a circuit by ngspice's transient analysis from the given initial state, evenly spaced."""
    with tempfile.TemporaryDirectory() as folder:
        out = Path(folder) / "out.txt"
        wanted = " ".join(f"v({node})" for node in nodes)
        text = [
            "session",
            *netlist,
            f".tran {step_s} {seconds} 0 {step_s} uic",
            ".control",
            "set wr_singlescale",
            "set numdgt=10",
            "run",
            "linearize " + wanted,
            f"wrdata {out} {wanted}",
            "quit",
            ".endc",
            ".end",
        ]
        path = Path(folder) / "circuit.cir"
        path.write_text("\n".join(text) + "\n", encoding="utf-8")
        subprocess.run(["ngspice", "-b", str(path)], capture_output=True, check=True, timeout=300)  # noqa: S603, S607
        table = np.loadtxt(out)
        return table[:, 0], table[:, 1:]


def operating_point(netlist: list[str], nodes: list[str]) -> list[float]:
    """Volts of nodes at ngspice's operating point."""
    with tempfile.TemporaryDirectory() as folder:
        out = Path(folder) / "out.txt"
        wanted = " ".join(f"v({node})" for node in nodes)
        text = [
            "steady",
            *netlist,
            ".control",
            "set numdgt=10",
            "op",
            f"print {wanted} > {out}",
            "quit",
            ".endc",
            ".end",
        ]
        path = Path(folder) / "circuit.cir"
        path.write_text("\n".join(text) + "\n", encoding="utf-8")
        subprocess.run(["ngspice", "-b", str(path)], capture_output=True, check=True, timeout=60)  # noqa: S603, S607
        return [float(line.split("=")[1]) for line in out.read_text().splitlines() if "=" in line]
