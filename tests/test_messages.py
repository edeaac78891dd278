"""The list of messages: whole, and each says what is wrong, where, and what to do."""

from __future__ import annotations

import unittest

from oat_tide.core.user_error import UserError
from tests.messages import LIST, Message, gathered, listed
from tests.texts import faults


class Messages(unittest.TestCase):
    def test_the_list_is_that_of_the_code(self) -> None:
        self.assertEqual(LIST.read_text(), listed(gathered()), "write it anew: python -m tests.messages")

    def test_each_says_what_is_wrong_where_and_what_to_do(self) -> None:
        messages = gathered()
        self.assertGreater(sum(each.trouble for each in messages), 100)
        self.assertEqual([], [(each.text, each.faults) for each in messages if each.faults])

    def test_what_lacks_something_is_found(self) -> None:
        self.assertEqual(Message("", "It went wrong", True).faults, ["what to do", "where", "its end"])
        self.assertEqual(Message("", "… is empty. It holds nothing.", True).faults, ["what to do"])
        self.assertEqual(Message("", "… is empty. Choose another file.", True).faults, [])

    def test_they_are_said_as_the_words_have_it(self) -> None:
        # A script's guard is quoted as Python has it; what is put in stands apart.
        told = [each for each in gathered() if "__main__" not in each.text]
        found = [f"{fault}: {each.text}" for each in told for fault in faults(each.text.replace("…", "x"))]
        self.assertEqual(found, [])

    def test_what_is_quoted_stays_on_one_line_and_of_a_length_that_is_read(self) -> None:
        said = str(
            UserError(f"sales.csv: {'x' * 5000}\n\N{RIGHT-TO-LEFT OVERRIDE}is no name. Choose another.")
        )
        self.assertLess(len(said), 820)
        self.assertTrue(said.startswith("sales.csv: xxx") and said.endswith("is no name. Choose another."))
        self.assertTrue(said.isprintable())
