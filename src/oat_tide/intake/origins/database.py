"""Databases as sources: SQLite files, and servers that SQLAlchemy speaks to, totalled where they stand."""

from __future__ import annotations

import datetime as dt
import re
import threading
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass, replace
from decimal import Decimal
from pathlib import Path
from typing import Any

import polars as pl
import sqlalchemy as sa

from oat_tide.core.exact import known
from oat_tide.core.language import phrase
from oat_tide.core.user_error import Locked, Progress, UserError, no_progress
from oat_tide.intake.cells.dates import written_as
from oat_tide.intake.cells.numbers import TYPED
from oat_tide.intake.file_names import path_of, shown
from oat_tide.intake.origins import passwords, sqlite
from oat_tide.intake.origins.headings import told_apart
from oat_tide.intake.source import File, Source, made, thinned
from oat_tide.intake.table import COUNT, ROW, TORN, Table
from oat_tide.plan.parts.intake import Intake
from oat_tide.plan.parts.sources import Sources

_SAMPLE = 4000
_AT_ONCE = 50_000
_FEW_VALUES, _MOST_TRACED, _TRACED_VALUES, _TRACED_LINES = 20, 6, 40, 20_000
"""Columns of more values than the first are looked at: how many columns, values and lines at most."""
_WAIT = 10
"""Seconds until a server that does not answer is given up."""
_LOOK = 0.1
"""Seconds from one look whether an answer is still wanted to the next."""
_STALL = 600
"""Seconds that one question may take."""
_TOO_LONG = phrase("took too long, and was given up. Ask for less, or try again later.")
_WRITES = re.compile(
    r"\b((?:insert|merge|replace)\s+into|update\s+\S+\s+set|delete\s+from"
    r"|(?:drop|create|alter|truncate)\s+(?:table|view|index|schema|database|function))\b",
    re.I,
)
"""What writes, and never is the name of a column."""
_MAY_WRITE = re.compile(
    r"\b(insert|update|delete|merge|drop|create|alter|truncate|grant|revoke|copy|call|vacuum|attach|pragma|lock"
    r"|into)\b",
    re.I,
)
"""What may write, for servers that know no transaction which only reads."""
_QUOTED = re.compile(r"'(?:[^']|'')*'|\"[^\"]*\"|--[^\n]*|/\*.*?\*/", re.S)
_READ_ONLY = re.compile(r"read-only transaction|readonly database|data-modifying", re.I)
_GUARDED = ("postgresql", "sqlite")
"""Servers whose connection cannot write."""
_MISTAKEN = re.compile(r"syntax error|no such (?:table|column|function)", re.I)
_REFUSED = re.compile(r"password|authentication|access denied|28P01|28000|fe_sendauth", re.I)


def open_database(place: str, ask: Sources = Sources(), progress: Progress = no_progress) -> Source:  # noqa: B008
    """Look at a table, view or query: a sample of its lines, and what else the database holds.

    Args:
        place: the path of an SQLite file, or an address without its password.

    Raises:
        UserError: it cannot be reached, refuses, or holds no such table; the query writes or fails.
        Locked: it asks for a password.
        Stopped: by way of `tell`.
    """
    progress = sqlite.Told(progress)
    with _connected(place, progress) as line:
        tables = _tables(line)
        table = ask.table or _likeliest(line, tables)
        if not table and not ask.query:
            raise UserError("{name} holds no tables. Choose another database.", name=_name(place))
        if ask.table and ask.table not in tables and not ask.query:
            raise UserError(
                "{name} has no table “{table}”. It has: {tables}. Choose one.",
                name=_name(place),
                table=ask.table,
                tables=", ".join(tables[:20]),
            )
        lines = _lines(line, table, ask.query)
        found = line.execute(sa.select(sa.text("*")).select_from(lines).limit(_SAMPLE))
        names, rows = told_apart(list(map(str, found.keys()))), [tuple(row) for row in found]
        if not rows:
            raise UserError(
                "{name}: {table} gives no lines. Choose another table or query.",
                name=_name(place),
                table=table or phrase("the query"),
            )
        traced = dict(_traced(line, lines, names, rows, progress))
    progress(0.3)
    name = f"{_name(place)} · {'query' if ask.query else table}"
    source = made(
        name, phrase("a sample of the database"), thinned(_frame(names, rows)), repr(rows[:50]).encode()
    )
    return replace(source, tables=tables, traced=traced)


