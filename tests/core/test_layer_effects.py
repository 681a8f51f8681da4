"""Effects that read another layer or another moment, and those that redraw the outline, against other computations."""

from __future__ import annotations

import math
import unittest
from typing import Any

import numpy as np
from attrs import evolve
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.ndimage import gaussian_filter, maximum_filter, minimum_filter, zoom

from spiralis.core.effects.flow_together import contoured
from spiralis.core.effects.job import EffectJob
from spiralis.core.model import Composition, Key, Layer, Project, Track
from spiralis.core.model.blocks import effect_kind
from spiralis.core.raster.raster import Raster
from spiralis.core.render import render_frame
from tests.core.samples import backdrop
from tests.core.test_effect_definitions import run, straight, values_of
from tests.core.test_effects import blob, star, with_effect


def by_layer(name: str, pixels: np.ndarray, other: np.ndarray, **values: Any) -> np.ndarray:
    """Return what an effect makes of pixels while the layer that it goes by shows others."""
    height, width = pixels.shape[:2]
    job = EffectJob(
        Raster(pixels), (0, 0, width, height), values_of(name, map="other", **values),
        input=lambda _, region: Raster(other).cut(region), box=(0.0, 0.0, float(width), float(height)),
    )  # fmt: skip
    return effect_kind(name).run(job).spread_over(job.region).data


def grey(level: float, width: int = 90, height: int = 70) -> np.ndarray:
    return np.dstack([np.full((height, width, 3), level), np.ones((height, width))]).astype(np.float32)


def over(front: np.ndarray, behind: np.ndarray) -> np.ndarray:
    return front + behind * (1 - front[..., 3:])


class OutlineTest(unittest.TestCase):
    def square(self) -> np.ndarray:
        pixels = np.zeros((80, 80, 4), dtype=np.float32)
        pixels[25:55, 25:40] = (1, 0, 0, 1)
        pixels[25:55, 40:55] = (0, 0, 1, 1)
        return pixels

    @settings(max_examples=15, deadline=None)
    @given(st.integers(1, 9), st.booleans())
    def test_square_ones_are_the_standards_morphology(self, radius: int, grows: bool) -> None:
        made = run("grow-shrink", blob(), by=float(radius if grows else -radius), corners="square")
        work = maximum_filter if grows else minimum_filter
        size = (2 * radius + 1, 2 * radius + 1, 1)
        np.testing.assert_allclose(made, work(blob(), size=size, mode="constant"), atol=1e-6)

    def test_between_two_radii_it_lies_between_their_pictures(self) -> None:
        two, three, between = (
            run("grow-shrink", self.square(), by=by, corners="square")[..., 3].sum() for by in (2.0, 3.0, 2.5)
        )
        self.assertTrue(two < between < three, (two, between, three))

    def test_round_ones_have_the_area_of_a_rounded_square(self) -> None:
        grown = run("grow-shrink", self.square(), by=8.0)[..., 3]
        self.assertAlmostEqual(float(grown.sum()), 46 * 46 - (4 - math.pi) * 64, delta=12)
        shrunk = run("grow-shrink", self.square(), by=-8.0)[..., 3]
        self.assertAlmostEqual(float(shrunk.sum()), 14 * 14, delta=2)

    def test_what_is_new_has_the_colour_of_the_nearest_edge(self) -> None:
        made = run("grow-shrink", self.square(), by=8.0)
        np.testing.assert_allclose(made[40, 19], (1, 0, 0, 1), atol=1e-5)
        np.testing.assert_allclose(made[40, 60], (0, 0, 1, 1), atol=1e-5)
        np.testing.assert_allclose(made[25:55, 25:55], self.square()[25:55, 25:55], atol=1e-5)

    def test_a_soft_edge_is_a_gaussian_of_the_hard_one(self) -> None:
        hard = run("grow-shrink", self.square(), by=5.0)
        soft = run("grow-shrink", self.square(), by=5.0, softness=3.0)
        np.testing.assert_allclose(soft, gaussian_filter(hard.astype(np.float64), (3, 3, 0), truncate=8), atol=2e-3)

    def test_an_outline_alone_has_its_width_all_around(self) -> None:
        areas = {"inside": 30 * 30 - 22 * 22, "outside": 38 * 38 - (4 - math.pi) * 16 - 30 * 30,
                 "centre": 34 * 34 - (4 - math.pi) * 4 - 26 * 26}  # fmt: skip
        for place, area in areas.items():
            made = run("outline-only", self.square(), width=4.0, place=place, colour=(0.5, 1.0, 0.25, 1.0))
            self.assertAlmostEqual(float(made[..., 3].sum()), area, delta=9, msg=place)
            np.testing.assert_allclose(straight(made)[made[..., 3] > 0.5][0], (0.5, 1.0, 0.25), atol=1e-5)
            self.assertEqual(float(made[40, 40, 3]), 0.0)


