"""Smooth noise: lines drawn cell by cell say what each place says by itself, whoever draws which rows."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from spiralis.core.raster.kernels.noise import noise_at
from spiralis.core.raster.noise import fractal_noise
from spiralis.core.rows import shared_by

_STEPS = st.floats(0.003, 3.0)
_PLACES = st.floats(-300.0, 300.0)


class NoiseTest(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(_STEPS, _STEPS, _PLACES, _PLACES, st.integers(1, 5), st.floats(0, 1), st.floats(-8, 8), st.integers(1, 9),
           st.integers(0, 10**5))  # fmt: skip
    def test_a_field_is_the_sum_of_its_octaves_at_each_place(
        self, across: float, down: float, left: float, top: float, octaves: int, gain: float, z: float, period: int,
        seed: int,
    ) -> None:  # fmt: skip
        made = fractal_noise((5, 23), (across, down, left, top), octaves, gain, z, period, seed)
        weights = [gain**octave for octave in range(octaves)]
        for row, column in ((0, 0), (2, 7), (4, 22), (1, 11)):
            x, y = across * (column + 0.5) + left, down * (row + 0.5) + top
            parts = [w * noise_at(x * 2**o, y * 2**o, z, period, seed + 101 * o) for o, w in enumerate(weights)]
            self.assertAlmostEqual(float(made[row, column]), sum(parts) / sum(weights), places=5)

    def test_two_threads_draw_the_same_as_one(self) -> None:
        asked = ((301, 203), (0.07, 0.05, -3.3, 2.7), 4, 0.5, 1.3, 6, 7)
        alone = fractal_noise(*asked)
        with shared_by(2):
            np.testing.assert_array_equal(fractal_noise(*asked), alone)

    def test_it_is_smooth_across_cells_and_comes_back_in_time(self) -> None:
        made = fractal_noise((400, 400), (0.01, 0.01, -2.0, -2.0), 1, 0.5, 0.25, 4, 3)
        self.assertGreater(float(np.ptp(made)), 0.5)
        # The steepest gradients add up to less than 4 a cell.
        for axis in (0, 1):
            self.assertLess(float(np.abs(np.diff(made, axis=axis)).max()), 0.04)
        again = fractal_noise((400, 400), (0.01, 0.01, -2.0, -2.0), 1, 0.5, 4.25, 4, 3)
        np.testing.assert_array_equal(again, made)


if __name__ == "__main__":
    unittest.main()
