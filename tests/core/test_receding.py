"""Layers that go on for ever in depth: a tiled floor is whole up to the horizon, and sharp near by."""

from __future__ import annotations

import time
import unittest

import numpy as np
from attrs import evolve

from spiralis.core.geometry import Affine
from spiralis.core.media.pictures import picture_source
from spiralis.core.media.png_file import png_bytes
from spiralis.core.model import Composition, Layer, Project
from spiralis.core.model.blocks import Block
from spiralis.core.render import render_frame
from spiralis.core.render.building import built
from spiralis.core.render.receding import Receding

SIZE = 160


def board() -> np.ndarray:
    pixels = np.full((32, 32, 4), 255, dtype=np.uint8)
    pixels[:16, :16, :3] = pixels[16:, 16:, :3] = (0, 0, 255)
    pixels[..., :2] = np.where(pixels[..., :1] == 0, 0, 255)
    return pixels


SOURCE = picture_source(png_bytes(board()), "board.png")


def floor(turn: float, finish: str = "") -> Project:
    layer = Layer("Floor", "picture", 0, 10, id="floor").with_values(
        source=SOURCE.id, depth=True, turn_x=turn, position=(SIZE / 2, 0.75 * SIZE))  # fmt: skip
    layer = layer.with_block(Block("tile", id="t"))
    if finish:
        layer = layer.with_block(Block(finish, id="f"))
    return Project("P", (Composition("Piece", SIZE, SIZE, 25, 10, id="piece", layers=(layer,)),), (SOURCE,))


class RecedingTest(unittest.TestCase):
    def seen(self, project: Project) -> np.ndarray:
        return render_frame(project, "piece", 0)

    def test_a_floor_is_whole_up_to_the_horizon(self) -> None:
        for turn in (70.0, 80.0, 86.0, -80.0):
            with self.subTest(turn):
                started = time.process_time()
                rows = self.seen(floor(turn))[..., 3].min(axis=1)
                self.assertLess(time.process_time() - started, 4.0)
                covered = np.flatnonzero(rows > 0.5)
                self.assertGreater(len(covered), SIZE // 5)
                # One piece without a seam between two bands, but for the outermost row at the horizon.
                self.assertEqual(len(covered), covered[-1] - covered[0] + 1)
                np.testing.assert_allclose(rows[covered[1:-1]], 1.0, atol=2e-3)

    def test_near_by_it_is_the_board_where_the_camera_sees_it(self) -> None:
        project = floor(80.0)
        piece = project.compositions[0]
        seen = self.seen(project)
        builder = built(project, piece, 0.0, Affine(), (0.0, 0.0, float(SIZE), float(SIZE)))
        item = builder.item(piece.layers[0])
        self.assertIsInstance(item.node, Receding)
        back = item.node.bands[0].to_grid.inverse()
        right = 0
        places = [(x, y) for x in range(5, SIZE, 7) for y in range(SIZE - 30, SIZE, 3)]
        for x, y in places:
            across, down = back.apply(x + 0.5, y + 0.5)
            blue = (across % 32 < 16) == (down % 32 < 16)
            right += (seen[y, x, 0] < 0.5) == blue
        self.assertGreater(right, 0.93 * len(places))

    def test_far_off_it_is_the_mean_of_the_board(self) -> None:
        seen = self.seen(floor(80.0))
        covered = np.flatnonzero(seen[..., 3].min(axis=1) > 0.99)
        rows = covered[2:5] if covered[0] > 0 else covered[-5:-2]
        far = seen[rows, :, :3].mean(axis=(0, 1))
        np.testing.assert_allclose(far, (0.5, 0.5, 1.0), atol=0.08)

    def test_finishes_that_mix_on_their_own_come_in_bands_too(self) -> None:
        seen = self.seen(floor(80.0, "inner-halo"))
        self.assertTrue(np.isfinite(seen).all())
        self.assertGreater(float(seen[..., 3].max()), 0.99)

    def test_what_ends_is_drawn_as_before(self) -> None:
        project = floor(80.0)
        piece = project.compositions[0]
        bare = evolve(piece, layers=(piece.layers[0].without_block("t"),))
        builder = built(project, bare, 0.0, Affine(), (0.0, 0.0, float(SIZE), float(SIZE)))
        self.assertNotIsInstance(builder.item(bare.layers[0]).node, Receding)


if __name__ == "__main__":
    unittest.main()
