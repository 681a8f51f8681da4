"""Effects and finishes against independent computations: SciPy, closed forms, brute force."""

from __future__ import annotations

import math
import unittest
from typing import Any, ClassVar

import cv2
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.interpolate import PchipInterpolator
from scipy.ndimage import gaussian_filter, map_coordinates, uniform_filter1d

from spiralis.core.colour import linear_to_srgb, srgb_to_linear
from spiralis.core.effects.edges import narrowed, shifted, widened
from spiralis.core.effects.job import EffectJob, Finish
from spiralis.core.effects.strips import shifts
from spiralis.core.effects.wave import generators, risen
from spiralis.core.model.blocks import effect_kind
from spiralis.core.monotone import curve
from spiralis.core.raster.raster import Raster
from tests.core.test_effects import blob

LUMA = np.array([0.2126, 0.7152, 0.0722])
WIDTH, HEIGHT = 90, 70


def values_of(name: str, **values: Any) -> dict[str, Any]:
    return {p.name: p.default for p in effect_kind(name).own_parameters} | values


def run(name: str, pixels: np.ndarray, frame: float = 0.0, **values: Any) -> Any:
    """Return what an effect makes of pixels that fill their layer."""
    height, width = pixels.shape[:2]
    job = EffectJob(Raster(pixels), (0, 0, width, height), values_of(name, **values), frame=frame,
                    box=(0.0, 0.0, float(width), float(height)))  # fmt: skip
    made = effect_kind(name).run(job)
    return made if isinstance(made, Finish) else made.spread_over(job.region).data


def solid(seed: int = 5) -> np.ndarray:
    """Return smooth opaque pixels."""
    colour = gaussian_filter(np.random.default_rng(seed).random((HEIGHT, WIDTH, 3)), (3, 3, 0))
    colour = (colour - colour.min()) / np.ptp(colour)
    return np.dstack([colour, np.ones((HEIGHT, WIDTH))]).astype(np.float32)


def straight(pixels: np.ndarray) -> np.ndarray:
    alpha = pixels[..., 3:].astype(np.float64)
    return np.divide(pixels[..., :3], alpha, out=np.zeros(pixels[..., :3].shape), where=alpha > 0)


def looked_up(pixels: np.ndarray, x: np.ndarray, y: np.ndarray) -> np.ndarray:
    """Sample bilinearly at places in units, pixel centres at halves, clear outside (SciPy)."""
    wide = np.pad(pixels.astype(np.float64), ((200, 200), (200, 200), (0, 0)))
    x, y = np.broadcast_arrays(x, y)
    return np.dstack([map_coordinates(wide[..., c], [y + 199.5, x + 199.5], order=1) for c in range(4)])


def grid() -> tuple[np.ndarray, np.ndarray]:
    y, x = np.mgrid[0:HEIGHT, 0:WIDTH] + 0.5
    return x, y


def pchip(points: Any, place: np.ndarray) -> np.ndarray:
    """Return the monotone cubic through points, flat outside (SciPy)."""
    x, y = np.asarray(points, dtype=np.float64).T
    return np.asarray(PchipInterpolator(x, y)(np.clip(place, x[0], x[-1])))