class FlowTogetherTest(unittest.TestCase):
    def discs(self, apart: float, radius: float = 14.0) -> np.ndarray:
        """Return a red disc and a blue one with so much between them, 90 x 70, smooth at their edges."""
        y, x = np.mgrid[0:70, 0:90] + 0.5
        pixels = np.zeros((70, 90, 4), dtype=np.float32)
        for side, colour in ((-1, (1, 0, 0, 1)), (1, (0, 0, 1, 1))):
            away = np.hypot(x - 45 - side * (radius + apart / 2), y - 35)
            pixels += np.clip(radius + 0.5 - away, 0, 1)[..., None] * np.array(colour, dtype=np.float32)
        return pixels

    @settings(max_examples=15, deadline=None)
    @given(st.floats(1.0, 5.0), st.floats(-60, 60), st.floats(2, 16))
    def test_its_edge_is_the_contour_of_a_blur(self, reach: float, fullness: float, apart: float) -> None:
        pixels = self.discs(apart)
        made = run("flow-together", pixels, reach=reach, fullness=fullness)[..., 3]
        field = zoom(gaussian_filter(pixels[..., 3].astype(np.float64), reach), 5, order=3, mode="grid-constant",
                     grid_mode=True)  # fmt: skip
        wanted = (field > 0.5 - fullness / 200).reshape(70, 5, 90, 5).mean(axis=(1, 3))
        self.assertLess(float(np.abs(made - wanted).mean()), 4e-3)
        self.assertLess(float(np.abs(made - wanted).max()), 0.3)
        self.assertAlmostEqual(float(made.sum()), float(wanted.sum()), delta=0.01 * float(wanted.sum()) + 3)

    def test_where_nothing_rises_its_edge_is_soft(self) -> None:
        for height, cover in ((0.5, 0.5), (0.5001, 0.55), (0.4, 0.0), (0.6, 1.0)):
            found = contoured(np.full((9, 9), height, dtype=np.float32), 0.5, 4.0)
            np.testing.assert_allclose(found, cover, atol=0.05)

    def test_straight_edges_stay_where_they_are(self) -> None:
        pixels = np.zeros((70, 90, 4), dtype=np.float32)
        pixels[:, :45] = 1
        pixels[:, 45] = 0.3
        made = run("flow-together", pixels, reach=4.0)
        np.testing.assert_allclose(made[30:40], pixels[30:40], atol=0.03)

    def test_what_is_near_runs_together_and_what_is_far_does_not(self) -> None:
        for apart, reach, joined in ((3.0, 4.0, True), (3.0, 0.8, False), (16.0, 4.0, False)):
            made = run("flow-together", self.discs(apart), reach=reach)
            self.assertEqual(float(made[35, 45, 3]) > 0.99, joined, (apart, reach))
            self.assertEqual(float(made[35, 45, 3]) < 0.01, not joined, (apart, reach))

    def test_it_keeps_its_colours_and_mixes_them_in_between(self) -> None:
        pixels = self.discs(3.0)
        made = run("flow-together", pixels, reach=4.0)
        inside = (pixels[..., 3] == 1) & (made[..., 3] == 1)
        self.assertGreater(int(inside.sum()), 900)
        np.testing.assert_allclose(made[inside], pixels[inside], atol=1e-6)
        between = (made[35, 44, :3] + made[35, 45, :3]) / 2
        np.testing.assert_allclose(between, (0.5, 0, 0.5), atol=0.02)

    def test_fuller_is_more_and_thin_things_go_where_it_is_thinner(self) -> None:
        areas = [run("flow-together", self.discs(8.0), reach=4.0, fullness=full)[..., 3].sum() for full in (-60, 0, 60)]
        self.assertEqual(areas, sorted(areas))
        thin = np.zeros((70, 90, 4), dtype=np.float32)
        thin[:, 44:46] = 1
        self.assertEqual(float(run("flow-together", thin, reach=4.0)[..., 3].max()), 0.0)


