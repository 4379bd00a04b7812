"""What each room shows of itself: its modules, and in each the names that do not begin with an underscore."""

import ast
import unittest
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
CORE = ROOT / "underhood"


def name_of(path: Path) -> str:
    return ".".join(path.relative_to(ROOT).with_suffix("").parts).removesuffix(".__init__")


def shown(path: Path) -> list[str]:
    """The `__all__` of a package, read without running it."""
    for node in ast.parse(path.read_text(encoding="utf-8")).body:
        if isinstance(node, ast.Assign) and ast.unparse(node.targets[0]) == "__all__":
            return ast.literal_eval(node.value)
    return []


class Surface(unittest.TestCase):
    modules = tuple(path for path in sorted(CORE.rglob("*.py")) if "tests" not in path.parts)

    def test_every_package_names_its_modules(self):
        for path in self.modules:
            if path.name == "__init__.py" and path.parent not in (CORE, CORE / "reference"):
                with self.subTest(name_of(path)):
                    inside = sorted(each.stem for each in path.parent.glob("*.py") if each.stem != "__init__")
                    self.assertEqual(sorted(shown(path)), inside)

    def test_nobody_takes_what_is_another_modules_own(self):
        for path in [*self.modules, *(ROOT / "underhood_server").rglob("*.py")]:
            if "tests" in path.parts:
                continue
            for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
                if isinstance(node, ast.ImportFrom):
                    taken = [each.name for each in node.names if each.name.startswith("_") and node.module]
                    taken = [name for name in taken if not node.module.startswith("__")]
                    self.assertEqual(taken, [], f"{name_of(path)} from {node.module}")
