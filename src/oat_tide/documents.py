"""Opening and saving: from a path to a session, and from a session to a plan file."""

from __future__ import annotations

import io
import zipfile
from dataclasses import dataclass
from pathlib import Path

import numpy as np
import polars as pl

from oat_tide.core.calendar import date_of
from oat_tide.core.trouble import Tell, Trouble, unheard
from oat_tide.intake.columnar import is_parquet, open_parquet
from oat_tide.intake.source import Source, from_parquet, open_source, to_parquet
from oat_tide.plan.container import SCHEMA, SUFFIX, Contents, Head, load, save
from oat_tide.session import Session, opened
from oat_tide.stages import STAGES


@dataclass(frozen=True, eq=False)
class Document:
    """Attributes:
    session: the plan with its data.
    path: the plan file, or None for a plan that has none yet.
    stage: the stage to show.
    """

    session: Session
    path: Path | None
    stage: str


def open_document(path: Path, tell: Tell = unheard) -> Document:
    """Open a plan file or a sales file, told apart by what is in them.

    Raises:
        Trouble: it is neither, or cannot be read.
        Stopped: by way of `tell`.
    """
    if path.is_dir():
        raise Trouble(f"{path.name} is a folder. Choose a sales file or a plan in it.")
    if path.suffix != SUFFIX and not _holds_plan(path):
        return Document(opened(open_sales(path, tell), tell), None, "intake")
    contents = load(path)
    head = contents.head
    source = from_parquet(contents.lines, path.name, head.source, head.form)
    session = Session(source, head.plan)
    session.prepare(tell)
    return Document(session, path, head.stage if head.stage in STAGES else next(iter(STAGES)))


def open_sales(path: Path, tell: Tell = unheard) -> Source:
    """Read a sales file of any kind, told by what is in it. Raises what its reader does."""
    return (open_parquet if is_parquet(path) else open_source)(path, tell)


def _holds_plan(path: Path) -> bool:
    return zipfile.is_zipfile(path) and "plan.json" in zipfile.ZipFile(path).namelist()


def save_document(session: Session, stage: str, path: Path) -> None:
    """Save the plan with its lines and panel.

    Raises:
        Trouble: it could not be written; what stood there is untouched.
    """
    source = session.source
    head = Head(SCHEMA, session.plan, stage, source.name, source.form)
    save(path, Contents(head, to_parquet(source), _panel(session)))


def _panel(session: Session) -> bytes:
    """The panel as tidy Parquet: a row for each series and period that is known."""
    panel, dimensions = session.panel, session.reading.dimensions
    series, column = np.nonzero(~np.isnan(panel.values))
    firsts = [date_of(int(day)) for day in panel.grid.first_days(np.arange(panel.columns) + panel.first)]
    keys = {name: [panel.keys[s][i] for s in series] for i, name in enumerate(dimensions)}
    frame = pl.DataFrame(
        [
            *(pl.Series(f"by {name}", values, pl.String) for name, values in keys.items()),
            pl.Series("period", [firsts[c] for c in column], pl.Date),
            pl.Series("value", panel.values[series, column]),
            pl.Series("lines", panel.lines[series, column]),
            pl.Series("flags", panel.flags[series, column]),
        ]
    )
    sink = io.BytesIO()
    frame.write_parquet(sink)
    return sink.getvalue()
