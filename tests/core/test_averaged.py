"""Motion blur of everything: the mean, in linear light, of a layer drawn at each moment of the open shutter."""

from __future__ import annotations

import unittest
from types import SimpleNamespace
from unittest import mock

import numpy as np
from attrs import evolve

from spiralis.core.cache import BUDGET
from spiralis.core.colour import linear_to_srgb, srgb_to_linear
from spiralis.core.compositing.kernels import smear
from spiralis.core.compositing.motion_blur import half_in_linear_light
from spiralis.core.editing.grouping import grouped
from spiralis.core.errors import ModelError
from spiralis.core.geometry import Affine, Projection
from spiralis.core.media.pictures import picture_source
from spiralis.core.model import Key, Layer, Matte, Project, Track
from spiralis.core.raster.raster import Raster
from spiralis.core.render import averaged, shutter
from spiralis.core.render.frame import render_frame
from spiralis.core.render.layered import Layered
from spiralis.core.render.nodes import Item
from spiralis.core.render.projected import Projected
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


def sampled(source: np.ndarray, u: float, v: float) -> np.ndarray:
    """Return what lies between the four pixels around a place; outside all is clear."""
    x, y, total = int(np.floor(u)), int(np.floor(v)), np.zeros(4)
    for row, column in ((y, x), (y, x + 1), (y + 1, x), (y + 1, x + 1)):
        if 0 <= row < source.shape[0] and 0 <= column < source.shape[1]:
            total += (1 - abs(u - column)) * (1 - abs(v - row)) * source[row, column]
    return total


def card_in_space(way: float) -> Project:
    """Return a card that leans in space and moves so many pixels in half a frame, its blur that of its place."""
    colours = np.full((40, 40, 4), 255, dtype=np.uint8)
    colours[..., :3] = np.add.outer(5 * np.arange(40), np.arange(40))[..., None] % 256
    source = picture_source(png_bytes(colours), "card.png")
    card = Layer("Card", "picture", 0, 20, id="card").with_values(
        source=source.id, motion_blur=True, depth=True, turn_x=-20.0
    )
    return project(moving(card, (32.0 - 10 * way, 24.0), (32.0 + 10 * way, 24.0), 10), sources=(source,))


