"""The plan file: whole or not at all, and hostile until checked."""

from __future__ import annotations

import datetime as dt
import errno
import json
import sqlite3
import subprocess
import sys
import zipfile
from pathlib import Path
from unittest import mock

import msgspec
import numpy as np

from oat_tide.core.user_error import UserError
from oat_tide.demo import plan_path
from oat_tide.documents import open_document, open_sources, save_document
from oat_tide.plan import container
from oat_tide.plan.container import Contents, load, save
from oat_tide.plan.edits import edit, remove
from oat_tide.plan.parts.evened import FirstPublished
from oat_tide.plan.parts.smooth import Smoother
from oat_tide.plan.parts.sources import Sources
from oat_tide.plan.paths import P
from oat_tide.plan.plan import Plan
from oat_tide.plan.schema import OLDEST, SCHEMA, STEPS, Head
from tests.helpers import FolderCase, daily, wavy


def contents(title: str = "A plan") -> Contents:
    return Contents(
        Head(SCHEMA, Plan(title=title), "history", "s.csv", (("s.csv", "UTF-8", 5),)),
        b"lines" * 100,
        b"panel",
    )


class SavingAndLoading(FolderCase):
    def test_what_is_saved_is_what_is_loaded(self) -> None:
        path = self.folder / "a.oattide"
        save(path, contents())
        self.assertEqual(load(path), contents())
        self.assertEqual([p.name for p in self.folder.iterdir()], ["a.oattide"])

    def test_equal_plans_give_equal_files(self) -> None:
        one, other = self.folder / "1.oattide", self.folder / "2.oattide"
        save(one, contents())
        save(other, contents())
        self.assertEqual(one.read_bytes(), other.read_bytes())

    def test_it_is_a_plain_zip_that_anyone_can_read(self) -> None:
        path = self.folder / "a.oattide"
        save(path, contents())
        with zipfile.ZipFile(path) as archive:
            self.assertEqual(archive.namelist(), ["plan.json", "lines.parquet", "panel.parquet", "log.jsonl"])
            self.assertEqual(json.loads(archive.read("plan.json"))["schema"], SCHEMA)


class OpenedAgain(FolderCase):
    """What is saved can be opened: what could not is refused before the old file is replaced."""

    def test_a_file_with_a_very_long_name(self) -> None:
        name = "s" * 220 + ".csv"
        session = self.opened(daily(40, wavy), name)
        path = self.folder / "kept.oattide"
        save_document(session, "intake", path)
        self.assertEqual(open_document(path).session.reading.source, name)
        self.assertEqual(len(session.plan.title), 200)

    def test_very_many_first_figures(self) -> None:
        session = self.opened(daily(40, wavy))
        first = FirstPublished(
            (("product", "Oat drink"),), dt.date(2024, 1, 1), dt.date(2024, 1, 31), 1.25, dt.date(2024, 2, 1)
        )
        many = tuple(msgspec.structs.replace(first, value=float(i)) for i in range(50_000))
        session.do(edit(P.evened.firsts, many))
        path = self.folder / "kept.oattide"
        save_document(session, "intake", path)
        self.assertEqual(open_document(path).session.plan.evened.firsts, many)

    def test_what_could_not_be_opened_is_refused_and_the_old_file_stays(self) -> None:
        path = self.folder / "a.oattide"
        save(path, contents("Old"))
        for title, said in (("t" * 201, "could not be opened again"), ("Fine", "holds at most")):
            with self.subTest(said), self.assertRaises(UserError) as caught:
                limits = container._LIMITS | ({"lines.parquet": 10} if title == "Fine" else {})
                with mock.patch.object(container, "_LIMITS", limits):
                    save(path, contents(title))
            self.assertIn(said, str(caught.exception))
            self.assertIn("a.oattide was not written", str(caught.exception))
            self.assertEqual(load(path).head.plan.title, "Old")

    def test_pasted_text_beyond_what_a_plan_holds_is_refused_when_it_is_pasted(self) -> None:
        with self.assertRaises(UserError) as caught:
            open_sources(Sources(typed="2024-01 5\n" * 250_000))
        self.assertIn("2,500,000 characters were pasted; at most 2,000,000. Save", str(caught.exception))

    def test_a_query_longer_than_a_plan_holds_is_refused_by_its_name(self) -> None:
        path = self.folder / "sales.db"
        with sqlite3.connect(path) as line:
            line.execute("create table sales (sold date, cases integer)")
            line.execute("insert into sales values ('2024-01-01', 3), ('2024-02-01', 4)")
        query = "select * from sales" + " " * 25_000
        with self.assertRaises(UserError) as caught:
            open_sources(Sources(places=(str(path),), query=query))
        self.assertIn("Query: “select * from sales", str(caught.exception))
        self.assertLess(len(str(caught.exception)), 300)


