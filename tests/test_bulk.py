"""Many series in blocks: the same figures to the last bit, whatever the size of a block and the order."""

from __future__ import annotations

import random
import subprocess
import sys

import numpy as np
import polars as pl

from oat_tide import bulk
from oat_tide.core.methods.table import METHODS
from oat_tide.documents import open_document
from oat_tide.plan.edits import edit
from oat_tide.plan.parts.project import Project
from oat_tide.plan.parts.seasons import Seasons
from oat_tide.plan.parts.smooth import Smooth, Smoother
from oat_tide.plan.paths import P
from oat_tide.publish.record import record
from oat_tide.session import Session
from oat_tide.stages import STAGES
from tests.helpers import FolderCase

MANY, MONTHS = 13, 50


def lines() -> list[str]:
    """A line a series and month: rising, seasonal, short, with gaps, negative and constant ones."""
    rng, rows = np.random.default_rng(7), []
    for item in range(MANY):
        season = 1 + 0.3 * (item % 3) * np.sin(np.arange(MONTHS) * np.pi / 6)
        values = (50 + 7 * item + item % 5 * np.arange(MONTHS)) * season + rng.normal(0, 4, MONTHS)
        values = np.full(MONTHS, 40.0) if item == 11 else values - 200 * (item == 7)
        for month in range(12 * (item % 4), MONTHS):
            if (item + month) % 19:
                when = f"{2020 + month // 12}-{month % 12 + 1:02d}-01"
                rows.append(f"{when},I{item:02d},{values[month]:.3f}")
    return rows


class Blocks(FolderCase):
    LONG = True

    def known(self, rows: list[str], *edits: object) -> bulk.Facts:
        session = open_document(self.file("\n".join(["month,item,cases", *rows]))).session
        session.do(edit(P.intake.by, ("item",)))
        for each in edits:
            session.do(each)  # type: ignore[arg-type]
        every = Session(None, session.plan, every=True)
        every.share(session)
        every.prepare()
        return bulk.facts(every.plan, *every.loaded.found(every.plan))

    def written(self, known: bulk.Facts, stage: str, ask: object, size: int) -> pl.DataFrame:
        kept = STAGES[stage].record
        assert kept is not None
        frames = []
        for rows in bulk.blocks(known, size):
            found = record(bulk.deck(known, rows, stage, ask), ask, kept, ("item",))
            if not found.is_empty():
                frames.append(found)
        return pl.concat(frames).sort("item", "period", *(("kind",) if kept.kinds else ()))

    def check(self, stage: str, asks: list[object], *edits: object) -> None:
        rows = lines()
        other = random.Random(3).sample(rows, len(rows))
        known, shuffled = self.known(rows, *edits), self.known(other, *edits)
        self.assertEqual((known.many, shuffled.many), (MANY, MANY))
        for ask in asks:
            whole = self.written(known, stage, ask, MANY)
            self.assertGreater(whole.height, MANY)
            for own, size in ((known, 1), (shuffled, 5)):
                with self.subTest(ask=repr(ask)[:60], size=size):
                    self.assertTrue(whole.equals(self.written(own, stage, ask, size)))

    def test_every_method(self) -> None:
        smoothing = edit(P.smooth, Smooth((Smoother(kind="trend"),), of="deseasonalised"))
        asks = [Project(name, horizon=4) for name in METHODS if name != "logistic"]
        self.check("project", list(asks), smoothing)

    def test_seasons_and_smoothers(self) -> None:
        ways: list[object] = [
            Seasons(method=way, arrangement="parts") for way in ("classical", "simple", "loess")
        ]
        self.check("seasons", ways)
        kinds = ("mean", "weighted", "median", "level", "damped")
        self.check("smooth", [Smooth((Smoother(kind=kind),)) for kind in kinds])  # type: ignore[arg-type]

    def test_it_is_there_at_once_and_without_a_window(self) -> None:
        unwanted = "[each for each in sys.modules if 'PyQt' in each or 'oat_tide.session' in each]"
        code = f"import sys, oat_tide.bulk; print({unwanted})"
        done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
        self.assertEqual(done.stdout.strip(), "[]")