def _traced(
    line: sa.Connection, lines: Any, names: list[str], rows: list[tuple[Any, ...]], progress: Progress
) -> Iterator[tuple[str, Table]]:
    """Read all lines of a few values of each column, since a sample of lines would hold each value once."""
    columns = zip(names, zip(*rows, strict=True), strict=True)
    many = [(name, sorted({each for each in cells if each is not None}, key=str)) for name, cells in columns]
    many = [(name, values) for name, values in many if len(values) > _FEW_VALUES and _may_name(values)]
    for name, values in many[:_MOST_TRACED]:
        some = values[:: len(values) // _TRACED_VALUES + 1]
        asked = (
            sa.select(sa.text("*")).select_from(lines).where(sa.column(name).in_(some)).limit(_TRACED_LINES)
        )
        found = [tuple(row) for row in line.execute(asked)]
        progress(0.2)
        yield name, Table.of(_frame(names, found))


def _may_name(values: list[Any]) -> bool:
    """Whether values may name something: text that is no date, or whole numbers."""
    return all(isinstance(each, int) for each in values) or all(
        isinstance(each, str) and not written_as(each) for each in values
    )


def totals(
    place: str, sample: Source, ask: Sources, roles: Intake, progress: Progress = no_progress
) -> Source:
    """The sums of the measure by date and series, reckoned by the database; the lines stay there.

    Lines without a date or a number are counted apart, so that the tie-out holds. Where the measure is text
    the database cannot add it up, and all lines are read.

    Args:
        sample: what `open_database` gave.

    Raises:
        what `open_database` raises; UserError where the database breaks off.
    """
    progress = sqlite.Told(progress)
    with _connected(place, progress) as line:
        table = ask.table or _likeliest(line, _tables(line))
        lines = _lines(line, table, ask.query)
        kinds = _kinds(line, lines)
        columns = list(dict.fromkeys((roles.date, *roles.by)))
        measures = [name for name in (roles.value, roles.times) if name]
        missing = [name for name in (*columns, *measures) if name not in kinds]
        if missing:
            raise UserError(
                "{name} has no column “{missing}”. It has: {columns}. Choose one.",
                name=sample.name,
                missing=missing[0],
                columns=", ".join(list(kinds)[:20]),
            )
        left: dict[str, tuple[int, Decimal]] = {}
        adds_up = all(kinds[name].number for name in measures)
        if adds_up and line.dialect.name == "sqlite":
            adds_up = sqlite.adds_up(line, lines, measures)
        question: Any
        if adds_up:
            question = _grouped(line, lines, kinds, columns, measures)
            left = dict(_left(line, lines, kinds, {*columns, *measures}))
            names = [*columns, *measures, COUNT]
        else:
            names = list(kinds)
            question = sa.select(*map(sa.column, names)).select_from(lines)
        rows = list(_streamed(line, question, not adds_up, progress))
    if adds_up:
        places = Decimal(sqlite.MICRO) if line.dialect.name == "sqlite" else None
        rows = [each for row in rows for each in _summed(row, len(columns), len(measures), places)]
        rows.sort(key=lambda row: tuple(map(str, row[: len(columns)])))
    frame = _frame(names, rows)
    form = (
        phrase("totals by {columns} from the database", columns=", ".join(columns))
        if adds_up
        else phrase("lines of the database")
    )
    if adds_up:
        frame = frame.with_columns(pl.col(COUNT).cast(pl.Int64))
    source = made(sample.name, form, thinned(frame), repr(rows).encode())
    source = replace(source, tables=sample.tables, sample=sample, left=left)
    return replace(source, files=(File(sample.name, form, source.lines),))


@dataclass(frozen=True, slots=True)
class _Kind:
    """What the values of a column are.

    Attributes:
        number: whether they are numbers.
        timed: whether they have a time of day.
        float_: whether they are kept as floating point.
    """

    number: bool
    timed: bool
    float_: bool


def _kinds(line: sa.Connection, lines: Any) -> dict[str, _Kind]:
    found = line.execute(sa.select(sa.text("*")).select_from(lines).limit(_SAMPLE))
    names = told_apart(list(map(str, found.keys())))
    kinds = {}
    for name, values in zip(names, zip(*found, strict=True), strict=True):
        seen = [value for value in values if value is not None]
        number = bool(seen) and all(
            isinstance(value, int | float | Decimal) and not isinstance(value, bool) for value in seen
        )
        timed = bool(seen) and all(isinstance(value, dt.datetime) for value in seen)
        kinds[name] = _Kind(number, timed, any(isinstance(value, float) for value in seen))
    return kinds


def _grouped(
    line: sa.Connection, lines: Any, kinds: dict[str, _Kind], columns: list[str], measures: list[str]
) -> sa.Select[Any]:
    """Sums by day and series, how many lines, and of how many the measure is known."""
    groups: list[Any] = [
        sa.cast(sa.column(name), sa.Date).label(name) if kinds[name].timed else sa.column(name)
        for name in columns
    ]
    amount: Any = (
        sa.cast(sa.column(measures[0]), sa.Numeric) if kinds[measures[0]].float_ else sa.column(measures[0])
    )
    for name in measures[1:]:
        amount = amount * (sa.cast(sa.column(name), sa.Numeric) if kinds[name].float_ else sa.column(name))
    if line.dialect.name == "sqlite":
        # Whole millionths add up exactly.
        amount = sa.cast(sa.func.round(amount * sqlite.MICRO), sa.Integer)
    added = sa.func.sum(amount).label("\N{PILCROW SIGN}sum")
    known = sa.func.count(amount).label("\N{PILCROW SIGN}known")
    chosen = sa.select(*groups, added, known, sa.func.count().label(COUNT)).select_from(lines)
    return chosen.group_by(*groups)


def _left(
    line: sa.Connection, lines: Any, kinds: dict[str, _Kind], asked: set[str]
) -> Iterator[tuple[str, tuple[int, Decimal]]]:
    """Return count and sum of each column of figures that is not used."""
    names = [name for name, kind in kinds.items() if kind.number and name not in asked]
    if not names:
        return
    sqlite_ = line.dialect.name == "sqlite"
    chosen: list[Any] = []
    for place, name in enumerate(names):
        figure: Any = sa.column(name)
        if sqlite_:
            figure = sa.cast(sa.func.round(figure * sqlite.MICRO), sa.Integer)
        elif kinds[name].float_:
            figure = sa.cast(figure, sa.Numeric)
        chosen += [
            sa.func.count(sa.column(name)).label(f"count {place}"),
            sa.func.sum(figure).label(f"sum {place}"),
        ]
    row = line.execute(sa.select(*chosen).select_from(lines)).one()
    for place, name in enumerate(names):
        amount = Decimal(str(row[2 * place + 1] or 0))
        yield name, (int(row[2 * place]), amount / sqlite.MICRO if sqlite_ else amount)


def _summed(
    row: tuple[Any, ...], groups: int, measures: int, places: Decimal | None
) -> Iterator[tuple[Any, ...]]:
    """The lines of a group whose measure is known, and those whose is not, as a row each.

    The product of two measures stands in the first, and 1 in the other.
    """
    key, amount, known, count = row[:groups], row[groups], row[groups + 1], row[groups + 2]
    ones = [1] * (measures - 1)
    if known:
        yield (*key, Decimal(int(amount)) / places if places is not None else amount, *ones, known)
    if count > known:
        yield (*key, None, *ones, count - known)


def _streamed(
    line: sa.Connection, question: sa.Select[Any], many: bool, progress: Progress
) -> Iterator[tuple[Any, ...]]:
    """The rows of an answer in stretches, so that the work can be stopped between them.

    Args:
        many: whether they are too many to come at once; a server reckons totals on one core for a cursor.
    """
    read = 0
    for part in line.execution_options(stream_results=many).execute(question).partitions(_AT_ONCE):
        yield from (tuple(row) for row in part)
        read += len(part)
        progress(1 - 0.7 / (1 + read / _AT_ONCE))


def _frame(names: list[str], rows: list[tuple[Any, ...]]) -> pl.DataFrame:
    """The rows as text with their numbers."""
    told = [[_text(value) for value in column] for column in zip(*rows, strict=True)] or [[] for _ in names]
    frame = pl.DataFrame(dict(zip(names, told, strict=True)), schema=dict.fromkeys(names, pl.String))
    return frame.select(
        pl.int_range(1, pl.len() + 1, dtype=pl.Int64).alias(ROW),
        pl.lit(None, pl.String).alias(TORN),
        pl.all(),
    )


def _text(value: Any) -> str | None:
    if value is None or value == "":
        return None
    if isinstance(value, float):
        if not known(value) or abs(value) >= 1e15:
            return repr(value)
        value = Decimal(repr(value))
    if isinstance(value, Decimal):
        text = format(value.normalize() if value else Decimal(0), "f")
        return text + TYPED if "." in text else text
    if isinstance(value, dt.datetime):
        return value.isoformat(" ")
    return str(value)


def _tables(line: sa.Connection) -> tuple[str, ...]:
    """Tables and views by name, those outside the usual schema with theirs."""
    eye = sa.inspect(line)
    own = eye.default_schema_name
    found = [*eye.get_table_names(), *eye.get_view_names()]
    if line.dialect.name == "postgresql":
        for schema in eye.get_schema_names():
            if schema not in (own, "information_schema") and not schema.startswith("pg_"):
                found += [
                    f"{schema}.{name}" for name in (*eye.get_table_names(schema), *eye.get_view_names(schema))
                ]
    return tuple(sorted(found))


def _likeliest(line: sa.Connection, tables: tuple[str, ...]) -> str:
    """The table whose name or columns speak of sales; else the first."""
    named = [name for name in tables if re.search(r"sale|order|invoice|line|demand", name, re.I)]
    return (named or list(tables) or [""])[0]


def _lines(line: sa.Connection, table: str, query: str) -> Any:
    if query:
        guarded = line.dialect.name in _GUARDED
        return sa.text(_harmless(query, guarded)).columns().subquery("asked")
    schema, _, name = table.rpartition(".")
    return sa.table(name, schema=schema or None)


def _harmless(query: str, guarded: bool) -> str:
    """One query that only reads.

    Args:
        guarded: whether the connection cannot write, and so has the word itself.
    """
    # Comments go, what stands in quotes stays: either may hold the other's marks.
    bare = _QUOTED.sub(lambda found: " " if found[0][:2] in ("--", "/*") else found[0], query)
    bare = bare.strip().rstrip(";").strip()
    words = _QUOTED.sub("''", bare)
    writes = _WRITES.search(words) or (None if guarded else _MAY_WRITE.search(words))
    if not re.match(r"(select|with|values)\b", words, re.I) or ";" in words or writes:
        at = f" ({writes[0].upper()})" if writes else ""
        raise UserError("The query was not run: it does more than read{at}. Write one SELECT.", at=at)
    return bare.replace(":", r"\:")


@contextmanager
def _connected(place: str, told: sqlite.Told) -> Iterator[sa.Connection]:
    """A connection that cannot write; what goes wrong on it is said without the password."""
    watch = sqlite.Watch(told, _STALL)
    try:
        engine = _engine(place, watch)
    except (sa.exc.SQLAlchemyError, ModuleNotFoundError) as error:
        raise _trouble(place, error) from None
    try:
        with engine.connect() as line:
            if line.dialect.name == "postgresql":
                line = line.execution_options(postgresql_readonly=True)
                line.execute(sa.text(f"SET statement_timeout = {int(_STALL * 1000)}"))
            with _calling_off(line, watch):
                yield line
    except (sa.exc.SQLAlchemyError, UnicodeDecodeError) as error:
        if watch.stopped:
            raise watch.stopped from None
        if watch.late:
            raise UserError(f"{_name(place)} {_TOO_LONG}") from None
        raise _trouble(place, error) from None
    finally:
        engine.dispose()


@contextmanager
def _calling_off(line: sa.Connection, watch: sqlite.Watch) -> Iterator[None]:
    """While a server answers, see whether that is still wanted, and have it stop where it is not."""
    raw: Any = line.connection.driver_connection
    cancel = getattr(raw, "cancel", None)
    if cancel is None or line.dialect.name == "sqlite":
        yield
        return
    ended = threading.Event()

    def look() -> None:
        while not ended.wait(_LOOK):
            if watch.over():
                # A server that is gone cannot be told; the line to it breaks by itself.
                with suppress(Exception):
                    cancel()
                return

    beside = threading.Thread(target=look, daemon=True)
    beside.start()
    try:
        yield
    finally:
        ended.set()
        beside.join(_LOOK)


def _engine(place: str, watch: sqlite.Watch) -> sa.Engine:
    if not passwords.is_address(place):
        path = path_of(place)
        if not path.exists():
            raise UserError("{name} does not exist. Check the name and the folder.", name=path.name)
        return sa.create_engine(
            "sqlite://", creator=sqlite.only_read(path, watch), poolclass=sa.pool.NullPool
        )
    url = passwords.full(place)
    if url.get_backend_name() == "sqlite":
        # An address would open the file to be written, and make it where there is none.
        return _engine(_file_of(url), watch)
    waits: dict[str, Any] = {}
    if url.drivername.startswith("postgresql"):
        waits = {"connect_timeout": _WAIT, "tcp_user_timeout": 30_000, "application_name": "oat-tide"}
    return sa.create_engine(url, connect_args=waits)


def _file_of(url: sa.URL) -> str:
    """The file of an SQLite address."""
    path = (url.database or "").removeprefix("file:").partition("?")[0]
    if not path or path == ":memory:":
        raise UserError("This address names no SQLite file. Open the file itself.")
    return path


def _trouble(place: str, error: Exception) -> UserError:
    reason = str(getattr(error, "orig", None) or error).strip()
    said = passwords.scrubbed(place, " ".join(reason.split())[:300]).rstrip(".")
    name = _name(place)
    if isinstance(error, sa.exc.NoSuchModuleError | ModuleNotFoundError):
        return UserError(
            "{name}: the driver for this kind of database is not installed ({said}). Install it.",
            name=name,
            said=said,
        )
    if _REFUSED.search(said):
        return Locked(
            phrase(
                "{name} refused the login: {said}. Give the password, or ask its administrator.",
                name=name,
                said=said,
            ),
            place,
        )
    if _READ_ONLY.search(said):
        return UserError(
            "The query was not run: it does more than read ({said}). Write one SELECT.", said=said
        )
    if isinstance(error, sa.exc.OperationalError) and "timeout" in said.lower():
        return UserError("{name} says: {said}. It {too_long}", name=name, said=said, too_long=_TOO_LONG)
    if isinstance(error, sa.exc.OperationalError) and not _MISTAKEN.search(said):
        return UserError(
            "{name} cannot be reached, or broke off: {said}. Nothing has changed; try again later.",
            name=name,
            said=said,
        )
    return UserError(
        "{name} could not answer: {said}. Mend the query, or choose another table.", name=name, said=said
    )


def _name(place: str) -> str:
    """What a database is called in messages: its file, or server and database."""
    if not passwords.is_address(place):
        return shown(Path(place).name)
    url = sa.make_url(place)
    return f"{url.host or 'this machine'}/{url.database or ''}".rstrip("/")
