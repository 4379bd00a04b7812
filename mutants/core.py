"""`python -m mutants.core`: a seeded sample of the core's possible faults, each against its own package's tests.

cosmic-ray makes the faults; Django's runner runs the tests of the package that the fault is in, in as many copies of
the tree as there are processors. What no test notices is listed with its difference. Left out of the sample: type
annotations, which nothing runs, and decorators that only remember results.
"""

from __future__ import annotations

import argparse
import ast
import json
import os
import random
import shutil
import sys
import tempfile
from collections import Counter
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path
from typing import Any

from cosmic_ray.commands.init import _all_work_items
from cosmic_ray.mutating import mutate_and_test
from cosmic_ray.testing import run_tests
from cosmic_ray.work_item import MutationSpec, TestOutcome

ROOT = Path(__file__).resolve().parents[1]
COPIED = ("underhood", "underhood_server", "benchmarks", "manage.py", "pyproject.toml")
SEED, SAMPLE, TIMEOUT_S = 20261126, 200, 150
WHOLE = "underhood.tests.test_values"
"""The tests of the modules that stand beside the packages."""
REMEMBERED = ("cache", "lru_cache", "cached_property")


def modules() -> list[Path]:
    """Every module of the core, relative to the root."""
    found = [path.relative_to(ROOT) for path in sorted((ROOT / "underhood").rglob("*.py"))]
    return [path for path in found if "tests" not in path.parts and path.name not in ("__init__.py", "__main__.py")]


def tests_of(path: Path) -> str:
    """The tests of a module's package."""
    return f"underhood.tests.{path.parts[1]}" if len(path.parts) > 2 else WHOLE


def sample(count: int, seed: int, only: str = "") -> list[MutationSpec]:
    """Faults drawn by a seed from all that can be made."""
    chosen = [path for path in modules() if str(path).startswith(only)]
    found = [mutation for item in _all_work_items(chosen, {}) for mutation in item.mutations]
    found = [each for each in found if not _says_nothing(each)]
    return random.Random(seed).sample(found, min(count, len(found)))


def _says_nothing(fault: MutationSpec) -> bool:
    line, column = fault.start_pos
    return any(first <= (line, column) < last for first, last in _unrun(str(fault.module_path)))


_SPANS: dict[str, list[tuple[tuple[int, int], tuple[int, int]]]] = {}


def _unrun(path: str) -> list[tuple[tuple[int, int], tuple[int, int]]]:
    """Where a module's annotations and its remembering decorators stand, as ((line, column), (line, column))."""
    if path not in _SPANS:
        tree = ast.parse((ROOT / path).read_text(encoding="utf-8"))
        _SPANS[path] = [
            ((each.lineno, each.col_offset - 1), (each.end_lineno or 0, each.end_col_offset or 0))
            for each in _annotations(tree)
        ]
    return _SPANS[path]


def _annotations(tree: ast.AST) -> Iterator[ast.expr]:
    for node in ast.walk(tree):
        if isinstance(node, ast.AnnAssign) or (isinstance(node, ast.arg) and node.annotation):
            yield node.annotation
        elif isinstance(node, ast.FunctionDef | ast.ClassDef):
            if isinstance(node, ast.FunctionDef) and node.returns:
                yield node.returns
            yield from (each for each in node.decorator_list if any(word in ast.unparse(each) for word in REMEMBERED))


def run(faults: list[tuple[int, MutationSpec]]) -> list[tuple[int, dict[str, Any]]]:
    """Each fault in a copy of the tree of this process's own."""
    results = []
    with tempfile.TemporaryDirectory() as folder:
        for name in COPIED:
            source, target = ROOT / name, Path(folder) / name
            if source.is_dir():
                shutil.copytree(source, target, ignore=shutil.ignore_patterns("__pycache__", "interface"))
            else:
                shutil.copy(source, target)
        os.chdir(folder)
        os.environ.update({"UNDERHOOD_DATA": folder, "PYTHONPATH": folder, "PYTHONDONTWRITEBYTECODE": "1"})
        for label in {tests_of(Path(fault.module_path)) for _, fault in faults}:
            outcome, output = run_tests(_command(label), TIMEOUT_S)
            assert outcome == TestOutcome.SURVIVED, output  # a test that fails by itself would notice every fault
        for number, fault in faults:
            result = mutate_and_test([fault], _command(tests_of(Path(fault.module_path))), TIMEOUT_S)
            told = {
                "module": str(fault.module_path),
                "line": fault.start_pos[0],
                "operator": fault.operator_name.split("/")[-1],
                "killed": result.test_outcome != TestOutcome.SURVIVED,
                "outcome": str(result.test_outcome),
                "diff": result.diff,
            }
            results.append((number, told))
            print("." if told["killed"] else "S", end="", flush=True)
    return results


def _command(label: str) -> str:
    return f"{sys.executable} manage.py test {label} --failfast --noinput"


def main() -> int:
    """The sample's table; every survivor with its difference."""
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--count", type=int, default=SAMPLE)
    options.add_argument("--seed", type=int, default=SEED)
    options.add_argument("--only", default="", help="modules whose path begins so, e.g. underhood/circuit")
    options.add_argument("--json", help="where to keep the results")
    asked = options.parse_args()
    faults = list(enumerate(sample(asked.count, asked.seed, asked.only)))
    cores = os.cpu_count() or 1
    with ProcessPoolExecutor(cores) as pool:
        results = dict(each for part in pool.map(run, [faults[n::cores] for n in range(cores)]) for each in part)
    rows = [results[number] for number, _ in faults]
    if asked.json:
        Path(asked.json).write_text(json.dumps(rows, indent=1), encoding="utf-8")
    print()
    for row in rows:
        if not row["killed"]:
            changed = [line for line in row["diff"].splitlines() if line[:1] in "+-" and line[:3] not in ("+++", "---")]
            print(f"survived: {row['module']}:{row['line']}", *changed, sep="\n    ")
    _table(rows)
    return 0


def _table(rows: list[dict[str, Any]]) -> None:
    total, killed = Counter(), Counter()
    for row in rows:
        package = "/".join(Path(row["module"]).parts[:2])
        total[package] += 1
        killed[package] += row["killed"]
    for package in sorted(total):
        print(f"  {package:<28}{killed[package]:>4} of {total[package]}")
    print(f"  the core: {sum(killed.values())} of {len(rows)}, {sum(killed.values()) / max(len(rows), 1):.0%}")


if __name__ == "__main__":
    raise SystemExit(main())
