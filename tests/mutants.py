"""Small faults put into the code one at a time, to see whether the tests of their module notice.

python -m tests.mutants 300 [SEED]    so many by chance over core and stages; those that live are listed
"""

from __future__ import annotations

import ast
import os
import random
import shutil
import subprocess
import sys
import tempfile
import threading
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

TOP = Path(__file__).parent.parent
_ROOMS = "core", "stages"
_PATIENCE = 1200
"""Seconds after which a run that does not end counts as noticed."""
_COMPARED: dict[type[ast.cmpop], type[ast.cmpop]] = {
    ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq,
}  # fmt: skip
_RECKONED: dict[type[ast.operator], type[ast.operator]] = {
    ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult, ast.FloorDiv: ast.Mult,
    ast.BitAnd: ast.BitOr, ast.BitOr: ast.BitAnd,
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Mutant:
    """One fault.

    Attributes:
        path: the module, from the top.
        place: which of the nodes that can be changed, in their order.
        line: where it stands.
        said: what was changed.
    """

    path: str
    place: int
    line: int
    said: str


class _Change(ast.NodeTransformer):
    """Changes one node, or none and lists what could be."""

    def __init__(self, place: int = -1) -> None:
        self.place, self.found = place, list[tuple[int, str]]()

    def _due(self, node: ast.expr, said: str) -> bool:
        self.found.append((node.lineno, said))
        return len(self.found) - 1 == self.place

    def visit_FunctionDef(self, node: ast.FunctionDef) -> ast.AST:
        # What is kept in memory changes no figure, nor do types.
        node.decorator_list, decorators = [], node.decorator_list
        node.returns, returns = None, node.returns
        self.generic_visit(node)
        node.decorator_list, node.returns = decorators, returns
        return node

    def visit_arg(self, node: ast.arg) -> ast.AST:
        return node

    def visit_AnnAssign(self, node: ast.AnnAssign) -> ast.AST:
        if node.value is not None:
            node.value = self.visit(node.value)
        return node

    def visit_Compare(self, node: ast.Compare) -> ast.AST:
        self.generic_visit(node)
        other = _COMPARED.get(type(node.ops[0]))
        if other is not None and self._due(node, f"{type(node.ops[0]).__name__} to {other.__name__}"):
            node.ops[0] = other()
        return node

    def visit_BinOp(self, node: ast.BinOp) -> ast.AST:
        self.generic_visit(node)
        other = _RECKONED.get(type(node.op))
        words = any(isinstance(each, ast.JoinedStr) for each in (node.left, node.right))
        if (
            other is not None
            and not words
            and self._due(node, f"{type(node.op).__name__} to {other.__name__}")
        ):
            node.op = other()
        return node

    def visit_Constant(self, node: ast.Constant) -> ast.AST:
        number = isinstance(node.value, int | float) and not isinstance(node.value, bool)
        if number and self._due(node, f"{node.value} to {node.value + 1}"):
            return ast.copy_location(ast.Constant(node.value + 1), node)
        return node

    def visit_BoolOp(self, node: ast.BoolOp) -> ast.AST:
        self.generic_visit(node)
        other = ast.Or if isinstance(node.op, ast.And) else ast.And
        if self._due(node, f"{type(node.op).__name__} to {other.__name__}"):
            node.op = other()
        return node

    def visit_UnaryOp(self, node: ast.UnaryOp) -> ast.AST:
        self.generic_visit(node)
        if isinstance(node.op, ast.Not | ast.USub | ast.Invert) and self._due(node, "sign or not taken out"):
            return node.operand
        return node


def every() -> list[Mutant]:
    """All that there could be."""
    out = []
    for room in _ROOMS:
        for path in sorted((TOP / "src/oat_tide" / room).rglob("*.py")):
            change = _Change()
            change.visit(ast.parse(path.read_text()))
            name = str(path.relative_to(TOP))
            out += [Mutant(name, place, line, said) for place, (line, said) in enumerate(change.found)]
    return out


def tests_of(path: str) -> list[str]:
    """The tests of a module: those of its room, and for a stage those of all stages and of its page."""
    parts = Path(path).with_suffix("").parts[2:]
    rooms = [TOP / "tests" / Path(*parts[:-1]), TOP / "tests" / parts[0]]
    found = [each for room in rooms[:1] if room.is_dir() for each in sorted(room.glob("test_*.py"))]
    if parts[0] == "stages" or not found:
        found += sorted(rooms[1].glob("test_*.py"))
    if parts[:2] in (("core", "methods"), ("core", "seasons"), ("core", "accuracy")):
        names = "test_kernels", "test_intervals", "test_conclusions", "test_examples"
        found += [TOP / "tests/stages" / f"{name}.py" for name in names]
    # What a stage says is asserted where it is seen, too.
    found += [
        each for each in [TOP / f"tests/desk/test_{parts[1]}.py"] if parts[0] == "stages" and each.is_file()
    ]
    slow = {"test_rules"}
    # What all modules come to in the end is held against what it was, and soonest.
    first = TOP / "tests/stages/test_unchanged.py"
    kept = dict.fromkeys(each for each in (first, *found) if each.stem not in slow)
    return [".".join(each.relative_to(TOP).with_suffix("").parts) for each in kept]


def noticed(mutant: Mutant, copy: Path) -> bool:
    """Whether a test fails with it, in a copy of the code."""
    path = copy / mutant.path
    whole = path.read_text()
    changed = ast.unparse(ast.fix_missing_locations(_Change(mutant.place).visit(ast.parse(whole))))
    path.write_text(changed)
    env = os.environ | {"PYTHONPATH": str(copy / "src"), "QT_QPA_PLATFORM": "offscreen"}
    try:
        done = subprocess.run(
            [sys.executable, "-B", "-m", "unittest", "--failfast", *tests_of(mutant.path)],
            cwd=copy, env=env, capture_output=True, timeout=_PATIENCE, check=False,
        )  # fmt: skip
        return bool(done.returncode)
    except subprocess.TimeoutExpired:
        return True
    finally:
        path.write_text(whole)


def main() -> int:
    """Try so many and list those that live."""
    many, seed = int(sys.argv[1]), int(sys.argv[2]) if len(sys.argv) > 2 else 1
    chosen = random.Random(seed).sample(every(), many)
    kept, own = threading.local(), list[Path]()

    def tried(mutant: Mutant) -> bool:
        if not hasattr(kept, "copy"):
            kept.copy = Path(tempfile.mkdtemp(prefix="mutants-"))
            own.append(kept.copy)
            for name in ("src", "tests", "docs", "benchmarks", "README.md", "pyproject.toml"):
                copy = shutil.copytree if (TOP / name).is_dir() else shutil.copy
                copy(TOP / name, kept.copy / name)
        found = noticed(mutant, kept.copy)
        print(f"{'noticed' if found else 'LIVES'}: {mutant.path}:{mutant.line} {mutant.said}", flush=True)
        return found

    with ThreadPoolExecutor(os.cpu_count() or 1) as pool:
        caught = sum(pool.map(tried, chosen))
    for each in own:
        shutil.rmtree(each)
    print(f"{caught} of {many} noticed, {100 * caught / many:.0f} %")
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
