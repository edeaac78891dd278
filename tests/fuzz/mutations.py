"""Files broken by chance: bytes, texts, and what lies inside archives."""

from __future__ import annotations

import io
import random
import re
import zipfile
import zlib

_TEXTS = (
    b"", b"\0", b"\xff\xfe", b"\xef\xbb\xbf", b'"', b'""', b"'", b",", b";;", b"\t", b"\n", b"\r\n", b"\r",
    b"-", b"1e400", b"-1e400", b"NaN", b"inf", b"9" * 40, b"1.234,56", b"1,234.56", b"0.1.2", b"(12)", b"12-",
    b"99999-01-01", b"2024-02-30", b"0000-00-00", b"31/12/9999", b"2024-13-01", b"1900-02-29", b"44927",
    b"=1/0", b"#REF!", b"<a>", b"</sheetData>", b"&lt;", b"&#0;", b"<!--", b"%s", b"{0}", b"\\", b"../../x",
    b"caf\xe9", "−5".encode(), "٣٤".encode(), "\u202e".encode(), "\N{PILCROW SIGN}row".encode(), b"Total",
    b"null", b"None", b"true", b'{"a":1}', b"[", b"]]", b"1" + b"0" * 400, b"A1048576", b"XFD1", b"-0",
)  # fmt: skip
"""What stands in files where nobody expects it."""
_WORD = re.compile(rb"[\w.\-]+")
_LARGEST = 1 << 20


def broken(data: bytes, rng: random.Random) -> bytes:
    """A file with one to four things about it changed; an archive also within, so that it still is one."""
    if data[:2] == b"PK" and rng.random() < 0.75:
        inside = _within(data, rng)
        if inside is not None:
            return inside
    for _ in range(rng.choice((1, 1, 1, 2, 4))):
        data = rng.choice(_WAYS)(data, rng)[:_LARGEST]
    return data


def _within(data: bytes, rng: random.Random) -> bytes | None:
    """An archive with one of its entries broken, taken out, doubled or named anew."""
    sink = io.BytesIO()
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(sink, "w") as new:
            entries = old.infolist()
            if not entries:
                return None
            chosen, way = rng.choice(entries), rng.random()
            for entry in entries:
                held, name = old.read(entry), entry.filename
                if entry is chosen and way < 0.05:
                    continue
                if entry is chosen and way < 0.1:
                    name = rng.choice(("../" + name, name.upper(), name + "\0", "/etc/hosts", "é" + name))
                if entry is chosen and way >= 0.1:
                    held = _flat(held, rng)
                new.writestr(zipfile.ZipInfo(name), held, entry.compress_type)
    except (zipfile.BadZipFile, zlib.error, OSError, ValueError, NotImplementedError, RuntimeError, EOFError):
        return None
    return sink.getvalue()


def _flat(data: bytes, rng: random.Random) -> bytes:
    for _ in range(rng.choice((1, 1, 2, 3))):
        data = rng.choice(_WAYS)(data, rng)[:_LARGEST]
    return data


def _place(data: bytes, rng: random.Random) -> int:
    """A place, rather near the ends, where heads and indexes stand."""
    near = min(len(data), 120)
    return rng.choice((rng.randint(0, len(data)), rng.randint(0, near), len(data) - rng.randint(0, near)))


def _bits(data: bytes, rng: random.Random) -> bytes:
    out = bytearray(data)
    for _ in range(rng.choice((1, 1, 2, 8, 40)) if out else 0):
        at = min(_place(data, rng), len(out) - 1)
        out[at] = rng.choice((out[at] ^ (1 << rng.randrange(8)), 0, 255, 127, rng.randrange(256)))
    return bytes(out)


def _cut(data: bytes, rng: random.Random) -> bytes:
    at = _place(data, rng)
    return rng.choice((data[:at], data[at:], data[:at] + data[at + rng.choice((1, 4, 100)) :]))


def _put(data: bytes, rng: random.Random) -> bytes:
    at = _place(data, rng)
    return data[:at] + rng.choice(_TEXTS) * rng.choice((1, 1, 1, 3, 500)) + data[at:]


def _doubled(data: bytes, rng: random.Random) -> bytes:
    start, length = _place(data, rng), rng.choice((1, 8, 60, 600))
    at = _place(data, rng)
    return data[:at] + data[start : start + length] * rng.choice((1, 2, 30)) + data[at:]


def _word(data: bytes, rng: random.Random) -> bytes:
    """A word or figure put anew."""
    words = list(_WORD.finditer(data[: 1 << 16]))
    if not words:
        return _put(data, rng)
    found = rng.choice(words)
    other = rng.choice((rng.choice(_TEXTS), rng.choice(words)[0], str(rng.randint(-9999, 99999)).encode()))
    return data[: found.start()] + other + data[found.end() :]


def _lines(data: bytes, rng: random.Random) -> bytes:
    """Lines taken out, doubled or in another order."""
    lines = data.split(b"\n")
    at, other = rng.randrange(len(lines)), rng.randrange(len(lines))
    way = rng.randrange(3)
    if way == 0:
        del lines[at]
    elif way == 1:
        lines.insert(other, lines[at])
    else:
        lines[at], lines[other] = lines[other], lines[at]
    return b"\n".join(lines)


def _every(data: bytes, rng: random.Random) -> bytes:
    """One mark put for another everywhere."""
    marks = (b",", b";", b"\t", b"\n", b"\r\n", b".", b"-", b'"', b" ", b"0", b"/")
    return data.replace(rng.choice(marks), rng.choice(marks))


_WAYS = _bits, _bits, _cut, _put, _put, _doubled, _word, _word, _word, _lines, _every
