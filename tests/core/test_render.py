"""Frames against closed-form pictures, and the promises about identical bits."""

import unittest
from fractions import Fraction

import numpy as np
from attrs import evolve

from spiralis.core.checks.seam import check
from spiralis.core.colour import linear_to_srgb, srgb_to_linear
from spiralis.core.compositing import blend
from spiralis.core.errors import UnknownName
from spiralis.core.model import Extend, Key, Layer, Project, Rule, Track
from spiralis.core.render.frame import render_frame, render_rgba8, render_straight8, render_yuv420
from spiralis.core.render.plan import plan_frame
from spiralis.demo.project import demo_project
from tests.core.samples import backdrop, moving, piece, project, seam_jumps, square_source

RED = (1.0, 0.0, 0.0, 1.0)
BLUE = (0.0, 0.0, 1.0, 1.0)


def square(**values: object) -> Layer:
    """Return a 20 px picture layer in the middle of a 64 by 48 frame."""
    return Layer("Square", "picture", 0, 100).with_values(**{"position": (32.0, 24.0), **values})


def with_square(layer: Layer, *others: Layer, **values: object) -> Project:
    source = square_source()
    return project(layer.with_values(source=source.id), *others, sources=(source,), **values)


class ClosedFormTest(unittest.TestCase):
    def test_flat_ground_is_its_colour_everywhere(self) -> None:
        frame = render_frame(project(backdrop(64, 48, (0.25, 0.5, 0.75, 1.0))), "Piece", 0)
        self.assertEqual(frame.shape, (48, 64, 4))
        np.testing.assert_allclose(frame, np.broadcast_to((0.25, 0.5, 0.75, 1.0), frame.shape), atol=1e-6)

    def test_an_empty_piece_is_clear_or_its_background(self) -> None:
        self.assertEqual(float(render_frame(project(), "Piece", 0).max()), 0.0)
        frame = render_frame(project(background=(0.5, 0.25, 0.0, 0.5)), "Piece", 3)
        np.testing.assert_allclose(frame[0, 0], (0.25, 0.125, 0, 0.5))

    def test_opacity_is_source_over(self) -> None:
        sample = project(backdrop(64, 48, RED, opacity=25.0), backdrop(64, 48, BLUE))
        frame = render_frame(sample.with_composition(_own_ids(sample)), "Piece", 0)
        np.testing.assert_allclose(frame[5, 5], (0.25, 0, 0.75, 1), atol=1e-6)

    def test_linear_gradient_runs_evenly_from_stop_to_stop(self) -> None:
        stops = ((0.0, 0.2, 0.2, 0.2, 1.0), (1.0, 0.2, 0.2, 0.2, 0.0))
        layer = backdrop(64, 48, RED).with_values(style="linear", stops=stops, angle=0.0)
        alpha = render_frame(project(layer), "Piece", 0)[10, :, 3]
        np.testing.assert_allclose(alpha, 1 - (np.arange(64) + 0.5) / 64, atol=1e-5)

    def test_radial_gradient_depends_on_the_distance_alone(self) -> None:
        stops = ((0.0, 1.0, 1.0, 1.0, 1.0), (1.0, 1.0, 1.0, 1.0, 0.0))
        layer = backdrop(64, 48, RED).with_values(style="radial", stops=stops)
        alpha = render_frame(project(layer), "Piece", 0)[..., 3]
        y, x = np.mgrid[0:48, 0:64] + 0.5
        expected = 1 - np.hypot(x - 32, y - 24) / (np.hypot(64, 48) / 2)
        np.testing.assert_allclose(alpha, np.clip(expected, 0, 1), atol=1e-5)

    def test_a_picture_on_whole_pixels_is_copied_exactly(self) -> None:
        frame = render_straight8(with_square(square()), "Piece", 0)
        expected = np.zeros((48, 64), bool)
        expected[14:34, 22:42] = True
        np.testing.assert_array_equal(frame[..., 3] == 255, expected)
        np.testing.assert_array_equal(frame[expected], np.broadcast_to((255, 0, 0, 255), (400, 4)))

    def test_half_a_pixel_aside_gives_half_covered_edges(self) -> None:
        frame = render_frame(with_square(square(position=(32.5, 24.0))), "Piece", 0)
        np.testing.assert_allclose(frame[20, [22, 23, 41, 42], 3], [0.5, 1, 1, 0.5], atol=1e-5)

    def test_a_turned_square_keeps_its_area(self) -> None:
        for degrees in (15.0, 45.0, 80.0):
            frame = render_frame(with_square(square(rotation=degrees)), "Piece", 0)
            self.assertAlmostEqual(float(frame[..., 3].sum()), 400, delta=8, msg=str(degrees))

    def test_scale_skew_and_mirror(self) -> None:
        for values, area in (
            ({"scale": (50.0, 100.0)}, 200),
            ({"scale": (-100.0, 100.0)}, 400),
            ({"skew": (30.0, 0.0)}, 400),
        ):
            frame = render_frame(with_square(square(**values)), "Piece", 0)
            self.assertAlmostEqual(float(frame[..., 3].sum()), area, delta=8, msg=str(values))

    def test_the_pivot_stands_on_the_position(self) -> None:
        frame = render_frame(with_square(square(pivot=(0.0, 0.0), position=(10.0, 6.0))), "Piece", 0)
        columns, rows = np.flatnonzero(frame[..., 3].max(axis=0)), np.flatnonzero(frame[..., 3].max(axis=1))
        self.assertEqual((columns[0], columns[-1], rows[0], rows[-1]), (10, 29, 6, 25))

    def test_nothing_is_drawn_for_what_cannot_be_seen(self) -> None:
        for values in ({"opacity": 0.0}, {"visible": False}, {"position": (900.0, 24.0)}, {"scale": (0.0, 100.0)}):
            plan = plan_frame(with_square(square(**values)), "Piece", 0)
            self.assertEqual(len(plan.operations), 0, values)
        self.assertEqual(len(plan_frame(with_square(evolve(square(), first=5)), "Piece", 4).operations), 0)

    def test_a_blend_mode_in_a_frame_is_the_formula(self) -> None:
        for mode in ("multiply", "screen", "overlay", "luminosity", "plus-lighter"):
            top, ground = (0.9, 0.3, 0.5, 0.6), (0.2, 0.7, 0.4, 1.0)
            sample = project(backdrop(64, 48, top, blend=mode), backdrop(64, 48, ground))
            frame = render_frame(sample.with_composition(_own_ids(sample)), "Piece", 0)
            pixels = [np.array([(*(v * c[3] for v in c[:3]), c[3])], np.float32) for c in (top, ground)]
            np.testing.assert_allclose(frame[7, 7], blend(mode, *pixels)[0], atol=1e-6, err_msg=mode)

    def test_scales_render_the_same_picture_smaller(self) -> None:
        sample = with_square(square(), backdrop(64, 48, BLUE))
        full, half = render_frame(sample, "Piece", 0), render_frame(sample, "Piece", 0, 0.5)
        self.assertEqual(half.shape, (24, 32, 4))
        mean = full.reshape(24, 2, 32, 2, 4).mean(axis=(1, 3))
        self.assertLess(np.abs(mean - half).max(), 0.3)
        self.assertLess(np.abs(mean - half).mean(), 0.01)

    def test_huge_scales_and_turns_neither_break_nor_stall(self) -> None:
        for values in ({"scale": (10_000.0, 10_000.0)}, {"rotation": 36_000.0}, {"position": (1e6, -1e6)}):
            frame = render_frame(with_square(square(**values)), "Piece", 0)
            self.assertTrue(np.all(np.isfinite(frame)))
        np.testing.assert_array_equal(
            render_frame(with_square(square(rotation=36_000.0)), "Piece", 0),
            render_frame(with_square(square()), "Piece", 0),
        )


