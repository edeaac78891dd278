"""Sums over lines, in stretches and two threads, against a plain loop."""

from __future__ import annotations

import unittest
from collections import Counter, defaultdict
from unittest import mock

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from oat_tide.intake.pace import stretches
from oat_tide.intake.pace.stretches import counted, gathered
from oat_tide.intake.totals import sums
from oat_tide.intake.totals.sums import LineArrays

LINE = st.tuples(
    st.integers(-400, 400), st.integers(0, 5), st.integers(-(2**40), 2**40), st.booleans(), st.integers(1, 9)
)


class Sums(unittest.TestCase):
    def setUp(self) -> None:
        # Three lines a stretch: a list of a few dozen is cut among two threads.
        patch = mock.patch.object(stretches, "_AT_ONCE", 3)
        patch.start()
        self.addCleanup(patch.stop)

    @given(st.lists(LINE, min_size=1, max_size=80), *[st.booleans()] * 4)
    @settings(deadline=None)
    def test_totals_are_those_of_a_plain_loop(
        self,
        rows: list[tuple[int, int, int, bool, int]],
        narrow: bool,
        server: bool,
        sparse: bool,
        together: bool,
    ) -> None:
        day, key, units, used, count = (np.array(column) for column in zip(*rows, strict=True))
        used = used.astype(bool)
        used[0] = True
        if narrow:
            units = (units % 1000).astype(np.int32)
        wanted: dict[tuple[int, int], list[int]] = defaultdict(lambda: [0, 0])
        for at in np.flatnonzero(used):
            cell = wanted[int(day[at]), int(key[at])]
            cell[0] += int(units[at])
            cell[1] += int(count[at]) if server else 1
        lines = LineArrays(
            day.astype(np.int32), key.astype(np.int32), units, used, used, count if server else None
        )
        room = 10**6 if together else 1
        with mock.patch.multiple(sums, _MOST_CELLS=0 if sparse else 10**6, _SPARE_ROOM=room):
            found = sums.totals(lines, used)
        columns = (found.day.tolist(), found.key.tolist(), found.units.tolist(), found.count.tolist())
        self.assertEqual(
            list(zip(*columns, strict=True)), [(*cell, *amounts) for cell, amounts in sorted(wanted.items())]
        )

    @given(st.lists(st.tuples(st.integers(0, 4), st.integers(0, 6), st.integers(0, 2)), max_size=80))
    @settings(deadline=None)
    def test_entries_of_several_tables_are_added_up(self, places: list[tuple[int, int, int]]) -> None:
        tables = [np.arange(5) * 100, np.arange(7) * 10, np.arange(3)]
        marks = [np.array([each[i] for each in places], np.uint32) for i in range(3)]
        found = gathered(*zip(tables, marks, strict=True))
        self.assertEqual(found.tolist(), [100 * a + 10 * b + c for a, b, c in places])
        first = marks[0].astype(np.int64)
        self.assertIs(gathered((tables[0], first), out=first), first)
        self.assertEqual(first.tolist(), [100 * a for a, _, _ in places])

    @given(st.lists(st.integers(0, 30), max_size=400), st.integers(31, 60))
    @settings(deadline=None)
    def test_places_are_counted(self, places: list[int], size: int) -> None:
        many = Counter(places)
        self.assertEqual(counted(np.array(places, np.uint32), size).tolist(), [many[i] for i in range(size)])
