"""What the house holds itself to: short functions, few parameters, every field said."""

from __future__ import annotations

import ast
import re
import subprocess
import unittest
from pathlib import Path

ROOT = Path(__file__).resolve().parents[2]
#: Longest function, most parameters, deepest nesting; kernels may be longer and flat loops deep.
LONGEST, MOST, DEEPEST = 60, 8, 5
#: A bundle of so many fields says each of them in a comment.
FIELDS = 8


#: How a docstring says how long an array is, or what an entry of it is for.
SHAPE = re.compile(r"\(\w+(, ?\w+)*( [+-] 1)?(, ?\w+)*,?\)|\bper |\bmm\b|\beach\b|\bas many\b")


def files(*patterns: str) -> list[Path]:
    listed = ["git", "ls-files", "--cached", "--others", "--exclude-standard", *patterns]
    found = subprocess.run(listed, cwd=ROOT, capture_output=True, text=True, check=True)
    paths = [ROOT / line for line in found.stdout.split()]
    return [path for path in paths if path.exists() and "migrations" not in path.parts]


def is_kernel(function: ast.FunctionDef) -> bool:
    return any("njit" in ast.unparse(decorator) for decorator in function.decorator_list)


def is_stub(function: ast.FunctionDef) -> bool:
    return ast.unparse(function.body[-1]) == "..."


def depth(node: ast.AST) -> int:
    """How deep blocks lie in each other."""
    deepest = 0
    for child in ast.iter_child_nodes(node):
        block = isinstance(child, ast.For | ast.While | ast.If | ast.With | ast.Try)
        chained = isinstance(node, ast.If) and child in node.orelse and isinstance(child, ast.If)
        deepest = max(deepest, depth(child) + (block and not chained))
    return deepest


class House(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        names = ("northpace/*.py", "service/*.py", "standin/*.py", "demo/*.py", "ops/*.py")
        cls.sources = {path: path.read_text() for path in files(*names)}
        cls.trees = {path: ast.parse(text) for path, text in cls.sources.items()}

    def functions(self):
        for path, tree in self.trees.items():
            for node in ast.walk(tree):
                if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef):
                    yield f"{path.relative_to(ROOT)}:{node.lineno} {node.name}", node

    def test_functions_are_short_and_take_few_things(self):
        for place, function in self.functions():
            if is_kernel(function):
                continue
            own = function.args
            names = [a.arg for a in own.posonlyargs + own.args + own.kwonlyargs]
            with self.subTest(place):
                lines = (function.end_lineno or 0) - function.lineno + 1
                self.assertLessEqual(lines, LONGEST)
                self.assertLessEqual(len([n for n in names if n not in ("self", "cls")]), MOST)
                self.assertLessEqual(depth(function), DEEPEST)

    def test_tests_are_short(self):
        for path in files("tests/*.py"):
            for node in ast.walk(ast.parse(path.read_text())):
                if isinstance(node, ast.FunctionDef):
                    with self.subTest(f"{path.relative_to(ROOT)}:{node.lineno} {node.name}"):
                        lines = (node.end_lineno or 0) - node.lineno + 1
                        self.assertLessEqual(lines, LONGEST)

    def test_polygons_are_worked_on_in_one_place(self):
        # what the kernel refuses is mended there and nowhere else
        work = ("buffer", "difference", "intersection", "union", "union_all", "make_valid")
        allowed = {"northpace/geometry/polygons.py", "northpace/part/lastresort.py"}
        for path, text in self.sources.items():
            if str(path.relative_to(ROOT)) not in allowed:
                self.assertEqual([name for name in work if f"shapely.{name}(" in text], [], path)

    def test_kernels_take_bundles(self):
        for place, function in self.functions():
            if is_kernel(function):
                with self.subTest(place):
                    self.assertLessEqual(len(function.args.args), MOST)

    def test_arrays_are_said_with_their_shapes(self):
        for path, tree in self.trees.items():
            if "northpace" not in path.parts:
                continue
            bodies = [tree.body, *(n.body for n in tree.body if isinstance(n, ast.ClassDef))]
            for node in (n for body in bodies for n in body if isinstance(n, ast.FunctionDef)):
                kinds = [a.annotation for a in node.args.args] + [node.returns]
                arrays = any(kind and "ndarray" in ast.unparse(kind) for kind in kinds)
                if not arrays or node.name.startswith("_") or is_stub(node):
                    continue
                with self.subTest(f"{path.relative_to(ROOT)}:{node.lineno} {node.name}"):
                    self.assertRegex(ast.get_docstring(node) or "", SHAPE)

    def test_every_field_of_a_large_bundle_is_said(self):
        for path, tree in self.trees.items():
            lines = self.sources[path].split("\n")
            for node in ast.walk(tree):
                kinds = ast.unparse(node) if isinstance(node, ast.ClassDef) else ""
                if "@dataclass" not in kinds.split("class ")[0] and "NamedTuple" not in kinds[:200]:
                    continue
                fields = [n for n in node.body if isinstance(n, ast.AnnAssign)]
                if len(fields) < FIELDS:
                    continue
                with self.subTest(f"{path.relative_to(ROOT)}:{node.lineno} {node.name}"):
                    above = lines[fields[0].lineno - 2].strip()
                    self.assertTrue(above.startswith("#"), "its first field has no comment")
                    said = sum("#:" in line for line in lines[node.lineno : node.end_lineno])
                    self.assertGreaterEqual(3 * said, len(fields))

    def test_rows_are_held_so_that_others_may_point_to_them(self):
        # two who hold a row each and point to the other's would wait for each other for ever
        wrong = [
            f"{path.name}: {line.strip()}"
            for path in files("service/*.py")
            for line in path.read_text().splitlines()
            if "select_for_update(" in line and "no_key=True" not in line
        ]
        self.assertEqual(wrong, [])

    def test_lines_fit(self):
        web = files("web/src/*.ts", "web/src/*.tsx", "web/tests/*.ts")
        for path in [*self.sources, *files("tests/*.py", "docs/*.py", "bench/*.py"), *web]:
            if path.name == "schema.d.ts":
                continue
            for number, line in enumerate(path.read_text().split("\n"), 1):
                self.assertLessEqual(len(line), 100, f"{path.relative_to(ROOT)}:{number}")
