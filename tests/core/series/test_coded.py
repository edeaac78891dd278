"""Keys by numbers, and levels added up in one pass, held against a slow rule in plain Python."""

from __future__ import annotations

import pickle
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from oat_tide.core.periods.calendar import Grid
from oat_tide.core.series.coded import Coded, Key
from oat_tide.core.series.panel import (
    FILLED,
    INCOMPLETE,
    LACKING,
    Panel,
    children,
    fits_key,
    parted_by,
    sizes,
)

MEMBERS = st.sampled_from(["a", "b", "c", "d"])
KEYS = st.lists(st.tuples(MEMBERS, MEMBERS, MEMBERS), min_size=1, max_size=30, unique=True).map(tuple)
OPEN = st.one_of(st.none(), MEMBERS, st.just("nobody"))
LEVELS = st.lists(st.tuples(OPEN, OPEN, OPEN), min_size=1, max_size=12).map(tuple)
PERIODS = 3


def panel_of(keys: tuple[Key, ...], seed: int) -> Panel:
    """A panel with gaps, parts, lines that cannot be read and hundredths."""
    rng = np.random.default_rng(seed)
    shape = len(keys), PERIODS
    values = np.where(rng.random(shape) < 0.2, np.nan, rng.integers(-500, 9000, shape) / 100)
    lines = np.where(np.isnan(values) | (rng.random(shape) < 0.2), 0, rng.integers(1, 5, shape))
    flags = rng.choice([0, INCOMPLETE, LACKING], shape).astype(np.uint8)
    unread = (rng.random(shape) < 0.1).astype(np.int64)
    return Panel(("made", keys, seed), Grid("month"), 600, keys, values, lines, flags, 100.0, unread=unread)


class Levels(unittest.TestCase):
    @given(KEYS, LEVELS)
    @settings(max_examples=200, deadline=None)
    def test_what_belongs_to_a_level(self, keys: tuple[Key, ...], levels: tuple[Key, ...]) -> None:
        coded = Coded.of(keys)
        self.assertEqual(coded.keys(), keys)
        for level, rows in zip(levels, coded.rows(levels), strict=True):
            fits = [row for row, key in enumerate(keys) if fits_key(key, level)]
            self.assertEqual(rows.tolist(), fits)
            self.assertEqual(np.flatnonzero(coded.within(level)).tolist(), fits)
            around = [row for row, key in enumerate(keys) if fits_key(level, key)]
            self.assertEqual(np.flatnonzero(coded.around(level)).tolist(), around)
        for at in range(3):
            first = [key[at] for key in keys if fits_key(key, levels[0])]
            self.assertEqual(list(coded.members(levels[0], at)), list(dict.fromkeys(first)))

    @given(KEYS, LEVELS, st.integers(0, 99))
    @settings(max_examples=200, deadline=None)
    def test_totals_side_by_side_are_each_as_by_itself(
        self, keys: tuple[Key, ...], levels: tuple[Key, ...], seed: int
    ) -> None:
        panel = panel_of(keys, seed)
        found = panel.totals(levels)
        for row, level in enumerate(levels):
            fits = [series for series, key in enumerate(keys) if fits_key(key, level)]
            alone = panel.total(level)
            for column in range(PERIODS):
                own = [panel.values[series, column] for series in fits]
                known = [round(each * 100) for each in own if not np.isnan(each)]
                unread = sum(int(panel.unread[series, column]) for series in fits)
                value = sum(known) / 100 if known and not unread else np.nan
                lines = sum(int(panel.lines[series, column]) for series in fits)
                part = bool(fits) and all(panel.flags[series, column] & INCOMPLETE for series in fits)
                lacks = any(panel.flags[series, column] & LACKING for series in fits)
                filled = bool(known) and not unread and lines == 0
                flags = INCOMPLETE * part | LACKING * lacks | FILLED * filled
                for one in (found.values[row, column], alone.values[0, column]):
                    np.testing.assert_equal(one, value)
                held = sum(known) / 100 if unread else 0.0
                self.assertEqual(found.withheld[row, column], held)
                self.assertEqual((found.lines[row, column], found.unread[row, column]), (lines, unread))
                self.assertEqual((found.flags[row, column], alone.flags[0, column]), (flags, flags))

    @given(KEYS, st.integers(0, 99), st.tuples(OPEN, OPEN, OPEN), st.integers(0, 2))
    @settings(max_examples=100, deadline=None)
    def test_members_and_their_sizes(self, keys: tuple[Key, ...], seed: int, level: Key, at: int) -> None:
        panel = panel_of(keys, seed)
        within = (*level[:at], None, *level[at + 1 :])
        slow: dict[str, float] = {}
        for key, row in zip(keys, panel.values, strict=True):
            if fits_key(key, within):
                slow[str(key[at])] = slow.get(str(key[at]), 0.0) + float(np.nansum(row[:2]))
        found = sizes(panel, level, at, 0, 2)
        for member in {str(key[at]) for key in keys} | {"not there"}:
            self.assertAlmostEqual(found.of(member), slow.get(member, 0.0), 9)
        self.assertAlmostEqual(found.total, sum(slow.values()), 9)
        parted = parted_by(panel, level, at)
        self.assertEqual([key[at] for key in parted.keys], sorted(slow))
        if None in level:
            place = level.index(None)
            of_level = [key[place] for key in keys if fits_key(key, level)]
            self.assertEqual([key[place] for key in children(panel, level)], list(dict.fromkeys(of_level)))

    @given(KEYS, st.integers(0, 99))
    @settings(max_examples=40, deadline=None)
    def test_a_panel_that_has_travelled_is_the_same(self, keys: tuple[Key, ...], seed: int) -> None:
        panel = panel_of(keys, seed).cut(1, 3)
        arrays: list[pickle.PickleBuffer] = []
        told = pickle.dumps(panel, protocol=5, buffer_callback=arrays.append)
        again = pickle.loads(told, buffers=[each.raw().tobytes() for each in arrays])
        self.assertEqual((again, again.keys), (panel, panel.keys))
        for name in ("values", "lines", "flags", "settled", "unread", "withheld"):
            np.testing.assert_array_equal(getattr(again, name), getattr(panel, name))
            self.assertFalse(getattr(again, name).flags.writeable)

    def test_a_series_of_no_dimension(self) -> None:
        coded = Coded.of(((),))
        self.assertEqual((coded.keys(), [each.tolist() for each in coded.rows(((),))]), (((),), [[0]]))