class GradientLineTest(unittest.TestCase):
    def test_an_outline_is_painted_in_a_gradient_across_the_layer(self) -> None:
        pixels = np.zeros((70, 90, 4), dtype=np.float32)
        pixels[10:60, 10:80] = 1
        stops = ((0.0, 1.0, 0.0, 0.0, 1.0), (1.0, 0.0, 0.0, 1.0, 1.0))
        made = run("outline", pixels, paint="gradient", stops=stops, angle=0.0, width=4.0, place="inside").front
        line = made.spread_over((0, 0, 90, 70)).data
        place = (np.arange(90) + 0.5) / 90
        np.testing.assert_allclose(line[11, 12:78, 0], 1 - place[12:78], atol=3e-3)
        np.testing.assert_allclose(line[11, 12:78, 2], place[12:78], atol=3e-3)
        self.assertEqual(float(line[35, 45, 3]), 0.0)
        plain = run("outline", pixels, width=4.0, place="inside").front.spread_over((0, 0, 90, 70)).data
        np.testing.assert_allclose(line[..., 3], plain[..., 3], atol=1e-6)


class ByLayerTest(unittest.TestCase):
    def test_an_even_layer_blurs_evenly_by_its_brightness(self) -> None:
        for level in (1.0, 0.5, 0.25):
            made = by_layer("blur-by-layer", blob(), grey(level), softness=8.0)
            sigma = 8.0 * level
            wanted = gaussian_filter(blob().astype(np.float64), (sigma, sigma, 0), mode="constant", truncate=8)
            np.testing.assert_allclose(made, wanted, atol=3e-3)
        np.testing.assert_allclose(by_layer("blur-by-layer", blob(), grey(0.0), softness=8.0), blob(), atol=1e-6)

    def test_between_two_levels_it_lies_near_the_gaussian_between(self) -> None:
        made = by_layer("blur-by-layer", blob(), grey(0.37), softness=8.0)
        wanted = gaussian_filter(blob().astype(np.float64), (2.96, 2.96, 0), mode="constant", truncate=8)
        self.assertLess(float(np.abs(made - wanted).max()), 0.07)

    def test_each_side_is_as_soft_as_its_side_of_the_layer(self) -> None:
        halves = grey(0.0)
        halves[:, 45:, :3] = 1
        made = by_layer("blur-by-layer", blob(), halves, softness=6.0)
        np.testing.assert_allclose(made[:, :45], blob()[:, :45], atol=1e-6)
        turned = by_layer("blur-by-layer", blob(), halves, softness=6.0, inverted=True)
        np.testing.assert_allclose(turned[:, 45:], blob()[:, 45:], atol=1e-6)
        self.assertGreater(float(np.abs(made[:, 45:] - blob()[:, 45:]).max()), 0.1)

    @settings(max_examples=15, deadline=None)
    @given(st.floats(0, 100), st.floats(1, 60), st.booleans())
    def test_a_wipe_follows_the_order_of_brightness(self, shown: float, softness: float, inverted: bool) -> None:
        ramp = grey(0.0)
        ramp[..., :3] = np.linspace(0, 1, 90, dtype=np.float32)[None, :, None]
        made = by_layer("wipe-by-layer", grey(0.8), ramp, shown=shown, softness=softness, inverted=inverted)
        order = np.linspace(0, 1, 90) if inverted else 1 - np.linspace(0, 1, 90)
        soft = softness / 100
        share = np.clip((shown / 100 * (1 + soft) - order) / soft, 0, 1)
        np.testing.assert_allclose(made[30, :, 3], share, atol=1e-4)

    def test_a_fill_keeps_the_outline_and_takes_the_layers_colours(self) -> None:
        other = blob(seed=11)
        other[..., :] = np.where(other[..., 3:] > 0, other, 0)
        made = by_layer("fill", blob(), other, **{"with": "layer"})
        np.testing.assert_allclose(made[..., 3], blob()[..., 3], atol=1e-6)
        np.testing.assert_allclose(made, other * blob()[..., 3:] + blob() * (1 - other[..., 3:]), atol=1e-6)
        half = by_layer("fill", blob(), other, amount=50.0, **{"with": "layer"})
        np.testing.assert_allclose(half, (made + blob()) / 2, atol=1e-6)

    def test_a_gradient_goes_across_the_layers_box(self) -> None:
        stops = ((0.0, 1.0, 0.0, 0.0, 1.0), (1.0, 0.0, 0.0, 1.0, 0.5))
        made = run("fill", grey(0.2), stops=stops, angle=0.0)
        place = (np.arange(90) + 0.5) / 90
        alpha = 1 - 0.5 * place
        wanted = np.stack([(1 - place) * alpha, 0 * place, place * alpha], axis=-1) + 0.2 * (1 - alpha)[:, None]
        np.testing.assert_allclose(made[30, :, :3], wanted, atol=2e-3)
        np.testing.assert_allclose(made[..., 3], 1.0, atol=1e-6)


