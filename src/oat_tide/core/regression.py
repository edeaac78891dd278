"""A straight line by least squares, for any number of series at once. The last axis is time.

Source of the formulas: Draper and Smith, Applied Regression Analysis (1998), chapters 1 and 3.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from oat_tide.core.exact import Values

LEAST_PERIODS = 3
"""Two periods lie on a line exactly and say nothing of how far off it is."""


@dataclass(frozen=True, slots=True)
class LineFit:
    """z = intercept + slope * t + error, one fit a series.

    Each attribute is (series, 1); all but `n` are NaN where fewer than three periods could be used or
    all of them share one t.

    Attributes:
        n: periods used.
        t_mean: the mean of their t.
        z_mean: the mean of their z.
        sxx: sum of squared deviations of t.
        slope: change of z a period.
        intercept: z at t = 0.
        sse: sum of squared residuals.
        sst: sum of squared deviations of z.
        s: residual standard error, the square root of sse / (n - 2).
        r2: 1 - sse / sst; NaN where z does not vary.
    """

    n: Values
    t_mean: Values
    z_mean: Values
    sxx: Values
    slope: Values
    intercept: Values
    sse: Values
    sst: Values
    s: Values
    r2: Values

    def at(self, t: Values) -> Values:
        """(series, periods) the line at each t."""
        return self.intercept + self.slope * t


def fit_line(t: Values, z: Values, weights: Values) -> LineFit:
    """Fit a line to the periods of weight 1 (Draper and Smith, 1998, chapter 1).

    Args:
        t: (1, periods) the number of each period.
        z: (series, periods) what is fitted; may be NaN where the weight is 0.
        weights: (series, periods) 1 for a period in the fit and 0 for one that is not.
    """
    used = np.where(weights > 0, z, 0.0)
    with np.errstate(invalid="ignore", divide="ignore"):
        n = weights.sum(-1, keepdims=True)
        t_mean = (weights * t).sum(-1, keepdims=True) / n
        z_mean = used.sum(-1, keepdims=True) / n
        dt = weights * (t - t_mean)
        dz = weights * (used - z_mean)
        sxx = (dt * dt).sum(-1, keepdims=True)
        enough = (n >= LEAST_PERIODS) & (sxx > 0)
        sxx = np.where(enough, sxx, np.nan)
        slope = (dt * dz).sum(-1, keepdims=True) / sxx
        intercept = z_mean - slope * t_mean
        sse = ((dz - slope * dt) ** 2).sum(-1, keepdims=True)
        sst = np.where(enough, (dz * dz).sum(-1, keepdims=True), np.nan)
        r2 = np.where(sst > 0, 1 - sse / sst, np.nan)
        s = np.sqrt(sse / (n - 2))
    t_mean, z_mean = (np.where(enough, each, np.nan) for each in (t_mean, z_mean))
    return LineFit(n, t_mean, z_mean, sxx, slope, intercept, sse, sst, s, r2)


def t_quantile(level: float, freedom: Values) -> Values:
    """The value that |t| stays below with the probability `level` (Student, 1908).

    Args:
        level: between 0 and 1.
        freedom: degrees of freedom; NaN or below 1 gives NaN.
    """
    from scipy.special import stdtrit  # loads slowly, and only projections need it

    return np.where(freedom >= 1, stdtrit(np.where(freedom >= 1, freedom, 1.0), 0.5 + level / 2), np.nan)
