"""Files written whole, held by one window at a time, told from other versions; folders that are not there."""

from __future__ import annotations

import datetime as dt
import json
import os
import socket
import subprocess
import sys
from pathlib import Path
from unittest import mock

from oat_tide.core.user_error import UserError
from oat_tide.system import folders, holding, log, settings, versions
from oat_tide.system.whole import _prefix, write_whole
from tests.helpers import FolderCase


class WrittenWhole(FolderCase):
    def write(self, path: Path, text: str = "new") -> None:
        write_whole(path, lambda file: file.write_text(text))

    def names(self, folder: Path) -> list[str]:
        return sorted(each.name for each in folder.iterdir())

    def test_a_link_is_followed_and_stays_one(self) -> None:
        (self.folder / "shelf").mkdir()
        real = self.file("old", "shelf/plan.oattide")
        link, dangling = self.folder / "link.oattide", self.folder / "dangling.oattide"
        link.symlink_to(real)
        dangling.symlink_to(self.folder / "shelf" / "none.oattide")
        for each in (link, dangling):
            self.write(each)
            self.assertTrue(each.is_symlink())
            self.assertEqual(each.read_text(), "new")
        self.assertEqual(self.names(real.parent), ["none.oattide", "plan.oattide"])

    def test_links_in_a_circle_and_names_that_are_too_long_are_refused_in_words(self) -> None:
        one, other = self.folder / "one", self.folder / "other"
        one.symlink_to(other)
        other.symlink_to(one)
        for path in (one, self.folder / ("é" * 140 + ".oattide")):
            with self.subTest(path.name[:10]), self.assertRaisesRegex(UserError, "was not written"):
                self.write(path)

    def test_what_is_read_only_is_refused(self) -> None:
        path = self.file("old")
        path.chmod(0o444)
        with self.assertRaisesRegex(UserError, "read-only"):
            self.write(path)
        self.assertEqual((path.read_text(), self.names(self.folder)), ("old", ["sales.csv"]))

    def test_what_does_not_read_back_leaves_the_old_one(self) -> None:
        path = self.file("old")

        def check(file: Path) -> None:
            raise UserError("another thing stands there")

        with self.assertRaises(UserError):
            write_whole(path, lambda file: file.write_text("new"), check)
        self.assertEqual((path.read_text(), self.names(self.folder)), ("old", ["sales.csv"]))

    def test_what_killed_writers_left_is_cleared_and_nothing_else(self) -> None:
        path = self.file("old")
        progress = [sys.executable, "-c", "import os; print(os.getpid())"]
        ended = subprocess.run(progress, capture_output=True, text=True)
        with mock.patch("os.getpid", return_value=int(ended.stdout)):
            gone = self.file("half", _prefix(path) + "x1.part")
        ours = self.file("at work", _prefix(path) + "x2.part")
        with mock.patch("socket.gethostname", return_value="elsewhere"):
            far, old = (self.file("half", _prefix(path) + each) for each in ("x3.part", "x4.part"))
        os.utime(old, (0, 0))
        other = self.file("kept", ".sales.csv-notes.part")
        self.write(path)
        left = [each.exists() for each in (gone, ours, far, old, other)]
        self.assertEqual(left, [False, True, True, False, True])