class Crashes(FolderCase):
    def assert_old_file_whole(self, path: Path) -> None:
        self.assertEqual(load(path).head.plan.title, "Old")
        self.assertEqual([p.name for p in self.folder.iterdir()], [path.name])

    def test_a_failure_at_any_moment_leaves_the_old_file(self) -> None:
        path = self.folder / "a.oattide"
        save(path, contents("Old"))
        full = OSError(errno.ENOSPC, "No space left on device")
        for target in ("os.fsync", "zipfile.ZipFile.writestr", "pathlib.Path.replace", "tempfile.mkstemp"):
            with (
                self.subTest(target),
                mock.patch(target, side_effect=full),
                self.assertRaises(UserError) as caught,
            ):
                save(path, contents("New"))
            self.assertIn("No space left", str(caught.exception))
            self.assertIn("unchanged", str(caught.exception))
            self.assert_old_file_whole(path)

    def test_a_disk_that_fills_up_while_writing(self) -> None:
        path = self.folder / "a.oattide"
        save(path, contents("Old"))
        code = (
            "import resource, signal, sys; from pathlib import Path\n"
            "from tests.plan.test_container import contents\n"
            "from oat_tide.plan.container import Contents, save\n"
            "from oat_tide.core.user_error import UserError\n"
            "signal.signal(signal.SIGXFSZ, signal.SIG_IGN)\n"
            "resource.setrlimit(resource.RLIMIT_FSIZE, (4096, 4096))\n"
            "new = contents('New'); new = Contents(new.head, b'x' * 100000, b'')\n"
            "try:\n    save(Path(sys.argv[1]), new)\n"
            "except UserError as trouble:\n    print(trouble); sys.exit(7)\n"
        )
        top = Path(__file__).parents[2]
        ran = subprocess.run([sys.executable, "-c", code, str(path)], cwd=top, capture_output=True, text=True)
        self.assertEqual(ran.returncode, 7, ran.stderr)
        self.assertIn("a.oattide was not written", ran.stdout)
        self.assert_old_file_whole(path)

    def test_a_folder_that_is_not_there_or_may_not_be_written(self) -> None:
        with self.assertRaises(UserError) as caught:
            save(self.folder / "none" / "a.oattide", contents())
        self.assertIn("choose another folder", str(caught.exception))
        denied = PermissionError(errno.EACCES, "Permission denied")
        with mock.patch("tempfile.mkstemp", side_effect=denied), self.assertRaises(UserError) as caught:
            save(self.folder / "a.oattide", contents())
        self.assertIn("Permission denied", str(caught.exception))


