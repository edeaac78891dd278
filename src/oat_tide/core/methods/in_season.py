"""A line or growth curve through the deseasonalised series, put back in season.

Source: Makridakis, Wheelwright and Hyndman, Forecasting: Methods and Applications (1998), 3/4 and 4/3.
"""

from __future__ import annotations

from functools import partial

from oat_tide.core.exact import Values
from oat_tide.core.language import phrase
from oat_tide.core.methods import line, regression
from oat_tide.core.methods.seasonal import in_season, season
from oat_tide.core.methods.shape import TEXTBOOK, Fitted, How, Method, Terms, each_start


def project(terms: Terms, values: Values, weights: Values, horizon: int, how: How) -> tuple[Values, Fitted]:
    """A regression through the deseasonalised series, carried on and put back in season."""
    found = season(values, how)
    ahead, fitted = regression.project(terms, found.without(values), weights, horizon, how)
    return in_season(found, ahead, fitted, how, values.shape[1])


METHODS = tuple(
    Method(
        name,
        title,
        TEXTBOOK,
        each_start(partial(project, terms)),
        terms,
        with_season=True,
        by_indices=True,
    )
    for name, title, terms in (
        ("line-season", phrase("Line with season"), line.LINE),
        ("growth-season", phrase("Growth with season"), line.GROWTH),
    )
)
