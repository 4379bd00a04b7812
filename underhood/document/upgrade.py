"""Job documents of every version, read as the newest: what older programs wrote goes on being read.

Each step takes a plain document of one version to the next. Left out: whether its values are allowed (see `problems`),
so that a value that no longer passes can be shown where it stands.
"""

from __future__ import annotations

import copy
import math
from collections.abc import Callable
from typing import Any

from pydantic import ValidationError

from underhood.document import paths
from underhood.document.job import FORMAT, VERSION, JobDocument
from underhood.document.quantity import explain, quote
from underhood.errors import BadInput

Document = dict[str, Any]
STEPS: dict[int, Callable[[Document], Document]] = {}
"""By the version they start from. Version 1 is the first and, so far, the only one: later keys were all optional."""
OLD_ENVELOPE_DB = -5.0
"""An old envelope's 1 was the full commanded volts: what a band at the usual overlap below full scale now asks for."""
SILENCE = 1e-6

_READS = f"this program reads version {VERSION}" if VERSION == 1 else f"this program reads versions 1 to {VERSION}"


def upgraded(document: Document) -> Document:
    """A plain document as the newest version writes it; the one given is not changed.

    Raises BadInput for what is no job document, and for a version that is newer than this program.
    """
    if not isinstance(document, dict) or document.get("format", FORMAT) != FORMAT:
        raise BadInput(f'not a job file: it must be an object with "format": "{FORMAT}"', "format")
    version = document.get("version", VERSION)
    if version not in (*STEPS, VERSION):
        raise BadInput(f"{quote(version)} cannot be read; {_READS}", "version", value=version)
    now = copy.deepcopy(document)
    while version != VERSION:
        now = STEPS[version](now)
        version = now["version"]
    _envelope_as_bands(now)
    _isolators_by_kind(now)
    return now


def _isolators_by_kind(document: Document) -> None:
    """An isolator that was there or not: those that were are relays."""
    banks = document.get("banks")
    for bank in banks if isinstance(banks, list) else ():
        if isinstance(bank, dict) and isinstance(bank.get("isolator"), bool):
            bank["isolator"] = "relay" if bank["isolator"] else "none"


def _envelope_as_bands(document: Document) -> None:
    """A recording that was kept as one envelope below the crossover: all of it in the 63 Hz band, as loud as it was."""
    basis = document.get("basis")
    file = basis.get("programme_file") if isinstance(basis, dict) else None
    if not isinstance(file, dict) or "envelope" not in file:
        return
    levels = file["envelope"]
    if isinstance(levels, list) and all(isinstance(each, int | float) for each in levels):
        del file["envelope"]
        file["bands"] = {"63": [round(20 * math.log10(max(each, SILENCE)) + OLD_ENVELOPE_DB, 2) for each in levels]}


def problems(document: Document) -> list[BadInput]:
    """What is wrong with the values of a document of the newest version; empty where it can be used."""
    try:
        JobDocument.model_validate(document)
    except ValidationError as error:
        return explain(error).each()
    return []


def opened(document: Document) -> tuple[Document, list[BadInput]]:
    """(a document as the newest version writes it, complete with what is assumed; what is wrong with its values).

    A value that an older release took and this one refuses stands where it stood, to be seen and changed.
    Raises BadInput where it is no job document of a version that can be read.
    """
    now = upgraded(document)
    wrong = problems(now)
    sound = copy.deepcopy(now)
    for each in wrong:
        way, _, last = each.field.rpartition(".")
        try:
            around = paths.get(sound, way)
        except (KeyError, IndexError):  # what it stood in is wrong itself and gone
            continue
        if not isinstance(around, dict):
            return now, wrong
        around.pop(last, None)
    if problems(sound):
        return now, wrong
    whole = JobDocument.model_validate(sound).document()
    for each in wrong:
        paths.put(whole, each.field, paths.get(now, each.field))
    return whole, wrong


def read_document(document: Document) -> JobDocument:
    """The job in a plain document of any version. Raises BadInput naming everything that is wrong."""
    now = upgraded(document)
    try:
        return JobDocument.model_validate(now)
    except ValidationError as error:
        raise explain(error) from None
