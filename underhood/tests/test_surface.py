"""What each room shows of itself: its modules, and in each the names that others may take."""

import ast
import unittest
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
CORE = ROOT / "underhood"


def name_of(path: Path) -> str:
    return ".".join(path.relative_to(ROOT).with_suffix("").parts).removesuffix(".__init__")


def shown(path: Path) -> list[str] | None:
    """The `__all__` of a module, read without running it."""
    for node in ast.parse(path.read_text(encoding="utf-8")).body:
        if isinstance(node, ast.Assign) and ast.unparse(node.targets[0]) == "__all__":
            return ast.literal_eval(node.value)
    return None


class Surface(unittest.TestCase):
    modules = tuple(path for path in sorted(CORE.rglob("*.py")) if "tests" not in path.parts)

    def test_every_package_names_its_modules_and_every_module_what_it_shows(self):
        for path in self.modules:
            if path.name == "__main__.py" or (path.parent == CORE and path.name == "__init__.py"):
                continue
            with self.subTest(name_of(path)):
                names = shown(path)
                self.assertIsNotNone(names)
                self.assertEqual(len(names), len(set(names)))
                if path.name == "__init__.py" and path.parent.name != "reference":
                    inside = {each.stem for each in path.parent.glob("*.py")} - {"__init__"}
                    self.assertEqual(set(names), inside)

    def test_nobody_takes_a_name_that_a_module_does_not_show(self):
        surface = {name_of(path): shown(path) or [] for path in self.modules}
        takers = [*self.modules, *(ROOT / "underhood_server").rglob("*.py")]
        for path in takers:
            if "tests" in path.parts or "migrations" in path.parts:
                continue
            for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
                if isinstance(node, ast.ImportFrom) and surface.get(node.module or ""):
                    taken = {each.name for each in node.names if f"{node.module}.{each.name}" not in surface}
                    self.assertLessEqual(taken, set(surface[node.module]), f"{name_of(path)} from {node.module}")
