"""Floats from end to end: light over 1 survives until the output, and soft dark gradients show no bands."""

from __future__ import annotations

import unittest

import numpy as np

from spiralis.core.compositing.blend import blend
from spiralis.core.model import Composition, Layer, Project
from spiralis.core.render import render_frame
from spiralis.core.render.frame import render_rgba8
from tests.core.test_effects import with_effect

WIDTH, HEIGHT = 400, 120


def project(*layers: Layer, light: str = "encoded") -> Project:
    return Project("P", (Composition("Piece", WIDTH, HEIGHT, 25, 20, id="piece", layers=layers, light=light),))


def plain(layer_id: str, level: float, **values: object) -> Layer:
    middle = {"position": (WIDTH / 2, HEIGHT / 2), "style": "flat", "colour": (level, level, level, 1.0)}
    return Layer(layer_id, "backdrop", 0, 20, id=layer_id).with_values(**{**middle, **values})


def effect_layer() -> Layer:
    return Layer("All", "effect", 0, 20, id="all").with_values(position=(WIDTH / 2, HEIGHT / 2))


class OverOneTest(unittest.TestCase):
    def test_added_light_survives_until_it_is_taken_back(self) -> None:
        both = (plain("over", 0.8, blend="plus-lighter"), plain("under", 0.8))
        bright = render_frame(project(*both), "piece", 0)
        np.testing.assert_allclose(bright[..., :3], 1.6, atol=1e-4)
        np.testing.assert_array_equal(bright[..., 3], 1.0)
        half = plain("half", 0.5, blend="multiply")
        np.testing.assert_allclose(render_frame(project(half, *both), "piece", 0)[..., :3], 0.8, atol=1e-4)
        self.assertEqual(int(render_rgba8(project(*both), "piece", 0).max()), 255)

    def test_in_linear_light_too(self) -> None:
        both = (plain("over", 0.8, blend="plus-lighter"), plain("under", 0.8))
        self.assertGreater(float(render_frame(project(*both, light="linear"), "piece", 0).max()), 1.05)

    def test_bloom_goes_over_one_and_an_exposure_beneath_brings_it_back(self) -> None:
        ball = Layer("Ball", "shape", 0, 20, id="ball").with_values(
            form="ellipse", size=(60.0, 60.0), position=(WIDTH / 2, HEIGHT / 2), fill=(1.0, 0.9, 0.8, 1.0)
        )
        glowing = with_effect(ball, "bloom", {"threshold": 20.0, "radius": 8.0, "strength": 200.0})
        self.assertGreater(float(render_frame(project(glowing), "piece", 0).max()), 1.5)
        darker = with_effect(effect_layer(), "exposure", {"stops": -3.0})
        seen = render_frame(project(darker, glowing), "piece", 0)[..., 0]
        # What was brighter than white still has its shape: the middle is brighter than half way to the edge.
        self.assertGreater(float(seen[HEIGHT // 2, WIDTH // 2]), float(seen[HEIGHT // 2, WIDTH // 2 + 24]) + 0.01)

    def test_screen_never_darkens_what_is_brighter_than_white(self) -> None:
        light = np.array([[1.6, 1.2, 0.7, 1.0]], dtype=np.float32)
        result = blend("screen", light, light)
        self.assertTrue(np.all(result[:, :3] >= light[:, :3] - 1e-6), result)


def longest_runs(pixels: np.ndarray) -> np.ndarray:
    """Return the longest run of equal values in each row of each channel, (h, 3)."""
    runs = np.zeros((pixels.shape[0], 3))
    for y in range(pixels.shape[0]):
        for c in range(3):
            ends = np.flatnonzero(np.diff(pixels[y, :, c].astype(int)))
            runs[y, c] = np.diff(np.concatenate([[-1], ends, [pixels.shape[1] - 1]])).max()
    return runs


class BandingTest(unittest.TestCase):
    def test_a_soft_dark_gradient_has_no_plateau_wider_than_ideal_dither(self) -> None:
        stops = ((0.0, 0.02, 0.02, 0.04, 1.0), (1.0, 0.10, 0.07, 0.14, 1.0))
        ramp = Layer("Ramp", "backdrop", 0, 20, id="ramp").with_values(
            position=(WIDTH / 2, HEIGHT / 2), style="linear", angle=0.0, stops=stops
        )
        soft = with_effect(effect_layer(), "gaussian-blur", {"across": 80.0, "down": 80.0}, "b1")
        soft = with_effect(soft, "bloom", {"threshold": 5.0, "radius": 30.0}, "b2")
        exact = render_frame(project(soft, ramp), "piece", 0)
        made = render_rgba8(project(soft, ramp), "piece", 0)
        # Ideal: each value rounded up as often as it lies above the level, independently from pixel to pixel.
        chance = np.random.default_rng(4).random(exact.shape)
        ideal = np.floor(exact.astype(np.float64) * 255 + chance).astype(np.uint8)
        ours, wanted, bare = (
            longest_runs(p).mean(axis=0) for p in (made, ideal, np.rint(exact * 255).astype(np.uint8))
        )
        self.assertTrue(np.all(ours <= wanted), (ours, wanted))
        self.assertTrue(np.all(bare > 1.5 * wanted), "without dither there would be bands")
        # On the whole the levels are what they should be.
        self.assertLess(float(np.abs(made[..., :3].mean(axis=0) - 255 * exact[..., :3].mean(axis=0)).max()), 0.5)


if __name__ == "__main__":
    unittest.main()