class ParentTest(unittest.TestCase):
    def test_a_child_moves_and_turns_with_its_parent(self) -> None:
        parent = evolve(square(rotation=90.0), id="parent")
        child = evolve(square(position=(20.0, 10.0), scale=(10.0, 10.0)), id="child", parent="parent")
        source = square_source()
        layers = [layer.with_values(source=source.id) for layer in (child, parent)]
        sample = project(layers[0], layers[1].with_values(opacity=0.0), sources=(source,))
        frame = render_frame(sample, "Piece", 0)
        y, x = np.mgrid[0:48, 0:64] + 0.5
        weight = frame[..., 3]
        # (20, 10) is the middle of the parent's right edge: a quarter turn clockwise puts it below the middle.
        middle = ((weight * x).sum() / weight.sum(), (weight * y).sum() / weight.sum())
        np.testing.assert_allclose(middle, (32, 34), atol=0.05)


class MotionBlurTest(unittest.TestCase):
    def test_a_moving_edge_is_a_box_filter_in_linear_light(self) -> None:
        layer = moving(square(motion_blur=True), (12.0, 24.0), (52.0, 24.0), 2).with_values(motion_blur=True)
        sample = with_square(layer, backdrop(64, 48, (0.0, 0.0, 0.0, 1.0)))
        sample = sample.with_composition(evolve(sample.composition("Piece"), shutter_angle=360.0, shutter_phase=-180.0))
        frame = render_frame(sample, "Piece", 1)
        # Twenty pixels a frame over the whole frame time: coverage rises from 12 to 32 and falls to 52.
        x = np.arange(64) + 0.5
        expected = np.clip(np.minimum(x - 12, 52 - x) / 20, 0, 1)
        np.testing.assert_allclose(frame[24, :, 0], expected, atol=0.04)
        self.assertLess(np.abs(frame[24, :, 0] - expected).mean(), 0.01)

    def test_two_colours_mix_as_light(self) -> None:
        pixels = np.zeros((20, 20, 4), dtype=np.uint8)
        pixels[..., 3] = 255
        pixels[:, 10:] = 255
        from spiralis.core.media.pictures import picture_source
        from tests.core.samples import png_bytes

        source = picture_source(png_bytes(pixels), "halves.png")
        layer = moving(square(), (22.0, 24.0), (32.0, 24.0), 1).with_values(motion_blur=True, source=source.id)
        sample = project(layer, sources=(source,))
        sample = sample.with_composition(
            evolve(sample.composition("Piece"), shutter_angle=360.0, shutter_phase=0.0, loop=False)
        )
        frame = render_frame(sample, "Piece", 0)
        # While the edge travels from 22 to 32, the pixel at 27 is half the time black, half white.
        half = float(linear_to_srgb(np.array(0.5 * srgb_to_linear(np.array(1.0)))))
        self.assertAlmostEqual(float(frame[24, 26:28, 0].mean()), half, delta=0.03)

    def test_a_spinning_bar_is_the_mean_of_many_moments(self) -> None:
        bar = Layer("Bar", "shape", 0, 20, id="bar").with_values(
            form="rectangle", size=(70.0, 9.0), fill=(1.0, 1.0, 1.0, 1.0), position=(50.0, 50.0), motion_blur=True
        )
        turning = bar.with_track("rotation", Track(0.0, (Key(0, 0.0), Key(10, 300.0))))
        made = project(turning, width=100, height=100, shutter_angle=180.0, shutter_phase=0.0)
        blurred = render_frame(made, "Piece", 4)
        total = np.zeros((100, 100))
        still = turning.with_values(motion_blur=False)
        plain = project(still, width=100, height=100)
        for moment in 4 + 0.5 * (np.arange(256) + 0.5) / 256:
            total += render_frame(plain, "Piece", float(moment))[..., 3].astype(np.float64) / 256
        # What covers a place half of the time covers it by half.
        cover = blurred[..., 3].astype(np.float64)
        gap = np.abs(cover - total)
        self.assertLess(float(np.sqrt(np.mean(gap**2))), 0.005)
        # Only single pixels at the bar's corners, where each moment's edge is sampled once more, are further off.
        self.assertLess(float(np.mean(gap > 0.02)), 0.005)
        self.assertLess(float(gap.max()), 0.1)
        self.assertAlmostEqual(float(cover.sum() / total.sum()), 1.0, delta=0.02)

    def test_what_stands_still_is_not_blurred(self) -> None:
        still, blurred = with_square(square()), with_square(square(motion_blur=True))
        np.testing.assert_array_equal(render_frame(still, "Piece", 1), render_frame(blurred, "Piece", 1))


class IdentityTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.demo = demo_project()

    def test_a_loop_comes_back_to_the_same_bits(self) -> None:
        for composition in self.demo.compositions:
            for frame in (0, 7, composition.length - 1):
                first = render_frame(self.demo, composition.id, frame, 0.4)
                again = render_frame(self.demo, composition.id, frame + composition.length, 0.4)
                np.testing.assert_array_equal(first, again, err_msg=f"{composition.name} {frame}")

    def test_threads_within_a_frame_change_nothing(self) -> None:
        for frame in (20, 75):
            alone = render_rgba8(self.demo, "kite-day", frame)
            np.testing.assert_array_equal(alone, render_rgba8(self.demo, "kite-day", frame, threads=2))

    def test_the_demo_is_clean_at_its_seams(self) -> None:
        for composition in self.demo.compositions:
            causes = check(self.demo, composition).causes
            self.assertEqual([cause.sentence for cause in causes], [], composition.name)

    def test_the_step_over_the_seam_is_like_its_neighbours(self) -> None:
        for composition in self.demo.compositions:
            first, n = composition.span
            places = (n - 3, n - 2, n - 1, first, first + 1, first + 2)
            frames = [render_frame(self.demo, composition.id, f, 0.25) for f in places]
            steps = [float(np.abs(b - a).mean()) for a, b in zip(frames, frames[1:], strict=False)]
            self.assertLessEqual(steps[2], max(steps[0], steps[1], steps[3], steps[4]) * 1.25 + 1e-6, composition.name)

    def test_the_seam_check_finds_a_jump_and_names_it(self) -> None:
        layer = moving(square(), (10.0, 20.0), (40.0, 20.0), 20)
        jumping = with_square(layer)
        self.assertEqual(seam_jumps(jumping, jumping.composition("Piece")), ["Square: Position"])
        looped = with_square(layer.with_track("position", evolve(layer.track("position"), after=Extend(Rule.REPEAT))))
        self.assertEqual(seam_jumps(looped, looped.composition("Piece")), [])

    def test_values_that_jump_unseen_are_no_jump(self) -> None:
        rows = [square(position=(x, 24.0)) for x in (-48.0, -16.0, 16.0, 48.0, 80.0, 112.0)]
        carrier = moving(Layer("World", "carrier", 0, 100, id="world"), (50.0, 50.0), (18.0, 50.0), 20)
        source = square_source()
        layers = [evolve(y.with_values(source=source.id), id=f"s{i}", parent="world") for i, y in enumerate(rows)]
        made = project(*layers, carrier, sources=(source,))
        self.assertEqual(seam_jumps(made, made.composition("Piece")), [])

    def test_unknown_names_are_answered_with_the_known_ones(self) -> None:
        with self.assertRaisesRegex(UnknownName, "Kite day"):
            render_frame(self.demo, "Nothing like that", 0)


