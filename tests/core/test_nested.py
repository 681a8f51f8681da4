"""Nested compositions: in place, in time, cut to their frame, drawn as one picture."""

from __future__ import annotations

import unittest
from fractions import Fraction

import numpy as np
from attrs import evolve
from hypothesis import given, settings
from hypothesis import strategies as st

from spiralis.core.animation.easing import HOLD
from spiralis.core.errors import ModelError
from spiralis.core.model import Composition, Key, Layer, Project, Track
from spiralis.core.model.project import DEEPEST_NEST
from spiralis.core.raster.kernels import covering
from spiralis.core.render import render_frame
from spiralis.core.render.frame import rgba8_of
from spiralis.core.render.plan import plan_frame
from spiralis.core.render.redrawn import changed
from tests.core.samples import backdrop, seam_jumps, square_source


def nest(inner: Composition, *others: Layer, **values: object) -> Project:
    """Return a 64 by 48 piece at 25 fps that shows ``inner`` in its middle."""
    layer = Layer("Nest", "nested", 0, 50, id="nest").with_values(
        composition=inner.id, **{"position": (32.0, 24.0), **values}
    )
    outer = Composition("Outer", 64, 48, Fraction(25), 50, layers=(layer, *others))
    return Project("p", (outer, inner), (SQUARE,))


SQUARE = square_source(20)


def inner(*layers: Layer, **values: object) -> Composition:
    return evolve(Composition("Inner", 40, 30, Fraction(25), 50, layers=layers), **values)


def square(**values: object) -> Layer:
    return Layer("Square", "picture", 0, 50).with_values(source=SQUARE.id, **{"position": (20.0, 15.0), **values})


class PictureTest(unittest.TestCase):
    def test_a_cover_multiplies_every_channel(self) -> None:
        random = np.random.default_rng(4)
        pixels = random.random((7, 9, 4)).astype(np.float32)
        cover = random.choice(np.array([0, 1, 128, 254, 255], dtype=np.uint8), (7, 9))
        expected = pixels * (cover[..., None] / 255)
        covering.multiply(pixels, cover)
        np.testing.assert_allclose(pixels, expected, rtol=1e-6)
        self.assertFalse(pixels[cover == 0].any())

    def test_it_looks_as_its_layers_would_outside(self) -> None:
        nested = nest(inner(square(), square(position=(26.0, 18.0), opacity=50.0)))
        straight = (square(position=(32.0, 24.0)), square(position=(38.0, 27.0), opacity=50.0))
        open_ = Project("p", (Composition("Outer", 64, 48, Fraction(25), 50, layers=straight),), (SQUARE,))
        np.testing.assert_array_equal(render_frame(nested, "Outer", 0), render_frame(open_, "Outer", 0))

    def test_opacity_acts_on_the_whole_and_not_on_each(self) -> None:
        nested = nest(inner(square(), square()), opacity=50.0)
        self.assertAlmostEqual(float(render_frame(nested, "Outer", 0)[24, 32, 3]), 0.5, places=5)

    def test_blending_inside_stays_inside(self) -> None:
        ground = backdrop(64, 48, (0.5, 0.5, 0.5, 1.0))
        nested = nest(inner(square(blend="multiply")), ground)
        # Multiplied with nothing, the square keeps its own red.
        np.testing.assert_allclose(render_frame(nested, "Outer", 0)[24, 32], [1, 0, 0, 1], atol=1e-5)

    def test_it_is_cut_to_its_frame_also_when_turned(self) -> None:
        big = inner(square(scale=(900.0, 900.0)))
        upright = render_frame(nest(big), "Outer", 0)[..., 3]
        self.assertAlmostEqual(float(upright.sum()), 40 * 30, places=2)
        turned = render_frame(nest(big, rotation=30.0), "Outer", 0)[..., 3]
        self.assertAlmostEqual(float(turned.sum()), 40 * 30, delta=8)
        self.assertEqual(float(turned[24, 32]), 1.0)

    def test_a_ground_colour_fills_its_frame(self) -> None:
        frame = render_frame(nest(inner(background=(0.0, 1.0, 0.0, 1.0))), "Outer", 0)
        np.testing.assert_allclose(frame[24, 32], [0, 1, 0, 1], atol=1e-6)
        self.assertEqual(float(frame[4, 4, 3]), 0.0)

    @settings(max_examples=20, deadline=None)
    @given(st.floats(-180, 180), st.floats(20, 300), st.floats(0, 64), st.floats(0, 48))
    def test_any_placement_agrees_with_a_parent_that_does_the_same(
        self, turn: float, size: float, x: float, y: float
    ) -> None:
        place = {"rotation": turn, "scale": (size, size), "position": (x, y)}
        nested = render_frame(nest(inner(square()), **place), "Outer", 0)
        holder = Layer("Holder", "picture", 0, 50, id="holder").with_values(
            source=SQUARE.id, opacity=0.0, pivot=(50.0, 50.0), **place
        )
        child = evolve(square(position=(10.0, 10.0)), parent="holder")
        straight = Project("p", (Composition("Outer", 64, 48, Fraction(25), 50, layers=(child, holder)),), (SQUARE,))
        self.assertLess(float(np.abs(nested - render_frame(straight, "Outer", 0)).max()), 0.02)


