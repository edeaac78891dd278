"""Files as tables of text, and the messages for what cannot be one."""

from __future__ import annotations

import polars as pl
from hypothesis import given, settings
from hypothesis import strategies as st

from oat_tide.core.user_error import Stopped, UserError
from oat_tide.intake.origins.delimited import open_delimited
from oat_tide.intake.source import File, from_parquet, to_parquet
from oat_tide.intake.table import FILE, ROW, TORN
from tests.helpers import FolderCase

GOOD = "date,product,cases\n2024-01-02,Bran,3\n2024-01-03,Bran,4\n"


class Forms(FolderCase):
    def columns_of(self, data: bytes) -> tuple[list[str], str, list[tuple[object, ...]]]:
        source = open_delimited(self.file(data))
        return source.columns, source.form, source.frame.drop(TORN, FILE).rows()

    def test_encodings_are_found(self) -> None:
        text = "date,größe,cases\n2024-01-02,Müsli,3\n"
        for codec, said in (
            ("utf-8", "UTF-8"), ("utf-8-sig", "UTF-8"), ("utf-16", "UTF-16"), ("cp1252", "Windows-1252"),
        ):  # fmt: skip
            with self.subTest(codec):
                columns, form, rows = self.columns_of(text.encode(codec))
                self.assertEqual(columns, ["date", "größe", "cases"])
                self.assertTrue(form.startswith(said), form)
                self.assertEqual(rows, [(2, "2024-01-02", "Müsli", "3")])

    def test_delimiters_are_found(self) -> None:
        for mark, said in ((",", "commas"), (";", "semicolons"), ("\t", "tabs"), ("|", "bars")):
            with self.subTest(said):
                columns, form, rows = self.columns_of(GOOD.replace(",", mark).encode())
                self.assertEqual(columns, ["date", "product", "cases"])
                self.assertIn(said, form)
                self.assertEqual(len(rows), 2)

    def test_line_ends_of_every_kind(self) -> None:
        for end in ("\n", "\r\n", "\r"):
            with self.subTest(repr(end)):
                self.assertEqual(len(self.columns_of(GOOD.replace("\n", end).encode())[2]), 2)

    def test_quotes_may_hold_delimiters_and_line_ends(self) -> None:
        text = 'date,product,cases\n2024-01-02,"Bran, fine\nmilled",3\n2024-01-03,Bran,4\n'
        rows = self.columns_of(text.encode())[2]
        self.assertEqual(rows, [(2, "2024-01-02", "Bran, fine\nmilled", "3"), (4, "2024-01-03", "Bran", "4")])

    def test_a_file_without_a_header_has_numbered_columns(self) -> None:
        columns, form, rows = self.columns_of(b"2024-01-02,Bran,3\n2024-01-03,Bran,4\n")
        self.assertEqual(columns, ["column 1", "column 2", "column 3"])
        self.assertIn("no header", form)
        self.assertEqual(len(rows), 2)

    def test_a_header_below_a_title_is_found(self) -> None:
        columns, _, rows = self.columns_of(
            b"Mill sales\n\ndate,product,cases\n2024-01-02,Bran,3\n2024-01-03,Bran,4\n"
        )
        self.assertEqual(columns, ["date", "product", "cases"])
        self.assertEqual([row[0] for row in rows], [1, 4, 5])

    def test_names_that_stand_twice_or_are_empty(self) -> None:
        columns = self.columns_of(b"date,cases,cases,\n2024-01-02,1,2,x\n")[0]
        self.assertEqual(columns, ["date", "cases", "cases (2)", "column 4"])

    def test_torn_lines_are_kept_with_their_row_number(self) -> None:
        text = "date,product,cases\n2024-01-02,Bran,3\n\n2024-01-03,4\n2024-01-04,Bran,5,late\n"
        for quoted in (text, text.replace("Bran,3", '"Bran",3')):
            frame = open_delimited(self.file(quoted)).frame
            torn = frame.filter(pl.col(TORN).is_not_null())
            self.assertEqual(torn[ROW].to_list(), [4, 5])
            self.assertEqual(frame.height, 3)


