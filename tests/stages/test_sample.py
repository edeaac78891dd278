"""The contracts of a stage, on the sample that uses them all."""

from __future__ import annotations

import contextlib
import datetime as dt
import io
import json

import numpy as np
import polars as pl

from oat_tide.cli import main
from oat_tide.core.user_error import UserError
from oat_tide.core.working.rendering import evaluate
from oat_tide.core.working.tree import Cell, Ref, leaves
from oat_tide.plan.edits import edit, insert, move, remove
from oat_tide.plan.paths import P
from oat_tide.session import Session
from oat_tide.stages import STAGES
from oat_tide.stages.deck import ListQuery
from oat_tide.stages.needs import needs_of
from tests.helpers import FolderCase, daily, wavy
from tests.stages.sample_stage import LOCKED, ROWS, WINDOWS, S, Trial, roughness, sample_plan, with_sample


class OnTheSample(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        stage = with_sample()
        stage.__enter__()
        self.addCleanup(stage.__exit__, None, None, None)
        self.session = self.opened(daily(900, wavy))
        self.session.begin(sample_plan(self.session.plan))


class Instances(OnTheSample):
    def test_instances_are_changed_added_moved_and_taken_out(self) -> None:
        do, plan = self.session.do, lambda: self.session.plan.sample.trials  # type: ignore[attr-defined]
        do(edit(S.sample.trials[1].window, 9))
        self.assertEqual([each.window for each in plan()], [3, 9, 12])
        do(move(S.sample.trials[1], 0))
        do(insert(S.sample.trials[3], Trial(5)))
        do(remove(S.sample.trials[1]))
        self.assertEqual([each.window for each in plan()], [9, 12, 5])
        self.assertEqual(self.session.shown("sample").figures["trial_2"].label, "Trial 3")
        for _ in range(4):
            self.session.undo()
        self.assertEqual([each.window for each in plan()], [3, 6, 12])


class Axes(OnTheSample):
    def test_figures_of_several_axes_live_in_one_deck_and_explain_themselves(self) -> None:
        deck = self.session.deck("sample")
        columns = {name: figure.values.shape[1] for name, figure in deck.figures.items()}
        self.assertEqual((columns["usual"], columns["roughness"], columns["series"]), (12, 6, 1))
        self.assertEqual(columns["trial_0"], deck.columns)
        for figure in deck.figures.every():
            for column in np.flatnonzero(~np.isnan(figure.values[0])).tolist():
                working = figure.explain(0, column)
                self.assertAlmostEqual(evaluate(working), figure.values[0, column], msg=figure.name)  # type: ignore[arg-type]
        usual = deck.figures["usual"]
        months = [each % 12 for each in range(deck.first, deck.first + deck.past)]
        of_may = [v for m, v in zip(months, deck.figures["actual"].values[0], strict=False) if m == 4]
        self.assertAlmostEqual(usual.values[0, 4], sum(of_may) / len(of_may))
        self.assertEqual(deck.label_on("season", 4), "May")

    def test_the_axis_in_sight_is_chosen_and_the_rows_are_its_own(self) -> None:
        self.session.do(edit(S.sample.arrangement, "season"))
        deck = self.session.deck("sample")
        self.assertEqual([row.name for row in deck.rows], ["usual"])
        self.assertEqual((deck.columns, deck.label(0)), (12, "Jan"))


class Reach(OnTheSample):
    def test_needs_are_of_the_series_in_sight_its_parts_or_all(self) -> None:
        lines = [self.session.deck("lines", reach) for reach in ("", "children", "every")]  # type: ignore[arg-type]
        self.assertEqual([len(deck.keys) for deck in lines], [1, 2, len(self.session.panel.keys)])
        own, parts, every = (deck.figures["actual"].values[:, :20] for deck in lines)
        np.testing.assert_allclose(parts.sum(0), own[0])
        np.testing.assert_allclose(every.sum(0), own[0])

    def test_an_address_names_a_series_out_of_sight(self) -> None:
        working = self.session.explain(Ref("sample", "first_part", 0, 3))
        (cell,) = (leaf for leaf in leaves(working) if isinstance(leaf, Cell))  # type: ignore[arg-type]
        self.assertEqual(cell.ref, Ref("lines", "actual", 0, 3, "children"))
        self.assertEqual(self.session.figure(cell.ref).values[0, 3], cell.value)
        self.assertIsNotNone(self.session.explain(cell.ref))

    def test_narrowed_to_the_last_a_series_is_its_own_part(self) -> None:
        key = self.session.panel.keys[0]
        names = self.session.reading.dimensions
        self.session.do(edit(P.where, tuple(zip(names, key, strict=True))))
        own, parts = (self.session.deck("lines", reach) for reach in ("", "children"))  # type: ignore[arg-type]
        np.testing.assert_array_equal(own.figures["actual"].values, parts.figures["actual"].values)


class Arranged(OnTheSample):
    def test_a_stage_is_an_arrangement_of_another_and_has_needs_of_its_own(self) -> None:
        self.assertEqual(self.session.shown("sample").stage, "sample")
        self.session.do(edit(S.sample.arrangement, "parts"))
        deck = self.session.shown("sample")
        self.assertEqual((deck.stage, deck.finding(0)), ("parts", "2 parts"))
        shares = sum(deck.figures[f"part_{place}"].values[0] for place in range(2))
        sample = self.session.deck("sample").figures
        whole = 100 * sample["actual"].values[0] / sample["trial_0"].values[0]
        np.testing.assert_allclose(shares, whole[: len(shares)])

    def test_no_stage_needs_itself_by_any_way(self) -> None:
        def ways(name: str, through: tuple[str, ...]) -> None:
            self.assertNotIn(name, through)
            for each in needs_of(STAGES[name].needs):
                if each.of in STAGES:
                    ways(each.of, (*through, name))

        for name in STAGES:
            ways(name, ())


class Written(OnTheSample):
    def usual(self) -> list[float]:
        return self.session.deck("sample").figures["usual"].values[0].tolist()

    def test_a_row_is_written_as_one_step_and_taken_back(self) -> None:
        before, at = self.usual(), Ref("sample", "usual", 0, 2)
        self.session.write([(at, ["1,200", "", "75.5"])])
        self.assertEqual(self.usual()[2:5], [1200.0, before[3], 75.5])
        figure = self.session.deck("sample").figures["usual"]
        self.assertEqual([figure.state(0, column) for column in (2, 3, LOCKED)], ["own", "", "locked"])
        self.assertIn("written here", str(figure.explain(0, 2)))
        self.session.write([(at, [""])])
        self.assertEqual(self.usual()[2], before[2])
        self.session.undo()
        self.session.undo()
        self.assertEqual(self.usual(), before)

    def test_what_cannot_be_written_is_refused_and_nothing_is(self) -> None:
        before = self.session.plan
        for column, texts, said in (
            (2, ["5", "some"], "Usual, Apr: “some” is no number. Nothing was written."),
            (
                10,
                ["5", "6"],
                "Usual, Dec: this cell cannot be written in. Choose another. Nothing was written.",
            ),
            (10, ["5", "", "7"], "Usual: there is no cell to write in. Choose another. Nothing was written."),
        ):
            with self.subTest(texts=texts), self.assertRaises(UserError) as caught:
                self.session.write([(Ref("sample", "usual", 0, column), texts)])
            self.assertEqual(str(caught.exception), said)
            self.assertIs(self.session.plan, before)


class Lists(OnTheSample):
    def wished(self, **wish: object) -> list[tuple[str, ...]]:
        listing = self.session.deck("sample").listings[0]
        assert listing.arrange is not None
        found = listing.arrange(ListQuery(**wish))  # type: ignore[arg-type]
        return found.texts(0, found.count)

    def test_rows_are_sorted_by_value_and_those_not_known_come_last(self) -> None:
        rows = self.wished(by=2)
        self.assertEqual([int(row[2].replace(",", "")) for row in rows], sorted(range(ROWS)))
        for falling in (False, True):
            sizes = [row[3] for row in self.wished(by=3, falling=falling)]
            self.assertEqual(sizes[-100:], ["–"] * 100)
            numbers = [float(each) for each in sizes[:-100]]
            self.assertEqual(numbers, sorted(numbers, reverse=falling))
        days = [row[5] for row in self.wished(by=5)]
        self.assertEqual(days, sorted(days))
        self.assertEqual(dt.date.fromisoformat(days[0]), dt.date.fromordinal(18000 + 719163))

    def test_rows_are_searched_and_picked(self) -> None:
        self.assertEqual([row[0] for row in self.wished(text="ROW 00042")], ["Row 00042"])
        calm = self.wished(only=((1, "calm"),))
        self.assertEqual((len(calm), {row[1] for row in calm}), (3334, {"calm"}))
        self.assertEqual(self.wished(text="no such row"), [])

    def test_an_act_is_on_the_row_that_stands_there(self) -> None:
        listing = self.session.deck("sample").listings[0]
        assert listing.arrange is not None
        found = listing.arrange(ListQuery(text="00042"))
        change = found.acts[0].edit(0)
        assert change is not None
        self.session.do(change)
        self.assertEqual(self.session.plan.sample.starred, (42,))  # type: ignore[attr-defined]
        self.assertIsNone(self.session.deck("sample").listings[0].acts[0].edit(42))


class Outlets(OnTheSample):
    def told(self, *words: str) -> tuple[int, str, str]:
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            try:
                code = main(list(words))
            except SystemExit as left:
                code = int(left.code or 0)
        return code, out.getvalue(), err.getvalue()

    def test_a_field_is_an_option_and_the_record_is_written(self) -> None:
        path = str(self.file(daily(200, wavy)))
        code, out, _ = self.told("sample", path, "--by", "product", "--near", "5", "--format", "json")
        self.assertEqual(code, 0)
        rows = json.loads(out)
        self.assertEqual(list(rows[0]), ["product", "period", "kind", "near", "value", "trial_1", "actual"])
        self.assertEqual({(row["kind"], row["near"]) for row in rows}, {("trial_0", "5")})
        first = [row for row in rows if row["product"] == rows[0]["product"]]
        self.assertAlmostEqual(first[2]["value"], sum(row["actual"] for row in first[:3]) / 3)

    def test_help_names_it_and_bad_values_are_refused_by_its_name(self) -> None:
        code, out, _ = self.told("sample", "--help")
        self.assertEqual(code, 0)
        self.assertRegex(out, r"--near PERIODS\s+where the near end is \(default: 3\)")
        path = str(self.file(daily(60, wavy)))
        for value, said in (("25", "--near: Near end: “25”"), ("soon", "--near: invalid int value")):
            code, _, err = self.told("sample", path, "--near", value)
            self.assertEqual(code, 2)
            self.assertIn(said, err)


class Later(OnTheSample):
    def test_six_questions_are_answered_at_once_where_nothing_waits(self) -> None:
        deck = self.session.deck("sample")
        past = self.session.sight().past
        expected = [roughness(past, window, lambda share: None) for window in WINDOWS]
        np.testing.assert_allclose(deck.figures["roughness"].values[0], expected)

    def said(self) -> list[str]:
        return [item.text(0) for item in self.session.deck("sample").sheet() if hasattr(item, "said")]

    def test_kept_data_are_seen_by_the_stage(self) -> None:
        sink = io.BytesIO()
        pl.DataFrame({"item": ["Bran", "Oats"], "value": [3.0, 4.5]}).write_parquet(sink)
        self.session.do(self.session.keep("a projection", sink.getvalue(), "by hand"))
        self.assertIn("kept: a projection, 7.5", self.said())
        deck = self.session.deck("sample")
        self.session.do(edit(P.title, "Another"))
        self.assertIs(self.session.deck("sample"), deck)
        self.session.undo()
        self.session.undo()
        self.assertFalse(any("a projection" in each for each in self.said()))

    def test_kept_data_that_are_damaged_are_told_so(self) -> None:
        self.session.do(self.session.keep("a projection", b"PAR1 some figures", "by hand"))
        self.assertTrue(
            any("“a projection”, which the plan keeps, is damaged" in each for each in self.said())
        )
        other = Session(self.session.source, self.session.plan)
        other.share(self.session)
        self.assertEqual(other.kept, self.session.kept)
