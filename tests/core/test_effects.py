"""Every effect by one contract, the pilot effects against independent definitions, and pictures of any region."""

from __future__ import annotations

import gc
import unittest
import weakref
from collections.abc import Mapping
from typing import Any

import numpy as np
from attrs import evolve
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.ndimage import gaussian_filter, map_coordinates

from spiralis.core.cache import BUDGET
from spiralis.core.effects.job import EffectJob, Finish
from spiralis.core.errors import ModelError
from spiralis.core.model import Composition, Key, Kind, Layer, Matte, Parameter, Project, Source, Track
from spiralis.core.model.blocks import EFFECT, FINISH, Block, EffectKind, earlier_name, effect_kind, effect_kinds
from spiralis.core.model.drivers import Follow
from spiralis.core.model.edge_pins import EdgePin
from spiralis.core.raster.raster import Raster
from spiralis.core.render import render_frame
from spiralis.core.render.effecting import Effected, Step
from spiralis.core.render.layers import Evaluated
from spiralis.core.render.nodes import Node
from spiralis.core.render.table import Table
from spiralis.core.storage.conversion import from_json, to_json
from tests.core.samples import backdrop, cube, lookup_source, square_source

LOOKUP = lookup_source(cube())


class Picture(Node):
    """A node that shows given pixels."""

    def __init__(self, pixels: np.ndarray, corner: tuple[int, int] = (0, 0)) -> None:
        self.raster = Raster(np.ascontiguousarray(pixels, dtype=np.float32), corner=corner)

    def make_key(self) -> object:
        return self.raster.data.tobytes(), self.raster.corner

    def emit(self, table: Table, mode: int, opacity: float) -> None:
        raise NotImplementedError

    def drawn_in(self, region: tuple[int, int, int, int]) -> Raster | None:
        return self.raster.cut(region)


def blob(width: int = 90, height: int = 70, seed: int = 3) -> np.ndarray:
    """Return premultiplied pixels with soft and hard edges, and clear room about them."""
    rng = np.random.default_rng(seed)
    alpha = np.zeros((height, width))
    alpha[18:50, 22:66] = 1
    alpha[30:36, 10:80] = 0.6
    alpha[20:24, 30:60] = 0
    colour = gaussian_filter(rng.random((height, width, 3)), (2, 2, 0))
    return np.concatenate([colour * alpha[..., None], alpha[..., None]], axis=-1).astype(np.float32)


def other_values(kind: EffectKind) -> dict[str, Any]:
    """Return values of a kind that do change something."""
    values = {p.name: p.default for p in kind.parameters}
    for parameter in kind.own_parameters:
        if parameter.kind is Kind.NUMBER and parameter.default == 100.0:
            values[parameter.name] = 140.0 if parameter.maximum >= 140 else 70.0
        elif parameter.kind in (Kind.LAYER, Kind.SOURCE):
            values[parameter.name] = "map" if parameter.kind is Kind.LAYER else "look"
    if "across" in values:
        values |= {"across": 7.0, "down": 5.0}
    if "size" in values and "spread" in values:
        values |= {"size": 5.0, "spread": 3.0}
    return values | _OTHER.get(kind.name, {})


def read_by(kind: EffectKind, values: Mapping[str, Any]) -> list[str]:
    """Return the names of all that a kind reads beside its source."""
    return [*kind.inputs, *(earlier_name(ago) for ago in (kind.moments(values) if kind.moments else ()))]


def step_of(kind: EffectKind, values: Mapping[str, Any], scale: float = 1.0, seed: int = 8) -> Step:
    inputs = {name: Picture(blob(seed=seed)) for name in read_by(kind, values)}
    files = dict.fromkeys(kind.files, LOOKUP)
    return Step(kind, values, (scale, scale), inputs, box=(0.0, 0.0, 90.0, 70.0), files=files)


def result(kind: EffectKind, pixels: np.ndarray, step: Step, region: tuple[int, int, int, int]) -> np.ndarray:
    """Return an effect's picture, or what a finish lays behind, over a region."""
    source = Picture(pixels).picture(step.needs(region, (0, 0, pixels.shape[1], pixels.shape[0])))
    if source is None:
        return np.zeros((region[3] - region[1], region[2] - region[0], 4), dtype=np.float32)
    made = step.run(source, region)
    picture = (made.behind or made.front) if isinstance(made, Finish) else made
    assert picture is not None
    return picture.spread_over(region).data


