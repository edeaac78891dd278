"""The text of a file in pieces of whole lines, whatever it is encoded in."""

from __future__ import annotations

import codecs
import re
from collections.abc import Iterator
from dataclasses import dataclass
from itertools import islice
from pathlib import Path
from typing import BinaryIO

from oat_tide.core.language import phrase
from oat_tide.core.user_error import Progress, UserError

_MARKS = (
    (codecs.BOM_UTF8, "UTF-8"),
    (codecs.BOM_UTF16_LE, "UTF-16"),
    (codecs.BOM_UTF16_BE, "UTF-16"),
)
_CODECS = {"UTF-16": "utf-16", "UTF-16 LE": "utf-16-le", "UTF-16 BE": "utf-16-be"}
BLOCK, _NEAR = 1 << 24, 1 << 16
LONGEST = 1 << 27
"""Bytes of one line beyond which a file is no table of lines."""
_LOOKED_AT = 1 << 18
_CONTROL = re.compile(r"[\x00-\x08\x0b\x0e-\x1f]")


@dataclass(eq=False, slots=True)
class Text:
    """A file being read.

    Attributes:
        path: the file.
        size: its bytes.
        encoding: as found or asked for.
        head: the first of it, decoded.
        strange: rows that are not in the encoding of the others, once all has been read.
    """

    path: Path
    size: int
    encoding: str
    head: str
    strange: list[int]
    many_bytes: bool = False

    @property
    def form(self) -> str:
        """The encoding in words, once all has been read."""
        if self.encoding != "UTF-8" or not self.strange:
            return self.encoding
        if not self.many_bytes:
            return "Windows-1252"
        rows = phrase(
            "{strange:,} lines in Windows-1252, the first in row {row:,}",
            strange=len(self.strange),
            row=self.strange[0],
        )
        return phrase("UTF-8 with {rows}", rows=rows)

    def pieces(self, progress: Progress) -> Iterator[bytes]:
        """The text in pieces that end where a line does, as UTF-8 where the encoding is another.

        Raises:
            UserError: a line is longer than any honest one, or the text breaks off within a character.
        """
        left = b""
        for place, (block, done) in enumerate(self._blocks()):
            progress(done)
            cut = block.rfind(b"\n") + 1
            if cut:
                yield left + block[:cut]
                left = block[cut:]
                continue
            left += block
            if len(left) > LONGEST:
                above = sum(each.count(b"\n") for each, _ in islice(self._blocks(), place))
                raise UserError(
                    "{name}, row {above:,} is longer than {longest} MB: no line of sales. Export the "
                    "sales with a line each.",
                    name=self.path.name,
                    above=above + 1,
                    longest=LONGEST >> 20,
                )
        if left:
            yield left

    def _blocks(self) -> Iterator[tuple[bytes, float]]:
        """Blocks with \\n at the end of every line, and the share of the file read."""
        codec = _CODECS.get(self.encoding)
        decoder = codecs.getincrementaldecoder(codec or "cp1252")(errors="strict" if codec else "replace")
        done, held = 0, b""
        with self.path.open("rb") as file:
            while block := _next(file):
                if not done and block.startswith(codecs.BOM_UTF8):
                    block = block[len(codecs.BOM_UTF8) :]
                done = file.tell()
                if codec or self.encoding == "Windows-1252":
                    try:
                        block = decoder.decode(block, final=done >= self.size).encode()
                    except UnicodeDecodeError as error:
                        raise UserError(
                            "{name} begins as {encoding} but breaks off at byte {done:,}. Save it again.",
                            name=self.path.name,
                            encoding=self.encoding,
                            done=done - len(block) + error.start,
                        ) from error
                block = held + block
                # A carriage return at the very end may belong to the line end that follows.
                held = b"\r" if block.endswith(b"\r") and done < self.size else b""
                block = block[: len(block) - len(held)]
                if b"\r" in block:
                    block = block.replace(b"\r\n", b"\n").replace(b"\r", b"\n")
                yield block, done / max(self.size, 1)

    def is_sound(self, piece: bytes) -> bool:
        """Whether a piece is UTF-8 throughout."""
        if piece.isascii():
            return True
        try:
            piece.decode()
        except UnicodeDecodeError:
            return False
        self.many_bytes = True
        return True

    def sound(self, piece: bytes, row: int) -> bytes:
        """The piece, its lines that are not UTF-8 taken for Windows-1252.

        Args:
            row: the number of its first line.
        """
        if self.is_sound(piece):
            return piece
        return b"\n".join(self._line(line, row + i) for i, line in enumerate(piece.split(b"\n")))

    def _line(self, line: bytes, row: int) -> bytes:
        try:
            line.decode()
        except UnicodeDecodeError:
            self.strange.append(row)
            return line.decode("cp1252", errors="replace").encode()
        self.many_bytes = self.many_bytes or not line.isascii()
        return line


def _next(file: BinaryIO) -> bytes:
    """The next block, read up to a line end where one is near: what is not cut need not be copied."""
    start = file.tell()
    file.seek(start + BLOCK - _NEAR)
    cut = file.read(_NEAR).rfind(b"\n") + 1
    file.seek(start)
    return file.read(BLOCK - _NEAR + cut if cut else BLOCK)


def open_text(path: Path, encoding: str) -> Text:
    """Begin to read a file.

    Args:
        encoding: UTF-8, UTF-16 or Windows-1252; anything else finds it by content.

    Raises:
        UserError: it cannot be read, or is no text.
    """
    try:
        size = path.stat().st_size
        with path.open("rb") as file:
            start = file.read(_LOOKED_AT)
    except OSError as error:
        raise UserError(
            "{name} cannot be read: {said}. Mend that, or choose another file.",
            name=path.name,
            said=error.strerror or error,
        ) from error
    found = encoding if encoding in ("UTF-8", "UTF-16", "Windows-1252") else _found(start)
    if found == "UTF-16" and not start.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)):
        found = _sixteen(start) or phrase("UTF-16 LE")
    codec = _CODECS.get(found, "cp1252" if found == "Windows-1252" else "utf-8")
    start = start.removeprefix(codecs.BOM_UTF8)
    head = _lines_of(start) if codec == "utf-8" else start.decode(codec, errors="replace")
    if len(_CONTROL.findall(head)) > max(1, len(head) / 100):
        raise UserError(
            "{name} is not a text file: it is full of control characters. Export it as CSV.",
            name=path.name,
        )
    return Text(path, size, found, head.replace("\r\n", "\n").replace("\r", "\n"), [])


def _lines_of(start: bytes) -> str:
    """The first lines of a text in UTF-8; those that are not are taken for Windows-1252."""
    whole, _, rest = start.rpartition(b"\n")
    lines = (*whole.split(b"\n"), rest) if whole else (rest,)
    return "\n".join(_decoded(line) for line in lines)


def _decoded(line: bytes) -> str:
    try:
        return line.decode()
    except UnicodeDecodeError:
        return line.decode("cp1252", errors="replace")


def _found(start: bytes) -> str:
    marked = next((name for mark, name in _MARKS if start.startswith(mark)), None)
    return marked or _sixteen(start) or "UTF-8"


def _sixteen(start: bytes) -> str | None:
    """UTF-16 without a mark: of plain text every other byte is zero."""
    even, odd = start[::2].count(0), start[1::2].count(0)
    half = len(start) / 2
    if max(even, odd) < 0.3 * half or min(even, odd) > 0.05 * half:
        return None
    return phrase("UTF-16 LE") if odd > even else phrase("UTF-16 BE")
