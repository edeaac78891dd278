"""What a stage gives: a deck of figures, and how they are to be shown.

The figure is the centre. A curve, a row of the tide table, a fact of the side sheet and a column of an
export are views of one; none carries numbers of its own.
"""

from oat_tide.stages.deck.act import Button, Card, Cards, Inset, InsetMark, Item
from oat_tide.stages.deck.axis import Axis
from oat_tide.stages.deck.band import Band, Boundary, Curve, Role
from oat_tide.stages.deck.called import (
    Explanation,
    LateAnswers,
    LateWork,
    OfSeries,
    Question,
    Remark,
    State,
    WhyBlank,
)
from oat_tide.stages.deck.choice import Choice, Entry
from oat_tide.stages.deck.control import Control, control
from oat_tide.stages.deck.coverage import Coverage
from oat_tide.stages.deck.deck import Breakdown, Deck
from oat_tide.stages.deck.figure import Figure, Look
from oat_tide.stages.deck.group import Group
from oat_tide.stages.deck.handle import Handle
from oat_tide.stages.deck.listing import Column, Listing, ListQuery, RowAct, in_memory
from oat_tide.stages.deck.said import Caution, Fact, Mark, Note, Word

__all__ = [
    "Axis",
    "Band",
    "Boundary",
    "Breakdown",
    "Button",
    "Card",
    "Cards",
    "Caution",
    "Choice",
    "Column",
    "Control",
    "Coverage",
    "Curve",
    "Deck",
    "Entry",
    "Explanation",
    "Fact",
    "Figure",
    "Group",
    "Handle",
    "Inset",
    "InsetMark",
    "Item",
    "LateAnswers",
    "LateWork",
    "ListQuery",
    "Listing",
    "Look",
    "Mark",
    "Note",
    "OfSeries",
    "Question",
    "Remark",
    "Role",
    "RowAct",
    "State",
    "WhyBlank",
    "Word",
    "control",
    "in_memory",
]