class OutputTest(unittest.TestCase):
    def test_exact_levels_are_not_dithered(self) -> None:
        for level in (0, 1, 77, 128, 254, 255):
            value = level / 255
            pixels = render_rgba8(project(backdrop(64, 48, (value, value, value, 1.0))), "Piece", 0)
            self.assertEqual(set(np.unique(pixels[..., :3])), {level})

    def test_dither_keeps_the_mean_and_stands_still(self) -> None:
        value = 100.37 / 255
        sample = project(backdrop(64, 48, (value, value, value, 1.0)))
        first, second = (render_rgba8(sample, "Piece", frame) for frame in (0, 9))
        np.testing.assert_array_equal(first, second)
        self.assertAlmostEqual(float(first[..., 0].mean()), 100.37, delta=0.03)

    def test_yuv_agrees_with_bt709(self) -> None:
        for colour in ((1.0, 1.0, 1.0), (1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.1, 0.4, 0.9)):
            luma, cb, cr = render_yuv420(project(backdrop(64, 48, (*colour, 1.0))), "Piece", 0)
            light = float(np.dot((0.2126, 0.7152, 0.0722), colour))
            expected = (
                16 + 219 * light,
                128 + 224 * (colour[2] - light) / 1.8556,
                128 + 224 * (colour[0] - light) / 1.5748,
            )
            for plane, value in zip((luma, cb, cr), expected, strict=True):
                self.assertAlmostEqual(float(plane.mean()), value, delta=0.1, msg=str(colour))

    def test_odd_sizes_repeat_the_last_row_and_column(self) -> None:
        sample = project(backdrop(31, 17, (0.2, 0.4, 0.6, 1.0)), width=31, height=17)
        luma, cb, _ = render_yuv420(sample, "Piece", 0)
        self.assertEqual((luma.shape, cb.shape), ((18, 32), (9, 16)))
        self.assertLessEqual(int(np.ptp(luma)), 1)

    def test_no_premultiplied_colour_exceeds_its_alpha(self) -> None:
        pixels = render_rgba8(project(backdrop(64, 48, (1.0, 0.9, 0.8, 0.37))), "Piece", 0)
        self.assertTrue(np.all(pixels[..., :3] <= pixels[..., 3:]))


