"""At home on the desktop: what is installed, that it is valid, and that it is taken away again."""

from __future__ import annotations

import os
import re
import shutil
import subprocess
import unittest
from pathlib import Path
from xml.etree import ElementTree

from oat_tide import __version__
from oat_tide.plan.container import SUFFIX
from tests.helpers import FolderCase

TOP = Path(__file__).parent.parent
ID = "org.oat_tide.OatTide"


def checked(program: str, *args: str) -> None:
    """Have a program of the desktop check something, where there is that program."""
    if shutil.which(program) is None:
        raise unittest.SkipTest(f"{program} is not installed")
    done = subprocess.run([program, *args], capture_output=True, text=True)
    assert done.returncode == 0, done.stdout + done.stderr
    assert "hint" not in done.stdout and "error" not in done.stdout, done.stdout


class Valid(unittest.TestCase):
    def test_the_entry(self) -> None:
        checked("desktop-file-validate", str(TOP / "desktop" / f"{ID}.desktop"))

    def test_what_software_centres_read(self) -> None:
        path = TOP / "desktop" / f"{ID}.metainfo.xml"
        root = ElementTree.parse(path).getroot()
        self.assertEqual((root.findtext("id"), root.findtext("launchable")), (ID, f"{ID}.desktop"))
        self.assertEqual(root.find("releases/release").get("version"), __version__)
        checked("appstreamcli", "validate", "--no-net", str(path))

    def test_the_file_type_is_that_of_plans(self) -> None:
        root = ElementTree.parse(TOP / "desktop" / f"{ID}.mime.xml").getroot()
        space = "{http://www.freedesktop.org/standards/shared-mime-info}"
        kind = root.find(f"{space}mime-type")
        self.assertEqual(kind.find(f"{space}glob").get("pattern"), f"*{SUFFIX}")
        entry = (TOP / "desktop" / f"{ID}.desktop").read_text()
        self.assertIn(f"MimeType={kind.get('type')};", entry)

    def test_the_manual_page_names_every_command(self) -> None:
        page = (TOP / "desktop" / "oat-tide.1").read_text()
        said = subprocess.run(
            [str(TOP / ".venv" / "bin" / "oat-tide"), "--help"], capture_output=True, text=True
        ).stdout
        named = re.search(r"Commands without a\s+window: ([a-z, \n]+); and demo", said)[1]
        for command in (*re.split(r"[,\s]+", named), "demo"):
            self.assertIn(f".B {command}\n", page)


class Installed(FolderCase):
    def install(self, *args: str) -> str:
        own = os.environ | {"HOME": str(self.folder), "XDG_DATA_HOME": str(self.folder / "share")}
        script = str(TOP / "script" / "install")
        done = subprocess.run([script, *args], capture_output=True, text=True, env=own)
        self.assertEqual(done.returncode, 0, done.stderr)
        return done.stdout

    def files(self) -> set[str]:
        """What is there of ours, by its place."""
        found = (each.relative_to(self.folder) for each in self.folder.rglob("*") if each.is_file())
        return {str(each) for each in found if "oat" in each.name.lower()}

    def test_twice_and_taken_away(self) -> None:
        for _ in range(2):
            self.assertIn("is on the desktop", self.install())
        icons = {each for each in self.files() if each.endswith(".png")}
        self.assertEqual(len(icons), 10)
        for place in ("applications/{}.desktop", "metainfo/{}.metainfo.xml", "mime/packages/{}.xml"):
            self.assertIn("share/" + place.format(ID), self.files())
        launcher = self.folder / ".local" / "bin" / "oat-tide"
        said = subprocess.run([str(launcher), "--version"], capture_output=True, text=True).stdout
        self.assertEqual(said, f"oat-tide {__version__}\n")
        entry = (self.folder / "share" / "applications" / f"{ID}.desktop").read_text()
        self.assertIn(f'Exec="{launcher}" %f', entry)
        self.assertIn("taken off", self.install("--remove"))
        self.assertEqual({each for each in self.files() if "mime.cache" not in each}, set())