class ContractTest(unittest.TestCase):
    """What every effect and finish has to keep, whatever it does."""

    def each(self) -> list[tuple[EffectKind, dict[str, Any]]]:
        return [(kind, other_values(kind)) for kind in effect_kinds()]

    def test_they_are_known_and_say_what_they_are_for(self) -> None:
        self.assertLessEqual({"gaussian-blur", "displace", "halo", "grade"}, {kind.name for kind in effect_kinds()})
        for kind, _ in self.each():
            self.assertTrue(kind.label and kind.help and kind.own_parameters, kind.name)
            self.assertTrue(all(p.help for p in kind.own_parameters), kind.name)

    def test_one_piece_is_like_four_regions(self) -> None:
        pixels, whole = blob(), (-12, -9, 104, 83)
        for kind, values in self.each():
            step = step_of(kind, values)
            at_once = result(kind, pixels, step, whole)
            for x0, x1 in ((-12, 37), (37, 104)):
                for y0, y1 in ((-9, 31), (31, 83)):
                    part = result(kind, pixels, step, (x0, y0, x1, y1))
                    np.testing.assert_allclose(part, at_once[y0 + 9 : y1 + 9, x0 + 12 : x1 + 12], atol=1e-5,
                                               err_msg=kind.name)  # fmt: skip

    def test_the_extent_holds_all_that_is_not_clear(self) -> None:
        pixels, whole = blob(), (-80, -80, 170, 150)
        for kind, values in self.each():
            step = step_of(kind, values)
            at_once = result(kind, pixels, step, whole)
            left, top, right, bottom = step.fills((0, 0, 90, 70))
            at_once[max(top + 80, 0) : bottom + 80, max(left + 80, 0) : right + 80] = 0
            self.assertLess(float(at_once.max()), 2e-3, kind.name)

    def test_half_the_scale_agrees(self) -> None:
        big = np.kron(blob(), np.ones((4, 4, 1), dtype=np.float32))
        small = big.reshape(140, 2, 180, 2, 4).mean(axis=(1, 3), dtype=np.float32)
        for kind, values in self.each():
            full = result(kind, big, self._scaled(kind, values, 2.0, big), (0, 0, 360, 280))
            half = result(kind, small, self._scaled(kind, values, 1.0, small), (0, 0, 180, 140))
            mean = full.reshape(140, 2, 180, 2, 4).mean(axis=(1, 3))
            self.assertLess(float(np.abs(mean - half).mean()), 0.01, kind.name)

    def _scaled(self, kind: EffectKind, values: dict[str, Any], scale: float, pixels: np.ndarray) -> Step:
        inputs = {name: Picture(pixels[::-1].copy()) for name in read_by(kind, values)}
        files = dict.fromkeys(kind.files, LOOKUP)
        return Step(kind, values, (scale, scale), inputs, box=(0.0, 0.0, 180.0, 140.0), files=files)

    def test_inputs_stay_as_they_are(self) -> None:
        for kind, values in self.each():
            pixels = blob()
            source = Raster(pixels.copy())
            source.data.flags.writeable = False
            step_of(kind, values).run(source, (0, 0, 90, 70))
            np.testing.assert_array_equal(source.data, pixels, err_msg=kind.name)

    def test_every_number_and_input_changes_the_key(self) -> None:
        for kind, values in self.each():
            first = step_of(kind, values)
            self.assertEqual(first.key, step_of(kind, dict(values)).key)
            for parameter in kind.own_parameters:
                if parameter.kind is Kind.LAYER:
                    self.assertNotEqual(first.key, step_of(kind, values, seed=9).key, kind.name)
                    continue
                other = self._another(parameter, values[parameter.name])
                self.assertNotEqual(first.key, step_of(kind, {**values, parameter.name: other}).key,
                                    (kind.name, parameter.name))  # fmt: skip
            self.assertNotEqual(first.key, step_of(kind, values, 2.0).key)

    def _another(self, parameter: Parameter, value: Any) -> Any:
        match parameter.kind:
            case Kind.NUMBER:
                return value + 1
            case Kind.CHOICE:
                return next(choice for choice in parameter.choices if choice != value)
            case Kind.COLOUR:
                return ((value[0] + 0.3) % 1.0, *value[1:])
            case Kind.PAIR:
                return (value[0] + 1, value[1])
            case Kind.SWITCH:
                return not value
            case Kind.STOPS:
                return value[:-1]
            case Kind.SOURCE:
                return "another"
            case Kind.CURVE:
                return ((0.0, 0.2), *value[1:])
        raise AssertionError(parameter.kind)

    def test_neutral_values_change_nothing_and_cost_nothing(self) -> None:
        for kind, values in self.each():
            if kind.name in _NEVER_NEUTRAL:
                continue
            neutral = {**values, **_NEUTRAL[kind.name]}
            self.assertTrue(kind.neutral(neutral), kind.name)
            self.assertFalse(kind.neutral(values), kind.name)
            off = self._drawn(kind, {**values, "on": False})
            np.testing.assert_array_equal(self._drawn(kind, neutral), off, err_msg=kind.name)
            self.assertFalse(np.array_equal(self._drawn(kind, values), off), kind.name)

    def _drawn(self, kind: EffectKind, values: Mapping[str, Any]) -> np.ndarray:
        return render_frame(project(effected(kind.name, values)), "Piece", 0)

    def test_they_are_kept_in_the_file(self) -> None:
        for kind, values in self.each():
            start = project(effected(kind.name, values))
            self.assertEqual(start.compositions, from_json(to_json(start), "x").compositions, kind.name)

    def test_absurd_numbers_are_refused_with_a_sentence(self) -> None:
        for kind, values in self.each():
            for parameter in kind.own_parameters:
                if parameter.kind is Kind.NUMBER:
                    for number in (float("nan"), float("inf"), parameter.maximum + 1):
                        with self.assertRaises(ModelError):
                            effected(kind.name, {**values, parameter.name: number})


