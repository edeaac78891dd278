"""Linear least squares for many series at once, by orthogonal decomposition, and what a fit is judged by.

z = X b + error, the terms X the same for all series whose fit uses the same periods. Each of these groups is
decomposed once (X = QR, Golub, 1965); terms stand on centred, scaled time and are turned back after.

Sources: Draper and Smith, Applied Regression Analysis (1998), chapters 5 and 8; Cook, Detection of
influential observation in linear regression (1977); Durbin and Watson (1950); Hurvich and Tsai (1989).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from oat_tide.core.alike import Mask, alike
from oat_tide.core.exact import Values
from oat_tide.core.periods.calendar import Days
from oat_tide.core.rows import columns_of, product

_SINGULAR = 1e-10
"""Below so small a part of the largest, what is left of a term is no more than rounding."""
_ROUNDING = 1e-9


@dataclass(frozen=True, eq=False, slots=True)
class Design:
    """The terms of a regression.

    Attributes:
        names: of the terms as they are reported.
        x: (columns, terms) on a scale of their own, on which they are far from alike.
        back: (terms, terms) what turns coefficients on that scale to the reported ones.
        one: (terms,) the reported coefficients of a level of 1.
    """

    names: tuple[str, ...]
    x: Values
    back: Values
    one: Values

    @property
    def reported(self) -> Values:
        """(columns, terms) the terms on the scale of the reported coefficients."""
        return np.asarray(np.linalg.solve(self.back.T, self.x.T).T)


DesignOf = Callable[[int, Mask], Design]
"""(first column used, columns used) -> the terms, for columns ahead as well."""


@dataclass(frozen=True, eq=False, slots=True)
class Regression:
    """A fit of each series; NaN where it has none.

    Attributes:
        names: of its terms.
        coefficients: (series, terms).
        unscaled: (series, terms, terms) times s² the covariance of the coefficients: the inverse of X'X, and
            with weights, that count some periods more but make none less sure, (X'WX)⁻¹ X'W²X (X'WX)⁻¹.
        curve: (series, columns) X b, columns ahead included.
        leverage: (series, columns) x times that times x'.
        hat: (series, columns of the history) w x (X'WX)⁻¹ x': how much each period pulls its own fitted
            figure; without weights the leverage.
        used: (series, columns of the history) the periods in the fit.
        weights: (series, columns of the history) of the periods in the fit, 0 elsewhere.
        n: (series,) periods in the fit.
        left: (series,) what SSE is divided by: n less the terms; of weights their sum less the trace of
            (X'WX)⁻¹ X'W²X.
        freedom: (series,) degrees of freedom: n less the terms; with weights (sum of w)² over the sum of
            w² less the terms, rounded down.
        sse, sst: (series,) sums of weighted squares of what is missed, and of deviations from the mean.
        residual: (series, columns of the history) z less the curve, NaN outside the fit.
    """

    names: tuple[str, ...]
    coefficients: Values
    unscaled: Values
    curve: Values
    leverage: Values
    hat: Values
    used: Mask
    weights: Values
    n: Values
    left: Values
    freedom: Values
    sse: Values
    sst: Values
    residual: Values

    @property
    def terms(self) -> int:
        """How many coefficients there are."""
        return len(self.names)

    @property
    def s(self) -> Values:
        """(series,) the residual standard error."""
        return np.sqrt(self.sse / self.left)

    @property
    def standard_errors(self) -> Values:
        """(series, terms) of the coefficients."""
        found: Values = self.s[:, None] * np.sqrt(np.diagonal(self.unscaled, axis1=1, axis2=2))
        return found

    @property
    def r2(self) -> Values:
        """(series,) 1 - SSE / SST; NaN where nothing varies."""
        with np.errstate(invalid="ignore", divide="ignore"):
            return np.where(self.sst > 0, 1 - self.sse / self.sst, np.nan)

    @property
    def adjusted_r2(self) -> Values:
        """(series,) 1 - (SSE / (n - k)) / (SST / (n - 1))."""
        found: Values = 1 - (1 - self.r2) * (self.freedom + self.terms - 1) / self.freedom
        return found

    @property
    def f(self) -> Values:
        """(series,) of all terms against the mean alone; NaN where the fit is perfect, or there is none."""
        with np.errstate(invalid="ignore", divide="ignore"):
            above = (self.sst - self.sse) / (self.terms - 1)
            return np.where((self.sse > 0) & (self.terms > 1), above / (self.sse / self.left), np.nan)

    @property
    def aicc(self) -> Values:
        """(series,) n ln(SSE / n) + 2 p + 2 p (p + 1) / (n - p - 1), p the coefficients and the variance.

        NaN of fits with weights, whose likelihood is another.
        """
        alike = (self.weights == self.used).all(1)
        p = self.terms + 1
        with np.errstate(invalid="ignore", divide="ignore"):
            base = self.n * np.log(self.sse / self.n) + 2 * p
            return np.where((self.n > p + 1) & alike, base + 2 * p * (p + 1) / (self.n - p - 1), np.nan)

    @property
    def durbin_watson(self) -> Values:
        """(series,) squared changes from neighbour to neighbour over the squares; gaps make no neighbours.

        The sum of the changes is scaled by n - 1 over their number, so that gaps leave it at 2 by chance.
        """
        steps = np.diff(self.residual, axis=1) ** 2
        change = np.nansum(steps, axis=1) * (self.n - 1) / np.maximum((~np.isnan(steps)).sum(1), 1)
        squares = np.nansum(self.residual**2, axis=1)
        with np.errstate(invalid="ignore", divide="ignore"):
            return np.where(squares > 0, change / squares, np.nan)

    @property
    def standardised(self) -> Values:
        """(series, columns of the history) residual over s times the root of 1 - 2 h + c.

        h is the hat and c the leverage; without weights they are one, and it is 1 - h.
        """
        with np.errstate(invalid="ignore", divide="ignore"):
            spread = self.s[:, None] * np.sqrt(np.maximum(self.kept, 0.0))
            return np.where(spread > 0, self.residual / spread, np.nan)

    @property
    def kept(self) -> Values:
        """(series, columns of the history) 1 - 2 h + c: what residuals have of the variance of errors."""
        found: Values = 1 - 2 * self.hat + self.leverage[:, : self.residual.shape[1]]
        return found

    @property
    def cooks_distance(self) -> Values:
        """(series, columns of the history) how far the fit moves without the period (Cook, 1977)."""
        h = self.leverage[:, : self.residual.shape[1]]
        with np.errstate(invalid="ignore", divide="ignore"):
            return self.standardised**2 * h / (1 - h) / self.terms

    def half_width(self, t: Values) -> Values:
        """(series, columns) half of a prediction interval of single periods.

        Args:
            t: (series,) the quantile of t at its level and the degrees of freedom left.
        """
        found: Values = (t * self.s)[:, None] * np.sqrt(1 + self.leverage)
        return found


def regress(
    z: Values, weights: Values, columns: int, design_of: DesignOf, names: tuple[str, ...]
) -> Regression:
    """Fit every series on its periods of weight above zero; lines and the like alone have a fit on two more.

    Args:
        z: (series, periods) what is fitted; may be NaN where the weight is 0.
        weights: (series, periods) 0 for a period that is not in the fit.
        columns: columns of the curve, those ahead included.
        design_of: gives the terms.
        names: what they are called.
    """
    many, past = z.shape
    terms, used = len(names), weights > 0

    def blank(*shape: int) -> Values:
        return np.full((many, *shape), np.nan)

    out = Regression(
        names,
        coefficients=blank(terms),
        unscaled=blank(terms, terms),
        curve=blank(columns),
        leverage=blank(columns),
        hat=blank(past),
        used=used,
        weights=weights,
        n=used.sum(1).astype(float),
        left=blank(),
        freedom=blank(),
        sse=blank(),
        sst=blank(),
        residual=blank(past),
    )
    for rows, own in alike(used):
        n = int(own.sum())
        if n < terms + 1:
            continue
        design = design_of(int(own.argmax()), own)
        if (weights[rows] == weights[rows][0]).all():
            _fit(out, rows, own, design, z[rows], weights[rows][0])
            continue
        # Weights of one group may still differ from series to series.
        for row in np.arange(many)[rows].tolist():
            one = slice(row, row + 1)
            _fit(out, one, own, design, z[one], weights[row])
    return out


def _fit(out: Regression, rows: Days | slice, own: Mask, design: Design, z: Values, weights: Values) -> None:
    """One decomposition for the series of a group.

    Args:
        z: (rows, periods).
        weights: (periods,).
    """
    z, weights = columns_of(z, own), weights[own]
    root = np.sqrt(weights)
    q, r = np.linalg.qr(root[:, None] * design.x[: len(own)][own])
    pivots = np.abs(np.diag(r))
    if pivots.min() <= _SINGULAR * pivots.max():
        return
    inverse = np.linalg.solve(r, np.eye(len(r)))
    # About its mean, so that a small change of large figures keeps its digits.
    mean = (weights * z).sum(1) / weights.sum()
    off = z - mean[:, None]
    turned, fitted = q @ inverse.T, np.ascontiguousarray(design.x[: len(own)][own].T)
    own_scale = product(root * off, turned)
    missed = off - product(own_scale, fitted)
    # What rounding has left is fitted once more.
    own_scale += product(root * missed, turned)
    missed = off - product(own_scale, fitted)
    out.coefficients[rows] = product(own_scale, design.back.T) + mean[:, None] * design.one
    # Of weights of 1 the middle is the identity.
    middle = (root[:, None] * q).T @ (root[:, None] * q)
    spread = inverse @ np.linalg.cholesky(middle)
    out.unscaled[rows] = design.back @ (spread @ spread.T) @ design.back.T
    out.curve[rows] = product(own_scale, design.x.T) + mean[:, None]
    out.leverage[rows] = ((design.x @ spread) ** 2).sum(1)
    hat = np.full(len(own), np.nan)
    hat[own] = (q**2).sum(1)
    out.hat[rows] = hat
    out.left[rows] = weights.sum() - np.trace(middle)
    # Whole ones, rounded down, as tables of t have them; exact but for rounding where all weigh alike.
    out.freedom[rows] = np.floor(weights.sum() ** 2 / (weights**2).sum() - len(r) + _ROUNDING)
    out.sse[rows] = (weights * missed**2).sum(1)
    out.sst[rows] = (weights * off**2).sum(1)
    residual = np.full((len(z), len(own)), np.nan)
    residual[:, own] = missed
    out.residual[rows] = residual


def joint(fit: Regression, design_of: DesignOf, gains: Values) -> Values:
    """(series,) w C w', C the unscaled covariance and w the sum of the terms of columns, each times its gain.

    Times s² it is the variance of so weighted a sum of the curve, errors of its columns going together.

    Args:
        gains: (series, columns) how much each column counts; NaN for not at all.
    """
    out, counted = np.full(len(fit.n), np.nan), np.nan_to_num(gains)
    for rows, own in alike(fit.used):
        if own.sum() < fit.terms + 1:
            continue
        w = product(counted[rows], design_of(int(own.argmax()), own).reported)
        out[rows] = np.einsum("ij,ijk,ik->i", w, fit.unscaled[rows], w)
    return out


def pulls(fit: Regression, design_of: DesignOf) -> Values:
    """(series, terms, periods) (X'WX)⁻¹ X'W: how much of each period goes into each coefficient."""
    past = fit.residual.shape[1]
    out = np.full((len(fit.n), fit.terms, past), np.nan)
    for row in np.flatnonzero(~np.isnan(fit.sse)).tolist():
        own = fit.used[row]
        design = design_of(int(own.argmax()), own)
        root = np.sqrt(fit.weights[row][own])
        q, r = np.linalg.qr(root[:, None] * design.x[:past][own])
        out[row] = 0.0
        out[row][:, own] = design.back @ np.linalg.solve(r, q.T * root)
    return out
