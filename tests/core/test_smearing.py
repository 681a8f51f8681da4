"""Motion blur of a picture that is only moved, against its definition: the mean of what each moment shows."""

from __future__ import annotations

import unittest
from collections.abc import Callable
from unittest import mock

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy import ndimage

from spiralis.core.colour import linear_to_srgb, srgb_to_linear
from spiralis.core.compositing import motion_blur
from spiralis.core.compositing.motion_blur import FEWEST_GROUPS, group_starts, smeared, taps
from spiralis.core.geometry import Affine
from spiralis.core.raster.raster import Raster

_SHIFTS = st.lists(st.tuples(st.floats(-12, 12), st.floats(-12, 12)), min_size=1, max_size=8)


def _picture() -> np.ndarray:
    random = np.random.default_rng(5)
    pixels = np.zeros((9, 12, 4), dtype=np.float32)
    pixels[1:-1, 1:-1] = random.random((7, 10, 4))
    pixels[..., :3] *= pixels[..., 3:]
    return pixels


def _straight(pixels: np.ndarray) -> np.ndarray:
    return pixels[..., :3] / np.maximum(pixels[..., 3:], 1e-9)


def _linear(pixels: np.ndarray) -> np.ndarray:
    made = pixels.astype(np.float64)
    made[..., :3] = srgb_to_linear(_straight(made)) * made[..., 3:]
    return made


def _mean(linear: np.ndarray, shifts: list[tuple[float, float]], frame: tuple[int, int]) -> np.ndarray:
    """Sum up the four neighbours of each pixel's place, moment by moment and pixel by pixel."""
    total = np.zeros((frame[1], frame[0], 4))
    for dx, dy in shifts:
        for y in range(frame[1]):
            for x in range(frame[0]):
                u, v = x - dx, y - dy
                left, top = int(np.floor(u)), int(np.floor(v))
                for row in (top, top + 1):
                    for column in (left, left + 1):
                        if 0 <= row < linear.shape[0] and 0 <= column < linear.shape[1]:
                            share = (1 - abs(u - column)) * (1 - abs(v - row))
                            total[y, x] += share * linear[row, column]
    return total / len(shifts)