_NEUTRAL: dict[str, dict[str, Any]] = {
    "gaussian-blur": {"across": 0.0, "down": 0.0}, "displace": {"map": ""}, "halo": {"strength": 0.0},
    "grade": {"saturation": 100.0, "brightness": 100.0, "contrast": 100.0}, "exposure": {"stops": 0.0},
    "levels": {"in_black": 0.0, "in_white": 100.0, "gamma": 1.0, "out_black": 0.0, "out_white": 100.0},
    "hue": {"hue": 720.0, "saturation": 100.0, "lightness": 0.0}, "temperature": {"warmth": 0.0, "tint": 0.0},
    "invert": {"amount": 0.0}, "tint": {"amount": 0.0}, "two-tone-map": {"amount": 0.0},
    "three-tone-map": {"amount": 0.0}, "gradient-map": {"amount": 0.0}, "vignette": {"amount": 0.0},
    "replace-colour": {"new": (1.0, 0.0, 0.0, 1.0), "old": (1.0, 0.0, 0.0, 1.0)},
    "directional-blur": {"length": 0.0}, "spin-blur": {"angle": 0.0}, "zoom-blur": {"first": 100.0, "last": 100.0},
    "sharpen": {"amount": 0.0}, "bloom": {"strength": 0.0}, "churn": {"strength": 0.0}, "wave": {"height": 0.0},
    "twirl": {"angle": 0.0}, "bulge": {"amount": 0.0}, "ripple": {"height": 0.0}, "bend": {"angle": 0.0},
    "taper": {"first": 100.0, "last": 100.0}, "channel-split": {"red": (0.0, 0.0), "blue": (0.0, 0.0)},
    "strips": {"shift": 0.0}, "grain": {"amount": 0.0}, "checker-dissolve": {"gone": 0.0},
    "wipe": {"shown": 100.0, "inverted": False}, "drop-shadow": {"colour": (0.0, 0.0, 0.0, 0.0)},
    "outline": {"width": 0.0}, "inner-halo": {"strength": 0.0}, "inset-shadow": {"colour": (0.0, 0.0, 0.0, 0.0)},
    "flow-together": {"reach": 0.0},
    "grow-shrink": {"by": 0.0}, "blur-by-layer": {"map": ""}, "wipe-by-layer": {"shown": 100.0},
    "colour-lookup": {"lookup": ""},
    "tone-curve": {"all": ((0.0, 0.0), (1.0, 1.0))}, "fill": {"amount": 0.0}, "trail": {"strength": 0.0},
    "long-shadow": {"length": 0.0}, "corner-pin": {"top_left": (0.0, 0.0), "bottom_right": (100.0, 100.0)},
    "glint": {"passed": 300.0}, "reflection": {"strength": 0.0},
}  # fmt: skip
_NEVER_NEUTRAL = {"outline-only", "posterise", "threshold", "round", "pixelate", "tile", "mirror-wheel", "print-dots",
                  "clear-colour"}  # fmt: skip

