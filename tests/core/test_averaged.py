"""Motion blur of everything: the mean, in linear light, of a layer drawn at each moment of the open shutter."""

from __future__ import annotations

import unittest
from unittest import mock

import numpy as np
from attrs import evolve

from spiralis.core.cache import BUDGET
from spiralis.core.colour import linear_to_srgb, srgb_to_linear
from spiralis.core.editing.grouping import grouped
from spiralis.core.errors import ModelError
from spiralis.core.media.pictures import picture_source
from spiralis.core.model import Key, Layer, Project, Track
from spiralis.core.render import averaged
from spiralis.core.render.frame import render_frame
from tests.core.samples import backdrop, moving, png_bytes, project, square_source

_MOMENTS = 16


def sample(*extra: Layer, **square: object) -> Project:
    """Return a red square that moves and fades over a blue ground, its blur of everything."""
    source = square_source(20)
    layer = Layer("Square", "picture", 0, 20, id="square").with_values(source=source.id, motion_blur=True, **square)
    layer = moving(layer, (20.0, 24.0), (44.0, 24.0), 10)
    layer = layer.with_track("opacity", Track(100.0, (Key(0, 100.0), Key(10, 20.0))))
    made = project(layer, *extra, backdrop(64, 48, (0.1, 0.2, 0.6, 1.0)), sources=(source,))
    return with_piece(made, blur_of="everything")


def with_piece(made: Project, **values: object) -> Project:
    return made.with_composition(evolve(made.compositions[0], **values))


def moments(made: Project, frame: float) -> list[np.ndarray]:
    """Return the piece without blur at the middles of the parts of its shutter (180 degrees, centred)."""
    still = with_piece(made, shutter_angle=0.0)
    times = frame - 0.25 + 0.5 * (np.arange(_MOMENTS) + 0.5) / _MOMENTS
    return [render_frame(still, "Piece", float(time)).astype(np.float64) for time in times]


def mean(pictures: list[np.ndarray]) -> np.ndarray:
    """Return the mean of premultiplied sRGB pictures in linear light."""
    total = np.zeros((48, 64, 4))
    for picture in pictures:
        alpha = picture[..., 3:]
        straight = np.divide(picture[..., :3], alpha, out=np.zeros((48, 64, 3)), where=alpha > 0)
        total += np.concatenate([srgb_to_linear(straight) * alpha, alpha], axis=2) / len(pictures)
    alpha = total[..., 3:]
    straight = np.divide(total[..., :3], alpha, out=np.zeros((48, 64, 3)), where=alpha > 0)
    return np.concatenate([linear_to_srgb(straight) * alpha, alpha], axis=2)


class AveragedTest(unittest.TestCase):
    def test_is_the_mean_of_moments_in_linear_light(self) -> None:
        made = sample()
        made = with_piece(made, layers=made.compositions[0].layers[:1])
        frame = render_frame(made, "Piece", 5.0)
        np.testing.assert_allclose(frame, mean(moments(made, 5.0)), atol=2e-4)
        # The fade counts: without it the middle of the square is solid.
        self.assertLess(float(frame[24, 32, 3]), 0.7)

    def test_in_perspective_one_picture_is_seen_from_all_places(self) -> None:
        colours = np.full((40, 40, 4), 255, dtype=np.uint8)
        colours[..., :3] = np.add.outer(5 * np.arange(40), np.arange(40))[..., None] % 256
        colours[10:20, 5:30, 0] = 250
        source = picture_source(png_bytes(colours), "card.png")
        card = Layer("Card", "picture", 0, 20, id="card").with_values(
            source=source.id, motion_blur=True, depth=True, turn_x=-20.0
        )
        card = moving(card, (16.0, 20.0), (52.0, 30.0), 10).with_track(
            "turn_y", Track(0.0, (Key(0, -60.0), Key(10, 70.0)))
        )
        card = card.with_track("opacity", Track(100.0, (Key(0, 100.0), Key(10, 30.0))))
        made = project(card, sources=(source,))
        with mock.patch.object(averaged, "seen_over_time", wraps=averaged.seen_over_time) as once:
            frame = render_frame(made, "Piece", 4.0)
            twice = render_frame(made, "Piece", 4.0, threads=2)
        self.assertGreater(once.call_count, 0)
        np.testing.assert_array_equal(frame, twice)
        expected = mean(moments(made, 4.0))
        self.assertGreater(float(expected[..., 3].max()), 0.6)
        # Each moment by itself is sampled more finely, and before its light is decoded.
        np.testing.assert_allclose(frame, expected, atol=0.1)
        self.assertLess(float(np.abs(frame - expected).mean()), 0.002)

    def test_takes_in_what_movement_alone_does_not(self) -> None:
        steady = Track(0.0, (Key(0, 0.0), Key(10, 600.0)))
        made = sample()
        layer = made.compositions[0].layer("square")
        with_effect = layer.with_track("rotation", steady)
        turned = with_piece(made, layers=(with_effect, *made.compositions[0].layers[1:]))
        everything = render_frame(turned, "Piece", 5.0)
        movement = render_frame(with_piece(turned, blur_of="movement"), "Piece", 5.0)
        # Both turn the square; only one lets it fade meanwhile, which at this frame is little.
        self.assertLess(float(np.abs(everything - movement).max()), 0.12)
        self.assertGreater(float(np.abs(everything - movement).max()), 1e-4)

    def test_layers_without_the_switch_and_at_rest_stay_sharp(self) -> None:
        made = sample()
        off = made.with_composition(
            made.compositions[0].with_layer(made.compositions[0].layer("square").with_values(motion_blur=False))
        )
        plain = render_frame(with_piece(off, blur_of="movement"), "Piece", 5.0)
        np.testing.assert_array_equal(render_frame(off, "Piece", 5.0), plain)
        rest = render_frame(made, "Piece", 15.0)
        np.testing.assert_array_equal(rest, render_frame(with_piece(made, shutter_angle=0.0), "Piece", 15.0))

    def test_a_group_is_blurred_as_one(self) -> None:
        made = sample()
        piece, held = grouped(made, made.compositions[0], ["square"], 0)
        piece = piece.with_layer(piece.layer(held).with_values(motion_blur=True))
        piece = piece.with_layer(piece.layer("square").with_values(motion_blur=False))
        np.testing.assert_allclose(
            render_frame(made.with_composition(piece), "Piece", 5.0), render_frame(made, "Piece", 5.0), atol=1e-5
        )

    def test_frame_n_plus_length_is_frame_n_and_kept_pictures_change_nothing(self) -> None:
        made = sample()
        BUDGET.clear()
        first = render_frame(made, "Piece", 0.0)
        np.testing.assert_array_equal(first, render_frame(made, "Piece", 20.0))
        np.testing.assert_array_equal(first, render_frame(made, "Piece", 0.0))

    def test_outside_its_span_a_layer_adds_nothing(self) -> None:
        made = sample()
        piece = made.compositions[0]
        late = with_piece(made, layers=(evolve(piece.layer("square"), first=5), *piece.layers[1:]))
        ground = render_frame(with_piece(made, layers=piece.layers[1:]), "Piece", 5.0)
        seen = float(np.abs(render_frame(late, "Piece", 5.0) - ground).max())
        whole = float(np.abs(render_frame(made, "Piece", 5.0) - ground).max())
        self.assertTrue(0.2 * whole < seen < 0.8 * whole, (seen, whole))

    def test_other_words_are_refused(self) -> None:
        with self.assertRaises(ModelError):
            with_piece(sample(), blur_of="nothing")


if __name__ == "__main__":
    unittest.main()
