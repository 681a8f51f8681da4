"""Grounds and edges against closed forms: conic ramps, clouds, effect layers, grown shapes."""

from __future__ import annotations

import math
import unittest
from typing import ClassVar

import numpy as np
from scipy.ndimage import gaussian_filter

from spiralis.core.geometry import Affine
from spiralis.core.model import Layer, Matte
from spiralis.core.model.art import Bundle, Figure
from spiralis.core.model.blocks import effect_kind
from spiralis.core.model.forms import ellipse
from spiralis.core.model.kinds import layer_kind
from spiralis.core.raster.kernels.noise import noise_at
from spiralis.core.raster.kinds.effect_layer import beneath
from spiralis.core.raster.layer_image import Scene
from spiralis.core.raster.noise import fractal_noise
from spiralis.core.raster.raster import Raster
from spiralis.core.raster.vectors import art_box, grown
from spiralis.core.render import render_frame
from spiralis.core.render.effecting import Step, run_steps
from spiralis.core.rows import shared_by
from tests.core.samples import backdrop, project

BLACK_TO_WHITE = ((0.0, 0.0, 0.0, 0.0, 1.0), (1.0, 1.0, 1.0, 1.0, 1.0))


def changed(pixels: np.ndarray, values: dict[str, float], scale: float) -> np.ndarray:
    """Return what an effect layer makes of pixels that fill the frame."""
    own = [Step(effect_kind(name), numbers, (scale, scale)) for name, numbers in beneath(values)]
    steps = [step for step in own if not step.kind.neutral(step.values)]
    whole = Raster(np.ascontiguousarray(pixels, dtype=np.float32))
    return run_steps(whole, steps, whole.box).data


def full(kind: str, width: int = 120, height: int = 90, **values: object) -> Layer:
    return Layer("Ground", kind, 0, 1000, id="ground").with_values(position=(width / 2, height / 2), **values)


class ConicTest(unittest.TestCase):
    def test_colours_turn_about_the_centre(self) -> None:
        stops = ((0.0, 0.2, 0.2, 0.2, 1.0), (1.0, 0.2, 0.2, 0.2, 1.0))
        flat = render_frame(project(full("backdrop", style="conic", stops=stops), width=120, height=90), "Piece", 0)
        np.testing.assert_allclose(flat[..., 0], 0.2, atol=1e-5)
        ramp = full("backdrop", style="conic", stops=BLACK_TO_WHITE, angle=0.0)
        pixels = render_frame(project(ramp, width=120, height=90), "Piece", 0)[..., 0]
        around = [pixels[45 + round(30 * math.sin(a)), 60 + round(30 * math.cos(a))] for a in (0.4, 1.6, 3.1, 4.7, 6.0)]
        self.assertEqual(around, sorted(around))
        self.assertGreater(around[-1] - around[0], 0.7)

    def test_a_moved_layer_shows_the_same_ramp(self) -> None:
        ramp = full("backdrop", style="conic", stops=BLACK_TO_WHITE)
        straight = render_frame(project(ramp, width=120, height=90), "Piece", 0)
        turned = render_frame(
            project(ramp.with_values(rotation=360.0, scale=(99.9, 99.9)), width=120, height=90), "Piece", 0
        )
        self.assertLess(np.abs(straight - turned)[20:70, 65:100].max(), 0.02)