#: Values that suit pictures of some 90 by 70 pixels.
_OTHER: dict[str, dict[str, Any]] = {
    "levels": {"in_black": 10.0, "gamma": 1.4, "out_white": 90.0, "in_white": 95.0},
    "hue": {"hue": 70.0, "lightness": -20.0}, "invert": {"amount": 80.0}, "tint": {"amount": 70.0},
    "two-tone-map": {"amount": 80.0}, "three-tone-map": {"amount": 80.0}, "gradient-map": {"amount": 80.0},
    "replace-colour": {"old": (0.5, 0.5, 0.5, 1.0)}, "directional-blur": {"length": 9.0, "angle": 30.0},
    "spin-blur": {"angle": 15.0}, "zoom-blur": {"first": 85.0, "last": 118.0}, "sharpen": {"radius": 1.5},
    "bloom": {"threshold": 30.0, "radius": 5.0, "octaves": 2.0},
    "churn": {"strength": 6.0, "grain": 30.0, "drift": (3.0, 1.0), "evolution": 20.0},
    "wave": {"height": 4.0, "length": 30.0, "direction": 20.0, "phase": 10.0, "pinned": "left and right"},
    "twirl": {"radius": 20.0, "angle": 80.0}, "bulge": {"radius": 22.0, "amount": 50.0},
    "ripple": {"height": 3.0, "length": 14.0, "radius": 50.0}, "pixelate": {"size": 7.5},
    "channel-split": {"red": (-3.5, 1.0), "blue": (2.0, 0.0)}, "strips": {"size": 9.0, "shift": 6.0},
    "grain": {"amount": 20.0, "size": 4.0}, "checker-dissolve": {"size": 8.0, "gone": 40.0},
    "wipe": {"softness": 20.0, "grain": 20.0}, "tile": {"size": 45.0, "offset": (20.0, 10.0), "angle": 10.0},
    "drop-shadow": {"distance": 6.0, "size": 3.0, "spread": 2.0, "colour": (0.0, 0.0, 0.5, 0.8)},
    "outline": {"width": 4.0, "gap": 1.0, "colour": (0.2, 1.0, 0.4, 1.0)},
    "inner-halo": {"size": 3.0, "strength": 90.0}, "inset-shadow": {"distance": 4.0, "size": 3.0},
    "corner-pin": {"top_left": (10.0, 5.0), "bottom_right": (92.0, 80.0)},
    "flow-together": {"reach": 3.0, "fullness": 10.0},
    "grow-shrink": {"by": 4.0}, "blur-by-layer": {"softness": 6.0}, "wipe-by-layer": {"shown": 40.0},
    "trail": {"count": 3.0, "apart": 2.0}, "tone-curve": {"all": ((0.0, 0.1), (0.4, 0.7), (1.0, 0.9))},
    "outline-only": {"width": 3.0},
    "long-shadow": {"length": 12.0}, "vignette": {"amount": 80.0, "size": 40.0},
    "glint": {"width": 30.0}, "print-dots": {"size": 7.0}, "reflection": {"length": 20.0, "softness": 1.5},
    "clear-colour": {"colour": (0.9, 0.4, 0.2, 1.0)},
}  # fmt: skip


def with_effect(layer: Layer, kind: str, values: Mapping[str, Any], block_id: str = "b1") -> Layer:
    block = Block(kind, block_id)
    return layer.with_block(block).with_values(**{block.named(name): value for name, value in values.items()})


def star(**values: object) -> Layer:
    return Layer("Star", "shape", 0, 20, id="star").with_values(
        **{"form": "star", "size": (50.0, 44.0), "position": (48.0, 40.0), "fill": (0.9, 0.5, 0.2, 1.0), **values}
    )


def clouds() -> Layer:
    return Layer("Clouds", "clouds", 0, 20, id="map").with_values(position=(48.0, 40.0), scale_px=(30.0, 30.0))


def effected(kind: str, values: Mapping[str, Any]) -> Layer:
    return with_effect(star(), kind, values)


def project(*layers: Layer, below: bool = True) -> Project:
    ground = (backdrop(96, 80, (0.1, 0.2, 0.3, 1.0)), clouds()) if below else ()
    return Project("P", (Composition("Piece", 96, 80, 25, 20, id="piece", layers=(*layers, *ground)),), (LOOKUP,))


