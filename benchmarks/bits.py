"""Every figure of every deck, to be held against those of the code before or after.

Run: python benchmarks/bits.py plans PLANS              200 plans by chance, as later code must read them
     python benchmarks/bits.py write PLANS FIGURES      the figures of all of them, and of every method
     python benchmarks/bits.py compare BEFORE AFTER     what is gone, new, or differs, and by how much
"""

from __future__ import annotations

import pickle
import random
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path

import msgspec
import numpy as np
from numpy.typing import NDArray

sys.path.insert(0, str(Path(__file__).parent.parent))

from tests.fuzz.edits import Walk
from tests.helpers import daily, monthly, wavy

from oat_tide.core.methods.table import METHODS
from oat_tide.core.user_error import UserError
from oat_tide.demo import plan_path
from oat_tide.documents import open_document
from oat_tide.plan.parts.project import Project
from oat_tide.plan.plan import Plan
from oat_tide.session import Session
from oat_tide.stages import STAGES

PLANS, APART = 200, 4
"""How many, and the edits between one and the next."""
Figures = dict[tuple[str, str, str], NDArray[np.float64]]
"""The values of figures by plan, stage and name."""


def sources(folder: Path) -> dict[str, Path]:
    """The demo, a month file of one series, and days of three."""
    noise = np.random.default_rng(36).normal(0, 4, 70)
    months = [round(float(200 + 2 * i + 40 * np.sin(i * np.pi / 6) + noise[i]), 2) for i in range(70)]
    (folder / "months.csv").write_text(monthly(months))
    (folder / "days.csv").write_text(daily(800, wavy))
    return {"demo": plan_path(), "months": folder / "months.csv", "days": folder / "days.csv"}


def plans(folder: Path) -> list[tuple[str, bytes]]:
    """The source and the plan, as JSON, of plans by chance."""
    found = []
    for place, (name, path) in enumerate(sources(folder).items()):
        own = Walk(open_document(path).session, random.Random(place), folder)
        for _ in range(PLANS // 3 + 1):
            for _ in range(APART):
                own._made(own._chosen())
            # Places are those of this run.
            found.append((name, msgspec.json.encode(own.session.plan)))
    return found


def figures(
    made: list[tuple[str, bytes]], folder: Path
) -> Iterator[tuple[tuple[str, str, str], NDArray[np.float64]]]:
    """The figures of these plans, and of every method on each source."""
    sessions = {name: open_document(path).session for name, path in sources(folder).items()}
    for place, (name, data) in enumerate(made):
        session = sessions[name]
        plan = msgspec.json.decode(data, type=Plan)
        session.begin(msgspec.structs.replace(plan, sources=session.plan.sources))
        yield from _of_plan(f"{place} {name}", session)
    for name, path in sources(folder).items():
        session = open_document(path).session
        first = session.plan
        for method in METHODS:
            for said, ask in (
                ("plain", Project(method, horizon=6)),
                ("mean", Project(method, horizon=6, mean=True, positive=False)),
            ):
                session.begin(msgspec.structs.replace(first, project=ask))
                yield from _of_stage(f"{method} {said} {name}", session, "project")


def _of_plan(said: str, session: Session) -> Iterator[tuple[tuple[str, str, str], NDArray[np.float64]]]:
    for stage in STAGES:
        yield from _of_stage(said, session, stage)


def _of_stage(
    said: str, session: Session, stage: str
) -> Iterator[tuple[tuple[str, str, str], NDArray[np.float64]]]:
    try:
        deck = session.deck(stage)
    except UserError:
        return
    for figure in deck.figures.every():
        yield (said, stage, figure.name), np.array(figure.values)


def compare(before: Figures, after: Figures) -> int:
    """Print what is gone, new or differs; how many that is."""
    gone, new = sorted(set(before) - set(after)), sorted(set(after) - set(before))
    apart = []
    for key in sorted(set(before) & set(after)):
        one, other = before[key], after[key]
        if one.shape != other.shape:
            apart.append((key, float("inf")))
        elif one.tobytes() != other.tobytes():
            with np.errstate(invalid="ignore", divide="ignore"):
                far = np.abs(one - other) / np.maximum(np.abs(one), np.abs(other))
            unlike = (np.isnan(one) != np.isnan(other)).any()
            apart.append((key, float("inf") if unlike else float(np.nanmax(far, initial=0.0))))
    for said, keys in (("gone", gone), ("new", new)):
        print(f"{len(keys)} {said}: {sorted({key[1:] for key in keys})[:40]}")
    print(f"{len(apart)} of {len(before):,} differ")
    worst: dict[tuple[str, str], tuple[float, str]] = {}
    for (plan, stage, name), far in apart:
        if far >= worst.get((stage, name), (-1.0, ""))[0]:
            worst[stage, name] = far, plan
    for key, (far, plan) in sorted(worst.items(), key=lambda each: -each[1][0])[:60]:
        print(f"  {key}: at most {far:.1e}, {plan}")
    return len(gone) + len(apart)


def main() -> int:
    """Do what is asked."""
    act, *paths = sys.argv[1:]
    with tempfile.TemporaryDirectory() as folder:
        if act == "plans":
            Path(paths[0]).write_bytes(pickle.dumps(plans(Path(folder))))
        elif act == "write":
            found = dict(figures(pickle.loads(Path(paths[0]).read_bytes()), Path(folder)))
            Path(paths[1]).write_bytes(pickle.dumps(found))
            print(f"{len(found):,} figures")
        else:
            return min(compare(*(pickle.loads(Path(path).read_bytes()) for path in paths)), 1)
    return 0


if __name__ == "__main__":
    raise SystemExit(main())
