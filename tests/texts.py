"""Every text that a deck can say, and what is wrong with the way a text is said."""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator

import numpy as np

from oat_tide.stages.deck import Button, Cards, Choice, Control, Deck, Fact, Figure, Inset, Item, Note

RETIRED = {
    "reckoned": "computed",
    "heeded": "applied",
    "anew": "again",
    "of late": "recently",
    "laid over": "shown over",
    "held against": "compared with",
    "hang together": "are autocorrelated",
    "flatters": "is too good by chance",
    "honest dirt": "errors such as real data have",
    "in hand": "selected",
    "run on": "extended",
    "as ruled": "adjusted",
    "ruling": "decision",
    "rule on": "decide",
    "whole period": "complete period",
    "whole year": "complete year",
    "whole month": "complete month",
    "passed by": "skipped",
    "children": "detail",
    "stretch": "range",
    "Locked": "Fixed",
    "took back": "undone",
    "errs": "has the smallest error",
    "what came": "actual",
    "chance reaches": "95 % limit by chance",
}
"""Words that are said no more, with what is said instead."""
_KINDS = "day|week|month|quarter|year|period|cycle|line|series|ratio|cell|error"
_RULES = {
    "doubled word": re.compile(r"\b([A-Za-z]{2,}) \1\b"),
    "one of many": re.compile(rf"(?<![\d.,])1 (?:{_KINDS})s\b(?<!series)"),
    "many of one": re.compile(rf"(?<![\d.,–-])(?:[2-9]|\d\d+) (?:{_KINDS})\b(?!-| of the week)(?<!series)"),
    "a for per": re.compile(
        r"\b(?:growth|slope|change|mean|rate|trend|cases|units|sold|needed|rises|falls)(?: [\d.,+−]+)?"
        r"(?: %)? an? (?:day|week|month|quarter|year)\b"
    ),
    "minus of a keyboard": re.compile(r"(?<![\w–-])-\d(?!\d-)"),
    "straight quotes": re.compile(r"\"|(?<!\w)'[^']+'(?!\w)"),
    "two spaces": re.compile(r"\S {2,}\S"),
    "no blank after a stop": re.compile(r"[a-z]\.[A-Z]"),
    "decimals of no use": re.compile(r"(?<![\d.])\d+\.0 (?:days|weeks|months|quarters|years)"),
}


def faults(text: str) -> list[str]:
    """What is wrong with a text that is shown."""
    found = [f"“{old}” for “{new}”" for old, new in RETIRED.items() if re.search(rf"\b{old}\b", text)]
    found += [f"{name}: {match.group()}" for name, rule in _RULES.items() if (match := rule.search(text))]
    return found


def not_a_sentence(text: str) -> bool:
    """Whether something that ends like a sentence does not begin like one."""
    begins = text.lstrip("“(")[:1]
    return (
        text.endswith(".") and begins.islower() and not text.startswith(("y = ", "l = ", "t = ", "α", "ln"))
    )


def texts_of(deck: Deck, series: int = 0) -> Iterator[tuple[str, str]]:
    """Where each text of a deck is, and the text."""
    for name in ("title", "subtitle", "finding"):
        yield name, getattr(deck, name)(series)
    for caution in deck.cautions(series):
        yield "caution", caution.text
        yield "way out", caution.way_out_text
    for mark in deck.marks(series):
        yield "mark", mark.text
    yield "sentence", " ".join(word.text for word in deck.sentence)
    for band in deck.bands:
        yield "band", band.title
        for curve in band.curves:
            yield "curve", curve.label
    for figure in deck.figures.every():
        yield from _of_figure(figure, series)
    yield from _of_items(deck.sheet(), series)


def _of_figure(figure: Figure, series: int) -> Iterator[tuple[str, str]]:
    yield f"label of {figure.name}", figure.label
    yield f"row of {figure.name}", figure.brief
    blanks = np.flatnonzero(np.isnan(figure.values[series]))
    # The ends and the middle: reasons differ by where they are.
    for column in {*blanks[:1].tolist(), *blanks[len(blanks) // 2 :][:1].tolist(), *blanks[-1:].tolist()}:
        yield f"blank of {figure.name}", figure.why_blank(series, column)
    known = np.flatnonzero(~np.isnan(figure.values[series]))
    for column in known[-1:].tolist():
        yield f"remark of {figure.name}", figure.remark(series, column)


def _of_items(items: Iterable[Item], series: int) -> Iterator[tuple[str, str]]:
    for item in items:
        if isinstance(item, Note):
            yield "note", item.text(series)
        elif isinstance(item, Control):
            yield f"control {item.title}", f"{item.title}"
            yield from ((f"choice of {item.title}", name) for name in item.names)
            yield from ((f"why not of {item.title}", why) for why in (item.why_not, *item.why_nots))
        elif isinstance(item, Choice):
            yield "choice", item.text
            yield from (("outcome", text) for text, _ in item.outcomes)
            yield from (("entry", entry.title) for entry in item.entries)
            yield "asked again", item.again
        elif isinstance(item, Button):
            yield "button", item.title
            yield "why not", item.why_not
        elif isinstance(item, Cards):
            for card in item.cards:
                yield "card", card.title
                yield "card", card.said
                yield from _of_items(card.items, series)
                yield from (("button", button.title) for _, button in card.acts)
        elif isinstance(item, Inset):
            yield "inset", item.title
            yield from (("inset mark", mark.text) for mark in item.marks())
        else:
            assert isinstance(item, Fact), item
