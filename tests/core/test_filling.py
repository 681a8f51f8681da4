"""Outlines filled with colours: how much of each pixel lies within, told by points that lie close together."""

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from spiralis.core.geometry import IDENTITY, Affine
from spiralis.core.raster.fonts import FaceAt, shipped_faces
from spiralis.core.raster.outlines import Filling, Outline, OutlinePen, Outlines
from spiralis.core.raster.shaping import glyph_outline, shaper

#: So many points each way are looked at in a pixel.
FINE = 24
RED, HALF_BLUE = (1.0, 0.0, 0.0, 1.0), (0.0, 0.0, 1.0, 0.5)


def drawn(*items: tuple[Outline, Affine, int], colours=(RED,), size=(24, 20), matrix=IDENTITY, over=None):
    """Draw outlines under maps, each of a group that has a colour, and return the pixels."""
    groups = np.cumsum([0, *np.bincount([group for _, _, group in items], minlength=len(colours))])
    maps = np.array([tuple(map_) for _, map_, _ in items])
    outlines = Outlines.of([outline for outline, _, _ in items])
    pixels = np.zeros((size[1], size[0], 4), dtype=np.uint8) if over is None else over
    Filling(outlines, np.arange(len(items)), maps, groups, np.array(colours)).draw(pixels, matrix)
    return pixels


def polygon(*points) -> Outline:
    pen = OutlinePen()
    pen.moveTo(points[0])
    for point in points[1:]:
        pen.lineTo(point)
    pen.closePath()
    return pen.done()


def box(left, top, right, bottom) -> Outline:
    return polygon((left, top), (right, top), (right, bottom), (left, bottom))


def ellipse(x, y, across, down, cubic=True) -> Outline:
    """A ring of four cubic curves, or of sixteen of the second degree."""
    pen = OutlinePen()
    pen.moveTo((x + across, y))
    if cubic:
        k = 4 / 3 * (math.sqrt(2) - 1)
        for n in range(4):
            c, s = math.cos(n * math.pi / 2), math.sin(n * math.pi / 2)
            way = [(1, k), (k, 1), (0, 1)]
            pen.curveTo(*((x + across * (c * u - s * v), y + down * (s * u + c * v)) for u, v in way))
    else:
        for n in range(16):
            middle, end = (n + 0.5) * math.pi / 8, (n + 1) * math.pi / 8
            far = 1 / math.cos(math.pi / 16)
            pen.qCurveTo((x + across * far * math.cos(middle), y + down * far * math.sin(middle)),
                         (x + across * math.cos(end), y + down * math.sin(end)))  # fmt: skip
    pen.closePath()
    return pen.done()


def points_of(size):
    steps = (np.arange(max(size) * FINE) + 0.5) / FINE
    return np.meshgrid(steps[: size[0] * FINE], steps[: size[1] * FINE])


def shares(inside, size):
    """Return how much of each pixel lies inside, of 255, and clear its outermost ring."""
    found = inside.reshape(size[1], FINE, size[0], FINE).mean(axis=(1, 3)) * 255
    found[[0, -1]] = found[:, [0, -1]] = 0
    return found


def within(points, size):
    """Whether fine points lie within a polygon, by how often a ray crosses it an odd number of times."""
    x, y = points_of(size)
    inside = np.zeros(x.shape, dtype=bool)
    for (x0, y0), (x1, y1) in zip(points, [*points[1:], points[0]], strict=True):
        crosses = (y0 > y) != (y1 > y)
        with np.errstate(divide="ignore", invalid="ignore"):
            inside ^= crosses & (x < x0 + (y - y0) / (y1 - y0) * (x1 - x0))
    return inside


