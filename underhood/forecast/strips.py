"""What each amplifier of a job plays, as strips to be drawn: amplifiers that play alike share one.

Left out: how loud it comes out (see `forecast`).
"""

from __future__ import annotations

from dataclasses import dataclass

from underhood.circuit.build import build_circuit
from underhood.document.job import OCTAVES, JobDocument
from underhood.programme import envelopes
from underhood.programme.envelopes import Envelope, EnvelopeStrip


@dataclass(frozen=True, slots=True)
class AmplifierStrip:
    """Levels over time, and the names of the amplifiers that play them; none for a job without amplifiers."""

    amplifiers: list[str]
    strip: EnvelopeStrip


def strips(job: JobDocument) -> list[AmplifierStrip]:
    """The bands that a job's amplifiers play; all of the programme where it has none."""
    circuit = build_circuit(job)
    found: list[tuple[Envelope, list[str]]] = []
    for loaded, envelope in zip(circuit.loaded, circuit.envelopes, strict=True):
        names = next((names for other, names in found if other is envelope), None)
        if names is None:
            found.append((envelope, [circuit.labels[loaded.amplifier.id]]))
        else:
            names.append(circuit.labels[loaded.amplifier.id])
    return [AmplifierStrip(names, envelopes.strip(envelope)) for envelope, names in found or [(_all(job), [])]]


def _all(job: JobDocument) -> Envelope:
    """The whole programme, as an amplifier without filters would play it."""
    signal = envelopes.common_signal(job.basis)
    return signal or envelopes.in_band(envelopes.bands_of_basis(job.basis), (1.0,) * len(OCTAVES), 0.0)
