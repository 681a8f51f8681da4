"""The table of operations: parts, pictures apart, covers and perspective, against their definitions."""

from __future__ import annotations

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from spiralis.core.compositing.blend import MODE_NUMBERS, mode_number
from spiralis.core.compositing.kernels.blending import over_row
from spiralis.core.compositing.kernels.sampling import row_range, sample_bilinear
from spiralis.core.geometry import Affine, Projection, WholeBox, projection
from spiralis.core.raster.layer_image import Gradient
from spiralis.core.raster.raster import Raster
from spiralis.core.render.contents import add_gradient
from spiralis.core.render.nodes import Node, Placed, ringed
from spiralis.core.render.pictures import add_many, add_pixels
from spiralis.core.render.table import Table, drawn

_WIDTH, _HEIGHT = 61, 47
_WHOLE = (0, 0, _WIDTH, _HEIGHT)
#: A colour step, see ``effects/colour_steps.py``.
_DARKER = np.diag([0.8, 0.9, 0.7, 1.0])


def table() -> Table:
    return Table((0.0, 0.0, float(_WIDTH), float(_HEIGHT)))


def picture(width: int, height: int, solid: bool = False, seed: int = 1) -> Raster:
    """Return premultiplied random pixels with a clear ring."""
    random = np.random.default_rng(seed)
    pixels = random.random((height, width, 4), dtype=np.float32)
    if solid:
        pixels[..., 3] = 1.0
    pixels[..., :3] *= pixels[..., 3:]
    return Raster(pixels).with_clear_ring()


def ramp() -> Gradient:
    colours = np.linspace((0.9, 0.1, 0.0, 1.0), (0.0, 0.2, 0.6, 0.8), 64, dtype=np.float32)
    colours[:, :3] *= colours[:, 3:]
    return Gradient(colours, Affine.scaling(1 / 40, 1 / 40), (2.0, 3.0, 50.0, 40.0))


def full(mode: int = 0) -> Table:
    """Return a table with an operation of every sort."""
    made, inner, deeper = table(), table(), table()
    add_gradient(made, ramp(), Affine.rotation(17.0), 0, 0.9)
    turned = Affine.shift(20.3, 8.7) @ Affine.rotation(33.0)
    add_pixels(made, picture(20, 15), turned, 3, 0.7)
    add_pixels(deeper, picture(24, 24, seed=2), Affine.shift(9.0, 7.0), 0, 1.0)
    add_pixels(inner, picture(30, 20, seed=3), Affine.shift(12.4, 9.1), 0, 0.8)
    inner.add_apart(deeper, 5, 0.6)
    cover = _cover()
    inner.add_cover(cover, (3, 2, 3 + cover.shape[1], 2 + cover.shape[0]))
    made.add_apart(inner, mode, 0.75)
    made.add_colours([_DARKER], 0.7)
    pinned = Projection.pinning((0.0, 0.0, 22.0, 17.0), ((5.0, 4.0), (50.0, 9.0), (41.0, 40.0), (8.0, 30.0)))
    assert pinned is not None
    add_pixels(made, picture(20, 15, seed=4), pinned, 0, 0.5)
    maps = np.array([[0.5, 0.1, -0.1, 0.5, 3.0 * k, 2.0 * k] for k in range(9)])
    add_many(made, [picture(14, 14, seed=6)], np.zeros(9, dtype=np.intp), maps, np.linspace(0.2, 1.0, 9))
    return made


def _cover() -> np.ndarray:
    return np.random.default_rng(9).random((40, 50), dtype=np.float32)