class CloudsTest(unittest.TestCase):
    def test_noise_is_zero_on_the_lattice_and_repeats_in_time(self) -> None:
        self.assertEqual(noise_at(3.0, 5.0, 2.0, 6, 1), 0.0)
        for z in (0.3, 1.7):
            self.assertAlmostEqual(noise_at(0.4, 0.7, z, 6, 1), noise_at(0.4, 0.7, z + 6, 6, 1), 9)
        self.assertNotEqual(noise_at(0.4, 0.7, 0.3, 6, 1), noise_at(0.4, 0.7, 0.3, 6, 2))

    def test_noise_is_smooth_and_even(self) -> None:
        out = fractal_noise((200, 200), (0.05, 0.05, 0.0, 0.0), 4, 0.5, 0.4, 6, 3)
        self.assertLess(abs(float(out.mean())), 0.1)
        self.assertLess(float(np.abs(np.diff(out, axis=1)).max()), 0.3)
        self.assertLess(float(np.abs(out).max()), 1.1)

    def test_two_threads_draw_the_same_clouds_and_nothing_beyond_the_frame(self) -> None:
        layer = full("clouds", scale_px=(40.0, 40.0))
        values = {parameter.name: layer.track(parameter.name).value for parameter in layer.parameters}
        asked = (values, Scene(project(layer), 400, 200), Affine(), (0.0, 0.0, 400.0, 400.0))
        alone = layer_kind("clouds").draw(*asked).data
        with shared_by(2):
            np.testing.assert_array_equal(layer_kind("clouds").draw(*asked).data, alone)
        tall = layer_kind("clouds").draw(values, asked[1], Affine(), (0.0, 150.0, 400.0, 400.0))
        last = int(np.flatnonzero(tall.data[..., 3].max(axis=1) > 0)[-1])
        self.assertLessEqual(tall.to_layer.apply(0.5, last + 0.5)[1], 200 + tall.to_layer.d)

    def test_what_is_moved_into_view_ends_where_a_backdrop_does(self) -> None:
        for kind in ("clouds", "field"):
            whole = render_frame(project(full(kind), width=120, height=90), "Piece", 0)
            turned = {"scale": (50.0, 40.0), "position": (60.3, 45.7), "rotation": 20.0}
            for place in ({"position": (90.0, 65.0)}, turned):
                found, expected = (
                    render_frame(project(full(name).with_values(**place), width=120, height=90), "Piece", 0)
                    for name in (kind, "backdrop")
                )
                off = np.abs(found[..., 3] - expected[..., 3])
                self.assertLess(float(off.max()), 0.02)
                if "scale" not in place:
                    np.testing.assert_allclose(found[21:, 31:], whole[1:70, 1:90], atol=2e-3)

    def test_a_part_of_what_is_moved_looks_as_the_whole_does(self) -> None:
        scene = Scene(project(), 120, 90)
        matrix = Affine.shift(31.3, 14.2) @ Affine.rotation(12) @ Affine.scaling(0.7, 0.8)
        for kind in ("clouds", "field"):
            values = {p.name: p.default for p in layer_kind(kind).parameters}
            whole, part = (
                layer_kind(kind).draw(values, scene, matrix, clip)
                for clip in ((0.0, 0.0, 120.0, 90.0), (37.0, 21.0, 83.0, 64.0))
            )
            assert isinstance(whole, Raster) and isinstance(part, Raster)
            shared = (38, 22, 82, 63)
            one, other = whole.cut(shared), part.cut(shared)
            assert one is not None and other is not None
            np.testing.assert_array_equal(one.data, other.data)
            self.assertEqual(set(np.unique(one.data[..., 3] > 0)), {False, True})

    def test_what_is_cut_off_fades_out_between_pixels(self) -> None:
        scene = Scene(project(), 120, 90)
        for kind in ("clouds", "field"):
            values = {p.name: p.default for p in layer_kind(kind).parameters}
            drawn = layer_kind(kind).draw(values, scene, Affine(1, 0, 0, 1, 40, -20), (0.0, 0.0, 120.0, 90.0))
            assert isinstance(drawn, Raster)
            ring = drawn.data.copy()
            ring[1:-1, 1:-1] = 0
            self.assertEqual(float(np.abs(ring).max()), 0, kind)
            self.assertGreater(float(drawn.data[1:-1, 1:-1, 3].mean()), 0.5, kind)

    def test_one_round_of_evolution_returns_bit_for_bit(self) -> None:
        def at(evolution: float) -> np.ndarray:
            clouds = full("clouds", scale_px=(60.0, 60.0), evolution=evolution)
            return render_frame(project(clouds, width=120, height=90), "Piece", 0)

        np.testing.assert_array_equal(at(0.0), at(360.0))
        self.assertGreater(float(np.abs(at(0.0) - at(180.0)).max()), 0.05)
        np.testing.assert_allclose(at(0.0)[..., 3], 1.0, atol=1e-5)


