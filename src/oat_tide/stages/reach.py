"""Which periods a smoother takes in, with which weights, and what it is called."""

from __future__ import annotations

from dataclasses import dataclass

from oat_tide.core.language import counted, noun, nouns, phrase
from oat_tide.core.periods.calendar import Grid, Kind
from oat_tide.core.smoothing import windows
from oat_tide.core.smoothing.running import Exponential, Windowed
from oat_tide.core.smoothing.running import Smoother as Running
from oat_tide.core.smoothing.weights import SPENCER, halving_weights, lag, rising_weights
from oat_tide.core.smoothing.windows import Window
from oat_tide.plan.parts.smooth import EXPONENTIAL, Smooth, Smoother

_ORDER = ("day", "week", "month", "quarter", "year")
NOUNS = {
    "mean": phrase("average"),
    "median": phrase("median"),
    "total": phrase("total"),
    "lowest": phrase("minimum"),
    "highest": phrase("maximum"),
    "trimmed": phrase("trimmed average"),
    "weighted": phrase("weighted average"),
}
EXPONENTIALS = {
    "level": phrase("exponential smoothing"),
    "trend": phrase("smoothing with trend"),
    "damped": phrase("smoothing with damped trend"),
}
_SPOKEN = 5
"""Weights that are named one by one."""


@dataclass(frozen=True, eq=False, slots=True)
class Reach:
    """What the window of a smoother takes in.

    Attributes:
        windows: one, or two whose mean is taken.
        offsets: of each its first and last column, counted from its own; empty for spans by calendar.
        weights: of a weighted mean or a plain one, the newest first; empty where there are no fixed ones.
    """

    windows: tuple[Window, ...]
    offsets: tuple[tuple[int, int], ...]
    weights: tuple[float, ...]

    @property
    def ahead(self) -> int:
        """Columns after its own that the newest weight stands at."""
        return max((last for _, last in self.offsets), default=0)

    @property
    def lag(self) -> float:
        """The mean age of the weights; NaN where there are no fixed ones."""
        return lag(self.weights, self.ahead) if self.weights else float("nan")


def is_window(ask: Smoother) -> bool:
    """Whether it is a window, and not exponential smoothing."""
    return ask.kind not in EXPONENTIAL


def forecasts(ask: Smoother) -> bool:
    """Whether it says anything of the next period: a mean or median of what lies before does."""
    if not is_window(ask):
        return True
    return ask.kind in ("mean", "median", "trimmed", "weighted") and _looks_back(ask)


def why_no_forecast(ask: Smoother) -> str:
    """Why it forecasts nothing; empty where it does."""
    if forecasts(ask):
        return ""
    if not _looks_back(ask):
        return phrase("A window that takes in later periods forecasts nothing.")
    return phrase(
        "A rolling {nouns} forecasts nothing: it is no estimate of the next period.", nouns=NOUNS[ask.kind]
    )


def _looks_back(ask: Smoother) -> bool:
    if is_spencer(ask):
        return False
    return ask.place == "before" or (ask.place == "from-to" and ask.ahead == 0)


def is_spencer(ask: Smoother) -> bool:
    """Whether it is Spencer's window, which is always centred."""
    return ask.kind == "weighted" and ask.weights == "spencer"


def spans(ask: Smoother, grid: Grid) -> bool:
    """Whether its window is told in another kind of period than the one in sight."""
    return ask.told_in not in ("period", grid.kind) and ask.place == "before" and ask.kind != "weighted"


def why_no_span(told_in: str, grid: Grid) -> str:
    """Why a window cannot be told in a kind of period; empty where it can."""
    if told_in in ("period", grid.kind):
        return ""
    if grid.kind == "block":
        return phrase("Blocks of days make up no other kind of period.")
    if _ORDER.index(told_in) < _ORDER.index(grid.kind):
        return phrase(
            "A {kind} is longer than a {told_in}: look at {longer}, or count in {kinds}.",
            kinds=nouns(grid.kind),
            kind=noun(grid.kind),
            longer=nouns(told_in),
            told_in=noun(told_in),
        )
    return ""


def size_of(ask: Smoother) -> int:
    """The periods of its window, or so many of what it is told in."""
    if is_spencer(ask):
        return len(SPENCER)
    if ask.place == "from-to":
        return ask.back + ask.ahead + 1
    if ask.kind == "weighted" and isinstance(ask.weights, tuple):
        return len(ask.weights)
    return ask.window


def weights_of(ask: Smoother) -> tuple[float, ...]:
    """The weights of a weighted mean, one a period, the newest first; those entered are cut or carried on."""
    size = size_of(ask)
    if ask.weights == "spencer":
        return SPENCER
    if isinstance(ask.weights, tuple):
        own = (ask.weights + ask.weights[-1:] * size)[:size]
        return own if sum(own) > 0 else rising_weights(size)
    if ask.weights == "halving":
        return halving_weights(size)
    return rising_weights(size) if ask.weights == "rising" else (1.0,) * size


