"""Glint, print dots, reflection and clear a colour against their definitions."""

from __future__ import annotations

import math
import unittest
from typing import Any

import cv2
import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy.ndimage import gaussian_filter

from spiralis.core.effects.job import EffectJob
from spiralis.core.model.blocks import effect_kind
from spiralis.core.raster.raster import Raster
from tests.core.test_effect_definitions import LUMA, run, solid, values_of
from tests.core.test_effects import blob


class GlintTest(unittest.TestCase):
    @given(st.floats(0, 100), st.floats(0, 360), st.floats(5, 60), st.floats(0, 100))
    def test_it_mixes_towards_its_colour_by_how_far_it_is_from_the_middle_of_the_band(
        self, passed: float, angle: float, width: float, softness: float
    ) -> None:
        pixels, colour = blob(), (0.2, 0.9, 1.0, 0.8)
        made = run("glint", pixels, passed=passed, angle=angle, width=width, softness=softness, colour=colour)
        high, wide = pixels.shape[:2]
        way = np.array([math.cos(math.radians(angle)), math.sin(math.radians(angle))])
        corners = np.array([(0, 0), (wide, 0), (0, high), (wide, high)]) @ way
        middle = np.interp(passed % 100, (0, 100), (corners.min() - width / 2, corners.max() + width / 2))
        for row, column in ((5, 8), (30, 40), (high // 2, wide // 2), (high - 2, 3)):
            inside = width / 2 - abs(np.array([column + 0.5, row + 0.5]) @ way - middle)
            share = min(max(inside / max(width / 2 * softness / 100, 1), 0), 1)
            share = (3 * share**2 - 2 * share**3) * 0.8 * 0.8
            own = pixels[row, column]
            wanted = own * (1 - share) + np.array([*colour[:3], 1.0]) * own[3] * share
            np.testing.assert_allclose(made[row, column], wanted, atol=2e-3)

    def test_it_comes_and_goes_unseen(self) -> None:
        pixels = solid()
        for passed in (0.0, 0.01, 99.99, 100.0):
            np.testing.assert_allclose(run("glint", pixels, passed=passed), pixels, atol=1e-3)
        rounds = [run("glint", pixels, passed=passed) for passed in (30.0, 130.0, -70.0)]
        np.testing.assert_allclose(rounds[0], rounds[1], atol=1e-5)
        np.testing.assert_allclose(rounds[0], rounds[2], atol=1e-5)


class PrintDotsTest(unittest.TestCase):
    BLACK = (0.0, 0.0, 0.0, 1.0)

    def inked(self, bright: float, **values: Any) -> float:
        grey = np.full((120, 120, 4), bright, dtype=np.float32)
        grey[..., 3] = 1
        made = run("print-dots", grey, **({"size": 24.0, "ink": self.BLACK, "angle": 0.0} | values))
        # Away from the edges, where tones are taken with what lies around.
        return float(1 - made[24:96, 24:96, 0].mean())

    @given(st.floats(0, 1), st.sampled_from(("dots", "lines")), st.sampled_from((0.0, 90.0, 180.0)))
    def test_as_much_is_inked_as_it_is_dark(self, bright: float, form: str, angle: float) -> None:
        self.assertAlmostEqual(self.inked(bright, form=form, angle=angle), 1 - bright, delta=0.012)
        self.assertAlmostEqual(self.inked(bright, form=form, angle=angle, tone="bright"), bright, delta=0.012)

    def test_white_has_no_dot_and_black_no_hole(self) -> None:
        for bright in (0.0, 1.0):
            for size in (3.0, 8.0, 24.0):
                grey = np.full((40, 40, 4), bright, dtype=np.float32)
                grey[..., 3] = 1
                made = run("print-dots", grey, size=size, ink=self.BLACK)
                np.testing.assert_allclose(made, grey, atol=1e-5)

    def test_dots_stand_on_a_turned_square_grid(self) -> None:
        grey = np.full((120, 120, 4), 0.9, dtype=np.float32)
        grey[..., 3] = 1
        made = 1 - run("print-dots", grey, size=20.0, ink=self.BLACK, angle=30.0)[..., 0]
        count, _, _, middles = cv2.connectedComponentsWithStats((made > 0.5).astype(np.uint8))
        back = (middles[1:] + 0.5) @ np.array([[math.cos(0.5236), -math.sin(0.5236)],
                                              [math.sin(0.5236), math.cos(0.5236)]])  # fmt: skip
        inner = back[(middles[1:].min(axis=1) > 12) & (middles[1:].max(axis=1) < 108)]
        self.assertGreater(len(inner), 14)
        self.assertGreater(count, 30)
        np.testing.assert_allclose(inner / 20, np.round(inner / 20), atol=0.03)

    def test_its_own_colours_on_clear_paper(self) -> None:
        pixels = solid()
        made = run("print-dots", pixels, size=9.0, inks="its own colours", paper=(1.0, 1.0, 1.0, 0.0))
        cover = made[..., 3:]
        np.testing.assert_allclose(made[..., :3], pixels[..., :3] * cover, atol=1e-5)
        self.assertGreater(float(cover.max()), 0.99)
        self.assertLess(float(cover.min()), 0.01)
        pale = run("print-dots", pixels, size=9.0, paper=(0.2, 0.4, 1.0, 1.0), ink=(1.0, 0.0, 0.0, 1.0))
        np.testing.assert_allclose(pale[..., 0], 0.2 + 0.8 * cover[..., 0], atol=1e-4)
        half = pixels * np.float32(0.5)
        np.testing.assert_allclose(run("print-dots", half, size=9.0)[..., 3], 0.5, atol=1e-5)

    def test_a_screen_finer_than_the_pixels_is_an_even_tone(self) -> None:
        grey = np.full((40, 40, 4), 0.3, dtype=np.float32)
        grey[..., 3] = 1
        made = run("print-dots", grey, size=2.0, ink=self.BLACK)
        np.testing.assert_allclose(made[4:-4, 4:-4, 0], 0.3, atol=1e-3)


class ReflectionTest(unittest.TestCase):
    def made(self, pixels: np.ndarray, **values: Any) -> np.ndarray:
        """Return what it makes within 30 px more below."""
        high, wide = pixels.shape[:2]
        job = EffectJob(Raster(pixels), (0, 0, wide, high + 30), values_of("reflection", **values),
                        box=(0.0, 0.0, float(wide), float(high)))  # fmt: skip
        made = effect_kind("reflection").run(job)
        self.assertEqual(made.box, job.region)
        return np.asarray(made.data)

    def test_it_is_the_layer_upside_down_and_fades(self) -> None:
        pixels = blob() * np.float32(0.9)
        high = len(pixels)
        pixels[high - 10 :] = (0.4, 0.2, 0.1, 0.5)
        made = self.made(pixels, length=20.0, strength=60.0)
        np.testing.assert_array_equal(made[:high], pixels)
        for row in range(30):
            share = 0.6 * max(1 - (row + 0.5) / 20, 0)
            np.testing.assert_allclose(made[high + row], pixels[high - 1 - row] * share, atol=2e-5)

    def test_the_gap_moves_it_and_it_lies_behind(self) -> None:
        pixels = solid()
        high = len(pixels)
        lower = self.made(pixels, length=20.0, strength=60.0, gap=4.0)
        np.testing.assert_array_equal(lower[high : high + 3], 0)
        near = self.made(pixels, length=20.0, strength=60.0)
        np.testing.assert_allclose(lower[high + 4 :], near[high : high + 26], atol=2e-5)
        # What is opaque hides what is drawn higher.
        np.testing.assert_array_equal(self.made(pixels, length=20.0, gap=-5.0)[:high], pixels)

    def test_it_may_be_soft(self) -> None:
        pixels = solid()
        high = len(pixels)
        made = self.made(pixels, length=30.0, strength=100.0, softness=2.0)
        wide = np.pad(pixels.astype(np.float64), ((20, 20), (20, 20), (0, 0)))
        soft = gaussian_filter(wide, (2, 2, 0), truncate=8)[20:-20, 20:-20]
        share = 1 - (np.arange(15) + 0.5) / 30
        wanted = soft[::-1][:15] * share[:, None, None]
        np.testing.assert_allclose(made[high : high + 15], wanted, atol=0.01)


class ClearColourTest(unittest.TestCase):
    GREEN = (0.1, 0.7, 0.2, 1.0)

    def made(self, *colours: tuple[float, float, float], alpha: float = 1.0, **values: Any) -> np.ndarray:
        pixels = np.array([[(*colour, 1.0) for colour in colours]], dtype=np.float32) * np.float32(alpha)
        return np.asarray(run("clear-colour", pixels, **({"colour": self.GREEN} | values)))[0]

    def test_the_ground_goes_in_all_its_shades_and_the_rest_stays(self) -> None:
        rest = [(0.9, 0.1, 0.1), (0.5, 0.5, 0.5), (1.0, 1.0, 1.0), (0.0, 0.0, 0.0), (0.9, 0.2, 0.9)]
        shades = [(0.1, 0.7, 0.2), (0.2, 0.8, 0.3), (0.05, 0.6, 0.15)]
        made = self.made(*shades, *rest, alpha=0.5, tolerance=10.0, softness=10.0)
        np.testing.assert_allclose(made[:3], 0, atol=1e-6)
        np.testing.assert_allclose(made[3:], [(*(c / 2 for c in colour), 0.5) for colour in rest], atol=1e-5)

    def test_by_all_of_it_brightness_counts(self) -> None:
        light, grey = (0.3, 0.9, 0.4), (0.52, 0.5, 0.5)
        tint = self.made(light, tolerance=8.0, softness=5.0)
        whole = self.made(light, tolerance=8.0, softness=5.0, by="all of it")
        self.assertAlmostEqual(float(tint[0, 3]), 0.0, places=5)
        self.assertAlmostEqual(float(whole[0, 3]), 1.0, places=5)
        black = self.made((0.01, 0.0, 0.02), grey, colour=(0.0, 0.0, 0.0, 1.0), by="all of it", tolerance=10.0)
        np.testing.assert_allclose(black[:, 3], (0, 1), atol=1e-6)

    def test_it_ends_gradually(self) -> None:
        colours = [(0.1 + step, 0.7, 0.2 + step) for step in np.linspace(0, 0.5, 20)]
        made = self.made(*colours, tolerance=5.0, softness=12.0, cast=0.0)[:, 3]
        self.assertTrue(np.all(np.diff(made) >= 0))
        self.assertGreater(int(((made > 0.05) & (made < 0.95)).sum()), 3)
        unlike = np.array(colours[9]) - np.array(self.GREEN[:3])
        away = np.sqrt(np.mean((unlike - unlike @ LUMA) ** 2))
        self.assertAlmostEqual(float(made[9]), (away - 0.05) / 0.12, delta=1e-4)

    def test_the_cast_is_taken_off_and_brightness_kept(self) -> None:
        ghost = np.array([0.6, 0.75, 0.62])
        made = self.made(tuple(ghost), tolerance=2.0, softness=2.0)[0]
        self.assertAlmostEqual(float(made[3]), 1.0, places=5)
        self.assertAlmostEqual(float(made[:3] @ LUMA), float(ghost @ LUMA), delta=1e-4)
        self.assertLess(float(np.ptp(made[:3])), 0.3 * float(np.ptp(ghost)))
        kept = self.made(tuple(ghost), tolerance=2.0, softness=2.0, cast=0.0)[0]
        np.testing.assert_allclose(kept[:3], ghost, atol=1e-6)
