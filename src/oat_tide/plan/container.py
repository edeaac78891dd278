"""The plan file: a ZIP of the plan, its log and Parquet of lines, panel and kept data, written whole or not.

A file is taken for hostile until it has been checked: only these entries are ever read, into memory, and
none beyond its limit, whatever sizes the file claims.
"""

from __future__ import annotations

import zipfile
import zlib
from pathlib import Path

import msgspec

from oat_tide.core.language import phrase
from oat_tide.core.user_error import UserError
from oat_tide.plan.kept import LIMIT, fingerprint, is_member, member
from oat_tide.plan.schema import HEAD, Head, read_head
from oat_tide.system.whole import write_whole

SUFFIX = ".oattide"
_LINES, _PANEL, _LOG = "lines.parquet", "panel.parquet", "log.jsonl"
_LIMITS = {HEAD: 64 << 20, _LINES: 4 << 30, _PANEL: 4 << 30, _LOG: 256 << 20}
_PACKED = {HEAD, _LOG}
"""What is text, and compressed here; Parquet is so already."""
_CHUNK = 1 << 20
BROKEN_ARCHIVE = zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, RuntimeError, ValueError
"""What is raised where an archive is cut short, damaged, locked, or packed in a way of its own."""


class Contents(msgspec.Struct, frozen=True):
    """A plan file in memory.

    Attributes:
        head: the plan, and what else is known without reading more.
        lines: the sales lines, as Parquet.
        panel: every series by period, as Parquet.
        kept: large data of the plan, as Parquet, by id; those without a head in the plan are not written.
        log: what was done, as `plan.log` writes it.
    """

    head: Head
    lines: bytes
    panel: bytes
    kept: dict[str, bytes] = {}
    log: bytes = b""


def save(path: Path, contents: Contents) -> None:
    """Write a plan file; a crash at any moment leaves the old file or the new one whole.

    Raises:
        UserError: it could not be written, or not be opened again; what stood there is untouched.
    """
    entries = {
        HEAD: msgspec.json.format(msgspec.json.encode(contents.head), indent=1),
        _LINES: contents.lines,
        _PANEL: contents.panel,
        _LOG: contents.log,
    }
    for each in contents.head.plan.kept:
        if each.id not in contents.kept:
            raise UserError(
                "{name} was not written: the data of “{entry}” are not at hand. Take it out.",
                name=path.name,
                entry=each.name,
            )
        entries[member(each.id)] = contents.kept[each.id]
    _check(path, entries)
    write_whole(path, lambda file: _pack(file, entries), lambda file: _read_back(path, file, entries))


def _check(path: Path, entries: dict[str, bytes]) -> None:
    """Refuse to write what could not be opened again."""
    for name, data in entries.items():
        if len(data) > _limit(name):
            what = {
                HEAD: phrase("rulings, notes and first figures"),
                _LINES: phrase("sales lines"),
                _LOG: "log",
            }.get(name, "kept data")
            raise UserError(
                "{name} was not written: its {what} take {data:,} MB, and a plan file holds at most "
                "{limit:,}. The earlier file is unchanged. Take some of them out, and save again.",
                name=path.name,
                what=what,
                data=len(data) >> 20,
                limit=_limit(name) >> 20,
            )
    try:
        msgspec.json.decode(entries[HEAD], type=Head)
    except msgspec.DecodeError as error:
        raise UserError(
            "{name} was not written: it could not be opened again ({error}). The earlier file is "
            "untouched. Undo the last changes, and save again.",
            name=path.name,
            error=error,
        ) from error


def _pack(file: Path, entries: dict[str, bytes]) -> None:
    with zipfile.ZipFile(file, "w") as archive:
        for name, data in entries.items():
            # Dates are left out so that equal plans give equal files.
            entry = zipfile.ZipInfo(name, (1980, 1, 1, 0, 0, 0))
            entry.compress_type = zipfile.ZIP_DEFLATED if name in _PACKED else zipfile.ZIP_STORED
            archive.writestr(entry, data)


