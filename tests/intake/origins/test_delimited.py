"""Delimited text cut into lines and cells, against a plain rule that goes line by line."""

from __future__ import annotations

from unittest import mock

from hypothesis import given, settings
from hypothesis import strategies as st

from oat_tide.core.user_error import Stopped, UserError
from oat_tide.intake.origins import text
from oat_tide.intake.origins.delimited import open_delimited
from oat_tide.intake.table import ROW, TORN
from oat_tide.plan.parts.sources import Sources
from tests.helpers import FolderCase

CELL = st.sampled_from(["Oats", "", " ", "12", "5.50", "Oät", "2024-01-05", "x" * 30])
WHOLE = st.tuples(CELL, CELL, CELL).map(",".join)
LINE = st.one_of(WHOLE, WHOLE, WHOLE, st.sampled_from(["", "torn", "a,b", "a,b,c,d", "   "]))
QUOTED = st.sampled_from(['"a, b",c,d', '"say ""oats""",2,3', '"two\nlines",1,2', 'a,"",b'])
SMALL = mock.patch.multiple(text, BLOCK=64, _NEAR=32)
"""Pieces of two or three lines."""
HEAD = "name,kind,cases"


def by_hand(lines: list[str]) -> list[tuple[int, str | None, tuple[str | None, ...]]]:
    """Row, the whole text if it is torn, and the cells, of each line below the header that holds anything."""
    found: list[tuple[int, str | None, tuple[str | None, ...]]] = []
    for row, line in enumerate(lines, 2):
        cells = line.split(",")
        if len(cells) == 3 and line.strip():
            found.append((row, None, tuple(cell or None for cell in cells)))
        elif line.strip():
            found.append((row, line, (None, None, None)))
    return found


class Lines(FolderCase):
    def read(self, content: bytes) -> list[tuple[int, str | None, tuple[str | None, ...]]]:
        path = self.folder / "lines.csv"
        path.write_bytes(content)
        with SMALL:
            frame = open_delimited(path, Sources(delimiter="commas")).frame
        self.assertEqual(frame.columns[3:], HEAD.split(","))
        rows = frame.rows()
        return [(row[0], row[1], row[3:]) for row in rows]

    @given(st.lists(LINE, min_size=1, max_size=40), st.sampled_from(["\n", "\r\n"]), st.booleans())
    @settings(deadline=None, max_examples=200)
    def test_pieces_give_the_lines_that_a_plain_rule_gives(
        self, lines: list[str], end: str, last: bool
    ) -> None:
        # Most lines are whole, or the header would be sought elsewhere.
        lines = ["Bran,a,1"] * 41 + lines
        content = (end.join([HEAD, *lines]) + end * last).encode()
        self.assertEqual(self.read(content), by_hand(lines))

    @given(st.lists(st.one_of(WHOLE, QUOTED), min_size=2, max_size=30))
    @settings(deadline=None)
    def test_quotes_may_enclose_delimiters_and_line_ends(self, lines: list[str]) -> None:
        cells = {
            '"a, b",c,d': ("a, b", "c", "d"),
            '"say ""oats""",2,3': ('say "oats"', "2", "3"),
            '"two\nlines",1,2': ("two\nlines", "1", "2"),
            'a,"",b': ("a", None, "b"),
        }
        found = self.read("\n".join([HEAD, "Bran,a,1", *lines, "Bran,z,9"]).encode())
        row, wanted = 3, []
        for line in lines:
            plain = tuple(cell or None for cell in line.split(","))
            wanted.append((row, None, cells.get(line, plain)))
            row += 1 + line.count("\n")
        self.assertEqual(found[1:-1], wanted)
        self.assertEqual(found[-1], (row, None, ("Bran", "z", "9")))

    def test_lines_in_another_encoding_are_named_by_their_rows(self) -> None:
        path = self.folder / "mixed.csv"
        lines = [f"Oät {i},a,{i}".encode("cp1252" if i in (7, 19) else "utf-8") for i in range(30)]
        path.write_bytes(b"\n".join([HEAD.encode(), *lines]))
        with SMALL:
            source = open_delimited(path)
        self.assertEqual(source.frame["name"].to_list(), [f"Oät {i}" for i in range(30)])
        self.assertIn("2 lines in Windows-1252, the first in row 9", source.form)

    def test_a_line_too_long_is_named_by_its_row(self) -> None:
        path = self.folder / "long.csv"
        path.write_text("\n".join([HEAD, *["Bran,a,1"] * 20, "x" * 3000]))
        with (
            SMALL,
            mock.patch.object(text, "LONGEST", 1000),
            self.assertRaisesRegex(UserError, r"row 22 is longer"),
        ):
            open_delimited(path)

    def test_reading_stops_between_pieces(self) -> None:
        path = self.folder / "stop.csv"
        path.write_text("\n".join([HEAD, *["Bran,a,1"] * 200]))
        shares: list[float] = []

        def progress(share: float) -> None:
            shares.append(share)
            if share > 0.5:
                raise Stopped

        with SMALL, self.assertRaises(Stopped):
            open_delimited(path, progress=progress)
        self.assertEqual(shares, sorted(shares))
        self.assertLess(shares[-1], 0.6)

    def test_rows_are_numbered_and_every_line_is_of_the_file(self) -> None:
        path = self.folder / "plain.csv"
        path.write_text("\n".join([HEAD, *(f"Bran,a,{i}" for i in range(50))]))
        with SMALL:
            frame = open_delimited(path).frame
        self.assertEqual(frame[ROW].to_list(), list(range(2, 52)))
        self.assertEqual(frame[TORN].null_count(), 50)


class LongCells(FolderCase):
    ROWS = tuple(f"2024-{m:02d}-{d:02d},Oats,{m + d}" for m in range(1, 13) for d in range(1, 29))

    def test_one_unclosed_quote_in_a_large_file_spoils_no_other_line(self) -> None:
        rows = [*self.ROWS, '2024-12-29,"Oats,7', *self.ROWS * 40]
        reading = self.opened("\n".join(["date,product,cases", *rows])).reading
        self.assertEqual((reading.read, reading.used), (len(rows), len(rows)))

    def test_a_cell_too_long_to_be_one_is_set_aside_with_its_row(self) -> None:
        long = "x" * 140_000
        for cell in (long, f'"{long}"', '"a "" ' + "x\n" * 70_000 + '"'):
            with self.subTest(cell[:6]):
                rows = [*self.ROWS[:50], f"2024-02-28,{cell},7", *self.ROWS[50:]]
                session = self.opened("\n".join(["date,product,cases", *rows]))
                aside = [(each.reason, each.count, each.row) for each in session.reading.asides]
                self.assertEqual(aside, [("a cell too long to be one", 1, 52)])
                self.assertTrue(session.tie.ties)

    def test_a_header_cell_of_any_length_names_its_column(self) -> None:
        source = open_delimited(self.file("\n".join(["date,product," + "c" * 140_000, *self.ROWS])))
        self.assertEqual(source.columns, ["date", "product", "c" * 200])

    def test_names_that_the_engine_takes_for_patterns_are_names(self) -> None:
        source = open_delimited(self.file("date,^date$,*,cases\n2024-01-01,a,b,3\n2024-01-02,c,d,4\n"))
        self.assertEqual(source.columns, ["date", "column 2", "column 3", "cases"])
