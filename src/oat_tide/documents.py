"""Opening and saving: from a path to a session, and from a session to a plan file."""

from __future__ import annotations

import contextlib
import datetime as dt
import io
import os
import shutil
import zipfile
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

import msgspec
import numpy as np

from oat_tide.core.language import phrase
from oat_tide.core.periods.calendar import date_of
from oat_tide.core.user_error import Progress, UserError, no_progress
from oat_tide.intake import file_names
from oat_tide.intake.origins import passwords, path_permission
from oat_tide.intake.origins.places import fetch, to_open
from oat_tide.intake.origins.subprocess_reader import read_apart
from oat_tide.intake.origins.workbook import is_workbook
from oat_tide.intake.source import File, Source, from_parquet, to_parquet
from oat_tide.plan.container import BROKEN_ARCHIVE, SUFFIX, Contents, load, save
from oat_tide.plan.edits import put
from oat_tide.plan.log import Entry, history_of, read, written
from oat_tide.plan.parts.sources import Sources
from oat_tide.plan.paths import P, steps
from oat_tide.plan.plan import Plan
from oat_tide.plan.schema import HEAD, SCHEMA, Head
from oat_tide.plan.undo import Undo
from oat_tide.session import Session, opened, shortened
from oat_tide.stages import ON_RAIL
from oat_tide.stages.common import listed
from oat_tide.system.child import folder_to_hand_over
from oat_tide.system.log import LOG
from oat_tide.system.versions import Stamp, back_up, stamp_of


@dataclass(frozen=True, eq=False)
class Document:
    """What was opened.

    Attributes:
        session: the plan with its data.
        path: the plan file, or None for a plan that has none yet.
        stage: the stage to show.
        notice: what the user should know at once; empty for nothing.
        stamp: the version of the plan file that was read.
        begun: the history that it begins from, where steps were taken up that are not saved; else None.
    """

    session: Session
    path: Path | None
    stage: str
    notice: str = ""
    stamp: Stamp | None = None
    begun: Undo | None = None


@dataclass(frozen=True, eq=False)
class Saved:
    """What a plan file holds.

    Attributes:
        plan: with its places told in full.
        source: its sales lines.
        stage: that was in sight.
        kept: the large data of the plan, by id.
        log: what was done, the latest last.
        notice: what could not be read of it, though the plan could; empty for nothing.
        stamp: the version of the file.
    """

    plan: Plan
    source: Source
    stage: str
    kept: dict[str, bytes]
    log: list[Entry]
    notice: str
    stamp: Stamp | None


def saved(path: Path) -> Saved:
    """Read a plan file.

    Raises:
        UserError: there is none, or it is not a whole and harmless one.
    """
    stamp, contents = stamp_of(path), load(path)
    head = contents.head
    files = tuple(File(*each) for each in head.files)
    source = read_apart(
        path.name, from_parquet, contents.lines, path.name, head.source, files, progress=no_progress
    )
    folder = path.absolute().parent
    plan = _placed(head.plan, lambda place: file_names.kept(folder / place))
    path_permission.named((each for each in plan.sources.places if not passwords.is_address(each)), folder)
    stage = head.stage if head.stage in ON_RAIL else next(iter(ON_RAIL))
    log, notice = _log(contents.log)
    return Saved(plan, source, stage, contents.kept, log, notice, stamp)


def _log(data: bytes) -> tuple[list[Entry], str]:
    """A log, or why there is none: a plan is not to be lost for it."""
    try:
        return read(data), ""
    except UserError as error:
        return [], phrase("What was done before cannot be listed: {error}", error=error)


def open_document(path: Path, progress: Progress = no_progress) -> Document:
    """Open a plan file or a sales file, told apart by what is in them.

    Raises:
        UserError: it is neither, or cannot be read.
        Stopped: by way of `tell`.
    """
    to_open(str(path))
    if path.is_dir() or (path.suffix != SUFFIX and not _holds_plan(path)):
        return open_sources(Sources(places=(file_names.kept(path.absolute()),)), progress)
    found = saved(path)
    session = Session(found.source, found.plan)
    session.go_on(history_of(found.plan, found.log, found.kept), found.log)
    session.kept |= found.kept
    session.prepare(progress)
    notice = " ".join(each for each in (found.notice, _gone(found.plan)) if each)
    return Document(session, path, found.stage, notice, found.stamp)


