"""What a finish lays around a layer mixes with what lies beneath, however the layer lies there."""

from __future__ import annotations

import unittest
from fractions import Fraction

import numpy as np
from attrs import evolve

from spiralis.core.model import Composition, Key, Layer, Matte, Project, Track
from spiralis.core.model.blocks import Block
from spiralis.core.render.frame import render_frame
from tests.core.samples import backdrop

WIDTH, HEIGHT = 160, 120
WAY = Track((80.0, 60.0), (Key(0, (70.0, 60.0)), Key(10, (90.0, 60.0))))
MATTE = Layer("Matte", "shape", 0, 20, id="matte").with_values(
    form="rectangle", size=(140.0, 100.0), position=(80.0, 60.0)
)
#: Ways in which a layer lies that draw it into pixels of its own.
WAYS: dict[str, dict[str, object]] = {
    "upright": {},
    "turned": {"rotation": 30.0},
    "flipped": {"scale": (-100.0, 100.0)},
    "moving": {"motion_blur": True, "position": WAY},
    "turned and moving": {"motion_blur": True, "position": WAY, "rotation": 20.0},
    "in depth": {"depth": True, "turn_y": 25.0},
    "in depth and moving": {"depth": True, "turn_y": 25.0, "motion_blur": True, "position": WAY},
}


class ApartTest(unittest.TestCase):
    def piece(self, ground: float, blend: str, matted: bool = False, **values: object) -> Composition:
        block = Block("halo")
        kite = Layer("Kite", "shape", 0, 20, id="kite").with_block(block)
        tracks = {name: value for name, value in values.items() if isinstance(value, Track)}
        kite = kite.with_values(**{
            "form": "ellipse", "size": (50.0, 40.0), "position": (80.0, 60.0), "fill": (0.2, 0.3, 0.4, 1.0),
            f"{block.id}.blend": blend, f"{block.id}.colour": (1.0, 1.0, 1.0, 1.0), f"{block.id}.size": 8.0,
            **{name: value for name, value in values.items() if name not in tracks},
        })  # fmt: skip
        for name, track in tracks.items():
            kite = kite.with_track(name, track)
        if matted:
            kite = evolve(kite, mattes=(Matte("matte"),))
        layers = (kite, *((MATTE,) if matted else ()), backdrop(WIDTH, HEIGHT, (ground, ground, ground, 1.0)))
        return Composition("piece", WIDTH, HEIGHT, Fraction(25), 20, layers=layers, id="piece")

    def glow(self, ground: float, blend: str, **values: object) -> np.ndarray:
        """Return by how much the halo changes the ground, where the layer itself does not lie."""
        picture = render_frame(Project(compositions=(self.piece(ground, blend, **values),)), "piece", 5)
        bare = render_frame(Project(compositions=(self.piece(ground, blend, **values, opacity=0.0),)), "piece", 5)
        change = (picture - bare)[..., 0]
        # The layer is darker than every ground here; its halo never is.
        change[np.abs(picture[..., 0] - picture[..., 2]) > 1e-3] = 0.0
        return change

    def test_light_is_added_to_every_ground_alike(self) -> None:
        for name, values in WAYS.items():
            for matted in (False, True):
                with self.subTest(way=name, matted=matted):
                    dark, light = (
                        self.glow(ground, "plus-lighter", matted=matted, **values) for ground in (0.1, 0.45)
                    )
                    self.assertGreater(float(dark.max()), 0.2)
                    where = (dark > 0.05) & (light > 0.02) & (light < 0.5)
                    self.assertGreater(int(where.sum()), 200)
                    np.testing.assert_allclose(dark[where], light[where], atol=0.012)

    def test_white_multiplied_changes_nothing(self) -> None:
        for name, values in WAYS.items():
            with self.subTest(way=name):
                self.assertLess(float(np.abs(self.glow(0.45, "multiply", **values)).max()), 0.012)

    def test_normal_is_one_picture_as_ever(self) -> None:
        for values in WAYS.values():
            self.assertLess(float(self.glow(0.9, "normal", **values).max()), 0.11)

    def test_blur_of_everything_mixes_so_too(self) -> None:
        pieces = [evolve(self.piece(g, "plus-lighter", **WAYS["turned and moving"]), blur_of="everything")
                  for g in (0.1, 0.45)]  # fmt: skip
        dark, light = (
            render_frame(Project(compositions=(piece,)), "piece", 5)[30, 60, 0] - ground
            for piece, ground in zip(pieces, (0.1, 0.45), strict=True)
        )
        self.assertGreater(float(dark), 0.01)
        self.assertAlmostEqual(float(dark), float(light), delta=0.012)


if __name__ == "__main__":
    unittest.main()