class TurningTest(unittest.TestCase):
    """A shadow turns with its layer, or falls to one side of the frame whatever the layer does."""

    def shadow(self, turns: bool, **place: object) -> tuple[float, float]:
        """Return where the middle of the shadow is beside that of the layer, in px of the frame."""
        ball = Layer("Ball", "shape", 0, 20, id="ball").with_values(
            **{"form": "ellipse", "size": (20.0, 20.0), "position": (48.0, 40.0), **place}
        )
        values = {"turns": turns, "angle": 0.0, "distance": 16.0, "size": 0.0, "colour": (0.0, 0.0, 0.0, 1.0)}
        lit = with_effect(ball, "drop-shadow", values).with_values(content_opacity=0.0)
        piece = Composition("Piece", 96, 80, 25, 20, id="piece", layers=(lit,))
        weight = render_frame(Project("P", (piece,)), "piece", 0)[..., 3]
        y, x = np.mgrid[0:80, 0:96] + 0.5
        return float((x * weight).sum() / weight.sum()) - 48, float((y * weight).sum() / weight.sum()) - 40

    def test_it_turns_along_or_not(self) -> None:
        np.testing.assert_allclose(self.shadow(True, rotation=90.0), (0, 16), atol=0.3)
        np.testing.assert_allclose(self.shadow(False, rotation=90.0), (16, 0), atol=0.3)
        np.testing.assert_allclose(self.shadow(False, rotation=-37.0), (16, 0), atol=0.3)
        np.testing.assert_allclose(self.shadow(True), self.shadow(False), atol=1e-6)

    def test_a_flipped_layer_throws_it_to_the_same_side_too(self) -> None:
        np.testing.assert_allclose(self.shadow(True, scale=(-100.0, 100.0)), (-16, 0), atol=0.3)
        np.testing.assert_allclose(self.shadow(False, scale=(-100.0, 100.0)), (16, 0), atol=0.3)