class ColourTest(unittest.TestCase):
    def check(self, name: str, expected: Any, tolerance: float = 2e-3, **values: Any) -> None:
        """Compare with a function of straight colours in float64; alpha stays."""
        for pixels in (blob(), solid()):
            made = run(name, pixels, **values)
            np.testing.assert_allclose(straight(made), np.where(pixels[..., 3:] > 0, expected(straight(pixels)), 0),
                                       atol=tolerance, err_msg=name)  # fmt: skip
            np.testing.assert_allclose(made[..., 3], pixels[..., 3], atol=1e-6)

    def test_exposure_is_linear_light_times_a_power_of_two_and_may_pass_1(self) -> None:
        for stops in (-2.0, 0.7, 2.0):
            self.check("exposure", lambda c, s=stops: linear_to_srgb(srgb_to_linear(c) * 2**s), stops=stops)
        self.assertGreater(float(run("exposure", solid(), stops=2.0).max()), 1.2)

    def test_a_tone_curve_goes_through_its_points_monotone_between_and_flat_outside(self) -> None:
        points = ((0.1, 0.2), (0.3, 0.35), (0.6, 0.9), (0.9, 0.95))
        self.check("tone-curve", lambda c: np.clip(pchip(points, c), 0, 1), all=points)
        random = np.random.default_rng(6)
        for count in (2, 3, 4, 7, 16):
            drawn = np.stack([np.sort(random.permutation(512)[:count]) / 511, random.random(count)], axis=1)
            place = np.linspace(0, 1, 700)
            np.testing.assert_allclose(curve(drawn)(place), np.clip(pchip(drawn, place), 0, 1), atol=1e-12)
        red = ((0.0, 1.0), (1.0, 0.0))
        self.check("tone-curve", lambda c: np.clip(pchip(points, c * [-1, 1, 1] + [1, 0, 0]), 0, 1),
                   all=points, red=red)  # fmt: skip

    @settings(max_examples=15, deadline=None)
    @given(st.floats(0, 40), st.floats(55, 100), st.floats(0.4, 2), st.floats(0, 30), st.floats(60, 100))
    def test_levels(self, low: float, high: float, gamma: float, to_low: float, to_high: float) -> None:
        def wanted(c: np.ndarray) -> np.ndarray:
            share = np.clip((c - low / 100) / ((high - low) / 100), 0, 1)
            return to_low / 100 + (to_high - to_low) / 100 * share ** (1 / gamma)

        # Where a curve starts upright, a table of 4096 items is a little off.
        self.check("levels", wanted, 0.02, in_black=low, in_white=high, gamma=gamma, out_black=to_low,
                   out_white=to_high)  # fmt: skip

    def test_hue_turns_by_the_standards_matrix_and_a_whole_turn_is_none(self) -> None:
        pixels = solid()
        np.testing.assert_allclose(run("hue", pixels, hue=360.0), pixels, atol=1e-5)
        # hue-rotate(90deg) of pure red, as browsers give it before clipping: first column of the matrix.
        red = np.zeros((2, 2, 4), dtype=np.float32)
        red[..., 0] = red[..., 3] = 1
        np.testing.assert_allclose(run("hue", red, hue=90.0)[0, 0, :3], [0.0, 0.356, 0.0], atol=1e-5)
        np.testing.assert_allclose(run("hue", red, hue=180.0)[0, 0, :3], [0.0, 0.426, 0.426], atol=1e-5)
        self.check("hue", lambda c: np.tile((c @ LUMA)[..., None], 3), saturation=0.0)
        self.check("hue", lambda c: c + (1 - c) * 0.3, lightness=30.0)
        self.check("hue", lambda c: c * 0.7, lightness=-30.0)

    def test_temperature_keeps_the_brightness_of_grey(self) -> None:
        grey = np.full((3, 3, 4), 0.5, dtype=np.float32)
        grey[..., 3] = 1
        warm = run("temperature", grey, warmth=60.0, tint=20.0)[0, 0, :3]
        self.assertAlmostEqual(float(LUMA @ warm), 0.5, places=5)
        self.assertGreater(warm[0], warm[2] + 0.1)

    def test_invert_and_tint(self) -> None:
        self.check("invert", lambda c: 1 - c)
        self.check("invert", lambda c: c * 0.4 + 0.3, amount=30.0)
        colour = np.array([0.2, 0.9, 0.5])
        self.check(
            "tint", lambda c: 0.25 * c + 0.75 * (c @ LUMA)[..., None] * colour, colour=(*colour, 1.0), amount=75.0
        )

    def test_posterise_has_as_many_values_as_asked(self) -> None:
        made = straight(run("posterise", solid(), steps=4.0))
        near = np.abs(made[..., None] - np.arange(4) / 3).min(axis=-1)
        self.assertGreater(float((near < 1e-6).mean()), 0.985)
        exact = np.minimum(3, np.floor(straight(solid()) * 4)) / 3
        self.assertLess(float((np.abs(made - exact) > 1e-3).mean()), 0.015)

    def test_threshold_and_maps_go_by_brightness(self) -> None:
        bright = (straight(solid()) @ LUMA)[..., None]
        hard = np.broadcast_to(bright >= 0.5, (HEIGHT, WIDTH, 3))
        made = straight(run("threshold", solid(), softness=0.0))
        self.assertGreater(float((np.abs(made - hard) < 1e-3).mean()), 0.99)
        dark, light = np.array([0.1, 0.0, 0.3]), np.array([1.0, 0.8, 0.2])
        self.check("two-tone-map", lambda c: dark + (light - dark) * (c @ LUMA)[..., None], dark=(*dark, 1.0),
                   light=(*light, 1.0))  # fmt: skip
        middle = np.array([0.5, 0.9, 0.1])

        def three(c: np.ndarray) -> np.ndarray:
            y = (c @ LUMA)[..., None]
            return np.where(y < 0.4, dark + (middle - dark) * y / 0.4, middle + (light - middle) * (y - 0.4) / 0.6)

        self.check("three-tone-map", three, dark=(*dark, 1.0), middle=(*middle, 1.0), light=(*light, 1.0), at=40.0)
        stops = ((0.0, *dark, 1.0), (0.4, *middle, 1.0), (1.0, *light, 1.0))
        self.check("gradient-map", three, stops=stops)

    def test_maps_may_make_clear(self) -> None:
        made = run("two-tone-map", solid(), dark=(1.0, 0.0, 0.0, 0.0), light=(1.0, 0.0, 0.0, 1.0))
        np.testing.assert_allclose(made[..., 3], straight(solid()) @ LUMA, atol=1e-3)
        np.testing.assert_allclose(made[..., 0], made[..., 3], atol=1e-6)

    def test_vignette_grows_from_the_middle_to_the_corners(self) -> None:
        white = np.ones((HEIGHT, WIDTH, 4), dtype=np.float32)
        made = run("vignette", white, amount=80.0, size=60.0, softness=60.0)[..., 0]
        np.testing.assert_allclose(made, made[::-1, ::-1], atol=1e-5)
        self.assertAlmostEqual(float(made[35, 45]), 1.0, places=4)
        self.assertAlmostEqual(float(made[0, 0]), 0.2, delta=0.02)
        self.assertTrue(np.all(np.diff(made[35, 45:]) <= 1e-6))

    def test_a_replaced_colour_leaves_the_others(self) -> None:
        pixels = np.zeros((2, 3, 4), dtype=np.float32)
        pixels[..., 3] = 1
        pixels[:, 0, :3], pixels[:, 1, :3], pixels[:, 2, :3] = (1, 0, 0), (0.9, 0.05, 0.0), (0, 1, 0)
        made = run("replace-colour", pixels, old=(1.0, 0.0, 0.0, 1.0), new=(0.0, 0.2, 1.0, 1.0))
        np.testing.assert_allclose(made[0, 0, :3], (0, 0.2, 1), atol=1e-6)
        np.testing.assert_allclose(made[0, 1, :3], (0, 0.25, 1), atol=1e-6)
        np.testing.assert_allclose(made[0, 2, :3], (0, 1, 0), atol=1e-6)


