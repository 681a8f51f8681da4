"""What of a picture is clear is not drawn, and nobody sees the difference."""

from __future__ import annotations

import unittest
from unittest import mock

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from spiralis.core.compositing.blend import MODE_NUMBERS
from spiralis.core.compositing.kernels import bands
from spiralis.core.geometry import Affine, Projection
from spiralis.core.media.pixels import filled_box
from spiralis.core.model.kinds import BLEND_MODES, REACHING_MODES
from spiralis.core.raster.raster import Raster
from spiralis.core.render import pictures
from spiralis.core.render.frame import render_rgba8
from spiralis.core.render.pictures import add_pixels
from spiralis.core.render.table import Table, drawn
from spiralis.demo.stored import stored_demo

MAPS = (
    Affine(), Affine.shift(5, -3), Affine.shift(5.4, -3.3), Affine(0.8, 0.3, -0.3, 0.9, 20.0, 4.0),
    Affine.scaling(0.5, 0.5), Affine.scaling(2.3, 2.2) @ Affine.shift(-40, -30),
    Projection(0.9, 0.1, 6.0, -0.05, 0.8, 9.0, 0.001, 0.0007, 1.0),
)  # fmt: skip


def whole_drawn(pixels: np.ndarray) -> tuple[int, int, int, int]:
    return 0, 0, pixels.shape[1], pixels.shape[0]


def picture(kind: type, seed: int = 1) -> Raster:
    """Return a picture of 120 by 100 of which a patch and a dot far from it are not clear."""
    random = np.random.default_rng(seed)
    data = np.zeros((100, 120, 4), dtype=kind)
    values = random.random((17, 23, 4)) * random.random((17, 23, 1))
    values[..., 3] = values.max(axis=2)
    data[40:57, 61:84] = values if kind is np.float32 else np.round(255 * values)
    return Raster(data)


def over_a_ground(raster: Raster, map_: Affine | Projection, mode: str) -> tuple[np.ndarray, np.ndarray]:
    """Return what a picture looks like over a flat ground, and the operations."""
    table = Table((0.0, 0.0, 128.0, 96.0))
    table.add(bands.FLAT, 0, table.frame, np.zeros(4), (4, 1), (1.0,) * 9, 1.0, (0.2, 0.4, 0.3, 0.8))
    add_pixels(table, raster, map_, MODE_NUMBERS[mode], 0.7)
    area = (0, 0, 128, 96)
    return drawn(table, area), table.plan(area, np.zeros(4, np.float32)).operations


class ClearEdgesTest(unittest.TestCase):
    def test_every_mode_and_map_gives_what_the_whole_picture_does(self) -> None:
        for kind in (np.uint8, np.float32):
            for mode in BLEND_MODES:
                for map_ in MAPS:
                    trimmed, operations = over_a_ground(picture(kind), map_, mode)
                    with mock.patch.object(pictures, "_shown", whole_drawn):
                        whole, all_of_it = over_a_ground(picture(kind), map_, mode)
                    np.testing.assert_array_equal(trimmed, whole, f"{mode} {map_}")
                    sizes = [int((o["right"] - o["left"]) * (o["bottom"] - o["top"])) for o in
                             (operations[-1], all_of_it[-1])]  # fmt: skip
                    if mode in REACHING_MODES:
                        self.assertEqual(*sizes)
                    else:
                        self.assertLess(3 * sizes[0], sizes[1])

    def test_every_piece_of_the_demo_is_what_it_is_drawn_whole(self) -> None:
        demo = stored_demo()
        for piece in demo.compositions:
            made = render_rgba8(demo, piece.id, piece.length // 3, 0.3)
            with mock.patch.object(pictures, "_SMALL", 1 << 40):
                fresh = stored_demo() if piece.layers else demo
                np.testing.assert_array_equal(made, render_rgba8(fresh, piece.id, piece.length // 3, 0.3), piece.name)

    def test_a_clear_picture_adds_nothing_and_light_without_alpha_counts(self) -> None:
        table = Table((0.0, 0.0, 128.0, 96.0))
        add_pixels(table, Raster(np.zeros((100, 120, 4), dtype=np.float32)), Affine(), 0, 1.0)
        self.assertEqual(table.rows, [])
        light = np.zeros((100, 120, 4), dtype=np.float32)
        light[30, 70, 1] = 0.5
        seen, _ = over_a_ground(Raster(light), Affine(), "plus-lighter")
        self.assertGreater(float(seen[30, 70, 1]), float(seen[31, 75, 1]) + 0.2)

    def test_small_pictures_are_not_looked_through(self) -> None:
        with mock.patch.object(pictures, "filled_box", side_effect=AssertionError):
            table = Table((0.0, 0.0, 64.0, 64.0))
            add_pixels(table, Raster(np.zeros((40, 40, 4), dtype=np.uint8)), Affine(), 0, 1.0)
        self.assertEqual(len(table.rows), 1)

    @settings(max_examples=80, deadline=None)
    @given(st.lists(st.tuples(st.integers(0, 8), st.integers(0, 44), st.integers(0, 3)), max_size=4), st.booleans())
    def test_the_box_is_the_smallest_around_what_is_there(self, dots: list[tuple[int, int, int]], whole: bool) -> None:
        pixels = np.zeros((9, 45, 4), dtype=np.uint8 if whole else np.float32)
        for y, x, channel in dots:
            pixels[y, x, channel] = 1
        left, top, right, bottom = filled_box(pixels)
        ys, xs = np.nonzero(pixels.any(axis=2))
        expected = (xs.min(), ys.min(), xs.max() + 1, ys.max() + 1) if len(ys) else (0, 0, 0, 0)
        self.assertEqual((left, top, right, bottom), expected)

    def test_one_pixel_is_found_wherever_it_is(self) -> None:
        for x in range(70):
            pixels = np.zeros((3, 70, 4), dtype=np.uint8)
            pixels[1, x, 2] = 1
            self.assertEqual(filled_box(pixels), (x, 1, x + 1, 2))