class TrailTest(unittest.TestCase):
    def piece(self, *layers: Layer, loop: bool = True) -> Project:
        composition = Composition("Piece", 96, 80, 25, 20, id="piece", layers=layers, loop=loop)
        return Project("P", (composition,))

    def moving(self, **values: object) -> Layer:
        way = Track((20.0, 40.0), (Key(0, (20.0, 40.0)), Key(20, (80.0, 40.0))))
        return star(size=(24.0, 24.0), **values).with_track("position", way)

    def trailing(self, layer: Layer, **values: Any) -> Layer:
        return with_effect(layer, "trail", values_of("trail", **values))

    def test_it_is_the_earlier_frames_over_each_other_behind_the_layer(self) -> None:
        for rotation in (0.0, 25.0):
            moving = self.moving(rotation=rotation)
            made = render_frame(self.piece(self.trailing(moving, count=3.0, apart=2.0, decay=50.0, strength=80.0)),
                                "piece", 12)  # fmt: skip
            # A turned layer is drawn upright and sampled as soon as it has any effect.
            plain = with_effect(moving, "exposure", {"stops": 1e-6}, "b2")
            now, *earlier = (render_frame(self.piece(plain), "piece", frame) for frame in (12, 10, 8, 6))
            wanted = now
            for picture, density in zip(earlier, (0.8, 0.4, 0.2), strict=True):
                wanted = over(wanted, picture * np.float32(density))
            self.assertLess(float(np.abs(made - wanted).max()), 1e-4 if rotation == 0 else 0.2)
            self.assertLess(float(np.abs(made - wanted).mean()), 1e-5 if rotation == 0 else 1e-3)

    def test_in_a_loop_it_comes_from_the_end(self) -> None:
        moving = self.trailing(self.moving(), count=1.0, apart=3.0, strength=100.0)
        looped = render_frame(self.piece(moving), "piece", 1)
        earlier = render_frame(self.piece(self.moving()), "piece", 18)
        now = render_frame(self.piece(self.moving()), "piece", 1)
        np.testing.assert_allclose(looped, over(now, earlier), atol=1e-5)
        np.testing.assert_array_equal(render_frame(self.piece(moving, loop=False), "piece", 1), now)

    def test_it_shows_where_the_layer_itself_is_out_of_sight(self) -> None:
        way = Track((20.0, 40.0), (Key(0, (48.0, 40.0)), Key(4, (400.0, 40.0))))
        layer = self.trailing(star(size=(24.0, 24.0)).with_track("position", way), count=1.0, apart=4.0)
        self.assertGreater(float(render_frame(self.piece(layer), "piece", 4)[40, 48, 3]), 0.5)

    def test_it_follows_what_carries_the_layer(self) -> None:
        carrier = Layer("Carrier", "carrier", 0, 20, id="carrier").with_track(
            "position", Track((0.0, 0.0), (Key(0, (20.0, 40.0)), Key(20, (80.0, 40.0))))
        )
        carried = evolve(star(size=(24.0, 24.0), position=(50.0, 50.0)), parent="carrier")
        hung = self.trailing(carried, count=1.0, apart=4.0, strength=100.0)
        now, earlier = (render_frame(self.piece(carried, carrier), "piece", frame) for frame in (12, 8))
        self.assertGreater(float(np.abs(now - earlier).max()), 0.5)
        np.testing.assert_allclose(render_frame(self.piece(hung, carrier), "piece", 12), over(now, earlier), atol=1e-4)

    def test_it_fades_with_the_layer(self) -> None:
        plain = render_frame(self.piece(self.trailing(self.moving(), apart=2.0)), "piece", 12)
        faded = render_frame(self.piece(self.trailing(self.moving(opacity=50.0), apart=2.0)), "piece", 12)
        self.assertLess(float(faded[..., 3].sum()), 0.6 * float(plain[..., 3].sum()))

    def test_an_edit_of_the_earlier_frames_changes_it(self) -> None:
        project = self.piece(self.trailing(self.moving(), apart=6.0), backdrop(96, 80, (0.0, 0.0, 0.0, 1.0)))
        before = render_frame(project, "piece", 12)
        piece = project.compositions[0]
        way = Track((20.0, 40.0), (Key(0, (20.0, 10.0)), Key(12, (56.0, 40.0)), Key(20, (80.0, 40.0))))
        moved = evolve(piece, layers=(piece.layers[0].with_track("position", way), piece.layers[1]))
        after = render_frame(project.with_composition(moved), "piece", 12)
        self.assertGreater(float(np.abs(after - before).max()), 0.2)


if __name__ == "__main__":
    unittest.main()