class CoverTest(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(st.lists(st.tuples(st.floats(-10, 34), st.floats(-10, 30)), min_size=3, max_size=3))
    def test_a_triangle_covers_what_lies_within(self, points):
        found = drawn((polygon(*points), IDENTITY, 0))[..., 3]
        wanted = shares(within(points, (24, 20)), (24, 20))
        # A point counts for 1 / 576 of a pixel, and an edge passes some 24 of them.
        self.assertLess(np.abs(found - wanted).max(), 255 * 1.6 / FINE)
        self.assertLess(abs(found.mean() - wanted.mean()), 1.0)

    def test_round_outlines_are_as_round_as_they_are(self):
        x, y = points_of((24, 20))
        wanted = shares(((x - 12.3) / 9) ** 2 + ((y - 9.6) / 7) ** 2 < 1, (24, 20))
        for cubic in (True, False):
            found = drawn((ellipse(12.3, 9.6, 9, 7, cubic), IDENTITY, 0))[..., 3]
            self.assertLess(np.abs(found - wanted).max(), 9, cubic)
            self.assertLess(np.abs(found - wanted).mean(), 0.3, cubic)

    def test_a_map_and_a_box_that_fills_whole_pixels(self):
        found = drawn((box(0, 0, 2, 3), Affine(2, 0, 0, 1, 1, 1), 0), matrix=Affine(0, 2, 2, 0, 1, 3))
        wanted = np.zeros((20, 24), dtype=np.uint8)
        wanted[5:13, 3:9] = 255
        np.testing.assert_array_equal(found[..., 3], wanted)
        np.testing.assert_array_equal(found[..., 0], wanted)

    def test_edges_between_pixels_share_them(self):
        found = drawn((box(3.25, 4.5, 7.5, 6.75), IDENTITY, 0))[..., 3]
        across, down = np.array([0.75, 1, 1, 1, 0.5]), np.array([0.5, 1, 0.75])
        np.testing.assert_allclose(found[4:7, 3:8], np.outer(down, across) * 255, atol=0.51)

    def test_a_hole_stays_open_and_what_overlaps_counts_once(self):
        pen = OutlinePen()
        for points in (((2, 2), (18, 2), (18, 16), (2, 16)), ((6, 6), (6, 12), (12, 12), (12, 6))):
            pen.moveTo(points[0])
            for point in points[1:]:
                pen.lineTo(point)
        found = drawn((pen.done(), IDENTITY, 0))[..., 3]
        self.assertEqual([found[8, 8], found[8, 4], found[8, 15]], [0, 255, 255])
        twice = drawn((polygon((2, 2), (9, 2), (9, 9), (2, 9), (2, 2), (9, 2), (9, 9), (2, 9)), IDENTITY, 0))
        np.testing.assert_array_equal(twice, drawn((box(2, 2, 9, 9), IDENTITY, 0)))


class GroupTest(unittest.TestCase):
    def test_items_of_a_group_count_once_where_they_overlap(self):
        first, second = box(2, 2, 10, 10), box(6, 6, 14, 14)
        found = drawn((first, IDENTITY, 0), (second, IDENTITY, 0), colours=(HALF_BLUE,))
        np.testing.assert_array_equal(found[4, 4], found[8, 8])
        self.assertEqual([found[8, 8, 3], found[12, 12, 3], found[4, 12, 3]], [128, 128, 0])

    def test_a_mirrored_item_does_not_cut_a_hole_into_its_neighbour(self):
        mirrored = Affine(-1, 0, 0, 1, 16, 0)
        found = drawn((box(2, 2, 10, 10), IDENTITY, 0), (box(2, 2, 10, 10), mirrored, 0))
        np.testing.assert_array_equal(found, drawn((box(2, 2, 14, 10), IDENTITY, 0)))

    def test_later_groups_lie_over_earlier_ones(self):
        found = drawn((box(2, 2, 10, 10), IDENTITY, 0), (box(6, 6, 14, 14), IDENTITY, 1), colours=(RED, HALF_BLUE))
        np.testing.assert_array_equal(found[8, 8], [128, 0, 128, 255])
        np.testing.assert_array_equal(found[12, 12], [0, 0, 128, 128])

    def test_it_lies_over_what_is_there(self):
        ground = np.full((20, 24, 4), 255, dtype=np.uint8)
        drawn((box(2, 2, 10, 10), IDENTITY, 0), colours=(HALF_BLUE,), over=ground)
        np.testing.assert_array_equal(ground[4, 4], [128, 128, 255, 255])
        np.testing.assert_array_equal(ground[15, 15], [255, 255, 255, 255])

    def test_one_drawing_leaves_nothing_behind_for_the_next(self):
        drawn((box(1, 1, 23, 19), IDENTITY, 0))
        found = drawn((box(2, 2, 4, 4), IDENTITY, 0))
        self.assertEqual(int((found[..., 3] > 0).sum()), 4)
        wide = drawn((box(2, 2, 4, 4), IDENTITY, 0), size=(40, 9))
        self.assertEqual(int((wide[..., 3] > 0).sum()), 4)


class EdgeOfThePictureTest(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(st.integers(-12, 20), st.integers(-12, 16), st.floats(-3, 3), st.floats(0, 6))
    def test_a_part_is_like_the_whole(self, left, top, scale, turn):
        c, s = scale * math.cos(turn), scale * math.sin(turn)
        shape = (ellipse(0, 0, 9, 5), Affine(c, s, -s, c, 18.7, 14.2), 0)
        whole = drawn(shape, size=(40, 30))
        part = drawn(shape, size=(24, 18), matrix=Affine.shift(-left, -top))
        y0, y1, x0, x1 = max(top + 1, 1), min(top + 17, 29), max(left + 1, 1), min(left + 23, 39)
        a, b = part[y0 - top : y1 - top, x0 - left : x1 - left], whole[y0:y1, x0:x1]
        self.assertLessEqual(np.abs(a.astype(int) - b).max(initial=0), 1)

    def test_the_outermost_ring_stays_clear(self):
        found = drawn((box(-50, -50, 90, 90), IDENTITY, 0))[..., 3]
        self.assertTrue((found[1:-1, 1:-1] == 255).all())
        self.assertEqual(int((found > 0).sum()), 22 * 18)

    def test_what_is_nowhere_or_without_end_draws_nothing_and_breaks_nothing(self):
        for number in (math.nan, math.inf, -math.inf, 1e300, -1e18):
            for place in range(6):
                row = [1.0, 0.0, 0.0, 1.0, 0.0, 0.0]
                row[place] = number
                drawn((ellipse(8, 8, 5, 3), Affine(*row), 0), (box(2, 2, 4, 4), IDENTITY, 0))
        found = drawn((ellipse(8, 8, 5, 3), Affine(0, 0, 0, 0, 9, 9), 0), (OutlinePen().done(), IDENTITY, 0))
        self.assertFalse(found.any())


class LettersTest(unittest.TestCase):
    def test_letters_are_as_they_are_however_small_and_turned(self):
        face = next(face for face in shipped_faces() if face.family == "Dosis")
        at = FaceAt(face, 500.0)
        font, em = shaper(at)
        for letter, size, turn in (("g", 9, 0.3), ("R", 15, -1.1), ("8", 18, 0.0)):
            outline = glyph_outline(at, font.get_nominal_glyph(ord(letter)))
            s, c = math.sin(turn) * size / em, math.cos(turn) * size / em
            map_ = Affine(c, s, s, -c, 8.3, 14.6)
            found = drawn((outline, map_, 0))[..., 3].astype(float)
            fine = drawn((outline, map_, 0), size=(24 * 8 + 8, 20 * 8 + 8), matrix=Affine(8, 0, 0, 8, 4, 4))[..., 3]
            wanted = fine[4:-4, 4:-4].reshape(20, 8, 24, 8).mean(axis=(1, 3))
            wanted[[0, -1]] = wanted[:, [0, -1]] = 0
            self.assertLess(np.abs(found - wanted).max(), 12, letter)
            self.assertGreater(found.max(), 150, letter)


if __name__ == "__main__":
    unittest.main()