class DefinitionsTest(unittest.TestCase):
    @settings(max_examples=20, deadline=None)
    @given(st.floats(0.5, 40), st.floats(0.5, 40), st.booleans())
    def test_the_blur_is_a_gaussian(self, across: float, down: float, repeat: bool) -> None:
        pixels = blob(120, 100)
        kind = effect_kind("gaussian-blur")
        values = {"across": across, "down": down, "edge": "repeat" if repeat else "clear"}
        made = kind.run(EffectJob(Raster(pixels), (0, 0, 120, 100), values))
        wanted = gaussian_filter(pixels.astype(np.float64), (down, across, 0), truncate=8,
                                 mode="nearest" if repeat else "constant")  # fmt: skip
        self.assertLess(float(np.abs(made.data - wanted).max()), 0.6 / 255)

    def test_displacing_follows_the_standard(self) -> None:
        pixels, moves = blob(), blob(seed=8)
        values = {"map": "m", "across": 11.0, "down": -7.0, "across_by": "red", "down_by": "alpha"}
        job = EffectJob(Raster(pixels), (0, 0, 90, 70), values, input=lambda name, region: Raster(moves).cut(region))
        made = effect_kind("displace").run(job).data
        alpha = moves[..., 3]
        red = np.where(alpha > 0, moves[..., 0] / np.where(alpha > 0, alpha, 1), 0)
        y, x = np.mgrid[0:70, 0:90].astype(np.float64)
        places = np.array([y - 7.0 * (alpha - 0.5), x + 11.0 * (red - 0.5)])
        for channel in range(4):
            wanted = map_coordinates(np.pad(pixels[..., channel], 20), places + 20, order=1, mode="constant")
            np.testing.assert_allclose(made[..., channel], wanted, atol=2e-5)

    def test_the_halo_lies_behind_and_grows_by_its_spread(self) -> None:
        pixels = np.zeros((60, 60, 4), dtype=np.float32)
        pixels[25:35, 25:35] = 1
        values = {"colour": (1.0, 0.0, 0.0, 1.0), "size": 0.0, "spread": 6.0, "strength": 100.0, "blend": "normal"}
        behind = effect_kind("halo").run(EffectJob(Raster(pixels), (0, 0, 60, 60), values)).behind.data
        row = behind[30, :, 3]
        self.assertAlmostEqual(22.0, float(row.sum()), places=4)
        np.testing.assert_array_equal(behind[..., 1], 0)
        y, x = np.mgrid[0:60, 0:60]
        far = np.hypot(np.maximum(np.abs(x - 29.5) - 5, 0), np.maximum(np.abs(y - 29.5) - 5, 0))
        self.assertAlmostEqual(float((far <= 6).sum()), float(behind[..., 3].sum()), delta=12)

    def test_content_fades_by_itself_where_all_finishes_are_off(self) -> None:
        plain = star(content_opacity=40.0)
        switched = with_effect(plain, "halo", {"on": False})
        faded = render_frame(project(star(opacity=40.0)), "Piece", 0)
        for layer in (plain, switched):
            np.testing.assert_allclose(render_frame(project(layer), "Piece", 0), faded, atol=1e-6)

    def test_content_fades_apart_from_its_finishes(self) -> None:
        glow = {"colour": (1.0, 0.0, 0.0, 1.0), "size": 3.0, "spread": 2.0, "blend": "normal"}
        both = with_effect(star(), "halo", glow)
        alone = both.with_values(content_opacity=0.0)
        faded = render_frame(project(alone), "Piece", 0)
        whole = render_frame(project(both), "Piece", 0)
        self.assertGreater(float(faded[40, 48, 0]), 0.9, "the halo also lies where the content was")
        self.assertLess(float(faded[40, 48, 1]), 0.1)
        self.assertAlmostEqual(0.5, float(whole[40, 48, 1]), places=2)


class RegionsTest(unittest.TestCase):
    """What is cut off by a frame looks as it would if it were not."""

    def nest(self, *layers: Layer, size: tuple[int, int] = (160, 140), **values: object) -> Project:
        inner = Composition("Inner", 120, 100, 25, 20, id="inner", layers=layers)
        shown = Layer("Shown", "nested", 0, 20, id="shown").with_values(composition="inner", **values)
        return Project("P", (Composition("Outer", *size, 25, 20, id="outer", layers=(shown,)), inner))

    def soft(self, **more: object) -> Layer:
        return Layer("Soft", "effect", 0, 20, id="soft").with_values(
            **{"softness": 9.0, "position": (60.0, 50.0), **more}
        )

    def content(self) -> tuple[Layer, ...]:
        ball = Layer("Ball", "shape", 0, 20, id="ball").with_values(
            form="ellipse", size=(60.0, 60.0), position=(20.0, 60.0), fill=(1.0, 0.8, 0.2, 1.0))  # fmt: skip
        ground = Layer("Ground", "backdrop", 0, 20, id="ground").with_values(
            position=(60.0, 50.0), style="linear", angle=30.0)  # fmt: skip
        return ball, ground

    def test_a_nest_half_outside_is_like_the_whole_one_cut(self) -> None:
        for soft in (self.soft(), with_effect(self.soft(softness=0.0), "gaussian-blur", {"across": 6.0, "down": 11.0})):
            whole = render_frame(self.nest(soft, *self.content(), position=(80.0, 70.0)), "outer", 0)
            for size in ((160, 90), (75, 140), (61, 67)):
                cut = render_frame(self.nest(soft, *self.content(), position=(80.0, 70.0), size=size), "outer", 0)
                np.testing.assert_allclose(cut, whole[: size[1], : size[0]], atol=1e-6)

    def test_the_same_for_a_layer_with_a_blur_and_a_halo(self) -> None:
        # A rectangle: the coverage of curves that are cut off is worked out a little otherwise.
        layer = Layer("Box", "shape", 0, 20, id="box").with_values(
            form="rectangle", size=(60.0, 60.0), fill=(1.0, 0.8, 0.2, 1.0))  # fmt: skip
        layer = with_effect(layer, "gaussian-blur", {"across": 5.0, "down": 9.0})
        layer = with_effect(layer, "halo", {"size": 8.0, "spread": 5.0}, "b2")
        layer = layer.with_values(position=(80.0, 70.0))
        whole, cut = (
            render_frame(Project("P", (Composition("C", *size, 25, 20, layers=(layer,)),)), "C", 0)
            for size in ((160, 140), (78, 73))
        )
        np.testing.assert_allclose(cut, whole[:73, :78], atol=1e-6)

    def test_a_turned_nest_with_softness_keeps_its_edges(self) -> None:
        straight = render_frame(self.nest(self.soft(), *self.content(), position=(80.0, 70.0)), "outer", 0)
        turned = render_frame(
            self.nest(self.soft(), *self.content(), position=(80.0, 70.0), rotation=90.0), "outer", 0
        )
        np.testing.assert_allclose(np.rot90(turned, 1)[20:140, 30:110], straight[10:130, 40:120], atol=0.02)

    def test_colours_on_an_effect_layer_need_no_picture_of_what_lies_beneath(self) -> None:
        grey = Layer("Grey", "effect", 0, 20, id="grey").with_values(saturation=0.0, position=(60.0, 50.0))
        made = render_frame(self.nest(grey, *self.content(), position=(80.0, 70.0)), "outer", 0)
        plain = render_frame(self.nest(*self.content(), position=(80.0, 70.0)), "outer", 0)
        wanted = plain[..., :3] @ np.array([0.2126, 0.7152, 0.0722], dtype=np.float32)
        np.testing.assert_allclose(made[..., 0], wanted, atol=1e-4)
        self.assertEqual(0.0, float(made[0, 0, 3]), "what lies outside of the nest stays as it is")