class Hostile(FolderCase):
    def archive(self, entries: dict[str, bytes], compress: int = zipfile.ZIP_STORED) -> Path:
        path = self.folder / "bad.oattide"
        with zipfile.ZipFile(path, "w", compress) as archive:
            for name, data in entries.items():
                archive.writestr(name, data)
        return path

    def assert_refused(self, path: Path, word: str) -> None:
        with self.assertRaises(UserError) as caught:
            load(path)
        self.assertIn(path.name, str(caught.exception))
        self.assertIn(word, str(caught.exception))

    def whole(self) -> dict[str, bytes]:
        save(self.folder / "whole.oattide", contents())
        with zipfile.ZipFile(self.folder / "whole.oattide") as archive:
            return {name: archive.read(name) for name in archive.namelist()}

    def test_a_file_cut_short_anywhere(self) -> None:
        save(self.folder / "whole.oattide", contents())
        data = (self.folder / "whole.oattide").read_bytes()
        for length in range(0, len(data), 97):
            path = self.file(data[:length], "cut.oattide")
            with self.subTest(length), self.assertRaises(UserError):
                load(path)

    def test_a_file_with_a_byte_changed_is_refused_or_read_whole(self) -> None:
        save(self.folder / "whole.oattide", contents())
        data = bytearray((self.folder / "whole.oattide").read_bytes())
        for place in range(0, len(data), 41):
            changed = bytearray(data)
            changed[place] ^= 0x55
            try:
                found = load(self.file(bytes(changed), "changed.oattide"))
            except UserError:
                continue
            self.assertEqual((found.lines, found.panel), (contents().lines, contents().panel))

    def test_what_is_no_plan(self) -> None:
        self.assert_refused(self.file(b"not a zip", "bad.oattide"), "damaged")
        self.assert_refused(self.archive({"other.txt": b"x"}), "plan.json")
        self.assert_refused(self.folder / "gone.oattide", "cannot be read")
        self.assert_refused(
            self.archive(self.whole() | {"plan.json": b'{"schema": 3, "plan": {"odd": 1}}'}), "understood"
        )
        self.assert_refused(self.archive(self.whole() | {"plan.json": b"\xff\xfe"}), "understood")

    def test_a_plan_of_a_newer_version(self) -> None:
        older = self.whole() | {"plan.json": b'{"schema": 1, "plan": {}}'}
        self.assert_refused(self.archive(older), "early version (schema 1")
        newer = self.whole() | {"plan.json": b'{"schema": 10, "plan": {"something": "new"}}'}
        self.assert_refused(self.archive(newer), "newer version (schema 10")

    def test_an_older_head_that_no_step_can_take(self) -> None:
        for plan in (
            "[]",
            "7",
            '{"intake": 3}',
            '{"intake": {"verdicts": [5]}}',
            '{"odd": 1}',
            "[" * 5000 + "]" * 5000,
        ):
            head = b'{"schema": 2, "plan": ' + plan.encode() + b', "stage": "", "source": "", "files": []}'
            with self.subTest(plan[:20]):
                self.assert_refused(self.archive(self.whole() | {"plan.json": head}), "cannot be understood")

    def test_paths_that_climb_out(self) -> None:
        for name in ("../../etc/cron.d/x", "/etc/passwd", "lines.parquet/../../x"):
            with self.subTest(name):
                self.assert_refused(self.archive(self.whole() | {name: b"x"}), "never does")

    def test_entries_that_unpack_to_more_than_a_plan_can_hold(self) -> None:
        huge = b" " * (65 << 20)
        self.assert_refused(
            self.archive(self.whole() | {"plan.json": huge}, zipfile.ZIP_DEFLATED), "unpacks to more"
        )
        packed = self.archive(self.whole(), zipfile.ZIP_DEFLATED)
        self.assert_refused(packed, "packed in a way")

    def test_an_entry_that_lies_about_its_size(self) -> None:
        path = self.archive(self.whole() | {"plan.json": b" " * (17 << 20)}, zipfile.ZIP_DEFLATED)
        real = zipfile.ZipFile.getinfo

        def lying(archive: zipfile.ZipFile, name: str) -> zipfile.ZipInfo:
            info = real(archive, name)
            info.file_size = 10
            return info

        with mock.patch.object(zipfile.ZipFile, "getinfo", lying):
            self.assert_refused(path, "bad.oattide")

    def test_the_limits_are_those_of_the_entries(self) -> None:
        self.assertEqual(set(container._LIMITS), {"plan.json", "log.jsonl", "lines.parquet", "panel.parquet"})