class SoftenTest(unittest.TestCase):
    def test_a_level_line_is_a_running_mean(self) -> None:
        pixels = blob()
        made = run("directional-blur", pixels, length=9.0, angle=0.0)
        wanted = uniform_filter1d(pixels.astype(np.float64), 9, axis=1, mode="constant")
        np.testing.assert_allclose(made, wanted, atol=1e-5)
        np.testing.assert_allclose(
            run("directional-blur", pixels, length=9.0, angle=90.0),
            uniform_filter1d(pixels.astype(np.float64), 9, axis=0, mode="constant"),
            atol=1e-5,
        )

    def test_spin_and_zoom_are_means_of_turns_and_sizes(self) -> None:
        pixels, (x, y) = blob(), grid()
        cx, cy = 0.4 * WIDTH, 0.6 * HEIGHT
        turns = [math.radians(t) for t in np.linspace(-10, 10, 401)]
        wanted = np.mean(
            [
                looked_up(
                    pixels,
                    cx + (x - cx) * math.cos(t) - (y - cy) * math.sin(t),
                    cy + (x - cx) * math.sin(t) + (y - cy) * math.cos(t),
                )
                for t in turns
            ],
            axis=0,
        )
        made = run("spin-blur", pixels, angle=20.0, centre=(40.0, 60.0))
        self.assertLess(float(np.abs(made - wanted).mean()), 2e-3)
        self.assertLess(float(np.abs(made - wanted).max()), 0.06)
        sizes = np.linspace(0.8, 1.3, 401)
        wanted = np.mean([looked_up(pixels, cx + (x - cx) / s, cy + (y - cy) / s) for s in sizes], axis=0)
        made = run("zoom-blur", pixels, first=80.0, last=130.0, centre=(40.0, 60.0))
        self.assertLess(float(np.abs(made - wanted).mean()), 2e-3)
        self.assertLess(float(np.abs(made - wanted).max()), 0.06)

    def test_sharpen_adds_the_difference_to_a_gaussian_and_keeps_the_outline(self) -> None:
        pixels = solid()
        pixels[..., :3] = 0.3 + 0.4 * pixels[..., :3]
        soft = gaussian_filter(np.pad(pixels[..., :3].astype(np.float64), ((30, 30), (30, 30), (0, 0))), (2, 2, 0),
                               mode="constant")[30:-30, 30:-30]  # fmt: skip
        made = run("sharpen", pixels, amount=50.0, radius=2.0)
        inner = (slice(12, -12), slice(12, -12))
        wanted = (pixels[..., :3] + 0.5 * (pixels[..., :3] - soft))[inner]
        np.testing.assert_allclose(made[inner][..., :3], wanted, atol=3e-3)
        np.testing.assert_array_equal(made[..., 3], pixels[..., 3])

    def test_bloom_sums_octaves_and_passes_1(self) -> None:
        pixels = np.zeros((HEIGHT, WIDTH, 4), dtype=np.float32)
        pixels[..., 3] = 1
        pixels[30:40, 40:50, :3] = (1.0, 1.0, 1.0)
        made = run("bloom", pixels, threshold=40.0, radius=8.0, octaves=2.0, strength=100.0)
        bright = np.where(pixels[..., 0] > 0, 0.6, 0.0)
        glow = (
            gaussian_filter(bright, 8, truncate=8, mode="constant")
            + gaussian_filter(bright, 4, truncate=8, mode="constant")
        ) / 2
        np.testing.assert_allclose(made[..., 0], pixels[..., 0] + glow, atol=4e-3)
        self.assertGreater(float(made.max()), 1.2)
        for radius, octaves in ((40.0, 4), (24.0, 3), (60.0, 2), (30.0, 6), (3.0, 2)):
            wide = np.zeros((300, 320, 4), dtype=np.float32)
            wide[..., 3] = 1
            wide[140:170, 150:170, :3] = 2.0
            glow = sum(gaussian_filter(np.where(wide[..., 0] > 0, 1.6, 0.0), radius / 2**n, truncate=8, mode="constant")
                       for n in range(octaves)) / octaves  # fmt: skip
            bloomed = run("bloom", wide, threshold=40.0, radius=radius, octaves=float(octaves))
            np.testing.assert_allclose(bloomed[..., 0], wide[..., 0] + glow, atol=0.012, err_msg=str(radius))
        dim = pixels * np.array([0.3, 0.3, 0.3, 1.0], dtype=np.float32)
        np.testing.assert_allclose(run("bloom", dim, threshold=40.0), dim, atol=1e-6)


