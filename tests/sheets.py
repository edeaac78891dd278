"""What a working says, reckoned by others: its text by a plain rule, its sheet formula by a sheet program."""

from __future__ import annotations

import functools
import math
from collections.abc import Callable
from typing import Any

import formulas
import numpy as np
from schedula import EMPTY

from oat_tide.core.working.number_format import MINUS
from oat_tide.core.working.rendering import as_text, sheet
from oat_tide.core.working.signs import CALL, SIGNS
from oat_tide.core.working.tree import Cell, Leaf, Ref, Run, SalesLines, Working, leaves

_PARSER = formulas.Parser()


def sheet_value(working: Working) -> float:
    """What a sheet program makes of a working, its cells laid out a row a term, those not known empty."""
    rows: dict[tuple[Ref, int], str] = {}
    cells: dict[str, list[float]] = {}
    for leaf in leaves(working):
        if isinstance(leaf, Cell | Run):
            upto = leaf.upto if isinstance(leaf, Run) else leaf.ref.column
            values = [float(v) for v in leaf.values] if isinstance(leaf, Run) else [leaf.value]
            if values and (leaf.ref, upto) not in rows:
                place = len(rows) + 1
                last = f":{_letters(len(values))}{place}" if len(values) > 1 else ""
                rows[leaf.ref, upto] = f"A{place}{last}"
                cells[rows[leaf.ref, upto]] = values
        else:
            assert not isinstance(leaf, SalesLines), "lines are added up, not written as a formula"
    text = "=" + sheet(working, lambda ref, upto: rows[ref, upto])
    function = _compiled(text)
    return float(np.ravel(function(*(_grid(cells[name]) for name in function.inputs)))[0])


def read_aloud(working: Working) -> float:
    """What a reader makes of the text of a working, by the brackets and signs that are written."""
    stretches: dict[str, Any] = {}

    def say(leaf: Leaf) -> str:
        if isinstance(leaf, Run):
            stretches[f"stretch_{len(stretches)}"] = leaf.values
            return f"stretch_{len(stretches) - 1}"
        return repr(float(leaf.value)).replace("-", MINUS)

    text = as_text(working, say)
    named = {f"function_{place}": name for place, name in enumerate(_FUNCTIONS)}
    for call, name in sorted(named.items(), key=lambda each: -len(SIGNS[each[1]].text)):
        text = text.replace(f"{SIGNS[name].text}(", f"{call}(")
    for said, meant in ((" × ", "*"), (" ÷ ", "/"), (MINUS, "-"), ("^", "**"), ("; ", ", ")):
        text = text.replace(said, meant)
    with np.errstate(invalid="ignore"):
        calls = {call: SIGNS[name].compute for call, name in named.items()}
        return float(eval(text, {"__builtins__": {}}, calls | stretches))


_FUNCTIONS = [name for name, sign in SIGNS.items() if sign.binds == CALL]


@functools.lru_cache(4096)
def _compiled(text: str) -> Callable[..., Any]:
    return _PARSER.ast(text)[1].compile()  # type: ignore[no-any-return]


def _grid(row: list[float]) -> Any:
    out = np.empty((1, len(row)), object)
    out[0, :] = [EMPTY if math.isnan(value) else value for value in row]
    return out


def _letters(column: int) -> str:
    text = ""
    while column:
        column, rest = divmod(column - 1, 26)
        text = chr(65 + rest) + text
    return text