def at_place(x: float, key: str = "kite", behind: bool = False) -> Item:
    """Return a thing seen at a place in space, or behind the eye."""
    way = Projection(c=x, i=-1.0 if behind else 1.0)
    return Item(Projected(SimpleNamespace(key=key), Affine(), way, 1.0))  # type: ignore[arg-type]


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

    def test_a_picture_in_space_takes_as_many_moments_as_it_moves_pixels(self) -> None:
        for way, wanted in ((1.0, (4, 4)), (12.0, (11, 15)), (300.0, (16, 16))):
            made = card_in_space(way)
            with mock.patch.object(shutter, "Averaged", wraps=averaged.Averaged) as seen:
                frame = render_frame(made, "Piece", 5.0)
            count = len(seen.call_args.args[0])
            self.assertTrue(wanted[0] <= count <= wanted[1], (way, count))
            self.assertLess(float(np.abs(frame - mean(moments(made, 5.0))).mean()), 0.002)

    def test_what_changes_itself_or_comes_from_behind_the_eye_takes_all_moments(self) -> None:
        def count(*probes: Item | None) -> int:
            return averaged.moments_needed(probes, (0.0, 0.0, 20.0, 20.0), 16)

        self.assertEqual(count(*(at_place(x) for x in (0.0, 0.1, 0.2, 0.3))), 4)
        # Nine pixels between four moments are twelve while the shutter is open.
        self.assertEqual(count(*(at_place(x) for x in (0.0, 3.0, 6.0, 9.0))), 12)
        self.assertEqual(count(*(at_place(x) for x in (0.0, 40.0))), 16)
        # There and back is a way too.
        self.assertEqual(count(*(at_place(x) for x in (0.0, 3.0, 0.0, 3.0))), 12)
        self.assertEqual(count(at_place(0.0), at_place(0.0, "other"), at_place(0.0)), 16)
        self.assertEqual(count(at_place(0.0), at_place(0.0, behind=True)), 16)
        self.assertEqual(count(at_place(0.0), None), 16)
        self.assertEqual(count(Item(Layered((), Affine())), at_place(0.0)), 16)

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

    def test_what_is_cut_off_is_blurred_with_its_layer(self) -> None:
        """Blur of movement takes one picture along its way; crop and masks that hang on the layer are a part of it."""
        mask = Layer("Mask", "shape", 0, 20, id="mask", parent="square").with_values(
            form="ellipse", size=(14.0, 12.0), position=(8.0, 10.0), fill=(1.0, 1.0, 1.0, 1.0))  # fmt: skip
        turn = Track(0.0, (Key(0, 0.0), Key(10, 90.0)))
        for crop, masked in (((45.0, 0.0), False), ((0.0, 0.0), True), ((0.0, 30.0), True)):
            for rotation in (Track(0.0), turn):
                square = Layer("Square", "shape", 0, 20, id="square").with_values(
                    form="rectangle", size=(20.0, 20.0), fill=(1.0, 0.0, 0.0, 1.0), crop_across=crop, motion_blur=True
                )  # fmt: skip
                square = moving(square, (12.0, 24.0), (52.0, 24.0), 10).with_track("rotation", rotation)
                layers = (mask, evolve(square, mattes=(Matte("mask"),))) if masked else (square,)
                made = project(*layers, backdrop(64, 48, (0.1, 0.2, 0.6, 1.0)))
                seen = [
                    render_frame(with_piece(made, blur_of=how, blur_samples=256), "Piece", 5.0)
                    for how in ("movement", "everything")
                ]
                with self.subTest(crop=crop, masked=masked, turns=bool(rotation.keys)):
                    # Cut where it stands in the middle of the shutter, it would differ by over 0.2.
                    self.assertLess(float(np.abs(seen[0] - seen[1]).max()), 0.1)

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

    def test_a_layer_is_there_for_whole_frames(self) -> None:
        made = sample()
        piece = made.compositions[0]
        # Its first frame, and that of one that is not there at the end of the round.
        for frame, span in ((5, {"first": 5}), (0, {"last": 8})):
            cut = with_piece(made, layers=(evolve(piece.layer("square"), **span), *piece.layers[1:]))
            ground = render_frame(with_piece(made, layers=piece.layers[1:]), "Piece", frame)
            seen = float(np.abs(render_frame(cut, "Piece", frame) - ground).max())
            whole = float(np.abs(render_frame(made, "Piece", frame) - ground).max())
            self.assertGreater(seen, 0.95 * whole)

    def test_half_the_size_is_the_mean_of_four_in_linear_light_within_a_clear_ring(self) -> None:
        pixels = np.random.default_rng(3).random((5, 7, 4)).astype(np.float32)
        pixels[..., :3] *= pixels[..., 3:]
        half = half_in_linear_light(Raster(pixels, Affine(2.0, 0.0, 0.0, 2.0, 10.0, 20.0), (3, 4)))
        self.assertEqual(half.data.shape, (5, 6, 4))
        self.assertFalse(half.data[[0, -1]].any() or half.data[:, [0, -1]].any())
        light = np.zeros((6, 8, 4))
        light[:5, :7, 3] = pixels[..., 3]
        light[:5, :7, :3] = srgb_to_linear(pixels[..., :3] / pixels[..., 3:]) * pixels[..., 3:]
        means = light.reshape(3, 2, 4, 2, 4).mean(axis=(1, 3))
        np.testing.assert_allclose(half.data[1:-1, 1:-1], means, atol=1e-4)
        # Its first pixel but the ring begins where the picture did: two units are a pixel of that, four one of this.
        self.assertEqual(half.to_layer.apply(1.0, 1.0), (16.0, 28.0))
        self.assertEqual(half.to_layer.apply(2.0, 1.0), (20.0, 28.0))
        self.assertIs(half_in_linear_light(Raster(pixels)), half)

    def test_several_places_in_perspective_are_added_up_by_their_weights(self) -> None:
        random = np.random.default_rng(5)
        source = np.zeros((22, 26, 4), dtype=np.float32)
        source[1:-1, 1:-1] = random.random((20, 24, 4)) * 0.5
        source[..., :3] *= source[..., 3:]
        backs = np.array([[0.8, 0.1, -14.0, -0.05, 0.7, -9.0, 0.002, 0.001, 1.0],
                          [0.7, 0.0, -11.0, 0.1, 0.8, -13.0, -0.02, 0.004, 1.0]])  # fmt: skip
        weights, left, top = np.array([0.3, 0.6]), -6, 3
        out = np.empty((40, 75, 4), dtype=np.float32)
        smear.smear_projected(source.reshape(-1), 26, 22, backs, weights, left, top, out)
        total = np.zeros(out.shape)
        for back, weight in zip(backs.reshape(2, 3, 3), weights, strict=True):
            for y, x in np.ndindex(40, 75):
                u, v, w = back @ (x + left, y + top, 1.0)
                if w > 1e-9:
                    total[y, x] += weight * sampled(source, u / w, v / w)
        alpha = total[..., 3:]
        straight = np.divide(total[..., :3], alpha, out=np.zeros((40, 75, 3)), where=alpha > 0)
        np.testing.assert_allclose(out[..., 3:], alpha, atol=2e-5)
        np.testing.assert_allclose(out[..., :3], linear_to_srgb(straight) * alpha, atol=5e-4)
        self.assertGreater(float((alpha > 0.05).mean()), 0.2)

    def test_other_words_are_refused(self) -> None:
        with self.assertRaises(ModelError):
            with_piece(sample(), blur_of="nothing")


if __name__ == "__main__":
    unittest.main()