def _own_ids(sample: Project) -> object:
    composition = sample.composition("Piece")
    return evolve(
        composition, rate=Fraction(25), layers=tuple(evolve(y, id=f"id{i}") for i, y in enumerate(composition.layers))
    )


class FractionalFramesTest(unittest.TestCase):
    def test_a_frame_between_frames_lies_between(self) -> None:
        layer = moving(square(), (20.0, 24.0), (30.0, 24.0), 10)
        frame = render_frame(with_square(layer), "Piece", 2.5)
        weight = frame[..., 3]
        x = np.arange(64) + 0.5
        self.assertAlmostEqual(float((weight * x).sum() / weight.sum()), 22.5, delta=0.01)

    def test_keys_on_every_numeric_property_are_used(self) -> None:
        start = square()
        for name in ("position", "scale", "rotation", "skew", "pivot", "opacity"):
            parameter = start.parameter(name)
            low = parameter.default
            high = tuple(v + 7 for v in low) if isinstance(low, tuple) else low - 7
            animated = start.with_track(name, Track(low, (Key(0, low), Key(10, high))))
            sample = with_square(animated)
            self.assertFalse(np.array_equal(render_frame(sample, "Piece", 0), render_frame(sample, "Piece", 6)), name)
        self.assertEqual(piece(start).layers[0].animated(), [])


class StandingStillTest(unittest.TestCase):
    def test_what_is_kept_between_frames_never_shows_an_older_version(self) -> None:
        red, blue = square_source(20, (255, 0, 0, 255)), square_source(20, (0, 0, 255, 255))
        still = Layer("Still", "picture", 0, 20, id="still").with_values(source=red.id, position=(20.0, 24.0))
        words = Layer("Words", "text", 0, 20, id="words").with_values(text="x", size=20.0, position=(45.0, 24.0))
        sample = project(still, words, sources=(red, blue))
        first = render_frame(sample, "Piece", 0)
        np.testing.assert_array_equal(render_frame(sample, "Piece", 7), first)
        piece = sample.compositions[0]
        moved = sample.with_composition(piece.with_layer(still.with_values(position=(30.0, 24.0))))
        self.assertEqual(float(render_frame(moved, "Piece", 0)[24, 12, 3]), 0.0)
        swapped = sample.with_changed(evolve(blue, id=red.id))
        np.testing.assert_allclose(render_frame(swapped, "Piece", 0)[24, 20], [0, 0, 1, 1], atol=1e-6)
        np.testing.assert_array_equal(render_frame(sample, "Piece", 3), first)
        hidden = sample.with_composition(piece.with_layer(still.with_values(visible=False)))
        self.assertEqual(float(render_frame(hidden, "Piece", 0)[24, 20, 3]), 0.0)

    def test_layers_that_hang_or_move_are_worked_out_each_time(self) -> None:
        source = square_source(10)
        parent = moving(Layer("P", "carrier", 0, 20, id="p"), (10.0, 24.0), (50.0, 24.0), 19)
        child = evolve(
            Layer("C", "picture", 0, 20, id="c").with_values(source=source.id, position=(50.0, 50.0)), parent="p"
        )
        sample = project(child, parent, sources=(source,))
        self.assertNotEqual(
            render_frame(sample, "Piece", 0)[24].tobytes(), render_frame(sample, "Piece", 19)[24].tobytes()
        )