def _shares(size: tuple[float, float], layer: Layer, grid: int = 16) -> np.ndarray:
    """Return how much of each pixel of the outer frame lies within a nest's frame, by samples."""
    x, y = layer.track("position").value
    angle, (across, down) = np.radians(layer.track("rotation").value), layer.track("scale").value
    steps = (np.arange(64 * grid) + 0.5) / grid
    dx, dy = np.meshgrid(steps - x, steps[: 48 * grid] - y)
    u = (np.cos(angle) * dx + np.sin(angle) * dy) / (across / 100)
    v = (np.cos(angle) * dy - np.sin(angle) * dx) / (down / 100)
    within = (np.abs(u) <= size[0] / 2) & (np.abs(v) <= size[1] / 2)
    return within.reshape(48, grid, 64, grid).mean(axis=(1, 3))


class FrameTest(unittest.TestCase):
    """What leaves a nest's frame is cut there by its edges, wherever and however small the nest is drawn."""

    @settings(max_examples=40, deadline=None)
    @given(
        st.floats(20, 44), st.floats(16, 32), st.floats(-180, 180), st.floats(4, 110), st.floats(4, 110),
        st.sampled_from(["plain", "ground", "linear", "blended"]),
    )  # fmt: skip
    def test_it_shows_as_much_of_a_pixel_as_lies_within(
        self, x: float, y: float, angle: float, across: float, down: float, how: str
    ) -> None:
        full = square(scale=(4000.0, 4000.0))
        made = inner(full, background=(0.0, 0.0, 1.0, 1.0) if how == "ground" else None)
        blend = "screen" if how == "blended" else "normal"
        project = nest(made, position=(x, y), rotation=angle, scale=(across, down), blend=blend)
        outer = evolve(project.composition("Outer"), light="linear" if how == "linear" else "encoded")
        project = project.with_composition(outer)
        # Asked for again it is a picture of its own.
        first, again = (render_frame(project, "Outer", 0) for _ in range(2))
        np.testing.assert_allclose(first, again, atol=2e-6)
        expected = _shares((40.0, 30.0), outer.layers[0])
        np.testing.assert_allclose(first[..., 3], expected, atol=0.13)
        seen, around = float(expected.sum()), 0.8 * across + 0.6 * down
        self.assertAlmostEqual(float(first[..., 3].sum()), seen, delta=0.02 * seen + around / 16)

    def test_upright_edges_are_exact_and_parts_are_the_whole(self) -> None:
        for ground in (None, (0.0, 0.0, 1.0, 1.0)):
            for across in (0.5, 1.2, 3.0, 71.0):
                made = inner(square(scale=(4000.0, 4000.0)), background=ground)
                project = nest(made, position=(30.3, 21.85), scale=(across, 53.0))
                whole = render_frame(project, "Outer", 0)
                left, right = 30.3 - across / 100 * 20, 30.3 + across / 100 * 20
                columns = np.minimum(np.arange(64) + 1, right) - np.maximum(np.arange(64), left)
                np.testing.assert_allclose(whole[22, :, 3], np.clip(columns, 0, 1), atol=1e-5)
        table = plan_frame(project, "Outer", 0, 1.0)
        for area in ((0, 0, 30, 20), (13, 7, 46, 31), (16, 0, 17, 48)):
            part = rgba8_of(evolve(table, area=area))
            np.testing.assert_array_equal(part, rgba8_of(table)[area[1] : area[3], area[0] : area[2]])

    def test_a_nest_that_stands_still_is_not_drawn_again(self) -> None:
        still = nest(inner(square(scale=(400.0, 400.0))), position=(20.3, 21.85), scale=(40.0, 40.0))
        moving = Layer("Dot", "picture", 0, 50).with_values(source=SQUARE.id, scale=(20.0, 20.0))
        moving = moving.with_track("position", Track((50.0, 8.0), (Key(0, (50.0, 8.0)), Key(9, (50.0, 40.0)))))
        outer = still.composition("Outer")
        project = still.with_composition(evolve(outer, layers=(moving, *outer.layers)))
        # The third frame is the first that finds the nest as it was in the one before.
        plans = [plan_frame(project, "Outer", frame, 1.0) for frame in range(4)]
        for box in changed(plans[2], plans[3]):
            self.assertGreater(box[0], 40)