def rehearse() -> None:
    """Open a few lines of no plan: what is only loaded when it is used is there when the first file comes."""
    import polars as pl

    lines = range(90)
    frame = pl.DataFrame(
        {
            "day": [dt.date(2024, 1, 1) + dt.timedelta(line // 6) for line in lines],
            "product": [("Oats", "Bran", "Flour")[line % 3] for line in lines],
            "route": [("Shops", "Online")[line % 2] for line in lines],
            "cases": [line % 7 for line in lines],
            "price": [0.5 * (line % 5) for line in lines],
        }
    )
    with contextlib.suppress(UserError, OSError):
        # Left behind by a kill, it is cleared at the next start.
        folder = Path(folder_to_hand_over(None))
        try:
            frame.write_parquet(folder / "lines.parquet")
            open_document(folder / "lines.parquet")
        finally:
            shutil.rmtree(folder, ignore_errors=True)


def open_sources(sources: Sources, progress: Progress = no_progress) -> Document:
    """A new plan on files, a folder, a database, or typed figures.

    Raises:
        UserError: there is nothing in them that could be sales lines.
        Locked: a server asks for a password.
        Stopped: by way of `tell`.
    """
    path_permission.chosen(place for place in sources.places if not passwords.is_address(place))
    source = fetch(sources, lambda share: progress(0.8 * share))
    for name in sources.__struct_fields__:
        # What a plan could not keep is refused now, not when it is opened again.
        put(Plan(), (*steps(P.sources), name), getattr(sources, name))
    return Document(
        opened(source, sources, lambda share: progress(0.8 + 0.2 * share)), None, next(iter(ON_RAIL))
    )


def _placed(plan: Plan, place: Callable[[str], str]) -> Plan:
    """The plan with the places of its files told anew; addresses of servers stay, without a password."""
    places = tuple(
        passwords.without_secrets(each) if passwords.is_address(each) else place(each)
        for each in plan.sources.places
    )
    return msgspec.structs.replace(plan, sources=msgspec.structs.replace(plan.sources, places=places))


_SHOWN = 5


def _gone(plan: Plan) -> str:
    """What to say of sources that are not where they were."""
    places = [place for place in plan.sources.places if not passwords.is_address(place)]
    gone = [shortened(Path(each).name) for each in places if not os.path.exists(file_names.path_of(each))]  # noqa: PTH110
    if not gone:
        return ""
    shown = listed(gone, _SHOWN)
    return phrase(
        "{shown}: not where it was when the plan was saved. The plan shows the lines it holds.", shown=shown
    )


def _holds_plan(path: Path) -> bool:
    if is_workbook(path) or not zipfile.is_zipfile(path):
        return False
    try:
        with zipfile.ZipFile(path) as archive:
            return HEAD in archive.namelist()
    except BROKEN_ARCHIVE:
        return False


def save_document(session: Session, stage: str, path: Path) -> Stamp | None:
    """Save the plan with its lines, panel and log; the first time on a day, the version before it is kept.

    Returns:
        The version of the file that it is now.

    Raises:
        UserError: it could not be written; what stood there is untouched.
    """
    source = session.source
    files = tuple((file.name, file.form, file.lines) for file in source.files)
    plan = _placed(session.plan, lambda place: _beside(place, path.absolute().parent))
    head = Head(SCHEMA, plan, stage, source.name, files)
    contents = Contents(head, to_parquet(source), _panel(session), session.kept, written(session.log))
    try:
        back_up(path)
    except OSError as error:
        LOG.warning("no version of %s is kept of this day: %s", path, error)
    save(path, contents)
    return stamp_of(path)


def _beside(place: str, folder: Path) -> str:
    """A place told from the folder of the plan, where it lies in there."""
    own = file_names.kept(folder)
    return str(Path(place).relative_to(own)) if Path(place).is_relative_to(own) else place


def _panel(session: Session) -> bytes:
    """The panel as tidy Parquet: a row for each series and period that is known."""
    # Not at the top: how the engine keeps memory is settled by `intake` before it is loaded.
    import polars as pl

    panel, dimensions = session.panel, session.reading.dimensions
    series, column = np.nonzero(~np.isnan(panel.values))
    firsts = [date_of(int(day)) for day in panel.grid.first_days(np.arange(panel.columns) + panel.first)]
    own = (pl.Series([key[at] for key in panel.keys], dtype=pl.String) for at in range(len(dimensions)))
    keys = dict(zip(dimensions, own, strict=True))
    frame = pl.DataFrame(
        [
            *(members.gather(series).alias(f"by {name}") for name, members in keys.items()),
            pl.Series("period", firsts, pl.Date).gather(column),
            pl.Series("value", panel.values[series, column]),
            pl.Series("lines", panel.lines[series, column]),
            pl.Series("flags", panel.flags[series, column]),
        ]
    )
    sink = io.BytesIO()
    frame.write_parquet(sink)
    return sink.getvalue()
