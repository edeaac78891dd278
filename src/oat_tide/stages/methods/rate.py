"""Growth by a rate a year that is set by hand."""

from __future__ import annotations

from oat_tide.core.language import phrase
from oat_tide.core.methods.table import METHODS
from oat_tide.core.working.formula import given
from oat_tide.core.working.number_format import fixed
from oat_tide.stages.methods.applied import AppliedMethod
from oat_tide.stages.methods.carried import carried_on, ends_of, in_words, steps_on
from oat_tide.stages.methods.ground import Ground
from oat_tide.stages.methods.room import Room

_RATE = METHODS["rate"]


def lay(g: Ground, prefix: str, shown: bool) -> AppliedMethod:
    """Lay growth by a set rate on a history."""
    ends = ends_of(g, prefix, shown)
    rate = given(g.ask.rate, phrase("growth per year in %, set"))
    a_period = g.d.define(
        f"{prefix}a_period", phrase("growth {per_period}, by hand", per_period=g.grid.per_period),
        100 * ((1 + rate / 100) ** given(1 / g.how.year, phrase("of a year")) - 1), unit="%", signed=True,
        shown=False,
    )  # fmt: skip
    times = 1 + a_period / 100
    said = in_words(
        g,
        ends.last,
        phrase("{0}, growing by ") + phrase("{rate} % per year", rate=fixed(g.ask.rate, 2, plus=True)),
    )
    projected = ends.last * times ** steps_on(g, prefix, ends.last_at)
    return carried_on(_RATE, g.actual.shift(-1) * times, projected, said, (f"{prefix}last",))


ROOMS = (Room(_RATE, lay, settings=("rate",)),)