def _read_back(path: Path, file: Path, entries: dict[str, bytes]) -> None:
    """Make sure that what is on the disk is what was to be written."""
    try:
        with zipfile.ZipFile(file) as archive:
            same = archive.namelist() == list(entries) and all(
                archive.read(name) == data for name, data in entries.items()
            )
    except BROKEN_ARCHIVE:
        same = False
    if not same:
        raise UserError(
            "{name} was not written: what was read back is not what was written. The earlier "
            "file is untouched. Save it in another place: the disk may be failing.",
            name=path.name,
        )


def load(path: Path) -> Contents:
    """Read a plan file.

    Raises:
        UserError: there is no such file, or it is not a whole and harmless plan file of a known version.
    """
    try:
        with zipfile.ZipFile(path) as archive:
            _refuse_strange_entries(path, archive)
            head = read_head(path, _entry(path, archive, HEAD))
            lines, panel = _entry(path, archive, _LINES), _entry(path, archive, _PANEL)
            log = _entry(path, archive, _LOG) if _LOG in archive.namelist() else b""
            return Contents(head, lines, panel, _kept(path, archive, head), log)
    except BROKEN_ARCHIVE as error:
        raise UserError(
            "{name} is cut short or damaged, or is no plan file. Open another copy of it.", name=path.name
        ) from error
    except OSError as error:
        raise UserError(
            "{name} cannot be read: {strerror}. Mend that, or choose another file.",
            name=path.name,
            strerror=error.strerror or error,
        ) from error


def log_of(path: Path) -> bytes:
    """The log of a plan file alone; empty where it has none.

    Raises:
        UserError: it is no plan file that can be read.
    """
    try:
        with zipfile.ZipFile(path) as archive:
            return _entry(path, archive, _LOG) if _LOG in archive.namelist() else b""
    except (*BROKEN_ARCHIVE, OSError) as error:
        raise UserError(
            "{name} cannot be read: {error}. Open another copy of it.", name=path.name, error=error
        ) from error


def _refuse_strange_entries(path: Path, archive: zipfile.ZipFile) -> None:
    names = [entry.filename for entry in archive.infolist()]
    if HEAD not in names:
        raise UserError(
            "{name} is not a plan file: it holds no {head}. Open a file ending in {suffix}.",
            name=path.name,
            head=HEAD,
            suffix=SUFFIX,
        )
    strange = [name for name in names if name not in _LIMITS and not is_member(name)]
    if strange or len(names) != len(set(names)):
        named = strange[0] if strange else phrase("an entry twice")
        raise UserError(
            "{name} holds “{named}”, which a plan file never does. It was not opened; open another copy.",
            name=path.name,
            named=named[:80],
        )


def _limit(name: str) -> int:
    """Bytes that an entry may unpack to."""
    return _LIMITS.get(name, LIMIT)


def _kept(path: Path, archive: zipfile.ZipFile, head: Head) -> dict[str, bytes]:
    """The large data of a plan, each as its head tells it."""
    found = {each.id: _entry(path, archive, member(each.id)) for each in head.plan.kept}
    for each in head.plan.kept:
        if fingerprint(found[each.id]) != each.fingerprint:
            raise UserError(
                "{name}: the data of “{entry}” are damaged. Open another copy of it.",
                name=path.name,
                entry=each.name[:80],
            )
    return found


def _entry(path: Path, archive: zipfile.ZipFile, name: str) -> bytes:
    limit = _limit(name)
    try:
        size = archive.getinfo(name).file_size
    except KeyError as error:
        raise UserError(
            "{name} lacks {entry}. Open another copy of it.", name=path.name, entry=name
        ) from error
    if name not in _PACKED and archive.getinfo(name).compress_type != zipfile.ZIP_STORED:
        raise UserError(
            "{name}: {entry} is packed in a way that a plan file never is. It was not opened; "
            "open another copy.",
            name=path.name,
            entry=name,
        )
    if size > limit:
        raise UserError(
            "{name}: {entry} unpacks to more than {limit} MB. It was not opened; open another copy.",
            name=path.name,
            entry=name,
            limit=limit >> 20,
        )
    pieces = bytearray()
    with archive.open(name) as stream:
        while piece := stream.read(_CHUNK):
            pieces += piece
            if len(pieces) > limit:
                raise UserError(
                    "{name}: {entry} unpacks to more than {limit} MB. It was not opened; open another copy.",
                    name=path.name,
                    entry=name,
                    limit=limit >> 20,
                )
    return bytes(pieces)