class Held(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.path = self.file("plan", "plan.oattide")
        self.place = self.folder / ".plan.oattide.open"

    def as_other(self, **changes: object) -> None:
        told = {"host": socket.gethostname(), "process": 1, "begun": holding._begun(1), "who": "Ben"}
        told |= {"since": "2026-12-01T10:00:00+00:00"} | changes
        self.place.write_text(json.dumps(told))

    def test_one_holds_it_and_lets_it_go(self) -> None:
        self.assertIsNone(holding.hold(self.path, "Ana"))
        told = json.loads(self.place.read_text())
        self.assertEqual((told["process"], told["who"]), (os.getpid(), "Ana"))
        self.assertIsNone(holding.holder(self.path), "it is this process itself")
        holding.let_go(self.path)
        self.assertFalse(self.place.exists())

    def test_another_one_is_told_and_not_put_aside(self) -> None:
        for changes in ({}, {"host": "mill-two"}):
            self.as_other(**changes)
            before = self.place.read_text()
            found = holding.hold(self.path, "Ana")
            self.assertIn("Ben", found.told())
            self.assertIn(changes.get("host", "this machine"), found.told())
            holding.let_go(self.path)
            self.assertEqual(self.place.read_text(), before)

    def test_what_a_process_left_that_is_gone_or_another_now_is_nobody(self) -> None:
        for changes in ({"process": 2**22 - 1}, {"begun": "17"}, {"process": "x"}, {"since": "noon"}):
            self.as_other(**changes)
            with self.subTest(changes):
                self.assertIsNone(holding.hold(self.path))
                self.assertEqual(json.loads(self.place.read_text())["process"], os.getpid())
        self.place.write_bytes(b"\xff{")
        self.assertIsNone(holding.hold(self.path))

    def test_a_link_and_its_file_are_held_as_one(self) -> None:
        self.as_other()
        link = self.folder / "link.oattide"
        link.symlink_to(self.path)
        self.assertIsNotNone(holding.holder(link))


class Versions(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        patch = mock.patch.dict(os.environ, {"XDG_STATE_HOME": str(self.folder / "state")})
        patch.start()
        self.addCleanup(patch.stop)

    def test_one_is_kept_of_each_day_and_the_oldest_go(self) -> None:
        path = self.file("0", "plan.oattide")
        for day in range(1, 14):
            with mock.patch.object(versions, "dt") as clock:
                today = clock.datetime.now.return_value.astimezone.return_value.date
                today.return_value = dt.date(2026, 11, day)
                versions.back_up(path)
                path.write_text(f"{day}, in the morning")
                versions.back_up(path)
                path.write_text(str(day))
        kept = sorted(versions.backups_of(path).iterdir())
        self.assertEqual([each.read_text() for each in kept], [str(day) for day in range(3, 13)])
        self.assertEqual(kept[0].name, "plan before 2026-11-04.oattide")

    def test_files_of_one_name_have_their_own(self) -> None:
        (self.folder / "b").mkdir()
        one, other = self.file("1", "plan.oattide"), self.file("2", "b/plan.oattide")
        self.assertNotEqual(versions.backups_of(one), versions.backups_of(other))

    def test_a_version_is_told_from_the_next(self) -> None:
        path = self.file("one")
        before = versions.stamp_of(path)
        self.assertEqual(versions.stamp_of(path), before)
        write_whole(path, lambda file: file.write_text("two"))
        self.assertNotEqual(versions.stamp_of(path), before)
        self.assertIsNone(versions.stamp_of(self.folder / "none"))


class Folders(FolderCase):
    def test_where_home_cannot_be_written_in_a_temporary_one_stands_in(self) -> None:
        nowhere = dict.fromkeys(("HOME", "XDG_STATE_HOME", "XDG_CONFIG_HOME"), "/proc/nowhere")
        with (
            mock.patch.dict(os.environ, nowhere),
            mock.patch("tempfile.gettempdir", return_value=str(self.folder)),
        ):
            temporary = folders.stands_in()
            self.assertEqual(temporary, self.folder / f"oat-tide-of-{os.getuid()}")
            self.assertTrue(log.path().parent.is_dir())
            settings.choose("name", "Ana")
            self.assertEqual(settings.setting("name"), "Ana")
        with mock.patch.dict(os.environ, {"XDG_STATE_HOME": str(self.folder / "own")}):
            self.assertIsNone(folders.stands_in())

    def test_settings_that_are_none_are_none(self) -> None:
        with mock.patch.dict(os.environ, {"XDG_CONFIG_HOME": str(self.folder)}):
            for text in ("", "[1]", '{"name": 7}', "\x00"):
                settings._file().write_text(text)
                self.assertEqual(settings.setting("name"), "")
            settings.choose("window", "here")
            settings.choose("name", "Ana")
            self.assertEqual((settings.setting("window"), settings.setting("name")), ("here", "Ana"))
