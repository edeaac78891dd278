"""How the stages say things: every text of every deck, over periods, arrangements, methods and lengths."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import unittest
from unittest import mock

from oat_tide.cli import COMMANDS
from oat_tide.command.call import parser_of, part_of
from oat_tide.core import language
from oat_tide.core.language import LANGUAGE, phrase
from oat_tide.desk.window.commands import COMMANDS as ASKED
from oat_tide.desk.window.help import WORDS, keys
from oat_tide.plan.edits import edit
from oat_tide.plan.paths import P
from oat_tide.stages import STAGES
from tests.helpers import FolderCase, monthly
from tests.made_up import written
from tests.stages.test_rules import InEveryWay
from tests.texts import faults, not_a_sentence, texts_of


class InEveryPlan(InEveryWay):
    LONG = True

    def test_every_text_is_said_as_the_words_have_it(self) -> None:
        tried, found = set[str](), dict[str, str]()
        for name, _, deck in self.decks():
            for where, text in texts_of(deck):
                if not text or text in tried:
                    continue
                tried.add(text)
                lacks = faults(text) + (["no capital"] if not_a_sentence(text) else [])
                if lacks:
                    found.setdefault(f"{'; '.join(lacks)}: {text}", f"{name}, {deck.stage}, {where}")
        self.assertGreater(len(tried), 1500)
        self.assertEqual(found, {}, "\n".join(f"{what}   ({where})" for what, where in found.items()))


class OneOfEach(FolderCase):
    def test_histories_of_any_length_are_told_in_right_numbers(self) -> None:
        found = dict[str, int]()
        for length in (1, 2, 3, 4, 13, 25):
            session = self.opened(monthly([10 + each % 7 for each in range(length)]))
            for kind in ("month", "quarter", "year"):
                session.do(edit(P.periods.kind, kind))
                for stage in STAGES:
                    for _, text in texts_of(session.deck(stage)):
                        for fault in faults(text):
                            found.setdefault(f"{fault}: {text}", length)
        self.assertEqual(found, {}, "\n".join(f"{what}   ({many})" for what, many in found.items()))


class Elsewhere(unittest.TestCase):
    def test_help_menus_and_commands_are_said_as_the_words_have_it(self) -> None:
        texts = [text for pair in (*WORDS, *keys()) for text in pair] + [each.text for each in ASKED]
        for command in COMMANDS:
            texts += parser_of(command, part_of(command)).format_help().split(". ")
        found = [f"{fault}: {text}" for text in texts for fault in faults(" ".join(text.split()))]
        self.assertEqual([each for each in found if not each.startswith("minus")], [])

    def test_every_command_has_an_example_that_it_understands(self) -> None:
        for command in COMMANDS:
            part = part_of(command)
            words = part.EXAMPLE.split()[1:]
            self.assertEqual(parser_of(command, part).asked(words).file, "sales.csv")

    def test_the_faults_would_be_found(self) -> None:
        for text in (
            "1 months lie", "the the", "slope a month", "It is -5 now", 'the "line"', "It is reckoned",
            "cases 5 a month", "12 month", "not so.Now", "lag 2.0 months",
        ):  # fmt: skip
            self.assertTrue(faults(text), text)
        self.assertTrue(not_a_sentence("a window is not full."))
        self.assertFalse(not_a_sentence("A window is not full."))


class InAnotherLanguage(FolderCase):
    def test_what_is_said_goes_through_one_function(self) -> None:
        translation = self.folder / "made up.json"
        written(translation)
        env = os.environ | {LANGUAGE: str(translation)}
        for what in ("decks", "window"):
            done = subprocess.run(
                [sys.executable, "-W", "ignore", "-m", "tests.made_up", what],
                env=env, capture_output=True, text=True, check=False,
            )  # fmt: skip
            self.assertEqual(done.returncode, 0, done.stderr)
            missed = json.loads(done.stdout.splitlines()[-1])
            self.assertEqual(missed, {}, "\n".join(f"{word}: {where}" for word, where in missed.items()))

    def test_places_may_stand_in_any_order_and_nothing_else_changes(self) -> None:
        with mock.patch.dict(language._TRANSLATED, {"{first} of {second:,}": "{second:,} / {first}"}):
            self.assertEqual(phrase("{first} of {second:,}", first="a", second=1000), "1,000 / a")
        self.assertEqual(phrase("no {place} to fill"), "no {place} to fill")
        self.assertEqual(
            phrase("a series named {this}", this="{first} of {second:,}"),
            "a series named {first} of {second:,}",
        )

    def test_a_translation_that_cannot_be_read_leaves_the_texts_as_they_stand(self) -> None:
        for path in (self.folder / "is not there", self.file("no JSON", "broken.json")):
            self.assertEqual(language._read(str(path)), {})
