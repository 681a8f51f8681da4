"""Dashes that move along their lines."""

import unittest

import numpy as np
from attrs import evolve

from spiralis.core.model import Key, Layer, Track
from spiralis.core.model.art import Bundle, Contour, Figure, Stroke
from spiralis.core.raster.dashes import is_dashed, with_dashes_moved
from spiralis.core.raster.kinds.shape import PARAMETERS
from spiralis.core.render.frame import render_frame
from tests.core.samples import project

WHITE = (1.0, 1.0, 1.0, 1.0)


def line(**values: object) -> Layer:
    return Layer("Route", "shape", 0, 10, id="route").with_values(
        form="line", size=(120.0, 0.0), stroke=8.0, stroke_colour=WHITE, cap="butt", dash=(12.0, 8.0),
        position=(80.0, 30.0), **values,
    )  # fmt: skip


def drawn(layer: Layer, frame: float = 0) -> np.ndarray:
    piece = project(layer, width=160, height=60, length=10)
    return render_frame(piece, piece.compositions[0].id, frame)[30, :, 3]


def drawing(dash: tuple[float, ...]) -> Bundle:
    way = Contour(tuple((x, 0.0) * 3 for x in (0.0, 50.0, 120.0)))
    return Bundle((Bundle((Figure((way,), stroke=Stroke(WHITE, 8.0, dash=dash)),)),))


class DashesTest(unittest.TestCase):
    def test_they_move_along_by_so_much_and_after_a_whole_one_look_the_same(self) -> None:
        still, moved = drawn(line()), drawn(line(dash_shift=25.0))
        # A quarter of 20 px, in the direction of the line; its ends are cut where the line ends.
        np.testing.assert_allclose(moved[30:135], still[25:130], atol=0.02)
        for share in (100.0, -300.0):
            np.testing.assert_allclose(drawn(line(dash_shift=share)), still, atol=0.02)
        self.assertGreater(float(np.abs(moved - still).max()), 0.9)

    def test_keys_over_a_whole_one_make_a_loop(self) -> None:
        moving = line().with_track("dash_shift", Track(0.0, (Key(0, 0.0), Key(10, 100.0))))
        np.testing.assert_allclose(drawn(moving, 5), drawn(line(dash_shift=50.0)), atol=0.02)
        np.testing.assert_allclose(drawn(moving, 9.999), drawn(moving, 0), atol=0.05)

    def test_so_do_those_in_space_and_those_of_many_layers_at_once(self) -> None:
        leaning = line(depth=True, turn_y=40.0)
        still, half, whole = (drawn(leaning.with_values(dash_shift=share)) for share in (0.0, 50.0, 100.0))
        self.assertGreater(float(np.abs(half - still).max()), 0.9)
        np.testing.assert_allclose(whole, still, atol=0.02)
        pictures = []
        for share in (0.0, 50.0):
            rows = [line(dash_shift=share).with_values(position=(80.0, 8.0 + 5 * n)) for n in range(9)]
            piece = project(*(evolve(row, id=f"r{n}") for n, row in enumerate(rows)), width=160, height=60, length=10)
            pictures.append(render_frame(piece, piece.compositions[0].id, 0))
        self.assertGreater(float(np.abs(pictures[1] - pictures[0]).max()), 0.9)

    def test_those_of_drawings_by_their_own_lengths(self) -> None:
        for dash, whole in (((12.0, 8.0), 20.0), ((10.0,), 20.0), ((9.0, 3.0, 2.0), 28.0)):
            art = with_dashes_moved(drawing(dash), 0.5)
            (inner,) = art.items
            assert isinstance(inner, Bundle) and isinstance(inner.items[0], Figure)
            stroke = inner.items[0].stroke
            assert stroke is not None
            self.assertEqual((-whole / 2, dash), (stroke.dash_offset, stroke.dash))
        layer = Layer("Drawn", "shape", 0, 10).with_values(art=drawing((12.0, 8.0)), position=(80.0, 30.0))
        np.testing.assert_allclose(drawn(layer.with_values(dash_shift=25.0))[30:135], drawn(layer)[25:130], atol=0.02)

    def test_whole_lines_and_fills_stay_as_they_are(self) -> None:
        self.assertTrue(is_dashed(drawing((12.0, 8.0))))
        for art in (drawing(()), Bundle((Figure((), fill=WHITE),))):
            self.assertFalse(is_dashed(art))
            self.assertEqual(art, with_dashes_moved(art, 0.3))
        np.testing.assert_array_equal(drawn(line(dash_shift=30.0).with_values(dash=(0.0, 0.0))),
                                      drawn(line().with_values(dash=(0.0, 0.0))))  # fmt: skip
        self.assertEqual(100.0, next(y for y in PARAMETERS if y.name == "dash_shift").period)


if __name__ == "__main__":
    unittest.main()
