"""What every stage gives, held against what it gave: figures, their workings and all that is said.

python -m tests.stages.test_unchanged    writes what it gives now, once a change of it is meant
"""

from __future__ import annotations

import datetime as dt
import json
import math
import zlib
from collections.abc import Iterator
from pathlib import Path

import numpy as np

from oat_tide.core.methods.table import METHODS
from oat_tide.core.working.rendering import evaluate
from oat_tide.demo import plan_path
from oat_tide.documents import open_document
from oat_tide.plan.edits import edit
from oat_tide.plan.paths import P
from oat_tide.stages import STAGES
from oat_tide.stages.answers import Inline
from oat_tide.stages.deck import Deck
from tests.stages.test_rules import InEveryWay
from tests.texts import texts_of

GAVE = Path(__file__).with_name("unchanged.json")
_NEAR = 1e-7
"""By so much, relative, sums may differ between processors."""
_AS_OF = None, dt.date(2024, 6, 30), dt.date(2022, 5, 31)
_SERIES = "Porridge oats", "Oat drink", "Oatcakes", "Granola", "Oat flour"
Told = dict[str, tuple[float, float, int]]
"""By deck: its figures and its workings, each as one number, and its texts as one."""


def _weighed(values: list[float]) -> float:
    """One number that any change of any value changes."""
    at = np.arange(1.0, len(values) + 1)
    return float(np.sum(np.arcsinh(np.nan_to_num(values, nan=-7.0)) * (1 + np.sin(at * at) / 2)))


def _of_deck(deck: Deck) -> tuple[float, float, int]:
    figures, workings = list[float](), list[float]()
    for figure in deck.figures.every():
        known = np.argwhere(~np.isnan(figure.values))
        shape = figure.values.shape
        figures += [*map(float, shape), float(len(known)), *figure.values[~np.isnan(figure.values)].tolist()]
        for series, column in known[-1:].tolist():
            workings.append(evaluate(figure.explain(series, column)))
    texts = [f"{where} {text}" for each in range(len(deck.keys)) for where, text in texts_of(deck, each)]
    return _weighed(figures), _weighed(workings), zlib.crc32("\n".join(texts).encode())


class Unchanged(InEveryWay):
    def given(self) -> Iterator[tuple[str, Deck]]:
        """Every deck of the made-up sales in every way, and of the demo over series and time."""
        for name, _, deck in self.decks():
            yield f"{name}, {deck.stage}", deck
        session = open_document(plan_path()).session
        session.late = Inline()
        session.do(
            edit(P.project.over, tuple(each for each in METHODS if each != session.plan.project.method))
        )
        for as_of in _AS_OF:
            session.do(edit(P.as_of, as_of))
            for product in _SERIES:
                session.do(edit(P.where, (("product", product),)))
                for stage in STAGES:
                    yield f"demo, {product}, {as_of}, {stage}", session.deck(stage)

    def told(self) -> Told:
        return {name: _of_deck(deck) for name, deck in self.given()}

    def test_what_was_given_is_given(self) -> None:
        before: Told = json.loads(GAVE.read_text())
        now = self.told()
        self.assertEqual(sorted(now), sorted(before))
        found = []
        for name, (figures, workings, texts) in now.items():
            was = before[name]
            for what, one, other in (("figures", figures, was[0]), ("workings", workings, was[1])):
                if not math.isclose(one, other, rel_tol=_NEAR, abs_tol=_NEAR):
                    found.append(f"{name}: {what}")
            if texts != was[2]:
                found.append(f"{name}: texts")
        self.assertEqual(found, [], "if that is meant, write it anew: python -m tests.stages.test_unchanged")


if __name__ == "__main__":
    case = Unchanged("test_what_was_given_is_given")
    case.setUp()
    GAVE.write_text(json.dumps(case.told(), indent=0))
    case.doCleanups()