class Refused(FolderCase):
    def assert_says(self, data: bytes, *words: str) -> None:
        with self.assertRaises(UserError) as caught:
            open_delimited(self.file(data))
        said = str(caught.exception)
        for word in ("sales.csv", *words):
            self.assertIn(word, said)
        self.assertNotIn("Traceback", said)

    def test_each_says_which_file_and_what_to_do(self) -> None:
        self.assert_says(b"", "empty", "Choose")
        self.assert_says(b"  \n\n ", "empty")
        self.assert_says(b"date,cases\n", "header and no lines")
        self.assert_says(b"\x7fELF\x02\x01\x00\x00\x00", "not a text file", "CSV")
        self.assert_says(bytes(range(1, 32)) * 50, "control characters")
        self.assert_says(b"PK\x03\x04 and more", "not a text file", "CSV")
        self.assert_says(b"\xff\xfed\x00a", "UTF-16", "breaks off")
        self.assert_says(",".join(f"c{i}" for i in range(3000)).encode() + b"\n1\n", "3,000 columns")

    def test_a_file_that_is_not_there(self) -> None:
        with self.assertRaises(UserError) as caught:
            open_delimited(self.folder / "gone.csv")
        self.assertIn("gone.csv", str(caught.exception))

    @settings(max_examples=150, deadline=None)
    @given(st.binary(max_size=300))
    def test_any_bytes_are_read_or_refused_in_words(self, data: bytes) -> None:
        try:
            open_delimited(self.file(data))
        except UserError as error:
            self.assertIn("sales.csv", str(error))

    @settings(max_examples=60, deadline=None)
    @given(st.lists(st.text(st.characters(codec="utf-8", exclude_characters="\0"), max_size=12), max_size=12))
    def test_every_line_is_kept_or_torn_never_dropped(self, lines: list[str]) -> None:
        lines = [" ".join(line.split()).replace('"', "") for line in lines]
        kept = [line for line in lines if line.strip()]
        path = self.file("date,cases\n2024-01-02,3\n" + "\n".join(lines))
        try:
            source = open_delimited(path)
        except UserError:
            return
        as_data = source.form.endswith("no header")
        self.assertEqual(source.frame.height, 1 + len(kept) + as_data)


class Stopping(FolderCase):
    def test_reading_stops_when_it_is_told_to(self) -> None:
        def progress(share: float) -> None:
            raise Stopped

        with self.assertRaises(Stopped):
            open_delimited(self.file(GOOD), progress=progress)


class Kept(FolderCase):
    def test_lines_survive_their_way_through_parquet(self) -> None:
        source = open_delimited(self.file("date,cases\n2024-01-02,3\n2024-01-03\n2024-01-04,\n"))
        again = from_parquet(to_parquet(source), "plan.oattide", source.name, source.files)
        self.assertTrue(again.frame.equals(source.frame))

    def test_what_is_no_parquet_of_lines_is_refused(self) -> None:
        import io

        other = io.BytesIO()
        pl.DataFrame({"a": [1]}).write_parquet(other)
        for data in (b"", b"PAR1 nothing", other.getvalue()):
            with self.subTest(data[:8]), self.assertRaises(UserError) as caught:
                from_parquet(data, "plan.oattide", "s.csv", (File("s.csv", ""),))
            self.assertIn("plan.oattide", str(caught.exception))

    def test_lines_made_to_fill_the_memory_are_refused(self) -> None:
        import io

        bomb = io.BytesIO()
        rows = 12_000_000
        pl.DataFrame({ROW: pl.zeros(rows, pl.Int64, eager=True)}).with_columns(
            pl.lit(None, pl.Categorical).alias(TORN), pl.lit(0, pl.UInt16).alias(FILE), pl.lit("x").alias("a")
        ).write_parquet(bomb, compression="zstd")
        with self.assertRaises(UserError) as caught:
            from_parquet(bomb.getvalue(), "plan.oattide", "s.csv", (File("s.csv", ""),))
        self.assertIn("12,000,000 rows", str(caught.exception))
