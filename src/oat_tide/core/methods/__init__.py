"""The methods that project: a room each, here and in `oat_tide/stages/methods`."""

from __future__ import annotations

ROOMS: dict[str, str] = {
    "line-season": "in_season",
    "growth-season": "in_season",
    "line": "line",
    "growth": "line",
    "same-period-growth": "same_period",
    "same-period": "same_period",
    "mean": "mean",
    "smoothed": "smoothed",
    "compound": "compound",
    "drift": "drift",
    "quadratic": "quadratic",
    "last": "last",
    "same-period-drift": "same_period",
    "rate": "rate",
    "indicators": "indicators",
    "harmonics": "harmonics",
    "logarithmic": "logarithmic",
    "power": "logarithmic",
    "weighted-line": "weighted_line",
    "huber": "huber",
    "theil-sen": "theil_sen",
    "growth-direct": "growth_direct",
    "logistic": "logistic",
}
"""By method, in the order that they are offered, its module in both places; a new one is a line."""