def reach_of(ask: Smoother, grid: Grid, first: int, columns: int) -> Reach | None:
    """What the window of a smoother takes in; None where it cannot be told in what is asked.

    Args:
        first: the period of the first column.
        columns: of the past.
    """
    size = size_of(ask)
    if spans(ask, grid):
        if why_no_span(ask.told_in, grid):
            return None
        kind: Kind = ask.told_in  # type: ignore[assignment]
        return Reach((windows.spanning(grid, first, columns, kind, size),), (), ())
    if is_spencer(ask):
        offsets = ((-7, 7),)
    elif ask.place == "from-to":
        offsets = ((-ask.back, ask.ahead),)
    elif ask.place == "before":
        offsets = ((1 - size, 0),)
    else:
        half = size // 2
        offsets = ((-half, half),) if size % 2 else ((-half, half - 1), (1 - half, half))  # type: ignore[assignment]
    placed = tuple(windows.placed(-low, high, columns) for low, high in offsets)
    return Reach(placed, offsets, _fixed(ask, offsets))


def _fixed(ask: Smoother, offsets: tuple[tuple[int, int], ...]) -> tuple[float, ...]:
    """The weights that each period counts with, over the mean of two windows where there are two."""
    if ask.kind not in ("mean", "total", "weighted"):
        return ()
    low, high = offsets[0]
    own = weights_of(ask) if ask.kind == "weighted" else (1.0,) * (high - low + 1)
    if len(offsets) == 1:
        return own
    return tuple((one + other) / 2 for one, other in zip((*own, 0.0), (0.0, *own), strict=True))


def label_of(ask: Smoother, grid: Grid) -> str:
    """What a smoother is called, such as "6-month average"."""
    if not is_window(ask):
        return EXPONENTIALS[ask.kind]
    taken = NOUNS[ask.kind]
    if is_spencer(ask):
        return phrase("Spencer's 15 terms")
    if ask.place == "from-to":
        return phrase("{taken}, {back} back to {ahead} ahead", taken=taken, back=ask.back, ahead=ask.ahead)
    size, centred = size_of(ask), ask.place == "around"
    if ask.kind == "weighted" and size <= _SPOKEN and not centred:
        return phrase("weighted {weights}", weights="-".join(f"{weight:g}" for weight in weights_of(ask)))
    unit = ask.told_in if spans(ask, grid) else grid.kind
    if centred:
        return phrase("{size}-{unit} centred {taken}", size=size, unit=noun(unit), taken=taken)
    return phrase("{size}-{unit} {taken}", size=size, unit=noun(unit), taken=taken)


def labels(smoothers: tuple[Smoother, ...], grid: Grid) -> tuple[str, ...]:
    """What they are called, those of one name told apart by a number."""
    found: list[str] = []
    for ask in smoothers:
        name = label_of(ask, grid)
        again = sum(each == name or each.startswith(f"{name} (") for each in found)
        found.append(f"{name} ({again + 1})" if again else name)
    return tuple(found)


def in_hand(smooth: Smooth) -> int:
    """The place of the smoother in hand; below 0 where there is none."""
    return min(smooth.hand, len(smooth.smoothers) - 1)


def running(smooth: Smooth, grid: Grid, first: int, columns: int) -> Running | None:
    """The smoother in hand as it runs on; None where it forecasts nothing.

    Args:
        first: the period of the first column.
    """
    place = in_hand(smooth)
    if place < 0 or not forecasts(smooth.smoothers[place]):
        return None
    ask, without = smooth.smoothers[place], smooth.of == "deseasonalised"
    if not is_window(ask):
        constants = (ask.alpha, ask.beta, ask.phi) if ask.constants == "set" else None
        return Running(Exponential(ask.kind, ask.begins, constants), without)  # type: ignore[arg-type]
    reach = reach_of(ask, grid, first, columns)
    if reach is None:
        return None
    weights = weights_of(ask) if ask.kind == "weighted" else ()
    by = Windowed(
        ask.kind,  # type: ignore[arg-type]
        reach.windows[0], weights, ask.trim, ask.ends == "short", ask.gaps == "skip",
    )  # fmt: skip
    return Running(by, without)


def window_words(ask: Smoother, grid: Grid) -> str:
    """What is written at the window on the chart."""
    if ask.place == "from-to" and not is_spencer(ask):
        return phrase("window, {back} back to {ahead} ahead", back=ask.back, ahead=ask.ahead)
    unit = ask.told_in if spans(ask, grid) else grid.kind
    return phrase("window, {size_of}", size_of=counted(size_of(ask), unit))