OLDER = Path(__file__).with_name("older")


class OlderPlans(FolderCase):
    """Plans as earlier versions saved them open with nothing lost."""

    def test_the_demo_plan_of_schema_2(self) -> None:
        path = OLDER / "skerrybank-schema-2.oattide"
        with zipfile.ZipFile(path) as archive:
            before = json.loads(archive.read("plan.json"))
        found = load(path)
        self.assertEqual((before["schema"], found.head.schema), (2, SCHEMA))
        verdicts = before["plan"]["intake"]["verdicts"]
        self.assertEqual(len(verdicts), 2)
        for each in verdicts:
            each["outcome"] = each.pop("way")
        self.assert_holds(found.head, before | {"schema": SCHEMA})

    def assert_holds(self, thing: object, data: object) -> None:
        """All that plain data hold is there."""
        if isinstance(data, dict):
            for name, value in data.items():
                self.assert_holds(getattr(thing, name), value)
        elif isinstance(data, list):
            assert isinstance(thing, tuple)
            self.assertEqual(len(thing), len(data))
            for one, value in zip(thing, data, strict=True):
                self.assert_holds(one, value)
        else:
            self.assertEqual(thing.isoformat() if isinstance(thing, dt.date) else thing, data)

    def test_they_make_the_figures_that_today_s_demo_plan_makes(self) -> None:
        new = open_document(plan_path()).session
        for schema in range(OLDEST, SCHEMA):
            old = open_document(OLDER / f"skerrybank-schema-{schema}.oattide").session
            if schema < 5:
                # What was one window for two averages is two smoothers.
                self.assertEqual(old.plan.smooth.smoothers, (Smoother(), Smoother(kind="weighted")))
            if schema < 8:
                # It began with a line and six periods ahead; today's begins with what suits.
                self.assertEqual((old.plan.project.method, old.plan.project.horizon), ("line", 6))
            new.do(edit(P.project, old.plan.project))
            same = {"sources": Sources(), "smooth": new.plan.smooth}
            self.assertEqual(
                msgspec.structs.replace(old.plan, **same), msgspec.structs.replace(new.plan, **same)
            )
            for stage in ("history", "project"):
                for name, figure in new.deck(stage).figures.items():
                    np.testing.assert_array_equal(old.deck(stage).figures[name].values, figure.values)

    def test_how_the_actual_is_drawn_becomes_one_choice_for_all_stages(self) -> None:
        plan = {"title": "A plan", "history": {"drawn": "columns", "years": 3}}
        found = STEPS[3]({"plan": plan, "stage": "history"})
        self.assertEqual(found["plan"], {"title": "A plan", "history": {"years": 3}, "drawn": "columns"})
        plain = {"plan": {"title": "A plan"}, "stage": "history"}
        self.assertEqual(STEPS[3](plain), plain)

    def test_years_are_numbered_by_the_words_of_now(self) -> None:
        for old, now in (("from 1", "counter"), ("by calendar year", "calendar")):
            found = STEPS[5]({"plan": {"project": {"numbered": old, "horizon": 3}}})
            self.assertEqual(found["plan"]["project"], {"numbered": now, "horizon": 3})
        plain = {"plan": {"title": "A plan"}}
        self.assertEqual(STEPS[5](plain), plain)

    def test_two_averages_over_one_window_become_two_smoothers(self) -> None:
        plan = {"title": "A plan", "smooth": {"window": 4, "weights": [3, 1], "drawn": "newest first"}}
        smooth = STEPS[4]({"plan": plan})["plan"]["smooth"]
        # Own weights were carried on to fit the window.
        weighted = {"kind": "weighted", "window": 4, "weights": [3, 1, 1, 1]}
        self.assertEqual(smooth, {"drawn": "newest first", "smoothers": [{"window": 4}, weighted]})

    def test_steps_lead_from_the_oldest_to_today(self) -> None:
        self.assertEqual(sorted(STEPS), list(range(OLDEST, SCHEMA)))

    def test_a_plan_without_what_a_step_changes_is_left_as_it_is(self) -> None:
        head = {"schema": 2, "plan": {"title": "Bare"}}
        self.assertEqual(STEPS[2](head), head)