class TimeTest(unittest.TestCase):
    def test_another_rate_and_length_are_met_in_seconds(self) -> None:
        keys = tuple(Key(f, 100.0 if f % 2 == 0 else 0.0) for f in range(12))
        track = Track(100.0, tuple(evolve(key, easing=HOLD) for key in keys))
        blinking = inner(square().with_track("opacity", track), rate=Fraction(50), length=12)
        sample = nest(blinking)
        for frame in range(14):
            lit = float(render_frame(sample, "Outer", frame)[24, 32, 3]) > 0.5
            self.assertEqual(lit, (2 * frame % 12) % 2 == 0)
        sample = nest(evolve(blinking, rate=Fraction(25)))
        self.assertEqual([float(render_frame(sample, "Outer", f)[24, 32, 3]) for f in range(4)], [1, 0, 1, 0])

    def test_start_shifts_it_and_the_seam_check_sees_it(self) -> None:
        fade = square().with_track("opacity", Track(0.0, (Key(0, 0.0), Key(14, 100.0), Key(20, 0.0))))
        sample = nest(inner(fade, length=20), start=5.0)
        self.assertEqual(float(render_frame(sample, "Outer", 5)[24, 32, 3]), 0.0)
        outer = sample.composition("Outer")
        self.assertEqual(seam_jumps(sample, outer), ["Nest: does not come round"])
        whole = nest(inner(fade, length=25))
        self.assertEqual(seam_jumps(whole, whole.composition("Outer")), [])

    def test_frame_n_and_n_plus_length_are_the_same_bits(self) -> None:
        sample = nest(inner(square().with_track("rotation", Track(0.0, (Key(0, 0.0), Key(50, 360.0))))))
        for frame in (0, 7, 31):
            np.testing.assert_array_equal(
                render_frame(sample, "Outer", frame), render_frame(sample, "Outer", frame + 50)
            )


class CircleTest(unittest.TestCase):
    def test_circles_are_refused_with_their_names(self) -> None:
        first = inner(id="first", name="First")
        sample = nest(first)
        back = Layer("Back", "nested", 0, 9).with_values(composition=sample.composition("Outer").id)
        with self.assertRaises(ModelError) as caught:
            sample.with_composition(evolve(first, layers=(back,)))
        self.assertIn("“Outer”", str(caught.exception))
        self.assertIn("“First”", str(caught.exception))

    def test_nests_are_counted_also_where_the_deepest_shows_nothing(self) -> None:
        def chain(depth: int) -> list[Composition]:
            pieces = [Composition("P0", 64, 64, Fraction(25), 10, id="p0", layers=(square(),))]
            for number in range(1, depth + 1):
                shows = Layer("N", "nested", 0, 10).with_values(composition=f"p{number - 1}")
                pieces.append(Composition(f"P{number}", 64, 64, Fraction(25), 10, id=f"p{number}", layers=(shows,)))
            return pieces

        for order in (1, -1):
            with self.subTest(order=order):
                Project("P", tuple(chain(DEEPEST_NEST)[::order]))
                for depth in (DEEPEST_NEST + 1, 400):
                    with self.assertRaisesRegex(ModelError, f"over {DEEPEST_NEST} deep in “P"):
                        Project("P", tuple(chain(depth)[::order]))

    def test_what_is_not_there_draws_nothing(self) -> None:
        sample = nest(inner())
        lone = evolve(sample, compositions=sample.compositions[:1])
        self.assertEqual(float(render_frame(lone, "Outer", 0).sum()), 0.0)
