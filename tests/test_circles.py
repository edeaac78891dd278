"""No module is imported, be it for its types alone, by what it imports itself."""

from __future__ import annotations

import unittest
from collections.abc import Iterable

import grimp


def circles(imports: dict[str, set[str]]) -> Iterable[list[str]]:
    """Modules that import each other by some way, those of a circle in one list (Tarjan, 1972)."""
    number: dict[str, int] = {}
    lowest: dict[str, int] = {}
    waiting: list[str] = []

    def visit(module: str) -> Iterable[list[str]]:
        number[module] = lowest[module] = len(number)
        waiting.append(module)
        for other in sorted(imports[module]):
            if other not in number:
                yield from visit(other)
                lowest[module] = min(lowest[module], lowest[other])
            elif other in waiting:
                lowest[module] = min(lowest[module], number[other])
        if lowest[module] == number[module]:
            at = waiting.index(module)
            found = waiting[at:]
            del waiting[at:]
            if len(found) > 1:
                yield found

    for module in sorted(imports):
        if module not in number:
            yield from visit(module)


class Circles(unittest.TestCase):
    def test_there_are_none(self) -> None:
        graph = grimp.build_graph("oat_tide", cache_dir=None)
        imports = {module: graph.find_modules_directly_imported_by(module) for module in graph.modules}
        self.assertGreater(sum(map(len, imports.values())), 2000)
        self.assertEqual(list(circles(imports)), [])

    def test_one_is_found(self) -> None:
        imports = {"a": {"b"}, "b": {"c"}, "c": {"b", "d"}, "d": set[str]()}
        self.assertEqual([sorted(each) for each in circles(imports)], [["b", "c"]])
