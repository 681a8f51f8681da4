"""Morphing of outlines against the definition, and what stays the same when they are divided."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from spiralis.core.animation.easing import HOLD
from spiralis.core.animation.morphing import mixed_art, mixed_contour, refined
from spiralis.core.animation.tracks import value_at
from spiralis.core.geometry import Affine
from spiralis.core.model import Key, Layer, Track
from spiralis.core.model.art import Bundle, Contour, Figure, Stroke
from spiralis.core.model.forms import ellipse, polygon, rectangle, regular
from spiralis.core.model.kinds import layer_kind
from spiralis.core.raster.vectors import art_box
from spiralis.core.render.layers import Evaluated
from tests.core.samples import project

RED, BLUE = (1.0, 0.0, 0.0, 1.0), (0.0, 0.0, 1.0, 1.0)


def art(contour: Contour, fill: tuple[float, ...] = RED, **values: object) -> Bundle:
    return Bundle((Figure((contour,), fill, **values),))  # type: ignore[arg-type]


class MixTest(unittest.TestCase):
    @given(st.floats(-0.5, 1.5))
    def test_equal_counts_mix_vertex_by_vertex(self, share: float) -> None:
        a, b = rectangle(0, 0, 10, 20), rectangle(30, 10, 50, 40)
        mixed = mixed_contour(a, b, share)
        wanted = np.array(a.vertices) + share * (np.array(b.vertices) - np.array(a.vertices))
        np.testing.assert_allclose(np.array(mixed.vertices), wanted, atol=1e-9)

    @given(st.integers(3, 9), st.integers(1, 12))
    def test_dividing_an_outline_does_not_change_it(self, sides: int, more: int) -> None:
        contour = regular(sides, 100, 60)
        made = refined(np.array(contour.vertices), True, sides + more)
        self.assertEqual(len(made), sides + more)
        before = np.array([v[:2] for v in contour.vertices])
        for x, y in made[:, :2]:
            gaps = [_distance_to_segment((x, y), before[i], before[(i + 1) % sides]) for i in range(sides)]
            self.assertLess(min(gaps), 1e-6)

    def test_a_divided_circle_stays_one(self) -> None:
        made = refined(np.array(ellipse(0, 0, 50, 50).vertices), True, 11)
        np.testing.assert_allclose(np.hypot(made[:, 0], made[:, 1]), 50, atol=0.02)

    def test_a_triangle_becomes_a_circle_by_way_of_something_between(self) -> None:
        middle = mixed_art(art(regular(3, 100, 100)), art(ellipse(50, 50, 50, 50), BLUE), 0.5)
        figure = middle.items[0]
        assert isinstance(figure, Figure)
        self.assertEqual(len(figure.contours[0].vertices), 4)
        self.assertNotIn(figure.fill, (RED, BLUE))

    def test_what_cannot_be_mixed_holds(self) -> None:
        closed, open_ = art(polygon([(0, 0), (9, 0), (9, 9)])), art(polygon([(0, 0), (5, 5)], closed=False))
        self.assertIs(mixed_art(closed, open_, 0.7), closed)
        self.assertIs(mixed_art(closed, open_, 1.0), open_)

    def test_strokes_and_matrices_mix(self) -> None:
        a = art(polygon([(0, 0), (9, 0)]), stroke=Stroke(RED, 2.0), matrix=Affine.shift(0, 0))
        b = art(polygon([(0, 0), (9, 0)]), stroke=Stroke(BLUE, 6.0), matrix=Affine.shift(10, 0))
        figure = mixed_art(a, b, 0.25).items[0]
        assert isinstance(figure, Figure) and figure.stroke is not None
        self.assertAlmostEqual(figure.stroke.width, 3.0)
        self.assertAlmostEqual(figure.matrix.e, 2.5)


def _distance_to_segment(point: tuple[float, float], a: np.ndarray, b: np.ndarray) -> float:
    along = b - a
    share = np.clip(np.dot(np.array(point) - a, along) / np.dot(along, along), 0, 1)
    return float(np.hypot(*(np.array(point) - a - share * along)))


class KeyedPathTest(unittest.TestCase):
    def layer(self, *keys: Key) -> Layer:
        return Layer("Blob", "shape", 0, 40, id="blob").with_track("art", Track(keys[0].value, keys))

    def test_paths_follow_their_easing_and_hold_where_told(self) -> None:
        start, end = art(rectangle(0, 0, 10, 10)), art(rectangle(0, 0, 30, 10))
        parameter = layer_kind("shape").parameter("art")
        track = self.layer(Key(0, start), Key(10, end)).track("art")
        self.assertAlmostEqual((art_box(value_at(track, parameter, 5)) or (0,) * 4)[2], 20.0, 4)
        self.assertIs(value_at(track, parameter, 10), end)
        held = self.layer(Key(0, start, HOLD), Key(10, end)).track("art")
        self.assertEqual(value_at(held, parameter, 9), start)

    def test_a_morph_does_not_move_the_layers_box(self) -> None:
        keys = (Key(0, art(rectangle(0, 0, 10, 10))), Key(10, art(rectangle(-20, 0, 60, 10))))
        made = project(self.layer(*keys))
        boxes = {Evaluated(made, made.compositions[0], f).box(made.compositions[0].layers[0]) for f in (0, 4, 10)}
        self.assertEqual(boxes, {(-20.0, 0.0, 40.0, 10.0)})


if __name__ == "__main__":
    unittest.main()