class EffectLayerTest(unittest.TestCase):
    values: ClassVar = {"softness": 0.0, "saturation": 100.0, "brightness": 100.0, "contrast": 100.0}

    def pixels(self, seed: int = 3) -> np.ndarray:
        made = np.random.default_rng(seed).random((60, 70, 4)).astype(np.float32)
        made[..., 3] = 1.0
        return made

    def test_softness_agrees_with_an_independent_gaussian(self) -> None:
        pixels = self.pixels()
        for sigma in (1.5, 4.0, 7.5):
            soft = changed(pixels, {**self.values, "softness": sigma}, 1.0)
            wanted = gaussian_filter(pixels, (sigma, sigma, 0), mode="nearest", truncate=5)
            np.testing.assert_allclose(soft, wanted, atol=2e-3)

    def test_a_wide_softness_stays_close(self) -> None:
        ramp = np.zeros((200, 300, 4), dtype=np.float32)
        ramp[:, 150:] = 1.0
        soft = changed(ramp, {**self.values, "softness": 30.0}, 1.0)
        wanted = gaussian_filter(ramp, (30, 30, 0), mode="nearest", truncate=5)
        self.assertLess(float(np.abs(soft - wanted).max()), 0.002)

    def test_grades_follow_their_definitions(self) -> None:
        pixels = self.pixels()
        grey = changed(pixels, {**self.values, "saturation": 0.0}, 1.0)
        np.testing.assert_allclose(grey[..., 0], pixels[..., :3] @ [0.2126, 0.7152, 0.0722], atol=1e-5)
        np.testing.assert_allclose(
            changed(pixels, {**self.values, "brightness": 50.0}, 1.0)[..., :3],
            pixels[..., :3] / 2,
            rtol=1e-4,
            atol=1e-6,
        )
        flat = changed(pixels, {**self.values, "contrast": 0.0}, 1.0)
        np.testing.assert_allclose(flat[..., :3], 0.5, atol=1e-6)
        np.testing.assert_array_equal(changed(pixels, self.values, 1.0), np.float32(pixels))

    def test_it_changes_what_lies_beneath_and_only_where_its_matte_is(self) -> None:
        ground = backdrop(64, 48, (1.0, 0.0, 0.0, 1.0))
        over = Layer("Over", "shape", 0, 99, id="over").with_values(
            form="rectangle", size=(10.0, 10.0), fill=(0.0, 1.0, 0.0, 1.0), position=(5.0, 5.0)
        )
        mask = Layer("Half", "shape", 0, 99, id="half").with_values(
            form="rectangle", size=(32.0, 48.0), fill=(1.0, 1.0, 1.0, 1.0), position=(16.0, 24.0)
        )
        from attrs import evolve

        effect = evolve(
            Layer("Grey", "effect", 0, 99, id="grey").with_values(saturation=0.0, position=(32.0, 24.0)),
            mattes=(Matte("half"),),
        )
        pixels = render_frame(project(over, mask, effect, ground), "Piece", 0)
        np.testing.assert_allclose(pixels[30, 10, :3], 0.2126, atol=1e-3)
        np.testing.assert_allclose(pixels[30, 50, :3], (1, 0, 0), atol=1e-3)
        np.testing.assert_allclose(pixels[5, 5, :3], (0, 1, 0), atol=1e-3)

    def test_the_ground_colour_takes_part(self) -> None:
        effect = Layer("Dark", "effect", 0, 99).with_values(brightness=50.0, position=(32.0, 24.0))
        pixels = render_frame(project(effect, background=(0.8, 0.4, 0.2, 1.0)), "Piece", 0)
        np.testing.assert_allclose(pixels[20, 20], (0.4, 0.2, 0.1, 1.0), atol=1e-3)


class GrownTest(unittest.TestCase):
    def test_a_circle_grows_and_shrinks_by_so_many_pixels(self) -> None:
        circle = Bundle((Figure((ellipse(0, 0, 50, 50),), (1.0, 0.0, 0.0, 1.0)),))
        for by in (12.0, -12.0):
            left, top, right, bottom = art_box(grown(circle, by)) or (0.0,) * 4
            np.testing.assert_allclose((left, top, right, bottom), (-50 - by, -50 - by, 50 + by, 50 + by), atol=0.1)
        self.assertIs(grown(circle, 0.0), circle)


if __name__ == "__main__":
    unittest.main()