class OnLayersTest(unittest.TestCase):
    """Blocks among a layer's properties."""

    def test_their_numbers_carry_keys_and_follow(self) -> None:
        layer = with_effect(star(), "gaussian-blur", {"across": 0.0, "down": 0.0})
        name = "b1.across"
        keyed = layer.with_track(name, Track(0.0, (Key(0, 0.0), Key(10, 20.0))))
        self.assertEqual([name], keyed.shown_tracks())
        self.assertEqual("Gaussian blur: Across", keyed.parameter(name).full_label)
        follower = layer.with_track("b1.down", evolve(layer.track("b1.down"), driver=Follow("star2", name, 0.5)))
        piece = Composition("C", 96, 80, 25, 20, layers=(evolve(keyed, id="star2"), follower))
        at = Evaluated(Project("P", (piece,)), piece, 5.0)
        self.assertAlmostEqual(10.0, at.values(piece.layer("star2"))[name], places=9)
        self.assertAlmostEqual(5.0, at.values(follower)["b1.down"], places=9)

    def test_order_and_switch_count(self) -> None:
        blurred = with_effect(star(stroke=9.0), "gaussian-blur", {"across": 8.0, "down": 8.0})
        both = with_effect(blurred, "grade", {"contrast": 400.0}, "b2")
        turned = both.with_blocks_ordered(["b2", "b1"])
        first, second = (render_frame(project(y), "Piece", 0) for y in (both, turned))
        self.assertGreater(float(np.abs(first - second).max()), 0.05)
        off = both.with_track("b2.on", Track(True, (Key(0, True), Key(5, False))))
        alone, without = (render_frame(project(y), "Piece", 6) for y in (off, blurred))
        np.testing.assert_array_equal(alone, without)
        self.assertEqual(both.without_block("b2"), blurred)

    def test_a_mask_is_taken_before_the_effects_and_a_matte_after(self) -> None:
        window = Layer("Window", "shape", 0, 20, id="window").with_values(
            form="rectangle", size=(20.0, 80.0), fill=(1.0, 1.0, 1.0, 1.0))  # fmt: skip
        soft = with_effect(star(form="rectangle"), "gaussian-blur", {"across": 6.0, "down": 6.0})
        soft = evolve(soft, mattes=(Matte("window"),))
        mask = evolve(window, parent="star").with_values(position=(25.0, 22.0))
        matte = window.with_values(position=(48.0, 40.0))
        masked = render_frame(project(mask, soft, below=False), "Piece", 0)[40, :, 3]
        matted = render_frame(project(matte, soft, below=False), "Piece", 0)[40, :, 3]
        self.assertTrue(0.1 < masked[35] < 0.5, "the edge that the mask cut is soft")
        self.assertEqual(0.0, float(matted[35]), "the matte's edge is hard")

    def test_a_turned_layer_is_blurred_in_its_own_space(self) -> None:
        flat = with_effect(star(form="rectangle", size=(40.0, 40.0)), "gaussian-blur", {"across": 8.0, "down": 0.0})
        turned = flat.with_values(rotation=90.0)
        a, b = (render_frame(project(y, below=False), "Piece", 0)[..., 3] for y in (flat, turned))
        np.testing.assert_allclose(a[:, 8:88], np.rot90(b[:, 8:88]), atol=0.02)

    def test_displaced_by_a_layer_that_is_kept_out_of_sight(self) -> None:
        moved = with_effect(star(), "displace", {"map": "map", "across": 30.0, "down": 30.0})
        still = render_frame(project(star()), "Piece", 0)
        self.assertGreater(float(np.abs(render_frame(project(moved), "Piece", 0) - still).max()), 0.2)

    def test_unknown_effects_are_refused(self) -> None:
        with self.assertRaisesRegex(KeyError, "gaussian-blur"):
            Block("sparkle")
        with self.assertRaises(ModelError):
            evolve(star(), blocks=(Block("grade", "a"), Block("halo", "a")))


