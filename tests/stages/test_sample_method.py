"""A method that is added as any other is: two halves of a room and a line; see `sample_method`.

That its kernel projects what its deck shows, in all variants, is tested with all others (`test_kernels`).
"""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace

from oat_tide.plan.parts.project import Project
from oat_tide.session import Session
from oat_tide.stages.deck import Cards, Control
from tests.helpers import FolderCase, monthly
from tests.stages.sample_method import MEAN_OF_YEARS, with_method

# Three years of months, each ten above the one before.
THREE = [100.0 + month + 10 * year for year in range(3) for month in range(12)]


class AddedMethod(FolderCase):
    def setUp(self) -> None:
        super().setUp()
        self.enterContext(with_method())

    def projecting(self, values: list[float], **more: object) -> Session:
        session = self.opened(monthly(values))
        ask = Project(MEAN_OF_YEARS.name, horizon=14, **more)  # type: ignore[arg-type]
        session.begin(replace(session.plan, project=ask))
        return session

    def test_by_hand(self) -> None:
        deck = self.projecting(THREE, last=2).deck("project")
        # January of the last two years: (110 + 120) / 2; that of the year after repeats it.
        ahead = deck.figures["projected"].values[0, 36:]
        np.testing.assert_allclose(ahead, [115.0 + month for month in (*range(12), 0, 1)])
        # One step: January of the third year from (100 + 110) / 2.
        self.assertAlmostEqual(deck.figures["fitted"].values[0, 24], 105.0)

    def test_it_has_an_interval(self) -> None:
        deck = self.projecting([each + 5 * (-1) ** at for at, each in enumerate(THREE * 2)], last=2).deck(
            "project"
        )
        lower, projected, upper = (
            deck.figures[name].values[0, -14:] for name in ("lower_80", "projected", "upper_80")
        )
        self.assertTrue(((lower < projected) & (projected < upper)).all())

    def test_its_setting_stands_on_its_card(self) -> None:
        deck = self.projecting(THREE, last=2).deck("project")
        cards = next(each for each in deck.sheet() if isinstance(each, Cards) and each.name == "methods")
        own = cards.cards[cards.open]
        self.assertEqual(own.title, "Mean of years")
        self.assertEqual([each.path[-1] for each in own.items if isinstance(each, Control)], ["last"])

    def test_it_refuses_and_cautions_in_its_own_words(self) -> None:
        texts = [
            each.text
            for each in self.projecting([*THREE[:30], -1.0, *THREE[31:]], last=2).deck("project").cautions(0)
        ]
        self.assertIn("A mean of years needs values above zero", texts[0])
        texts = [each.text for each in self.projecting(THREE, last=1).deck("project").cautions(0)]
        self.assertIn("One year is no mean. Take two or more.", texts)

    def test_periods_that_it_cannot_be_on_give_way_to_a_line(self) -> None:
        session = self.projecting(THREE, last=2)
        session.begin(replace(session.plan, periods=replace(session.plan.periods, kind="year")))
        self.assertEqual(session.deck("project").instead, "A year has no years to take the mean of.")
