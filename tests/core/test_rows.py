"""Products row by row: right, and the same to the last bit however many rows stand together."""

from __future__ import annotations

import unittest

import numpy as np

from oat_tide.core.rows import by_place, product


class Rows(unittest.TestCase):
    def test_by_hand(self) -> None:
        rows, matrix = np.array([[1.0, 2, 3], [4, 5, 6]]), np.array([[1.0, 0], [0, 1], [10, 100]])
        np.testing.assert_array_equal(product(rows, matrix), [[31, 302], [64, 605]])
        np.testing.assert_array_equal(by_place(rows, np.array([1, 0, 1]), 3), [[2, 4, 0], [5, 10, 0]])

    def test_each_row_by_itself(self) -> None:
        rng = np.random.default_rng(1)
        for few, many in ((72, 2), (2, 84), (13, 13), (400, 5), (7, 3)):
            rows, matrix = rng.normal(size=(500, few)), rng.normal(size=(few, many))
            place = rng.integers(0, many, few)
            whole, sums = product(rows, matrix), by_place(rows, place, many)
            np.testing.assert_allclose(whole, rows @ matrix, rtol=1e-9, atol=1e-9)
            np.testing.assert_allclose(sums, rows @ (place[:, None] == np.arange(many)), rtol=1e-9, atol=1e-9)
            for size in (1, 3, 64):
                for at in (0, 100, 500 - size):
                    own = slice(at, at + size)
                    with self.subTest(few=few, many=many, size=size, at=at):
                        self.assertEqual(product(rows[own], matrix).tobytes(), whole[own].tobytes())
                        self.assertEqual(by_place(rows[own], place, many).tobytes(), sums[own].tobytes())


if __name__ == "__main__":
    unittest.main()
