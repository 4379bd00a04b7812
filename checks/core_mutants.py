"""`python -m checks.core_mutants`: a seeded sample of the core's possible faults, each against its own package's tests.

cosmic-ray makes the faults; Django's runner runs the tests of the package that the fault is in, in as many copies of
the tree as there are processors. First all of those tests run once without a fault: one that fails by itself would
notice every fault. What no test notices is listed with its difference; what ran out of time, as a loop without an end
does, is noticed, and counted apart, for a slow machine looks like it. Left out of the sample: type
annotations, which nothing runs, decorators that only remember results or keep somebody from writing to a result (mypy
holds those), and `is` put for `==` or the reverse, which are the same for the words, small numbers and None that this
code compares so.
"""

from __future__ import annotations

import argparse
import ast
import difflib
import importlib
import json
import os
import random
import shutil
import signal
import sys
import tempfile
from collections import Counter
from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from pathlib import Path
from typing import Any, NamedTuple

import django
from cosmic_ray.commands.init import _all_work_items
from cosmic_ray.mutating import use_mutation
from cosmic_ray.plugins import get_operator
from cosmic_ray.work_item import MutationSpec
from django.conf import settings
from django.test.utils import get_runner

# What the core imports: each fault's process starts with it in memory.
for library in ("numba", "numpy", "pydantic", "scipy.interpolate", "scipy.optimize", "scipy.signal", "soundfile"):
    importlib.import_module(library)

ROOT = Path(__file__).resolve().parents[1]
SEED, SAMPLE = 20261135, 200
WITHOUT_S, WITH_S = 1800, 400
"""What a package's tests are given: without a fault, when all may have to be compiled, and with one."""
BESIDE = tuple(f"underhood.tests.{path.stem}" for path in sorted((ROOT / "underhood/tests").glob("test_*.py")))
"""The tests of the modules that stand beside the packages."""
THE_SAME = ("Eq_Is", "NotEq_IsNot", "Is_Eq", "IsNot_NotEq")
UNSEEN = ("cache", "lru_cache", "cached_property", "dataclass")


WORDS = {"passed": "survived", "late": "out of time"}


class End(NamedTuple):
    """How tests end: `passed`, `failed` or `late`, and what they printed."""

    how: str
    told: str


def modules() -> list[Path]:
    """Every module of the core, relative to the root."""
    found = [path.relative_to(ROOT) for path in sorted((ROOT / "underhood").rglob("*.py"))]
    return [path for path in found if "tests" not in path.parts and path.name not in ("__init__.py", "__main__.py")]


def tests_of(path: Path) -> tuple[str, ...]:
    """The tests of a module's package."""
    return (f"underhood.tests.{path.parts[1]}",) if len(path.parts) > 2 else BESIDE


def sample(count: int, seed: int, only: str = "") -> list[MutationSpec]:
    """Faults drawn by a seed from all that can be made."""
    chosen = [path for path in modules() if str(path).startswith(only)]
    found = [mutation for item in _all_work_items(chosen, {}) for mutation in item.mutations]
    found = [each for each in found if not _says_nothing(each)]
    return random.Random(seed).sample(found, min(count, len(found)))


def _says_nothing(fault: MutationSpec) -> bool:
    if fault.operator_name.endswith(tuple(f"Operator_{each}" for each in THE_SAME)):
        return True
    line, column = fault.start_pos
    return any(first <= (line, column) < last for first, last in _unrun(str(fault.module_path)))


_SPANS: dict[str, list[tuple[tuple[int, int], tuple[int, int]]]] = {}


def _unrun(path: str) -> list[tuple[tuple[int, int], tuple[int, int]]]:
    """Where annotations and the decorators that change no answer stand, as ((line, column), (line, column))."""
    if path not in _SPANS:
        tree = ast.parse((ROOT / path).read_text(encoding="utf-8"))
        _SPANS[path] = [
            ((each.lineno, each.col_offset - 1), (each.end_lineno or 0, each.end_col_offset or 0))
            for each in _annotations(tree)
        ]
    return _SPANS[path]


def _annotations(tree: ast.AST) -> Iterator[ast.expr]:
    for node in ast.walk(tree):
        if isinstance(node, ast.AnnAssign | ast.arg) and node.annotation:
            yield node.annotation
        elif isinstance(node, ast.FunctionDef | ast.ClassDef):
            if isinstance(node, ast.FunctionDef) and node.returns:
                yield node.returns
            yield from (each for each in node.decorator_list if any(word in ast.unparse(each) for word in UNSEEN))


