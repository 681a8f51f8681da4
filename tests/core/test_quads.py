"""Rectangles that a camera sees, as one operation: how much of each pixel they cover, and when they are drawn so."""

from __future__ import annotations

import math
import unittest

import numpy as np
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from spiralis.core.compositing.kernels import bands
from spiralis.core.render.plan import plan_frame
from spiralis.core.render.quads import add_quad, edges_of
from spiralis.core.render.table import Table, drawn
from tests.core.test_space import card, sample

_SIZE, _FINE = 40, 8
_PLACE = st.floats(0.0, _SIZE)


@st.composite
def _quads(draw: st.DrawFn) -> list[tuple[float, float]]:
    """Four points of an ellipse, in order: they always make a convex figure."""
    x, y, across, down = draw(_PLACE), draw(_PLACE), draw(st.floats(8.0, 40.0)), draw(st.floats(8.0, 40.0))
    first = draw(st.floats(0.0, 360.0))
    angles = [math.radians(first + 90 * k + draw(st.floats(-35.0, 35.0))) for k in range(4)]
    return [(x + across * math.cos(angle), y + down * math.sin(angle)) for angle in angles]


def covered(corners: list[tuple[float, float]]) -> np.ndarray:
    """Return how much of each pixel a convex figure covers, by many samples."""
    at = (np.arange(_SIZE * _FINE) + 0.5) / _FINE
    x, y = np.meshgrid(at, at)
    sides = []
    for (ax, ay), (bx, by) in zip(corners, corners[1:] + corners[:1], strict=True):
        sides.append((bx - ax) * (y - ay) - (by - ay) * (x - ax))
    inside = np.all(np.array(sides) >= 0, axis=0) | np.all(np.array(sides) <= 0, axis=0)
    return inside.reshape(_SIZE, _FINE, _SIZE, _FINE).mean(axis=(1, 3))


def shown(corners: list[tuple[float, float]], edges: np.ndarray, opacity: float = 1.0) -> np.ndarray:
    table = Table((0.0, 0.0, float(_SIZE), float(_SIZE)))
    add_quad(table, corners, edges, (0.5, 0.25, 1.0, 0.5), 0, opacity)
    return drawn(table, (0, 0, _SIZE, _SIZE))


class QuadTest(unittest.TestCase):
    @given(_quads(), st.floats(0.1, 1.0))
    @settings(max_examples=60, deadline=None)
    def test_it_covers_what_lies_within_its_corners(self, corners: list[tuple[float, float]], opacity: float) -> None:
        edges = edges_of(corners)
        assume(edges is not None)
        assert edges is not None
        made, wanted = shown(corners, edges, opacity), covered(corners)
        apart = made[..., 3] / (0.5 * opacity) - wanted
        # The rim is smoothed by how far the middle of a pixel lies from an edge; corners are cut by two at once.
        self.assertLess(float(np.abs(apart).max()), 0.45)
        self.assertLess(float(np.abs(apart[(wanted > 0) & (wanted < 1)]).mean()) if wanted.sum() > 0 else 0.0, 0.09)
        self.assertEqual(0.0, float(np.abs(apart[wanted == 0]).max(initial=0.0).round(0)))
        np.testing.assert_allclose(made[..., :3], made[..., 3:] * (0.5, 0.25, 1.0), atol=1e-6)
        np.testing.assert_allclose(shown(corners[::-1], edges_of(corners[::-1]), opacity), made, atol=1e-6)

    def test_what_is_narrow_is_left_to_outlines(self) -> None:
        self.assertIsNone(edges_of([(0, 0), (30, 0), (30, 1.5), (0, 1.5)]))
        self.assertIsNone(edges_of([(0, 0), (30, 0), (30, 20), (30, 20)]))
        self.assertIsNone(edges_of([(0, 0), (30, 0), (30, 20), (0, 0.5)]))
        self.assertIsNotNone(edges_of([(0, 0), (30, 0), (30, 20), (0, 20)]))

    def test_rectangles_in_one_colour_are_drawn_so_and_other_forms_are_not(self) -> None:
        for values, flat in (
            ({}, True), ({"opacity": 40.0}, True), ({"corners": 5.0}, False), ({"stroke": 3.0}, False),
            ({"grow": 4.0}, False),
            ({"form": "ellipse"}, False), ({"paint": "linear"}, False), ({"feather": (3.0, 3.0)}, False),
        ):  # fmt: skip
            with self.subTest(**values):
                kinds = plan_frame(sample(card("card", depth=True, turn_y=35.0, **values)), "piece", 0, 1.0).operations
                self.assertEqual(flat, bands.FLAT in kinds["kind"].tolist())

    def test_one_whose_plane_holds_the_camera_is_nothing(self) -> None:
        edge_on = sample(card("card", depth=True, turn_y=90.0, position=(160.0, 120.0)))
        self.assertTrue(np.isfinite(plan_frame(edge_on, "piece", 0, 1.0).operations["place"]).all())
        self.assertTrue(math.isfinite(float(plan_frame(edge_on, "piece", 0, 1.0).operations["opacity"].sum())))


if __name__ == "__main__":
    unittest.main()
