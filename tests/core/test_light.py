"""Linear light by choice of the composition: layers mix in proportion to light; all pictures stay encoded."""

from __future__ import annotations

import unittest
from typing import ClassVar

import numpy as np
from attrs import evolve
from hypothesis import given, settings
from hypothesis import strategies as st

from spiralis.core.cache import BUDGET
from spiralis.core.colour import linear_to_srgb, srgb_to_linear
from spiralis.core.compositing.blend import blend
from spiralis.core.compositing.kernels.light import decode_premultiplied, encode_premultiplied
from spiralis.core.editing.effecting import with_effect
from spiralis.core.editing.grouping import grouped
from spiralis.core.editing.nesting import nest, open_up
from spiralis.core.errors import ModelError
from spiralis.core.model import Layer, Matte, Project
from spiralis.core.render.frame import render_frame
from tests.core.samples import backdrop, project, square_source

RED, GREEN, BLUE = (0.9, 0.1, 0.2, 1.0), (0.1, 0.8, 0.3, 1.0), (0.05, 0.2, 0.7, 1.0)


def flat(name: str, colour: tuple[float, ...], opacity: float, blend: str = "normal") -> Layer:
    made = backdrop(64, 48, colour)
    return evolve(made, id=name, name=name).with_values(opacity=opacity, blend=blend)


def linear(made: Project) -> Project:
    return made.with_composition(evolve(made.compositions[0], light="linear"))


def middle(made: Project) -> np.ndarray:
    return render_frame(made, "Piece", 0)[24, 32].astype(np.float64)


def mixed(layers: list[tuple[tuple[float, ...], float, str]]) -> np.ndarray:
    """Return solid colours mixed in linear light by the W3C formulas, back to front, encoded again."""
    beneath = np.zeros((1, 1, 4), dtype=np.float32)
    for colour, opacity, mode in layers:
        light = srgb_to_linear(np.array(colour[:3]))
        source = np.array([[[*light, 1.0]]], dtype=np.float32) * np.float32(opacity / 100)
        beneath = blend(mode, source, beneath)
    return np.array([*linear_to_srgb(beneath[0, 0, :3] / beneath[0, 0, 3]), 1.0])


