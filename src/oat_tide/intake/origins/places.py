"""From the places that a plan names to one source: files, folders, sheets, databases, typed figures."""

from __future__ import annotations

import stat
from pathlib import Path

from oat_tide.core.language import phrase
from oat_tide.core.user_error import Progress, UserError, no_progress
from oat_tide.intake.file_names import path_of, plainly_named, shown
from oat_tide.intake.origins import passwords, path_permission
from oat_tide.intake.origins.columnar import is_parquet, open_parquet
from oat_tide.intake.origins.delimited import open_delimited
from oat_tide.intake.origins.subprocess_reader import read_apart
from oat_tide.intake.origins.typed import open_typed
from oat_tide.intake.origins.workbook import is_workbook, open_workbook
from oat_tide.intake.source import Source, stacked
from oat_tide.plan.parts.sources import Sources

SUFFIXES = (".csv", ".tsv", ".txt", ".tab", ".xlsx", ".xlsm", ".ods", ".parquet")
"""What is taken in of a folder."""


def fetch(ask: Sources, progress: Progress = no_progress) -> Source:
    """Read all that the plan names, as one source.

    Raises:
        UserError: there is nothing to read, or a file cannot be read or is of another shape.
        Locked: a server asks for a password.
        Unasked: a plan alone has named a file outside its folder.
        Stopped: by way of `tell`.
    """
    if ask.typed:
        return open_typed(ask.typed)
    path_permission.ask_for(place for place in ask.places if not passwords.is_address(place))
    files = [file for place in ask.places for file in _files(place)]
    if not files:
        raise UserError("No source was named. Open a sales file, a folder, or a database.")
    if any(map(passwords.is_address, files)) and len(files) > 1:
        raise UserError("A database is read on its own. Open it without other files.")
    sizes = [1.0 if passwords.is_address(file) else max(Path(file).stat().st_size, 1.0) for file in files]
    found, done = [], 0.0
    for file, size in zip(files, sizes, strict=True):
        found.append(_one(file, ask, _within(progress, done / sum(sizes), size / sum(sizes))))
        done += size
    return stacked(found, found[0].name if len(found) == 1 else _together(ask.places, len(found)))


def _within(progress: Progress, start: float, length: float) -> Progress:
    return lambda share: progress(start + length * share)


def _together(places: tuple[str, ...], count: int) -> str:
    folders = [place for place in places if Path(place).is_dir()]
    name = f"{shown(Path(folders[0]).name)}, " if len(places) == len(folders) == 1 else ""
    return phrase("{name}{count} files", name=name, count=count)


def _files(place: str) -> list[str]:
    """The files that a place stands for, in the order of their names."""
    if passwords.is_address(place):
        return [place]
    path = to_open(place)
    if not path.is_dir():
        return [str(path)]
    inside = sorted(file for file in path.iterdir() if file.suffix.lower() in SUFFIXES and file.is_file())
    if not inside:
        raise UserError(
            "The folder {name} holds no sales files ({suffixes}). Choose another folder.",
            name=path.name,
            suffixes=", ".join(SUFFIXES),
        )
    return [str(file) for file in inside]


_LONGEST_NAME = 80


def to_open(place: str) -> Path:
    """A file or folder that is there; what waits for another program, or never ends, is not opened.

    Raises:
        UserError: it is not there, has no name that a file can have, or is no file.
    """
    path = path_of(place)
    name = shown(path.name)
    name = name if len(name) <= _LONGEST_NAME else f"{name[:_LONGEST_NAME]}…"
    try:
        mode = path.stat().st_mode
    except FileNotFoundError as error:
        raise UserError("{name} does not exist. Check the name and the folder.", name=name) from error
    except (OSError, ValueError) as error:
        said = getattr(error, "strerror", None) or error
        raise UserError(
            "“{name}” cannot be opened: {said}. Choose another file.", name=name, said=said
        ) from error
    if not stat.S_ISREG(mode) and not stat.S_ISDIR(mode):
        raise UserError(
            "{name} is a pipe, a device or a socket, and was not opened. Save what it gives as a file.",
            name=name,
        )
    return path


_SQLITE = b"SQLite format 3\0"


def is_sqlite(path: Path) -> bool:
    """Whether a file is an SQLite database; what is no file is not opened."""
    try:
        if not path.is_file():
            return False
        with path.open("rb") as file:
            return file.read(16) == _SQLITE
    except (OSError, ValueError):
        return False


def is_database(place: str) -> bool:
    """Whether a place is an SQLite file or the address of a server."""
    return passwords.is_address(place) or is_sqlite(path_of(place))


def _one(place: str, ask: Sources, progress: Progress) -> Source:
    path = Path(place)
    try:
        if is_database(place):
            from oat_tide.intake.origins.database import open_database

            return open_database(place, ask, progress)
        with plainly_named(path) as path:
            if is_parquet(path):
                return read_apart(path.name, open_parquet, path, progress=progress)
            if is_workbook(path):
                return read_apart(path.name, open_workbook, path, ask, progress=progress)
            return open_delimited(path, ask, progress)
    except OSError as error:
        raise UserError(
            "{name} cannot be read: {said}. Mend that, or choose another file.",
            name=path.name,
            said=error.strerror or error,
        ) from error