class CachedEqualsFreshTest(unittest.TestCase):
    """After every sort of edit a frame from a full cache is the frame from an empty one."""

    def edits(self) -> list[tuple[str, Project]]:
        layer = with_effect(star(), "gaussian-blur", {"across": 4.0, "down": 4.0})
        layer = with_effect(layer, "displace", {"map": "map"}, "b2")
        layer = with_effect(layer, "halo", {}, "b3")
        mask = evolve(Layer("Mask", "shape", 0, 20, id="mask"), parent="star").with_values(
            form="ellipse", size=(40.0, 40.0), position=(25.0, 22.0), fill=(1.0, 1.0, 1.0, 1.0))  # fmt: skip
        copies = Layer("Copies", "copies", 0, 20, id="copies").with_values(of="star", count=3.0, spacing=(20.0, 5.0),
                                                                        position=(30.0, 30.0), delay=2.0)  # fmt: skip
        group = Layer("Group", "group", 0, 20, id="group").with_values(size=(96.0, 80.0), position=(48.0, 40.0))
        inner = Composition("Inner", 40, 40, 25, 20, id="inner", layers=(star().with_values(position=(20.0, 20.0)),))
        nest = Layer("Nest", "nested", 0, 20, id="nest").with_values(composition="inner", position=(70.0, 60.0))
        base = project(mask, evolve(layer, mattes=(Matte("mask"),)), copies, group,
                       evolve(nest, parent="group").with_values(opacity=50.0), clouds().with_values(opacity=60.0),
               below=False)  # fmt: skip
        base = base.with_composition(inner)
        piece = base.composition("piece")

        def changed(**fields: Any) -> Project:
            return base.with_composition(evolve(piece, **fields))

        def with_(layer_id: str, **values: Any) -> Project:
            return base.with_composition(piece.with_layer(piece.layer(layer_id).with_values(**values)))

        def marked(layer_id: str, **fields: Any) -> Project:
            return base.with_composition(piece.with_layer(evolve(piece.layer(layer_id), **fields)))

        other = inner.with_layer(inner.layer("star").with_values(fill=(0.0, 1.0, 0.0, 1.0)))
        return [
            ("start", base), ("blur", with_("star", **{"b1.across": 11.0})), ("off", with_("star", **{"b1.on": False})),
            ("mask moved", with_("mask", position=(10.0, 10.0))), ("mask turned over", marked(
                "star", mattes=(Matte("mask", inverted=True),))),
            ("matte by brightness", base.with_composition(piece.with_layer(
                piece.layer("mask").with_values(fill=(0.5, 0.5, 0.5, 1.0))).with_layer(
                evolve(piece.layer("star"), mattes=(Matte("mask", "brightness"),))))),
            ("map", with_("map", seed=7.0)), ("map hidden", with_("map", visible=False)),
            ("halo", with_("star", **{"b3.colour": (0.0, 0.0, 1.0, 1.0)})),
            ("inside the nest", base.with_composition(other)),
            ("solo", marked("nest", solo=True)), ("group fades", with_("group", opacity=30.0)),
            ("group turned", with_("group", rotation=30.0)), ("copies", with_("copies", count=2.0, delay=5.0)),
            ("source of copies", with_("star", fill=(0.1, 0.1, 0.9, 1.0))), ("blend", with_("nest", blend="screen")),
            ("crop", with_("star", crop_across=(30.0, 0.0))), ("ground", changed(background=(1.0, 0.0, 0.0, 1.0))),
            ("order", marked("star", blocks=tuple(reversed(piece.layer("star").blocks)))),
            ("hung", marked("star", parent="nest")), ("span", marked("nest", first=5)),
        ]  # fmt: skip

    def shown_edits(self) -> list[tuple[str, Project]]:
        """Layers that show sources, other compositions and each other's edges; all of them change over frames."""
        red, blue, green = (square_source(20, colour) for colour in (
            (255, 0, 0, 255), (0, 0, 255, 255), (0, 160, 0, 255)))  # fmt: skip
        picture = with_effect(
            Layer("Picture", "picture", 0, 20, id="picture").with_values(source=red.id, position=(16.0, 14.0)),
            "gaussian-blur", {"across": 3.0, "down": 3.0},
        )  # fmt: skip
        book = Layer("Book", "flipbook", 0, 20, id="book").with_values(
            drawings=((blue.id, 5), (green.id, 5)), own_rate=25.0, position=(48.0, 20.0))  # fmt: skip
        book = with_effect(book, "gaussian-blur", {"across": 2.0, "down": 2.0})
        copies = Layer("Copies", "copies", 0, 20, id="copies").with_values(
            of="book", count=2.0, spacing=(24.0, 0.0), position=(48.0, 62.0))  # fmt: skip
        hub = Layer("Hub", "shape", 0, 20, id="hub").with_values(
            form="ellipse", size=(12.0, 12.0), fill=(1.0, 1.0, 1.0, 1.0))
        hub = hub.with_track("position", Track((20.0, 40.0), (Key(0, (20.0, 40.0)), Key(10, (60.0, 40.0)))))
        held = evolve(hub.with_track("position", Track((8.0, 50.0))), id="held", name="Held",
                      edge_pins=(EdgePin("left", "right", "hub", 2.0),))  # fmt: skip
        plain = Composition("Plain", 24, 16, 25, 20, id="plain", background=(0.9, 0.8, 0.1, 1.0))
        plate = Layer("Plate", "nested", 0, 20, id="plate").with_values(
            composition="plain", position=(80.0, 20.0), blend="multiply")  # fmt: skip
        base = evolve(project(picture, book, copies, held, hub, plate), sources=(red, blue, green))
        base = base.with_composition(plain)
        piece = base.composition("piece")

        def with_(layer_id: str, **values: Any) -> Project:
            return base.with_composition(piece.with_layer(piece.layer(layer_id).with_values(**values)))

        def showing(old: Source, colour: tuple[int, int, int, int]) -> Project:
            new = evolve(square_source(20, colour), id=old.id)
            return evolve(base, sources=tuple(new if s.id == old.id else s for s in base.sources))

        return [
            ("start", base), ("picture anew", showing(red, (255, 255, 0, 255))),
            ("drawing anew", showing(blue, (120, 0, 120, 255))), ("plate moved", with_("plate", position=(70.0, 50.0))),
            ("plate turned", with_("plate", rotation=40.0)), ("hub wider", with_("hub", size=(24.0, 12.0))),
            ("drawn slower", with_("book", drawings=((green.id, 9), (blue.id, 9)))),
            ("plate's ground", base.with_composition(evolve(plain, background=(0.1, 0.8, 0.9, 1.0)))),
        ]  # fmt: skip

    def test_whatever_was_edited(self) -> None:
        self.compare(self.edits())

    def test_whatever_is_shown(self) -> None:
        self.compare(self.shown_edits())

    def test_nothing_kept_holds_on_to_an_old_project(self) -> None:
        gone = []
        for _, made in self.edits():
            render_frame(made, "piece", 0)
            gone += [weakref.ref(made), *(weakref.ref(layer) for layer in made.composition("piece").layers)]
        del made
        gc.collect()
        self.assertEqual([], [kept() for kept in gone if kept() is not None])

    def compare(self, edits: list[tuple[str, Project]]) -> None:
        fresh = []
        for _, made in edits:
            pair = []
            for frame in (0, 6):
                BUDGET.clear()
                # Read anew, so that nothing kept beside a layer is found either.
                again = from_json(to_json(made), "P")
                pair.append(render_frame(evolve(again, sources=made.sources), "piece", frame))
            fresh.append(pair)
        BUDGET.clear()
        for _ in range(2):
            for (name, made), wanted in zip(edits, fresh, strict=True):
                for frame, picture in zip((0, 6), wanted, strict=True):
                    np.testing.assert_array_equal(render_frame(made, "piece", frame), picture, err_msg=name)
        firsts = [pair[0].tobytes() for pair in fresh]
        alike = {name for (name, _), first in zip(edits, firsts, strict=True) if firsts.count(first) > 1}
        self.assertEqual(set(), alike, "every edit is seen on the first frame")


class RolesTest(unittest.TestCase):
    def test_a_kind_is_an_effect_or_a_finish(self) -> None:
        self.assertEqual({EFFECT, FINISH}, {kind.role for kind in effect_kinds()})
        self.assertIsInstance(Effected(Picture(blob()), ()), Node)


class TileEdgesTest(unittest.TestCase):
    """Where tiles meet, nothing of what is behind shows through."""

    def test_tiles_of_an_opaque_picture_cover_at_any_size_and_place(self) -> None:
        source = square_source(60)
        for mirrored in (False, True):
            for scale in (37.3, 100.0, 156.0, 223.7):
                layer = Layer("Tiles", "picture", 0, 5).with_block(Block("tile", "t")).with_values(
                    **{"source": source.id, "position": (41.37, 52.81), "scale": (scale, scale), "t.mirrored": mirrored}
                )
                piece = Composition("P", 160, 120, 25, 5, layers=(layer,))  # type: ignore[arg-type]
                alpha = render_frame(Project("P", (piece,), (source,)), piece.id, 0)[..., 3]
                self.assertGreater(float(alpha.min()), 0.999, (mirrored, scale))


if __name__ == "__main__":
    unittest.main()