class PartsTest(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(
        st.integers(0, _WIDTH - 1), st.integers(0, _HEIGHT - 1), st.integers(1, _WIDTH), st.integers(1, _HEIGHT),
        st.integers(0, len(MODE_NUMBERS) - 1),
    )  # fmt: skip
    def test_a_part_is_the_same_as_in_the_whole_bit_for_bit(
        self, left: int, top: int, width: int, height: int, mode: int
    ) -> None:
        right, bottom = min(left + width, _WIDTH), min(top + height, _HEIGHT)
        ground = (0.3, 0.5, 0.2, 1.0)
        whole = drawn(full(mode), _WHOLE, ground)
        part = drawn(full(mode), (left, top, right, bottom), ground)
        np.testing.assert_array_equal(part, whole[top:bottom, left:right])


class SmallPicturesTest(unittest.TestCase):
    """Small pictures take a way of their own, by the same sums."""

    @given(st.integers(2, 40), st.integers(2, 40), st.floats(0, 360), st.floats(0.2, 1.4), st.floats(-10, 60),
           st.floats(-10, 40), st.floats(0, 1), st.booleans())  # fmt: skip
    @settings(max_examples=60, deadline=None)
    def test_they_are_a_row_filled_and_laid_over(
        self, width: int, height: int, turn: float, size: float, x: float, y: float, opacity: float, stored: bool
    ) -> None:
        shown = picture(width, height, seed=7)
        if stored:
            shown = Raster(np.round(shown.data * 255).astype(np.uint8), shown.space, shown.corner)
        ground = np.random.default_rng(3).random((_HEIGHT, _WIDTH, 4), dtype=np.float32)
        map_ = Affine.shift(x, y) @ Affine.rotation(turn) @ Affine.scaling(size, size)
        made = table()
        add_pixels(made, Raster(ground), Affine(), 0, 1.0)
        add_pixels(made, shown, map_, 0, opacity)
        rows = made.plan(_WHOLE, (0.0, 0.0, 0.0, 0.0)).operations
        wanted = ground.copy()
        if len(rows) > 1:
            operation = rows[1]
            pixels = np.ascontiguousarray(shown.data).reshape(-1)
            scale = float(operation["opacity"]) / (255.0 if stored else 1.0)
            left, top, right, bottom, across, down = (
                int(operation[name]) for name in ("left", "top", "right", "bottom", "across", "down")
            )
            for line in range(top, bottom):
                x0, x1 = row_range(left, right, line, operation["place"], across, down)
                if x1 > x0:
                    row = np.empty(4 * _WIDTH, dtype=np.float32)
                    sample_bilinear(row, 0, x0, x1, line, operation["place"], pixels, across, down, scale)
                    over_row(row[4 * x0 : 4 * x1], wanted[line].reshape(-1)[4 * x0 : 4 * x1])
        np.testing.assert_array_equal(drawn(made, _WHOLE), wanted)


class ApartTest(unittest.TestCase):
    def test_a_table_apart_is_its_picture_blended_and_faded(self) -> None:
        inner = full()
        pixels = drawn(inner, _WHOLE)
        for name in MODE_NUMBERS:
            for opacity in (1.0, 0.4):
                expected, found = table(), table()
                for made in (expected, found):
                    add_gradient(made, ramp(), Affine(), 0, 1.0)
                add_pixels(expected, Raster(pixels), Affine(), mode_number(name), opacity)
                found.add_apart(inner, mode_number(name), opacity)
                np.testing.assert_array_equal(drawn(found, _WHOLE), drawn(expected, _WHOLE), name)

    def test_what_is_apart_does_not_mix_with_what_lies_beneath(self) -> None:
        made, inner = table(), table()
        add_pixels(made, picture(40, 40, solid=True), Affine(), 0, 1.0)
        add_pixels(inner, picture(40, 40, solid=True, seed=2), Affine(), mode_number("multiply"), 1.0)
        made.add_apart(inner, 0, 1.0)
        np.testing.assert_allclose(
            drawn(made, _WHOLE)[2:38, 2:38], picture(40, 40, solid=True, seed=2).data[2:38, 2:38], atol=1e-6
        )

    def test_nothing_apart_leaves_nothing(self) -> None:
        made = table()
        made.add_apart(table(), 0, 1.0)
        self.assertEqual([], made.rows)

    def test_only_what_counts_outside_decides_whether_all_is_normal(self) -> None:
        made, inner = table(), table()
        add_pixels(inner, picture(9, 9), Affine(), 3, 1.0)
        self.assertFalse(inner.all_normal)
        made.add_apart(inner, 0, 0.5)
        self.assertTrue(made.all_normal)
        made.add_apart(inner, 3, 0.5)
        self.assertFalse(made.all_normal)

    def test_a_cover_multiplies_what_is_there(self) -> None:
        made = full()
        before, cover = drawn(made, _WHOLE), _cover()
        made.add_cover(cover, (4, 5, 54, 45))
        after = drawn(made, _WHOLE)
        np.testing.assert_allclose(after[5:45, 4:54], before[5:45, 4:54] * cover[..., None], atol=1e-6)
        np.testing.assert_array_equal(after[:5], before[:5])


class PerspectiveTest(unittest.TestCase):
    def test_samples_as_the_definition_says(self) -> None:
        pixels = picture(20, 15).data
        corners = ((5.0, 4.0), (50.0, 9.0), (41.0, 40.0), (8.0, 30.0))
        pinned = Projection.pinning((0.0, 0.0, 22.0, 17.0), corners)
        assert pinned is not None
        made = table()
        add_pixels(made, Raster(pixels), pinned, 0, 0.9)
        back = np.linalg.inv(pinned.array)
        ys, xs = np.mgrid[0:_HEIGHT, 0:_WIDTH] + 0.5
        u, v, w = np.einsum("ij,jyx->iyx", back, np.stack([xs, ys, np.ones_like(xs)]))
        expected = _bilinear(pixels.astype(np.float64), u / w - 0.5, v / w - 0.5) * 0.9
        expected[w <= 0] = 0
        np.testing.assert_allclose(drawn(made, _WHOLE), expected, atol=2e-6)

    def test_an_affine_map_written_as_a_projection_draws_the_same(self) -> None:
        turned = Affine.shift(20.3, 8.7) @ Affine.rotation(33.0) @ Affine.scaling(1.2, 0.8)
        for sort in (np.float32, np.uint8):
            pixels = picture(20, 15).data
            held = Raster(pixels if sort is np.float32 else np.round(pixels * 255).astype(np.uint8))
            plain, written = table(), table()
            add_pixels(plain, held, turned, 0, 1.0)
            tiny = projection(turned)._replace(g=1e-15)
            add_pixels(written, held, tiny, 0, 1.0)
            np.testing.assert_allclose(drawn(written, _WHOLE), drawn(plain, _WHOLE), atol=1e-5)

    def test_what_lies_behind_the_eye_is_not_seen(self) -> None:
        tipped = Projection(1.0, 0.0, 30.0, 0.0, 1.0, 20.0, 0.0, -0.1, 1.0)
        made = table()
        add_pixels(made, Raster(np.ones((30, 30, 4), dtype=np.float32)).with_clear_ring(), tipped, 0, 1.0)
        # From v = 10 on the plane is behind the eye; in front of it y runs from 20 to infinity.
        self.assertEqual(0.0, float(drawn(made, _WHOLE)[:18].max()))
        self.assertGreater(float(drawn(made, _WHOLE)[25:].max()), 0.99)

    def test_a_node_is_placed_in_perspective(self) -> None:
        class Still(Node):
            def make_key(self) -> str:
                return "still"

            def emit(self, table: Table, mode: int, opacity: float) -> None:
                add_pixels(table, picture(20, 15), Affine(), mode, opacity)

        pinned = Projection.pinning((0.0, 0.0, 20.0, 15.0), ((5.0, 4.0), (50.0, 9.0), (41.0, 40.0), (8.0, 30.0)))
        assert pinned is not None
        found, expected = table(), table()
        Placed(Still(), pinned).emit(found, 0, 1.0)
        inner = Table((-256.0, -256.0, 512.0, 512.0))
        Still().emit(inner, 0, 1.0)
        held = Raster(drawn(inner, (0, 0, 22, 17)))
        add_pixels(expected, held, pinned, 0, 1.0)
        np.testing.assert_allclose(drawn(found, _WHOLE), drawn(expected, _WHOLE), atol=1e-5)

    @given(st.floats(-40, 20), st.floats(-40, 20), st.floats(-30, 30), st.integers(10, 150), st.integers(10, 150))
    @settings(max_examples=40, deadline=None)
    def test_edges_of_a_placed_picture_fade_where_they_are_in_sight(
        self, x: float, y: float, turn: float, width: int, height: int
    ) -> None:
        class Block(Node):
            """Pixels that are solid to their very edges, as what an effect makes may be."""

            def make_key(self) -> tuple[int, int]:
                return width, height

            def drawn_in(self, region: WholeBox) -> Raster | None:
                return Raster(np.ones((height, width, 4), dtype=np.float32)).cut(region)

        to_grid = Affine.shift(x, y) @ Affine.rotation(turn)
        made = table()
        Placed(Block(), to_grid).emit(made, 0, 1.0)
        back = to_grid.inverse()
        assert back is not None
        across, down = np.meshgrid(np.arange(_WIDTH) + 0.5, np.arange(_HEIGHT) + 0.5)
        places = back.apply_all(np.stack([across, down], axis=-1)) - 0.5
        wanted = _bilinear(np.ones((height, width, 4)), places[..., 0], places[..., 1])
        np.testing.assert_allclose(drawn(made, _WHOLE), wanted, atol=1e-4)


def _bilinear(pixels: np.ndarray, u: np.ndarray, v: np.ndarray) -> np.ndarray:
    """Return float64 samples; outside of the pixels everything is clear."""
    height, width = pixels.shape[:2]
    padded = np.pad(pixels, ((1, 1), (1, 1), (0, 0)))
    inside = (u > -1) & (u < width) & (v > -1) & (v < height)
    u, v = np.where(inside, u, -1.0) + 1, np.where(inside, v, -1.0) + 1
    iu, iv = np.floor(u).astype(int), np.floor(v).astype(int)
    fu, fv = (u - iu)[..., None], (v - iv)[..., None]
    iu2, iv2 = np.minimum(iu + 1, width + 1), np.minimum(iv + 1, height + 1)
    top = padded[iv, iu] * (1 - fu) + padded[iv, iu2] * fu
    return (top * (1 - fv) + (padded[iv2, iu] * (1 - fu) + padded[iv2, iu2] * fu) * fv) * inside[..., None]


_NUMBERS = st.floats(-3.0, 3.0)


class ProjectionTest(unittest.TestCase):
    @settings(max_examples=200, deadline=None)
    @given(st.lists(_NUMBERS, min_size=12, max_size=12), st.floats(-5, 5), st.floats(-5, 5))
    def test_products_with_affine_maps_apply_the_inner_one_first(self, n: list[float], x: float, y: float) -> None:
        affine = Affine(*n[:6])
        bent = Projection(n[6], n[7], n[8], n[9], n[10], n[11], 0.05, -0.04, 1.0)
        between = affine.apply(x, y)
        if 0.05 * between[0] - 0.04 * between[1] + 1 > 1e-3:
            np.testing.assert_allclose((bent @ affine).apply(x, y), bent.apply(*between), atol=1e-6, rtol=1e-6)
        if 0.05 * x - 0.04 * y + 1 > 1e-3:
            np.testing.assert_allclose((affine @ bent).apply(x, y), affine.apply(*bent.apply(x, y)), atol=1e-6,
                                       rtol=1e-6)  # fmt: skip

    @settings(max_examples=200, deadline=None)
    @given(st.lists(_NUMBERS, min_size=6, max_size=6), st.floats(-5, 5), st.floats(-5, 5))
    def test_an_affine_map_is_a_special_case(self, n: list[float], x: float, y: float) -> None:
        affine = Affine(*n)
        self.assertEqual(affine.apply(x, y), projection(affine).apply(x, y))
        np.testing.assert_allclose(affine.box((1, 2, 7, 5)), projection(affine).box((1, 2, 7, 5)), atol=1e-9)

    def test_corners_go_where_they_are_pinned_and_back(self) -> None:
        box = (3.0, -2.0, 40.0, 21.0)
        goals = ((5.0, 4.0), (50.0, 9.0), (41.0, 40.0), (8.0, 30.0))
        pinned = Projection.pinning(box, goals)
        assert pinned is not None
        corners = ((box[0], box[1]), (box[2], box[1]), (box[2], box[3]), (box[0], box[3]))
        back = pinned.inverse()
        assert back is not None
        for corner, goal in zip(corners, goals, strict=True):
            np.testing.assert_allclose(pinned.apply(*corner), goal, atol=1e-9)
            np.testing.assert_allclose(back.apply(*goal), corner, atol=1e-9)
        np.testing.assert_allclose(pinned.box(box), (5.0, 4.0, 50.0, 40.0), atol=1e-9)

    def test_what_no_view_of_a_plane_looks_like_is_refused(self) -> None:
        box = (0.0, 0.0, 10.0, 10.0)
        crossed = ((0.0, 0.0), (10.0, 10.0), (10.0, 0.0), (0.0, 10.0))
        on_a_line = ((0.0, 0.0), (5.0, 0.0), (10.0, 0.0), (0.0, 10.0))
        dented = ((0.0, 0.0), (10.0, 0.0), (2.0, 2.0), (0.0, 10.0))
        for corners in (crossed, on_a_line, dented):
            self.assertIsNone(Projection.pinning(box, corners))
        self.assertIsNone(Projection.pinning((0.0, 0.0, 0.0, 10.0), ((0.0, 0.0), (9.0, 0.0), (9.0, 9.0), (0.0, 9.0))))

    def test_flat_and_endless_maps_have_no_inverse(self) -> None:
        self.assertIsNone(Projection(1, 2, 0, 2, 4, 0, 0, 0, 1).inverse())
        self.assertIsNone(Projection(math.nan).inverse())
        self.assertIsNotNone(Projection.of(Affine(1e-3, 0, 0, 1e-3, 1e5, 1e5)).inverse())

    def test_points_behind_the_eye_have_no_place(self) -> None:
        with self.assertRaises(ValueError):
            Projection(g=-1.0).apply(2.0, 0.0)
        box = Projection(g=-0.1).box((0.0, 0.0, 20.0, 1.0))
        self.assertEqual(0.0, box[0])
        self.assertGreater(box[2], 1e4)
        self.assertEqual((0.0, 0.0, 0.0, 0.0), Projection(i=-1.0).box((0.0, 0.0, 20.0, 1.0)))


class RingedTest(unittest.TestCase):
    def test_a_clear_rim_needs_no_ring_and_any_other_gets_one_in_its_place(self) -> None:
        clear = np.zeros((5, 6, 4), dtype=np.uint8)
        clear[1:-1, 1:-1] = 200
        picture = Raster(clear, corner=(7, -3))
        self.assertIs(ringed(picture), picture)
        for y, x in ((0, 2), (4, 2), (2, 0), (2, 5)):
            pixels = clear.copy()
            pixels[y, x] = 9
            made = ringed(Raster(pixels, corner=(7, -3)))
            self.assertEqual((made.corner, made.data.shape), ((6, -4), (7, 8, 4)))
            np.testing.assert_array_equal(made.data[1:-1, 1:-1], pixels)
            self.assertEqual(int(made.data.sum()), int(pixels.sum()))

    def test_what_is_too_thin_to_be_sampled_gets_a_ring_even_where_it_is_clear(self) -> None:
        for shape in ((1, 1, 4), (2, 9, 4), (9, 2, 4)):
            made = ringed(Raster(np.zeros(shape, dtype=np.uint8)))
            self.assertEqual(made.data.shape, (shape[0] + 2, shape[1] + 2, 4))



if __name__ == "__main__":
    unittest.main()
