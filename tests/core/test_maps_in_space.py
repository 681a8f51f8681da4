"""Maps of space in plain numbers, against the same by arrays."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from spiralis.core.geometry import Affine
from spiralis.core.render.maps_in_space import (
    NOTHING,
    after,
    as_array,
    as_rows,
    embedded,
    moved_in,
    plane_under,
    point_under,
    turned_in_space,
)

_NUMBER = st.floats(-50, 50)
_ROWS = st.lists(st.lists(_NUMBER, min_size=4, max_size=4), min_size=3, max_size=3).map(lambda x: as_rows(np.array(x)))


class MapsInSpaceTest(unittest.TestCase):
    @given(_ROWS, _ROWS)
    def test_one_after_another(self, outer: tuple, inner: tuple) -> None:
        np.testing.assert_allclose(as_array(after(outer, inner)), as_array(outer) @ as_array(inner), atol=1e-9)
        self.assertEqual(after(NOTHING, inner), inner)

    @given(_ROWS, _ROWS, _NUMBER, _NUMBER, _NUMBER)
    def test_points_and_planes(self, camera: tuple, rows: tuple, x: float, y: float, z: float) -> None:
        np.testing.assert_allclose(point_under(rows, x, y), (as_array(rows) @ (x, y, 0, 1))[:3], atol=1e-9)
        np.testing.assert_allclose(point_under(moved_in(rows, z), x, y), (as_array(rows) @ (x, y, z, 1))[:3], atol=1e-9)
        wanted = (as_array(camera) @ as_array(rows))[:3][:, (0, 1, 3)]
        np.testing.assert_allclose(np.reshape(plane_under(camera, rows), (3, 3)), wanted, atol=1e-8)

    @given(st.lists(_NUMBER, min_size=6, max_size=6), st.lists(_NUMBER, min_size=9, max_size=9), _NUMBER, _NUMBER)
    def test_maps_of_the_plane(self, numbers: list[float], turn: list[float], x: float, y: float) -> None:
        flat = Affine(*numbers)
        np.testing.assert_allclose(point_under(embedded(flat), x, y), (*flat.apply(x, y), 0.0), atol=1e-9)
        rows = tuple(tuple(turn[3 * n : 3 * n + 3]) for n in range(3))
        made = point_under(turned_in_space(rows, flat, (1.0, 2.0, 3.0)), x, y)
        wanted = np.array(rows) @ (*flat.apply(x, y), 0.0) + (1.0, 2.0, 3.0)
        np.testing.assert_allclose(made, wanted, atol=1e-7)


if __name__ == "__main__":
    unittest.main()