def run(faults: list[tuple[int, MutationSpec]]) -> list[tuple[int, dict[str, Any]]]:
    """Each fault in a copy of the tree of this process's own."""
    results = []
    with tempfile.TemporaryDirectory() as folder:
        shutil.copytree(ROOT, folder, ignore=_left_behind, dirs_exist_ok=True)
        os.chdir(folder)
        sys.path.insert(0, folder)
        os.environ.update({"PYTHONPATH": folder, "PYTHONDONTWRITEBYTECODE": "1"})
        for number, fault in faults:
            path = Path(fault.module_path)
            operator = get_operator(fault.operator_name)(**fault.operator_args)
            with use_mutation(path, operator, fault.occurrence) as (before, after):
                end = tried(tests_of(path), WITH_S).how
            told = {"module": str(path), "line": fault.start_pos[0], "end": end, "diff": _changed(before, after)}
            results.append((number, told))
            print("." if end == "failed" else f"\n{WORDS[end]}: {path}:{told['line']}\n{told['diff']}\n", end="")
            sys.stdout.flush()
    return results


def _left_behind(folder: str, names: list[str]) -> set[str]:
    kept = {"underhood", "underhood_server", "benchmarks", "docs", "pyproject.toml"}
    if Path(folder) == ROOT:
        return set(names) - kept
    # The compiled loops go along: they are minutes of work, and are known by what they are made of.
    return {each for each in names if each in ("interface", "screenshots") or each.endswith(".pyc")}


def tried(labels: Sequence[str], seconds: float) -> End:
    """How a package's tests end, in a process that has the libraries already and reads the core afresh."""
    with tempfile.TemporaryFile("w+", encoding="utf-8") as told:
        child = get_context("fork").Process(target=_tests, args=(labels, told.fileno()))
        child.start()
        child.join(seconds)
        late = child.is_alive()
        if late:
            os.killpg(child.pid or 0, signal.SIGKILL)
            child.join()
        told.seek(0)
        return End("late" if late else "failed" if child.exitcode else "passed", told.read())


def _tests(labels: Sequence[str], told: int) -> None:
    os.setsid()
    os.dup2(told, 1)
    os.dup2(told, 2)
    runner = get_runner(settings)(failfast=True, interactive=False, verbosity=0)
    os._exit(runner.run_tests(list(labels)) > 0)


def _changed(before: str, after: str) -> str:
    lines = difflib.unified_diff(before.splitlines(), after.splitlines(), n=0, lineterm="")
    return "\n".join(f"    {line}" for line in lines if line[:3] not in ("+++", "---") and line[:1] in "+-")


def main() -> int:
    """The sample's table; every survivor with its difference."""
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--count", type=int, default=SAMPLE)
    options.add_argument("--seed", type=int, default=SEED)
    options.add_argument("--only", default="", help="modules whose path begins so, e.g. underhood/circuit")
    options.add_argument("--json", help="where to keep the results")
    asked = options.parse_args()
    faults = list(enumerate(sample(asked.count, asked.seed, asked.only)))
    settings.configure(TEST_RUNNER="underhood_server.config.test_runner.CountingRunner")
    django.setup()
    for labels in sorted({tests_of(Path(fault.module_path)) for _, fault in faults}):
        how, told = tried(labels, WITHOUT_S)
        if how != "passed":
            raise SystemExit(f"{labels[0]} without a fault: {how}\n{told}")
    cores = os.cpu_count() or 1
    with ProcessPoolExecutor(cores) as pool:
        results = dict(each for part in pool.map(run, [faults[n::cores] for n in range(cores)]) for each in part)
    rows = [results[number] for number, _ in faults]
    if asked.json:
        Path(asked.json).write_text(json.dumps(rows, indent=1), encoding="utf-8")
    print()
    _table(rows)
    return 0


def _table(rows: list[dict[str, Any]]) -> None:
    total: Counter[str] = Counter()
    killed: Counter[str] = Counter()
    for row in rows:
        package = "/".join(Path(row["module"]).parts[:2])
        total[package] += 1
        killed[package] += row["end"] != "passed"
    for package in sorted(total):
        print(f"  {package:<28}{killed[package]:>4} of {total[package]}")
    late = sum(row["end"] == "late" for row in rows)
    share = sum(killed.values()) / max(len(rows), 1)
    print(f"  the core: {sum(killed.values())} of {len(rows)}, {share:.0%}; {late} of them out of time")


if __name__ == "__main__":
    raise SystemExit(main())
