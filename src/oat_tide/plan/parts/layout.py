"""What is shown of tables, and how chart and table share the height."""

from __future__ import annotations

from typing import Annotated

from msgspec import Meta

from oat_tide.plan.parts.part import Name, Part

_MOST = 1000
_LEAST_SHARE, _MOST_SHARE = 0.2, 0.9
"""The share of the height that a chart has, at the least and the most."""
Share = Annotated[float, Meta(ge=_LEAST_SHARE, le=_MOST_SHARE)]


def share_near(share: float) -> float:
    """The share nearest to one asked for that a chart may have."""
    return min(max(share, _LEAST_SHARE), _MOST_SHARE)


class Layout(Part, frozen=True):
    """What is shown of tables, and how chart and table share the height.

    Attributes:
        hidden: rows that are not shown, each as its stage and figure.
        turned: groups of rows that stand the other way than they open, each as its stage and name.
        splits: by stage the share of the height that the chart has; one that is not named has the usual one.
    """

    hidden: Annotated[tuple[Name, ...], Meta(max_length=_MOST, title="Hidden rows")] = ()
    turned: Annotated[tuple[Name, ...], Meta(max_length=_MOST, title="Folded rows")] = ()
    splits: Annotated[tuple[tuple[Name, Share], ...], Meta(max_length=100, title="Height of the chart")] = ()

    def split(self, stage: str) -> float | None:
        """The share that the chart of a stage has; None for the usual one."""
        return dict(self.splits).get(stage)

    def with_split(self, stage: str, share: float | None) -> tuple[tuple[str, float], ...]:
        """The shares with another one for a stage; None for the usual one."""
        others = tuple(each for each in self.splits if each[0] != stage)
        return others if share is None else (*others, (stage, round(share_near(share), 3)))

    def with_row(self, name: str, shown: bool) -> tuple[str, ...]:
        """The hidden rows once one is shown, or hidden."""
        others = tuple(each for each in self.hidden if each != name)
        return others if shown else (*others, name)

    def with_turn(self, name: str) -> tuple[str, ...]:
        """The groups that stand the other way once one is folded, or opened."""
        others = tuple(each for each in self.turned if each != name)
        return others if name in self.turned else (*others, name)