class KeptData(FolderCase):
    """Large data that belong to a plan: in members of their own, and never packed anew."""

    def test_they_are_saved_and_opened_and_their_bytes_stay(self) -> None:
        session = open_document(self.file(daily(60, wavy))).session
        data = [b"PAR1" + bytes([n]) * 5000 for n in range(2)]
        session.do(edit(P.as_of, dt.date(2024, 1, 31)))
        for place, each in enumerate(data):
            session.do(session.keep(f"projection {place}", each, method="straight line"))
        path = self.folder / "kept.oattide"
        save_document(session, "project", path)
        again = open_document(path).session
        heads = again.plan.kept
        self.assertEqual([head.name for head in heads], ["projection 0", "projection 1"])
        self.assertEqual((heads[0].as_of, heads[0].method), (dt.date(2024, 1, 31), "straight line"))
        self.assertEqual([again.kept[head.id] for head in heads], data)
        again.do(edit(P.smooth.smoothers[0].window, 9))
        other = self.folder / "again.oattide"
        save_document(again, "project", other)
        with zipfile.ZipFile(path) as one, zipfile.ZipFile(other) as two:
            for head in heads:
                name = f"kept/{head.id}.parquet"
                self.assertEqual(one.read(name), two.read(name))
                self.assertEqual(two.getinfo(name).compress_type, zipfile.ZIP_STORED)

    def test_the_same_data_can_be_kept_twice_under_two_names(self) -> None:
        session = open_document(self.file(daily(60, wavy))).session
        for name in ("first", "second"):
            session.do(session.keep(name, b"same"))
        self.assertEqual(len({head.id for head in session.plan.kept}), 2)

    def test_what_was_taken_out_or_undone_is_not_saved(self) -> None:
        session = open_document(self.file(daily(60, wavy))).session
        session.do(session.keep("first", b"one"))
        session.do(session.keep("second", b"two"))
        session.undo()
        session.do(remove(P.kept[0]))
        self.assertEqual(session.history.back[-1].change, "Kept 1 removed")
        path = self.folder / "none.oattide"
        save_document(session, "project", path)
        with zipfile.ZipFile(path) as archive:
            self.assertEqual(len(archive.namelist()), 4)
        session.undo()
        self.assertEqual(session.kept[session.plan.kept[0].id], b"one")

    def test_damaged_or_missing_data_are_told(self) -> None:
        session = open_document(self.file(daily(60, wavy))).session
        session.do(session.keep("first", b"one"))
        path = self.folder / "kept.oattide"
        save_document(session, "project", path)
        name = f"kept/{session.plan.kept[0].id}.parquet"
        for change, words in (
            (lambda parts: parts | {name: b"two"}, "the data of “first” are damaged"),
            (lambda parts: {key: value for key, value in parts.items() if key != name}, f"lacks {name}"),
            (lambda parts: parts | {"kept/../x.parquet": b"x"}, "never does"),
        ):
            with zipfile.ZipFile(path) as archive:
                parts = {each: archive.read(each) for each in archive.namelist()}
            odd = self.folder / "odd.oattide"
            with zipfile.ZipFile(odd, "w") as archive:
                for key, value in change(parts).items():
                    archive.writestr(key, value)
            with self.subTest(words), self.assertRaisesRegex(UserError, words):
                load(odd)
        session.kept.clear()
        before = path.read_bytes()
        with self.assertRaisesRegex(UserError, "the data of “first” are not at hand"):
            save_document(session, "project", path)
        self.assertEqual(path.read_bytes(), before)
