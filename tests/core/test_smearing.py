"""Motion blur of a picture that is only moved, against its definition: the mean of what each moment shows."""

from __future__ import annotations

import unittest
from collections.abc import Callable
from unittest import mock

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from spiralis.core.colour import linear_to_srgb, srgb_to_linear
from spiralis.core.compositing import motion_blur
from spiralis.core.compositing.motion_blur import smeared, taps
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


if __name__ == "__main__":
    unittest.main()
