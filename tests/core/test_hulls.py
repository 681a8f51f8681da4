"""Outlines around points, against SciPy's hulls and many samples."""

from __future__ import annotations

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial import ConvexHull, QhullError

from spiralis.core.geometry import box_of
from spiralis.core.render.hulls import Hull, hull_of
from spiralis.core.render.table import Table, drawn

_WHOLE = st.integers(-20, 40)
_POINTS = st.lists(st.tuples(_WHOLE, _WHOLE), min_size=1, max_size=24)


class HullTest(unittest.TestCase):
    @given(_POINTS)
    def test_corners_are_those_of_the_hull_in_order(self, points: list[tuple[int, int]]) -> None:
        found = hull_of(points)
        try:
            wanted = ConvexHull(np.array(points, dtype=float))
        except (QhullError, ValueError):
            self.assertIsNone(found)
            return
        if wanted.volume < 1:
            self.assertIsNone(found)
            return
        assert found is not None
        corners = [tuple(points[index]) for index in wanted.vertices]
        start = corners.index(found[0])
        self.assertEqual(list(found), corners[start:] + corners[:start])

    @given(st.lists(st.tuples(st.floats(-10, 40), st.floats(-10, 40)), min_size=3, max_size=12), st.integers(-5, 20),
           st.integers(-5, 20))  # fmt: skip
    @settings(max_examples=40, deadline=None)
    def test_it_is_white_inside_and_a_part_is_a_part_of_the_whole(
        self, points: list[tuple[float, float]], left: int, top: int
    ) -> None:
        corners = hull_of(points)
        if corners is None:
            return
        whole, part = (-12, -12, 44, 44), (left, top, left + 17, top + 13)
        pictures = []
        for region in (whole, part):
            table = Table(box_of(region))
            Hull(corners).emit(table, 0, 1.0)
            pictures.append(drawn(table, region))
        y, x = top + 12, left + 12
        np.testing.assert_allclose(pictures[1], pictures[0][y : y + 13, x : x + 17], atol=1e-6)
        sides = list(zip(corners, corners[1:] + corners[:1], strict=True))
        area, around = sum(a[0] * b[1] - b[0] * a[1] for a, b in sides) / 2, sum(math.dist(a, b) for a, b in sides)
        # What the rasteriser is off goes with the rim, which may be long around little: 0.08 a pixel of it at the most.
        self.assertAlmostEqual(area, float(pictures[0][..., 3].sum()), delta=0.1 * around)
        np.testing.assert_array_equal(pictures[0][..., 0], pictures[0][..., 3])


if __name__ == "__main__":
    unittest.main()
