"""Sources read again: what is new is shown before it is taken, and first figures are kept."""

from __future__ import annotations

import datetime as dt
from pathlib import Path

from oat_tide.core.user_error import Unasked, UserError
from oat_tide.documents import open_document, open_sources, save_document
from oat_tide.intake.origins import path_permission
from oat_tide.plan.edits import edit
from oat_tide.plan.parts.evened import Ruled
from oat_tide.plan.parts.sources import Sources
from oat_tide.plan.paths import P
from oat_tide.refresh import firsts_from, look_again, take
from oat_tide.session import Session
from oat_tide.stages.deck import Note
from tests.helpers import FolderCase


def rows(figures: dict[str, float]) -> str:
    """A file of one product by month."""
    return "\n".join(
        ["month,product,cases", *(f"{month},{p},{v:g}" for month, v in figures.items() for p in "AB")]
    )


OLD = {f"2024-{m:02d}": 100.0 + m for m in range(1, 13)}


class Again(FolderCase):
    def old(self) -> tuple[Path, Session]:
        path = self.file(rows(OLD))
        session = open_document(path).session
        session.do(edit(P.evened.final_to, dt.date(2024, 10, 31)))
        session.do(
            edit(P.evened.rulings, (Ruled((), dt.date(2024, 3, 1), dt.date(2024, 3, 31), "leave out"),))
        )
        return path, session

    def test_a_plan_reads_nothing_outside_its_folder_before_the_user_says_so(self) -> None:
        path, session = self.old()
        (self.folder / "plans").mkdir()
        plan = self.folder / "plans" / "plan.oattide"
        save_document(session, "intake", plan)
        # The plan comes from elsewhere: nobody has chosen its sources.
        path_permission._CHOSEN.clear()
        self.addCleanup(path_permission._CHOSEN.clear)
        self.addCleanup(path_permission._NAMED.clear)
        opened = open_document(plan).session
        with self.assertRaises(Unasked) as caught:
            look_again(opened)
        self.assertEqual(caught.exception.places, (str(path),))
        self.assertIn(str(path), str(caught.exception))
        opened.do(edit(P.sources.encoding, "Windows-1252"))
        self.assertRaises(Unasked, opened.prepare)
        opened.undo()
        path_permission.chosen(caught.exception.places)
        self.assertEqual(look_again(opened).changes, ())
        # A link within the folder that leads out of it is asked for as well.
        path_permission._CHOSEN.clear()
        (self.folder / "plans" / "inside.csv").symlink_to(path)
        path_permission.named([str(self.folder / "plans" / "inside.csv")], self.folder / "plans")
        self.assertRaises(Unasked, path_permission.ask_for, [str(self.folder / "plans" / "inside.csv")])

    def test_what_changed_is_shown_by_series_and_period_before_it_is_taken(self) -> None:
        path, session = self.old()
        path.write_text(rows(OLD | {"2024-12": 140.0, "2025-01": 90.0}))
        again = look_again(session)
        self.assertEqual((again.new, again.other), (2, 2))
        listed = again.listing().texts(0, 9)
        # The line through 101 to 112 without its March comes to 113 in January, and never to 90.
        self.assertEqual(listed[0], ("outside what was projected", "A", "Jan 2025", "113", "–", "90", "−23"))
        self.assertIn(("revised, provisional before", "A", "Dec 2024", "–", "112", "140", "+28"), listed)
        self.assertEqual(
            again.said, "2 figures are new and 2 have changed. 2 lie outside what was projected."
        )
        self.assertEqual(session.reading.total_used, 2 * sum(OLD.values()))
        take(session, again)
        self.assertTrue(session.ready)
        self.assertEqual(session.reading.total_used, 2 * (sum(OLD.values()) + 28 + 90))
        self.assertEqual(len(session.plan.evened.rulings), 1)
        session.undo()
        self.assertEqual(session.reading.total_used, 2 * sum(OLD.values()))
        self.assertEqual(session.plan.evened.firsts, ())

    def test_each_series_says_what_is_new_of_it(self) -> None:
        # On every weekday; then B stops, C begins, 3 June is restated and two days lack.
        days = [dt.date(2024, 1, 1) + dt.timedelta(days=n) for n in range(213)]
        weekdays = [day for day in days if day.weekday() < 5]

        def lines(last: dt.date, extra: tuple[str, ...] = (), june: int = 5) -> str:
            rows = ["date,product,cases", *extra]
            for day in weekdays:
                if day <= last and day not in (dt.date(2024, 7, 9), dt.date(2024, 7, 10)):
                    cases = june if day == dt.date(2024, 6, 3) else 5
                    rows += [f"{day},A,{cases}", *([f"{day},B,{7}"] if day.month < 7 else [])]
            return "\n".join(rows)

        path = self.file(lines(dt.date(2024, 6, 28)))
        session = open_document(path).session
        path.write_text(lines(dt.date(2024, 7, 31), ("2024-07-15,C,40",), june=9))
        found = {
            (each.what, ", ".join(filter(None, each.key)), each.when) for each in look_again(session).found
        }
        self.assertIn(("restated, closed before", "A", "Jun 2024"), found)
        self.assertIn(("never seen before", "C", "Jul 2024"), found)
        self.assertIn(("no line since", "B", "Jun 2024"), found)
        self.assertIn(("no line on a usual day", "", "2024-07-09"), found)
        self.assertIn(("no line on a usual day", "", "2024-07-10"), found)
        self.assertEqual(sum(what == "no line on a usual day" for what, *_ in found), 2)
        (july,) = {what for what, key, when in found if (key, when) == ("A", "Jul 2024")}
        self.assertIn(july, ("inside what was projected", "outside what was projected"))

    def test_more_first_figures_than_fifty_thousand_are_kept(self) -> None:
        months = [f"{2000 + n // 12}-{n % 12 + 1:02d}" for n in range(240)]
        text = "\n".join(["month,product,cases", *(f"{m},p{p},{p}" for p in range(1, 215) for m in months)])
        session = self.opened(text)
        session.do(edit(P.evened.final_to, dt.date(2000, 1, 1)))
        self.assertGreater(len(firsts_from(session, self.file(text, "firsts.csv")).value), 51_000)

    def test_first_figures_are_kept_and_how_far_they_moved_is_said(self) -> None:
        path, session = self.old()
        path.write_text(rows(OLD | {"2024-11": 111 * 1.1, "2024-12": 112 * 1.2, "2025-01": 90.0}))
        take(session, look_again(session))
        firsts = session.plan.evened.firsts
        self.assertEqual(len(firsts), 4)
        self.assertEqual({(each.first.month, each.value) for each in firsts}, {(11, 111.0), (12, 112.0)})
        session.do(edit(P.evened.final_to, None))
        session.do(edit(P.where, (("product", "A"),)))
        said = " ".join(i.text(0) for i in session.deck("intake").sheet() if isinstance(i, Note))
        # November was a month old when it was first seen, December was not; both are final now.
        self.assertIn("First-published figures seen 1 month after its end moved by +10.0 % on average", said)
        self.assertIn("First-published figures seen at its end moved by +20.0 % on average", said)

    def test_earlier_first_figures_come_from_a_file(self) -> None:
        _, session = self.old()
        path = self.file(rows({"2024-05": 84.0, "2024-06": 106.0}), "firsts.csv")
        session.do(firsts_from(session, path))
        self.assertEqual(len(session.plan.evened.firsts), 4)
        session.do(edit(P.where, (("product", "B"),)))
        said = " ".join(i.text(0) for i in session.deck("intake").sheet() if isinstance(i, Note))
        # 105 on 84 is +25 %, 106 on 106 is 0: on average +12.5 %, spread 12.5.
        self.assertIn("moved by +12.5 % on average (spread 12.5), 2 figures", said)
        with self.assertRaises(UserError):
            firsts_from(session, path)

    def test_nothing_new_and_what_cannot_be_read_again(self) -> None:
        path, session = self.old()
        self.assertEqual(look_again(session).changes, ())
        path.unlink()
        with self.assertRaises(UserError) as caught:
            look_again(session)
        self.assertIn("sales.csv", str(caught.exception))
        with self.assertRaises(UserError):
            look_again(open_sources(Sources(typed="2020 5, 2021 6")).session)
        self.assertEqual(session.reading.used, 24)