class LightTest(unittest.TestCase):
    PAIRS: ClassVar = [(100.0, "normal"), (50.0, "normal"), (60.0, "multiply"), (35.0, "screen"), (80.0, "difference")]

    def test_layers_mix_in_linear_light(self) -> None:
        for opacity, mode in self.PAIRS:
            with self.subTest(opacity=opacity, mode=mode):
                made = linear(project(flat("a", RED, opacity, mode), flat("b", BLUE, 100.0)))
                expected = mixed([(BLUE, 100.0, "normal"), (RED, opacity, mode)])
                np.testing.assert_allclose(middle(made), expected, atol=3e-4)

    def test_encoded_is_the_rule(self) -> None:
        made = project(flat("a", RED, 50.0), flat("b", BLUE, 100.0))
        np.testing.assert_allclose(middle(made), [*(np.array(RED[:3]) + BLUE[:3]) / 2, 1.0], atol=1e-5)

    def test_a_fading_group_and_a_joined_one_mix_inside_as_the_piece_does(self) -> None:
        made = linear(project(flat("a", RED, 50.0), flat("b", GREEN, 50.0), flat("c", BLUE, 100.0)))
        plain = middle(made)
        group, _ = grouped(made, made.compositions[0], ["a", "b"], 0)
        whole = made.with_composition(group)
        np.testing.assert_allclose(middle(whole), plain, atol=2e-5)
        gathering = next(layer for layer in group.layers if layer.gathers)
        faded = made.with_composition(group.with_layer(gathering.with_values(opacity=40.0)))
        # Both over each other first, as one picture with alpha 0.75, and 0.4 of that over the blue.
        red, green, blue = (srgb_to_linear(np.array(c[:3])) for c in (RED, GREEN, BLUE))
        both = 0.5 * red + 0.5 * 0.5 * green
        expected = linear_to_srgb(0.4 * both + (1 - 0.4 * 0.75) * blue)
        for _ in range(2):  # Drawn apart at first sight, kept as a picture from the second on.
            np.testing.assert_allclose(middle(faded)[:3], expected, atol=3e-4)

    def test_a_nest_keeps_its_own_light(self) -> None:
        inner = evolve(project(flat("a", RED, 50.0), flat("b", BLUE, 100.0)).compositions[0], id="in", name="In")
        shown = Layer("Nest", "nested", 0, 20, id="nest").with_values(composition="in", position=(32.0, 24.0))
        encoded, light = (np.array(RED[:3]) + BLUE[:3]) / 2, mixed([(BLUE, 100.0, "normal"), (RED, 50.0, "normal")])[:3]
        for own, expected in (("encoded", encoded), ("linear", light)):
            for outer in ("encoded", "linear"):
                for opacity in (100.0, 50.0):
                    with self.subTest(own=own, outer=outer, opacity=opacity):
                        made = project(shown.with_values(opacity=opacity), flat("g", GREEN, 100.0))
                        made = made.with_composition(evolve(made.compositions[0], light=outer))
                        made = made.with_composition(evolve(inner, light=own))
                        convert, back = (srgb_to_linear, linear_to_srgb) if outer == "linear" else (np.array, np.array)
                        share = opacity / 100
                        want = back(share * convert(expected) + (1 - share) * convert(np.array(GREEN[:3])))
                        np.testing.assert_allclose(middle(made)[:3], want, atol=4e-4)

    def test_an_effect_layer_sees_the_mixture_encoded(self) -> None:
        grade = Layer("Grade", "effect", 0, 20, id="grade").with_values(saturation=0.0)
        below = [flat("a", RED, 50.0), flat("b", BLUE, 100.0)]
        mixture = mixed([(BLUE, 100.0, "normal"), (RED, 50.0, "normal")])[:3]
        got = middle(linear(project(grade, *below)))
        np.testing.assert_allclose(got[:3], np.full(3, np.dot([0.2126, 0.7152, 0.0722], mixture)), atol=2e-3)
        soft = with_effect(Layer("Soft", "effect", 0, 20, id="soft"), "gaussian-blur")
        block = soft.blocks[0]
        soft = soft.with_values(**{block.named("across"): 4.0, block.named("down"): 4.0})
        np.testing.assert_allclose(middle(linear(project(soft, *below)))[:3], mixture, atol=4e-4)

    def test_what_lies_alone_is_as_it_was(self) -> None:
        source = square_source(20)
        layer = Layer("Square", "picture", 0, 20, id="s").with_values(
            source=source.id, position=(30.5, 20.25), rotation=20.0
        )
        matte = flat("m", GREEN, 60.0)
        masked = evolve(layer, mattes=(Matte("m", "shape"),))
        for made in (project(layer, sources=(source,)), project(matte, masked, sources=(source,))):
            np.testing.assert_allclose(
                render_frame(linear(made), "Piece", 0), render_frame(made, "Piece", 0), atol=2e-4
            )

    def test_caches_tell_the_two_apart(self) -> None:
        made = project(flat("a", RED, 50.0), flat("b", BLUE, 100.0))
        frames = []
        for version in (made, linear(made), made, linear(made)):
            frames.append(middle(version))
        np.testing.assert_array_equal(frames[0], frames[2])
        np.testing.assert_array_equal(frames[1], frames[3])
        BUDGET.clear()
        np.testing.assert_array_equal(frames[1], middle(linear(made)))

    def test_nesting_keeps_light_and_shutter_and_opening_up_asks_for_the_same(self) -> None:
        made = linear(project(flat("a", RED, 50.0), flat("b", BLUE, 50.0), flat("c", GREEN, 100.0)))
        made = made.with_composition(evolve(made.compositions[0], shutter_angle=90.0, blur_of="everything"))
        nested, shown = nest(made, made.compositions[0].id, ["a", "b"], "Nest", False)
        inner = nested.composition("Nest")
        self.assertEqual(inner.mixing, made.compositions[0].mixing)
        np.testing.assert_allclose(middle(nested), middle(made), atol=3e-4)
        opened, _ = open_up(nested, made.compositions[0].id, shown)
        np.testing.assert_allclose(middle(opened), middle(made), atol=3e-4)
        with self.assertRaisesRegex(ModelError, "light or shutter"):
            open_up(nested.with_composition(evolve(inner, light="encoded")), made.compositions[0].id, shown)

    def test_light_is_the_standard_s_to_a_millionth(self) -> None:
        # More than one block of pixels, and an end that fills none; some lanes brighter than 1, some clear.
        values = np.concatenate([np.linspace(0, 1, 4001), [1.5, 3.0, 0.0031308, 0.04045, 0.5, 0.25]])
        alphas = np.where(np.arange(len(values)) % 7 == 3, 0.0, np.linspace(0.05, 1.0, len(values)))
        pixels = np.column_stack([values * alphas, values[::-1] * alphas, 0.5 * alphas, alphas]).astype(np.float32)
        straight = np.divide(pixels[:, :3], pixels[:, 3:], out=np.zeros_like(pixels[:, :3]), where=pixels[:, 3:] > 0)
        for work, wanted in (("decode", srgb_to_linear), ("encode", linear_to_srgb)):
            made = pixels.reshape(-1).copy()
            if work == "decode":
                decode_premultiplied(made.copy(), np.float32(1), made)
            else:
                encode_premultiplied(made)
            exact = wanted(straight.astype(np.float64)) * pixels[:, 3:]
            np.testing.assert_allclose(made.reshape(-1, 4)[:, :3], exact, rtol=2e-6, atol=1e-6)
            np.testing.assert_array_equal(made.reshape(-1, 4)[:, 3], pixels[:, 3])

    @given(st.integers(0, 40), st.integers(1, 60))
    @settings(max_examples=40, deadline=None)
    def test_what_a_pixel_becomes_does_not_depend_on_those_beside_it(self, first: int, count: int) -> None:
        random = np.random.default_rng(3)
        pixels = random.random((101, 4)).astype(np.float32)
        pixels[..., :3] *= pixels[..., 3:]
        pixels[::9, 1] = 2 * pixels[::9, 3]  # brighter than 1
        part = np.ascontiguousarray(pixels[first : first + count])
        for name in ("decode", "encode"):
            found = []
            for each in (pixels, part):
                made = each.reshape(-1).copy()
                if name == "decode":
                    decode_premultiplied(each.reshape(-1), np.float32(1), made)
                else:
                    encode_premultiplied(made)
                found.append(made.reshape(-1, 4))
            np.testing.assert_array_equal(found[1], found[0][first : first + count])

    def test_white_and_black_stay_what_they_are(self) -> None:
        for level in (0.0, 1.0):
            pixels = np.tile(np.array([level, level, level, 1.0], dtype=np.float32), 9)
            light = np.empty_like(pixels)
            decode_premultiplied(pixels, np.float32(1), light)
            np.testing.assert_array_equal(light, pixels)
            encode_premultiplied(light)
            np.testing.assert_array_equal(light, pixels)

    def test_bytes_come_back_as_they_were(self) -> None:
        levels = np.arange(256, dtype=np.uint8)
        pixels = np.column_stack([levels, levels, levels, np.full(256, 255, np.uint8)]).reshape(-1)
        light = np.empty(1024, dtype=np.float32)
        decode_premultiplied(pixels, np.float32(1 / 255), light)
        encode_premultiplied(light)
        np.testing.assert_allclose(light * 255, pixels, atol=2e-4)

    def test_an_unknown_light_is_refused(self) -> None:
        with self.assertRaisesRegex(ModelError, "moonlight"):
            evolve(project(flat("a", RED, 50.0)).compositions[0], light="moonlight")

    @given(st.lists(st.floats(0.0, 8.0, width=32), min_size=3, max_size=3), st.floats(0.015625, 1.0, width=32))
    @settings(max_examples=60, deadline=None)
    def test_encoding_undoes_decoding_also_over_1(self, colour: list[float], alpha: float) -> None:
        pixels = np.array([*(c * alpha for c in colour), alpha], dtype=np.float32)
        light = np.empty(4, dtype=np.float32)
        decode_premultiplied(pixels, np.float32(1), light)
        expected = srgb_to_linear(np.array(colour, dtype=np.float64)) * alpha
        np.testing.assert_allclose(light[:3], expected, rtol=2e-4, atol=2e-6)
        encode_premultiplied(light)
        np.testing.assert_allclose(light, pixels, rtol=3e-4, atol=3e-5)


if __name__ == "__main__":
    unittest.main()
