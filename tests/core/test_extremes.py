"""Very large scales, sizes, turns and distances neither break a picture nor take long, in processor time."""

from __future__ import annotations

import time
import unittest

import numpy as np

from spiralis.core.model import Layer
from spiralis.core.render import render_frame
from tests.core.samples import backdrop, project, square_source

WHITE = (1.0, 1.0, 1.0, 1.0)


def sample(kind: str, **values: object) -> Layer:
    return Layer("L", kind, 0, 99, id="l").with_values(**values)


class ExtremeTest(unittest.TestCase):
    def render(self, layer: Layer, most: float = 3.0) -> np.ndarray:
        source = square_source(20, (255, 255, 255, 255))
        if layer.kind == "picture":
            layer = layer.with_values(source=source.id)
        made = project(layer, backdrop(320, 240, (0.1, 0.1, 0.1, 1.0)), sources=(source,), width=320, height=240)
        render_frame(made, "Piece", 0, 0.1)
        started = time.process_time()
        pixels = render_frame(made, "Piece", 0)
        self.assertLess(time.process_time() - started, most)
        self.assertTrue(np.isfinite(pixels).all())
        return pixels

    def test_ten_thousand_percent_fills_the_frame(self) -> None:
        for kind, values in (("picture", {}), ("shape", {"form": "rectangle", "size": (20.0, 20.0), "fill": WHITE})):
            huge = sample(kind, position=(160.0, 120.0), scale=(10_000.0, 10_000.0), **values)
            np.testing.assert_allclose(self.render(huge)[..., :3], 1.0, atol=0.01)

    def test_words_at_ten_thousand_percent(self) -> None:
        pixels = self.render(sample("text", text="I", size=40.0, position=(160.0, 120.0), scale=(10_000.0, 10_000.0)))
        np.testing.assert_allclose(pixels[120, 160, :3], 1.0, atol=0.01)

    def test_sixteen_thousand_pixels_a_side(self) -> None:
        big = sample("shape", form="ellipse", size=(16_000.0, 16_000.0), fill=WHITE, position=(160.0, 120.0))
        np.testing.assert_allclose(self.render(big)[..., :3], 1.0, atol=0.01)
        soft = big.with_values(feather=(400.0, 400.0))
        np.testing.assert_allclose(self.render(soft)[120, 160, :3], 1.0, atol=0.01)

    def test_far_outside_costs_nothing_and_shows_nothing(self) -> None:
        for kind in ("picture", "shape", "text"):
            far = sample(kind, position=(9e6, -9e6))
            np.testing.assert_allclose(self.render(far, 1.0)[..., :3], 0.1, atol=1e-3)

    def test_ten_thousand_degrees_are_as_280(self) -> None:
        values = {"form": "star", "size": (90.0, 60.0), "fill": WHITE, "position": (160.0, 120.0)}
        once = self.render(sample("shape", rotation=10_000.0 - 27 * 360, **values))
        many = self.render(sample("shape", rotation=10_000.0, **values))
        self.assertLess(float(np.abs(once - many).max()), 0.02)

    def test_flat_and_vanishing_layers_are_no_trouble(self) -> None:
        for scale in ((0.0, 100.0), (1e-7, 1e-7), (0.0, 0.0)):
            np.testing.assert_allclose(
                self.render(sample("picture", position=(160.0, 120.0), scale=scale))[..., :3], 0.1, atol=0.06
            )


if __name__ == "__main__":
    unittest.main()
