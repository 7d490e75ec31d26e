"""What may lie in the repository: text, and pictures and fonts in their own places."""

import ast
import importlib
import inspect
import re
import subprocess
import types
import unittest
from graphlib import TopologicalSorter
from pathlib import Path

TOP = Path(__file__).parent.parent.parent
LARGEST_BYTES = 1_000_000
BINARY_PLACES = ("goodbalance/exchange/fonts/", "docs/screenshots/", "goodbalance/web/static/vendor/", "goodbalance/web/static/icon_")


class RepositoryTest(unittest.TestCase):
    def test_no_large_file_and_no_binary_outside_its_place(self) -> None:
        listed = subprocess.run(["git", "ls-files", "-z"], cwd=TOP, capture_output=True, text=True, check=False)
        if listed.returncode:
            self.skipTest("not a git checkout")
        files = [name for name in listed.stdout.split("\0") if name and (TOP / name).is_file()]
        self.assertIn("run", files)
        self.assertEqual([name for name in files if (TOP / name).stat().st_size > LARGEST_BYTES], [])
        strange = [name for name in files if not name.startswith(BINARY_PLACES) and b"\0" in (TOP / name).read_bytes()]
        self.assertEqual(strange, [])


class HouseTest(unittest.TestCase):
    """What docs/architecture.md claims of the house."""

    ORDER = ("names", "wording", "survey", "plant", "windows", "controller", "trials", "bench", "sheet", "proofs", "kind")
    LAYERS = ("core", "exchange", "store", "web", "demo", "standins", "launch")

    def imports(self, top: str) -> list[tuple[str, str]]:
        """Every module under a folder with each of our own modules it imports, by dotted name."""
        found = []
        for path in sorted((TOP / top).rglob("*.py")):
            module = ".".join(path.relative_to(TOP).with_suffix("").parts).removesuffix(".__init__")
            for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
                if isinstance(node, ast.ImportFrom) and node.module is not None:
                    parents = {node.module, *(f"{node.module}.{name.name}" for name in node.names)}
                    found += [(module, other) for other in parents if other.startswith(("goodbalance", "tests", "tools"))]
        return found

    def test_imports_run_downward(self) -> None:
        layers = {f"goodbalance.{layer}": place for place, layer in enumerate(self.LAYERS)}
        place = lambda module: layers.get(".".join(module.split(".")[:2]), 99)  # noqa: E731
        wrong = [(a, b) for a, b in self.imports("goodbalance") if place(b) > place(a) and place(b) != 99]
        lazily = {("goodbalance.launch.serving", "goodbalance.demo.kestrel_point")}
        self.assertEqual([pair for pair in wrong if pair not in lazily], [])
        self.assertEqual([pair for pair in self.imports("tools") if pair[1].startswith("tests")], [])

    def test_everything_public_in_the_core_says_what_it_is(self) -> None:
        silent, long = [], []
        for path in sorted((TOP / "goodbalance/core").rglob("*.py")):
            module = importlib.import_module(".".join(path.relative_to(TOP).with_suffix("").parts).removesuffix(".__init__"))
            for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
                if isinstance(node, ast.FunctionDef) and (node.end_lineno or 0) - node.lineno >= 60:
                    long.append(f"{path.name}: {node.name}")
            own = [(name, thing) for name, thing in vars(module).items() if getattr(thing, "__module__", "") == module.__name__]
            for name, thing in own:
                if name.startswith("_") or not (inspect.isclass(thing) or inspect.isfunction(thing)):
                    continue
                parts = vars(thing).items() if inspect.isclass(thing) else ()
                public = [part for part, what in parts if not part.startswith("_") and isinstance(what, types.FunctionType | property)]
                silent += [f"{module.__name__}.{name}"] if thing.__doc__ is None or thing.__doc__.startswith(f"{name}(") else []
                silent += [f"{module.__name__}.{name}.{part}" for part in public if not inspect.getdoc(getattr(thing, part))]
        self.assertEqual((silent, long), ([], []))

    def test_rooms_of_a_kind_build_on_each_other_in_one_order(self) -> None:
        for kind in ("lift", "booster", "transfer"):
            start = f"goodbalance.core.stations.{kind}."
            for module, other in self.imports(f"goodbalance/core/stations/{kind}"):
                if other.startswith(start) and module.startswith(start):
                    here, there = (name.removeprefix(start).split(".")[0] for name in (module, other))
                    self.assertLessEqual(self.ORDER.index(there), self.ORDER.index(here), (module, other))

    def test_the_core_has_no_circles(self) -> None:
        graph: dict[str, set[str]] = {}
        modules = {module for module, _ in self.imports("goodbalance/core")}
        for module, other in self.imports("goodbalance/core"):
            if other in modules and other != module:
                graph.setdefault(module, set()).add(other)
        self.assertIsNone(TopologicalSorter(graph).prepare())  # raises CycleError with the circle
        self.assertEqual([p.name for p in (TOP / "goodbalance/core").rglob("*.py") if "TYPE_CHECKING" in p.read_text(encoding="utf-8")], [])

    def test_nothing_outside_asks_which_kind_it_is(self) -> None:
        kinds = r"[\"'](lift|booster|transfer)[\"']"
        asked = []
        for path in (TOP / "goodbalance").rglob("*"):
            inside = "/kinds/" in str(path) or "/stations/" in str(path) or "/vendor/" in str(path) or "/demo/" in str(path)
            if path.suffix in (".py", ".html", ".js") and not inside:
                asked += [f"{path.name}: {line}" for line in path.read_text(encoding="utf-8").splitlines() if re.search(kinds, line)]
        self.assertEqual(asked, [])

    def test_rooms_are_small_and_templates_narrow(self) -> None:
        for path in (TOP / "goodbalance").rglob("*.py"):
            self.assertLessEqual(len(path.read_text(encoding="utf-8").splitlines()), 400, path)
        for path in (TOP / "goodbalance/web").rglob("*.html"):
            self.assertEqual([line for line in path.read_text(encoding="utf-8").splitlines() if len(line) > 120], [], path)