class SmearingTest(unittest.TestCase):
    @given(_SHIFTS)
    def test_it_is_the_mean_of_all_moments_in_linear_light(self, shifts: list[tuple[float, float]]) -> None:
        pixels, frame = _picture(), (16, 14)
        made = smeared(Raster(pixels), [Affine.shift(*shift) for shift in shifts], (0.0, 0.0, 16.0, 14.0))
        whole = np.zeros((frame[1] + 8, frame[0] + 8, 4))
        if made is not None:
            left, top = int(made.to_layer.e) + 4, int(made.to_layer.f) + 4
            height, width = made.data.shape[:2]
            whole[top : top + height, left : left + width] = made.data
        whole = whole[4:-4, 4:-4]
        wanted = _mean(_linear(pixels), shifts, frame)
        np.testing.assert_allclose(whole[..., 3], wanted[..., 3], atol=2e-5)
        colours = linear_to_srgb(np.clip(_straight(wanted), 0, 1)) * wanted[..., 3:]
        np.testing.assert_allclose(whole[..., :3], colours, atol=2e-3)

    def test_rows_that_threads_share_are_those_of_the_whole(self) -> None:
        picture, ways = Raster(_picture()), [Affine.shift(1.0 + 0.3 * step, 2.0 + 0.8 * step) for step in range(6)]
        frame = (0.0, 0.0, 16.0, 14.0)
        whole = smeared(picture, ways, frame)

        def in_parts(count: int, draw: Callable[[int, int], None], worth: bool) -> None:
            for first in range(0, count, 3):
                draw(first, min(first + 3, count))

        with mock.patch.object(motion_blur, "by_rows", in_parts):
            parts = smeared(picture, ways, frame)
        assert whole is not None and parts is not None
        np.testing.assert_array_equal(parts.data, whole.data)

    @given(_SHIFTS)
    def test_shares_add_up_and_each_shift_comes_once(self, shifts: list[tuple[float, float]]) -> None:
        places = np.array([(1, 0, x, 0, 1, y) for x, y in shifts])
        whole, shares = taps(places)
        self.assertAlmostEqual(len(shifts), float(shares.sum()), places=5)
        self.assertEqual(len(whole), len({tuple(shift) for shift in whole.tolist()}))
        # The middle of what is read is where the moments are on average.
        np.testing.assert_allclose(shares @ whole / len(shifts), np.mean(shifts, axis=0), atol=1e-4)

    def test_moments_that_lie_close_together_read_few_pixels(self) -> None:
        places = np.array([(1, 0, 0.25 * number, 0, 1, 0.0) for number in range(16)])
        self.assertEqual(5, len(taps(places)[0]))

    def _turned(self, angles: np.ndarray) -> list[Affine]:
        back = Affine.shift(-20.0, -15.0)
        return [Affine.shift(30.0, 30.0) @ Affine.rotation(float(angle)) @ back for angle in angles]

    def test_a_turn_that_is_slow_at_first_is_the_mean_of_all_its_moments(self) -> None:
        height, width = 30, 40
        y, x = np.mgrid[0:height, 0:width]
        alpha = np.clip(14.0 - np.hypot(x - 19.5, y - 14.5), 0, 1)
        pixels = np.stack([alpha * (x / width), alpha * 0.5, alpha * (y / height), alpha], axis=-1).astype(np.float32)
        share = np.linspace(0, 1, 64)
        ways = self._turned(90.0 * np.where(share < 0.5, 0.02 * share, share - 0.49))
        made = smeared(Raster(pixels), ways, (0.0, 0.0, 64.0, 64.0))
        assert made is not None
        with mock.patch.object(motion_blur, "group_starts", lambda maps, width, height: np.arange(len(maps))):
            each = smeared(Raster(pixels), ways, (0.0, 0.0, 64.0, 64.0))
        assert each is not None
        self.assertLess(len(group_starts(np.array(ways), width, height)), 48)
        np.testing.assert_allclose(made.data, each.data, atol=4 / 255)
        self.assertLess(float(np.abs(made.data - each.data).mean()), 0.1 / 255)
        # The definition, sampled here by a spline of the first order.
        linear, total = _linear(pixels), np.zeros((64, 64, 4))
        rows, columns = np.mgrid[0:64, 0:64]
        for way in ways:
            back = way.inverse()
            assert back is not None
            u = back.a * (columns + 0.5) + back.c * (rows + 0.5) + back.e - 0.5
            v = back.b * (columns + 0.5) + back.d * (rows + 0.5) + back.f - 0.5
            for channel in range(4):
                total[..., channel] += ndimage.map_coordinates(linear[..., channel], (v, u), order=1) / len(ways)
        left, top = int(made.to_layer.e), int(made.to_layer.f)
        shown = total[max(top, 0) : top + made.data.shape[0], max(left, 0) : left + made.data.shape[1]]
        np.testing.assert_allclose(made.data[max(-top, 0) :, max(-left, 0) :, 3][:64, :64], shown[..., 3], atol=0.02)

    @given(st.lists(st.floats(0, 3), min_size=1, max_size=30))
    def test_groups_part_the_moments_and_hold_none_that_move_by_over_a_pixel(self, steps: list[float]) -> None:
        ways = np.array([Affine.shift(float(way), 0.0) for way in np.cumsum([0.0, *steps])])
        starts = group_starts(ways, 40, 30)
        self.assertEqual(0, starts[0])
        self.assertTrue((np.diff(starts) > 0).all() and starts[-1] < len(ways))
        ends = np.append(starts[1:], len(ways))
        for first, last in zip(starts, ends, strict=True):
            self.assertLessEqual(ways[last - 1, 4] - ways[first, 4], min(1.0, 2 * sum(steps) / FEWEST_GROUPS) + 1e-6)

    def test_moments_a_pixel_apart_stay_by_themselves(self) -> None:
        ways = np.array([Affine.shift(0.9 * number, 0.0) for number in range(12)])
        np.testing.assert_array_equal(np.arange(12), group_starts(ways, 40, 30))


if __name__ == "__main__":
    unittest.main()