class BendTest(unittest.TestCase):
    def near(self, made: np.ndarray, x: np.ndarray, y: np.ndarray, pixels: np.ndarray) -> None:
        np.testing.assert_allclose(made, looked_up(pixels, x, y), atol=2e-3)

    def test_wave_moves_across_its_direction(self) -> None:
        pixels, (x, y) = blob(), grid()
        made = run("wave", pixels, height=5.0, length=30.0, phase=25.0)
        self.near(made, x, y - 5 * np.sin(2 * np.pi * (x / 30 - 0.25)), pixels)
        made = run("wave", pixels, height=5.0, length=30.0, direction=90.0)
        self.near(made, x + 5 * np.sin(2 * np.pi * y / 30), y, pixels)
        made = run("wave", pixels, height=5.0, length=30.0, along=True)
        self.near(made, x - 5 * np.sin(2 * np.pi * x / 30), y, pixels)

    def test_several_generators_add_up_are_no_higher_and_loop(self) -> None:
        pixels, (x, y) = blob(), grid()
        made = run("wave", pixels, height=6.0, length=40.0, phase=30.0, generators=4.0, seed=7.0)
        waves = generators(4, 7)
        self.assertAlmostEqual(sum(each.share for each in waves), 1.0)
        up = sum(e.share * np.sin(2 * np.pi * (x / (40 * e.length) - 0.3 * e.turns - e.offset)) for e in waves)
        self.near(made, x, y - 6 * up, pixels)
        again = run("wave", pixels, height=6.0, length=40.0, phase=130.0, generators=4.0, seed=7.0)
        np.testing.assert_allclose(again, made, atol=2e-3)
        other = run("wave", pixels, height=6.0, length=40.0, phase=30.0, generators=4.0, seed=8.0)
        self.assertGreater(float(np.abs(other - made).max()), 0.1)
        self.assertEqual(generators(1, 5), generators(1, 99))

    def test_a_whole_wave_further_it_is_the_same_and_pinned_edges_stay(self) -> None:
        pixels = solid()
        np.testing.assert_allclose(run("wave", pixels, phase=30.0), run("wave", pixels, phase=730.0), atol=1e-4)
        made = run("wave", pixels, height=8.0, length=40.0, direction=90.0, pinned="top and bottom", edge="repeat")
        np.testing.assert_allclose(made[0], pixels[0], atol=0.03)
        np.testing.assert_allclose(made[-1], pixels[-1], atol=0.03)
        self.assertGreater(float(np.abs(made[HEIGHT // 3] - pixels[HEIGHT // 3]).max()), 0.1)

    def test_forms_of_waves(self) -> None:
        cycles = np.array([0.0, 0.125, 0.25, 0.5, 0.75, 1.0])
        np.testing.assert_allclose(risen("triangle", cycles), [0, 0.5, 1, 0, -1, 0], atol=1e-6)
        np.testing.assert_allclose(risen("sine", cycles), np.sin(2 * np.pi * cycles), atol=1e-6)
        np.testing.assert_allclose(risen("square", cycles), [1, 1, 1, -1, -1, 1])

    def test_twirl_bulge_and_ripple_leave_what_lies_outside_of_their_radius(self) -> None:
        pixels, (x, y) = solid(), grid()
        outside = np.hypot(x - 45, y - 35) > 31
        for name, values in (("twirl", {"angle": 100.0}), ("bulge", {"amount": 70.0}), ("bulge", {"amount": -70.0}),
                             ("ripple", {"height": 4.0, "length": 12.0})):  # fmt: skip
            made = run(name, pixels, radius=30.0, **values)
            np.testing.assert_allclose(made[outside], pixels[outside], atol=1e-4, err_msg=name)
            self.assertGreater(float(np.abs(made - pixels)[~outside].max()), 0.1)
        # The middle of a twirl is turned by its whole angle.
        half = run("twirl", pixels, radius=4000.0, angle=180.0)[25:45, 35:55]
        self.assertLess(float(np.abs(half - pixels[25:45, 35:55][::-1, ::-1]).max()), 0.06)

    def test_bulging_makes_the_middle_larger_and_pinching_smaller(self) -> None:
        pixels = np.zeros((HEIGHT, WIDTH, 4), dtype=np.float32)
        pixels[30:40, 40:50] = 1
        sizes = [float(run("bulge", pixels, radius=30.0, amount=a)[..., 3].sum()) for a in (-60.0, 0.001, 60.0)]
        self.assertLess(sizes[0], 0.8 * sizes[1])
        self.assertGreater(sizes[2], 1.25 * sizes[1])

    def test_churn_loops_is_seeded_and_moves_no_further_than_asked(self) -> None:
        pixels = solid()
        made = run("churn", pixels, strength=6.0, grain=30.0, evolution=30.0, edge="repeat")
        np.testing.assert_allclose(run("churn", pixels, strength=6.0, grain=30.0, evolution=130.0, edge="repeat"), made,
                                   atol=1e-5)  # fmt: skip
        other = run("churn", pixels, strength=6.0, grain=30.0, evolution=30.0, seed=2.0, edge="repeat")
        self.assertGreater(float(np.abs(other - made).max()), 0.05)
        ramp = np.zeros((HEIGHT, WIDTH, 4), dtype=np.float32)
        ramp[..., 0], ramp[..., 3] = (np.arange(WIDTH) + 0.5) / WIDTH, 1
        moved = (run("churn", ramp, strength=6.0, grain=30.0, edge="repeat")[..., 0] - ramp[..., 0]) * WIDTH
        self.assertTrue(0.5 < float(np.abs(moved).max()) <= 6.01)

    def test_a_small_drift_shifts_the_swirls(self) -> None:
        ramp = np.zeros((HEIGHT, WIDTH, 4), dtype=np.float32)
        ramp[..., 0], ramp[..., 3] = (np.arange(WIDTH) + 0.5) / WIDTH, 1

        def moved(**values: Any) -> np.ndarray:
            return (
                run("churn", ramp, strength=4.0, grain=40.0, edge="repeat", **values)[..., 0] - ramp[..., 0]
            ) * WIDTH

        still, drifted = moved(), moved(drift=(10.0, 0.0))
        np.testing.assert_allclose(drifted[:, 20:80], still[:, 10:70], atol=0.35)

    def test_bend_and_taper(self) -> None:
        white = np.ones((HEIGHT, WIDTH, 4), dtype=np.float32)
        made = run("taper", white, first=50.0, last=100.0)[..., 3].sum(axis=1)
        wanted = WIDTH * (0.5 + 0.5 * (np.arange(HEIGHT) + 0.5) / HEIGHT)
        np.testing.assert_allclose(made, wanted, atol=1.2)
        pixels, (x, y) = np.zeros((HEIGHT, WIDTH, 4), dtype=np.float32), grid()
        pixels[33:37] = 1
        bent = run("bend", pixels, angle=90.0)[..., 3]
        # The level middle line lies on a circle of its own length's radius, its middle where it was.
        radius = WIDTH / math.radians(90)
        away = np.hypot(x - 45, y - 35 - radius)
        spread = bent * np.abs(away - radius)
        self.assertLess(float(spread.sum() / bent.sum()), 1.2)
        self.assertGreater(float(bent[35, 45]), 0.9)

    def test_round_lays_the_width_around(self) -> None:
        ramp = np.zeros((HEIGHT, WIDTH, 4), dtype=np.float32)
        ramp[..., 0], ramp[..., 3] = (np.arange(WIDTH) + 0.5) / WIDTH, 1
        made = run("round", ramp)
        x, y = grid()
        around = np.mod(np.arctan2(x - 45, -(y - 35)) / (2 * np.pi), 1)
        inside = (np.hypot(x - 45, y - 35) < 33) & (np.hypot(x - 45, y - 35) > 3) & (around > 0.03) & (around < 0.97)
        np.testing.assert_allclose(made[inside][:, 0], around[inside], atol=0.01)
        self.assertEqual(float(made[0, 0, 3]), 0.0)


class CornerPinTest(unittest.TestCase):
    PLACES: ClassVar = {"top_left": (12.0, 8.0), "top_right": (90.0, 20.0), "bottom_right": (80.0, 95.0),
                        "bottom_left": (5.0, 70.0)}  # fmt: skip

    def reference(self, pixels: np.ndarray, places: dict[str, tuple[float, float]], count: int = 8) -> np.ndarray:
        """Return the mean of 8 by 8 samples under the map that solves the eight equations of four points."""
        size = np.array([WIDTH, HEIGHT])
        source = np.array([[0, 0], [WIDTH, 0], [WIDTH, HEIGHT], [0, HEIGHT]], dtype=np.float64)
        names = ("top_left", "top_right", "bottom_right", "bottom_left")
        target = np.array([np.array(places[name]) / 100 * size for name in names])
        rows, right = [], []
        for (u, v), (x, y) in zip(source, target, strict=True):
            rows += [[x, y, 1, 0, 0, 0, -u * x, -u * y], [0, 0, 0, x, y, 1, -v * x, -v * y]]
            right += [u, v]
        h = np.append(np.linalg.solve(rows, right), 1.0)
        x, y = grid()
        total = np.zeros((HEIGHT, WIDTH, 4))
        for across in range(count):
            for down in range(count):
                px, py = x + (across + 0.5) / count - 0.5, y + (down + 0.5) / count - 0.5
                depth = h[6] * px + h[7] * py + h[8]
                total += looked_up(pixels, (h[0] * px + h[1] * py + h[2]) / depth,
                                   (h[3] * px + h[4] * py + h[5]) / depth)  # fmt: skip
        return total / count**2

    def test_it_is_the_projective_map_of_four_points(self) -> None:
        pixels = solid()
        made = run("corner-pin", pixels, **self.PLACES)
        wanted = self.reference(pixels, self.PLACES)
        self.assertLess(float(np.abs(made - wanted).mean()), 2e-3)
        self.assertLess(float(np.abs(made - wanted).max()), 0.2, "edges are smooth")

    def test_fine_stripes_made_small_do_not_shimmer(self) -> None:
        stripes = np.ones((HEIGHT, WIDTH, 4), dtype=np.float32)
        stripes[:, ::2, :3] = 0
        small = {"top_left": (30.0, 30.0), "top_right": (62.0, 35.0), "bottom_right": (60.0, 70.0),
                 "bottom_left": (31.0, 64.0)}  # fmt: skip
        made = run("corner-pin", stripes, **small)
        wanted = self.reference(stripes, small)
        inner = (slice(28, 42), slice(32, 50))
        self.assertLess(float(np.abs(made - wanted)[inner].max()), 0.06)
        self.assertLess(float(np.ptp(made[inner][..., 0])), 0.2)

    def test_corners_that_are_not_convex_show_nothing(self) -> None:
        crossed = {**self.PLACES, "top_left": (90.0, 20.0), "top_right": (12.0, 8.0)}
        self.assertEqual(float(run("corner-pin", solid(), **crossed).max()), 0.0)


class BreakUpTest(unittest.TestCase):
    def test_pixelate_takes_means_of_blocks(self) -> None:
        pixels = blob()
        made = run("pixelate", pixels, size=10.0)
        wanted = np.kron(pixels.reshape(7, 10, 9, 10, 4).mean(axis=(1, 3)), np.ones((10, 10, 1)))
        np.testing.assert_allclose(made, wanted, atol=1e-5)
        uneven = run("pixelate", solid(), size=7.5)
        self.assertAlmostEqual(float(uneven[3, 3, 0]), float(uneven[5, 6, 0]), places=6)

    def test_channels_are_moved_apart(self) -> None:
        pixels = blob()
        made = run("channel-split", pixels, red=(-4.0, 0.0), blue=(0.0, 3.0))
        np.testing.assert_allclose(made[:, :-4, 0], pixels[:, 4:, 0], atol=1e-6)
        np.testing.assert_allclose(made[3:, :, 2], pixels[:-3, :, 2], atol=1e-6)
        np.testing.assert_array_equal(made[..., 1], pixels[..., 1])
        self.assertTrue(np.all(made[..., 3] >= pixels[..., 3] - 1e-6))

    def test_strips_shift_as_wholes_and_by_no_more_than_asked(self) -> None:
        values = values_of("strips", size=10.0, shift=6.0, unevenness=0.0)
        moves = shifts(values, np.arange(70) + 0.5).reshape(7, 10)
        self.assertTrue(np.all(moves == moves[:, :1]))
        self.assertTrue(float(np.abs(moves).max()) <= 6 and len(set(moves[:, 0])) == 7)
        self.assertTrue(np.all(shifts({**values, "share": 0.0}, np.arange(70) + 0.5) == 0))
        made = run("strips", blob(), size=10.0, shift=6.0, unevenness=0.0)
        x, y = grid()
        np.testing.assert_allclose(made, looked_up(blob(), x - np.repeat(moves[:, 0], 10)[:, None], y), atol=2e-3)

    def test_grain_loops_keeps_the_mean_and_is_still_where_asked(self) -> None:
        grey = np.full((HEIGHT, WIDTH, 4), 0.5, dtype=np.float32)
        grey[..., 3] = 1
        first = run("grain", grey, frame=3.0, after=10.0)
        np.testing.assert_array_equal(first, run("grain", grey, frame=13.0, after=10.0))
        self.assertGreater(float(np.abs(first - run("grain", grey, frame=4.0, after=10.0)).max()), 0.02)
        self.assertAlmostEqual(float(first[..., 0].mean()), 0.5, delta=0.01)
        still = [run("grain", grey, frame=float(f), changes="still") for f in (0, 7)]
        np.testing.assert_array_equal(*still)

    def test_as_many_squares_go_as_asked(self) -> None:
        white = np.ones((400, 400, 4), dtype=np.float32)
        made = run("checker-dissolve", white, size=10.0, gone=30.0, softness=0.0)
        self.assertAlmostEqual(float(made[..., 3].mean()), 0.7, delta=0.04)
        squares = made[..., 3].reshape(40, 10, 40, 10)
        self.assertEqual(float(np.ptp(squares, axis=(1, 3)).max()), 0.0)
        self.assertEqual(float(run("checker-dissolve", white, gone=100.0).max()), 0.0)
        later = run("checker-dissolve", white, size=10.0, gone=60.0, softness=0.0)
        self.assertTrue(np.all(later <= made + 1e-6), "what is gone stays gone")


class RevealAndRepeatTest(unittest.TestCase):
    def test_a_line_shows_its_share(self) -> None:
        white = np.ones((HEIGHT, WIDTH, 4), dtype=np.float32)
        for shown in (0.0, 25.0, 60.0, 100.0):
            made = run("wipe", white, shown=shown, softness=0.0)[..., 3]
            self.assertAlmostEqual(float(made.mean()), shown / 100, delta=0.01)
            self.assertTrue(np.all(np.diff(made, axis=1) <= 1e-6))
        turned = run("wipe", white, shown=50.0, softness=0.0, inverted=True)[..., 3]
        np.testing.assert_allclose(turned + run("wipe", white, shown=50.0, softness=0.0)[..., 3], 1, atol=1e-5)

    def test_clock_circle_and_clouds_begin_empty_and_end_whole(self) -> None:
        white = np.ones((HEIGHT, WIDTH, 4), dtype=np.float32)
        for front in ("clock", "circle", "clouds"):
            shares = [
                float(run("wipe", white, shown=s, front=front, grain=12.0)[..., 3].mean()) for s in (0, 20, 50, 80, 100)
            ]
            self.assertEqual((shares[0], shares[-1]), (0.0, 1.0), front)
            self.assertTrue(all(a < b for a, b in zip(shares, shares[1:], strict=False)), front)
        quarter = run("wipe", white, shown=25.0, front="clock", softness=0.0)[..., 3]
        self.assertGreater(float(quarter[:34, 47:].mean()), 0.97)
        self.assertLess(float(quarter[36:].mean()), 0.02)

    def test_plain_and_mirrored_tiles(self) -> None:
        pixels, (x, y) = solid(), grid()
        made = run("tile", pixels, offset=(20.0, 0.0))
        np.testing.assert_allclose(made, np.roll(pixels, 18, axis=1), atol=1e-4)
        mirrored = run("tile", pixels, offset=(100.0, 0.0), mirrored=True)
        np.testing.assert_allclose(mirrored, pixels[:, ::-1], atol=1e-4)
        half = run("tile", pixels, size=50.0)
        u = np.mod((x - 45) / 0.5 / WIDTH + 0.5, 1) * WIDTH
        v = np.mod((y - 35) / 0.5 / HEIGHT + 0.5, 1) * HEIGHT
        inside = (u > 1) & (u < WIDTH - 1) & (v > 1) & (v < HEIGHT - 1)
        np.testing.assert_allclose(half[inside], looked_up(pixels, u, v)[inside], atol=2e-3)
        few = run("tile", pixels, size=50.0, columns=1.0, rows=1.0)[..., 3]
        self.assertAlmostEqual(float(few.mean()), 0.25, delta=0.02)

    def test_a_mirror_wheel_has_its_symmetry(self) -> None:
        made = run("mirror-wheel", solid()[:, 10:80].copy(), wedges=4.0)
        np.testing.assert_allclose(made, made[::-1], atol=1e-4)
        np.testing.assert_allclose(made, made[:, ::-1], atol=1e-4)


class FinishesTest(unittest.TestCase):
    def square(self) -> np.ndarray:
        pixels = np.zeros((80, 80, 4), dtype=np.float32)
        pixels[25:55, 25:55] = (0.8, 0.4, 0.2, 1.0)
        return pixels

    def test_a_shadow_is_the_alpha_moved_softened_and_coloured(self) -> None:
        made = run("drop-shadow", self.square(), angle=0.0, distance=6.0, size=3.0, colour=(0.2, 0.4, 0.6, 0.5)).behind
        alpha = np.roll(self.square()[..., 3].astype(np.float64), 6, axis=1)
        wanted = gaussian_filter(alpha, 3, truncate=8)[..., None] * np.array([0.1, 0.2, 0.3, 0.5])
        np.testing.assert_allclose(made.spread_over((0, 0, 80, 80)).data, wanted, atol=2e-3)

    def test_outlines_lie_where_they_should(self) -> None:
        areas = {}
        for place in ("outside", "centre", "inside"):
            made = run("outline", self.square(), width=4.0, place=place)
            picture = made.behind or made.front
            areas[place] = picture.spread_over((0, 0, 80, 80)).data[..., 3]
            self.assertEqual(made.behind is not None, place == "outside")
        rounded = 38 * 38 - (4 - math.pi) * 16
        self.assertAlmostEqual(float(areas["outside"].sum()), rounded, delta=8)
        self.assertAlmostEqual(float(areas["inside"].sum()), 30 * 30 - 22 * 22, delta=2)
        self.assertAlmostEqual(float(areas["centre"].sum()), 34 * 34 - 26 * 26 - (4 - math.pi) * 4, delta=8)
        gap = run("outline", self.square(), width=3.0, gap=2.0).behind.spread_over((0, 0, 80, 80)).data[..., 3]
        np.testing.assert_allclose(gap[40, 18:26], [0, 0, 1, 1, 1, 0, 0, 0], atol=1e-5)

    def test_inner_finishes_stay_inside(self) -> None:
        pixels = self.square()
        for name in ("inner-halo", "inset-shadow"):
            made = run(name, pixels)
            data = made.front.spread_over((0, 0, 80, 80)).data
            self.assertTrue(np.all(data[..., 3] <= pixels[..., 3] + 1e-6), name)
            self.assertIsNone(made.behind)
        inset = run("inset-shadow", pixels, angle=0.0, distance=8.0, size=0.0, colour=(0.0, 0.0, 0.0, 1.0))
        row = inset.front.spread_over((0, 0, 80, 80)).data[40, :, 3]
        np.testing.assert_allclose(row[25:55], [1] * 8 + [0] * 22, atol=1e-5)
        glow = run("inner-halo", pixels, size=0.0, spread=3.0, colour=(1.0, 0.0, 0.0, 1.0))
        row = glow.front.spread_over((0, 0, 80, 80)).data[40, :, 3]
        np.testing.assert_allclose(row[25:55], [1] * 3 + [0] * 24 + [1] * 3, atol=1e-5)

    def test_a_long_shadow_is_the_union_of_all_places_on_its_way(self) -> None:
        alpha = self.square()[..., 3]
        made = run("long-shadow", self.square(), angle=0.0, length=20.0, fade=0.0, colour=(0.0, 0.0, 0.0, 1.0))
        wanted = np.max([np.roll(alpha, n, axis=1) for n in range(21)], axis=0)
        np.testing.assert_allclose(made.behind.spread_over((0, 0, 80, 80)).data[..., 3], wanted, atol=1e-5)
        faded = run("long-shadow", self.square(), angle=0.0, length=20.0, fade=50.0, colour=(0.0, 0.0, 0.0, 1.0))
        row = faded.behind.spread_over((0, 0, 80, 80)).data[40, 54:76, 3]
        self.assertTrue(np.all(np.diff(row) <= 1e-6))
        self.assertAlmostEqual(float(row[20]), 0.5, delta=0.02)

    @settings(max_examples=20, deadline=None)
    @given(st.floats(-12, 12), st.floats(-12, 12))
    def test_moved_alpha(self, dx: float, dy: float) -> None:
        alpha = np.ascontiguousarray(blob()[..., 3])
        matrix = np.array([[1, 0, dx], [0, 1, dy]])
        wanted = cv2.warpAffine(alpha, matrix, (WIDTH, HEIGHT), flags=cv2.INTER_LINEAR)
        # OpenCV rounds places to 1/32 of a pixel.
        np.testing.assert_allclose(shifted(alpha, dx, dy), wanted, atol=0.04)

    def test_narrowing_undoes_widening_of_large_forms(self) -> None:
        alpha = np.zeros((80, 80), dtype=np.float32)
        alpha[20:60, 20:60] = 1
        np.testing.assert_allclose(narrowed(widened(alpha, 5.0), 5.0), alpha, atol=0.35)
        np.testing.assert_array_equal(narrowed(alpha, 0.0), alpha)


if __name__ == "__main__":
    unittest.main()
