"""Tracks: keys, extend rules, paths, colours, held values."""

import unittest

import numpy as np
from attrs import evolve
from hypothesis import given
from hypothesis import strategies as st

from spiralis.core.animation.easing import HOLD, CubicBezier, Easing, LinearPoints, Steps
from spiralis.core.animation.motion_path import travel
from spiralis.core.animation.spacing import spacing, speeds
from spiralis.core.animation.tracks import _fold, evaluate, value_at
from spiralis.core.colour import oklab_to_srgb, srgb_to_oklab
from spiralis.core.editing.shaping import flatten, smooth_through, softness
from spiralis.core.errors import ModelError
from spiralis.core.model import Extend, Key, Kind, Parameter, Rule, Track

NUMBER = Parameter("n", "Number", Kind.NUMBER, 0.0, "")
PAIR = Parameter("p", "Place", Kind.PAIR, (0.0, 0.0), "", is_path=True)
COLOUR = Parameter("c", "Colour", Kind.COLOUR, (0.0, 0.0, 0.0, 1.0), "")
WORDS = Parameter("w", "Words", Kind.TEXT, "", "")
STOPS = Parameter("s", "Stops", Kind.STOPS, ((0.0, 0.0, 0.0, 0.0, 1.0), (1.0, 1.0, 1.0, 1.0, 1.0)), "")


def ramp(after: Rule = Rule.ONCE, before: Rule = Rule.ONCE, count: int = 0) -> Track:
    """From 10 on frame 0 to 30 on frame 10."""
    return Track(0.0, (Key(0, 10.0), Key(10, 30.0)), before=Extend(before, count), after=Extend(after, count))


def at(track: Track, *frames: float) -> list[float]:
    return [round(float(v), 9) for v in evaluate(track, NUMBER, np.array(frames, dtype=float))[:, 0]]


class KeysTest(unittest.TestCase):
    def test_no_key_one_key_two_keys(self) -> None:
        self.assertEqual(at(Track(7.0), -5, 0, 5), [7, 7, 7])
        self.assertEqual(at(Track(7.0, (Key(3, 9.0),)), -5, 3, 50), [9, 9, 9])
        self.assertEqual(at(ramp(), -1, 0, 5, 10, 11), [10, 10, 20, 30, 30])

    def test_hold_and_easing_between_keys(self) -> None:
        track = Track(0.0, (Key(0, 0.0, HOLD), Key(10, 5.0, CubicBezier(0.42, 0, 1, 1)), Key(20, 15.0)))
        self.assertEqual(at(track, 0, 9.99, 10), [0, 0, 5])
        self.assertAlmostEqual(at(track, 15)[0], 5 + 10 * Easing.from_css("ease-in")(0.5), 6)

    def test_keys_are_put_in_order_and_never_share_a_frame(self) -> None:
        track = Track(0.0, (Key(10, 2.0), Key(0, 1.0)))
        self.assertEqual([key.frame for key in track.keys], [0, 10])
        with self.assertRaises(ModelError):
            Track(0.0, (Key(4, 1.0), Key(4, 2.0)))

    def test_moving_a_key_onto_another_replaces_it(self) -> None:
        track = Track(0.0, (Key(0, 1.0), Key(5, 2.0), Key(9, 3.0))).moved({5}, 4)
        self.assertEqual([(key.frame, key.value) for key in track.keys], [(0, 1.0), (9, 2.0)])

    @given(
        st.lists(st.tuples(st.integers(-20, 40), st.floats(-1e4, 1e4), st.integers(0, 5)), min_size=1, max_size=5,
                 unique_by=lambda k: k[0]),
        st.sampled_from(list(Rule)), st.sampled_from(list(Rule)), st.floats(-60, 90), st.booleans(),
    )  # fmt: skip
    def test_one_frame_is_the_very_value_of_many_frames(
        self, marks: list[tuple[int, float, int]], before: Rule, after: Rule, frame: float, whole: bool
    ) -> None:
        easings = [HOLD, CubicBezier(0, 0, 1, 1), CubicBezier(0.42, 0, 0.58, 1), CubicBezier(0.3, -0.6, 0.7, 1.6),
                   Easing.from_css("steps(3, jump-none)"), Easing.from_css("linear(0, .2 40%, 1)")]  # fmt: skip
        track = Track(0.0, tuple(Key(f, v, easings[e]) for f, v, e in marks), Extend(before), Extend(after))
        moment = round(frame) if whole else frame
        wanted = NUMBER.from_array(evaluate(track, NUMBER, np.array([float(moment)]))[0])
        self.assertEqual(value_at(track, NUMBER, moment), wanted)
        both = tuple(Key(f, (v, -v), easings[e]) for f, v, e in marks)
        pairs = Track((0.0, 0.0), both, Extend(before), Extend(after))
        place = PAIR.from_array(evaluate(pairs, PAIR, np.array([float(moment)]))[0])
        self.assertEqual(value_at(pairs, PAIR, moment), place)

    def test_the_last_key_leaves_its_value(self) -> None:
        self.assertEqual(Track(0.0, (Key(3, 8.0),)).without_keys({3}), Track(8.0))

    @given(
        st.lists(
            st.tuples(st.integers(-50, 50), st.floats(-100, 100)), min_size=1, max_size=8, unique_by=lambda k: k[0]
        )
    )
    def test_straight_keys_agree_with_interpolation(self, marks: list[tuple[int, float]]) -> None:
        track = Track(0.0, tuple(Key(frame, value) for frame, value in marks))
        frames = np.linspace(-60, 60, 121)
        ordered = sorted(marks)
        expected = np.interp(frames, [m[0] for m in ordered], [m[1] for m in ordered])
        np.testing.assert_allclose(evaluate(track, NUMBER, frames)[:, 0], expected, atol=1e-9)

    @given(
        st.lists(st.floats(-40, 80), min_size=1, max_size=20), st.sampled_from(list(Rule)), st.sampled_from(list(Rule))
    )
    def test_many_at_once_agree_with_one_by_one(self, frames: list[float], before: Rule, after: Rule) -> None:
        track = ramp(after, before)
        together = evaluate(track, NUMBER, np.array(frames))[:, 0]
        np.testing.assert_allclose(together, [value_at(track, NUMBER, f) for f in frames], atol=1e-9)


    @given(
        st.floats(-40, 80), st.sampled_from(list(Rule)), st.sampled_from(list(Rule)), st.integers(0, 3),
        st.sampled_from((HOLD, Steps(3), Steps(4, "jump-none"), LinearPoints(((0, 0), (0.3, 1.2), (1, 1))))),
    )
    def test_one_frame_is_what_many_are_under_any_ease_and_rule(
        self, frame: float, before: Rule, after: Rule, count: int, ease: Easing
    ) -> None:
        keys = (Key(0, 10.0, ease), Key(7, -4.0, ease), Key(10, 30.0))
        track = Track(0.0, keys, before=Extend(before, count), after=Extend(after, count))
        for at in (frame, float(round(frame))):
            together = evaluate(track, NUMBER, np.array([at, 3.0]))[0, 0]
            self.assertAlmostEqual(value_at(track, NUMBER, at), NUMBER.from_array(np.array([together])), 9)

    @given(st.floats(-40, 80), st.sampled_from(list(Rule)), st.sampled_from(list(Rule)))
    def test_words_change_at_their_keys_under_any_rule(self, frame: float, before: Rule, after: Rule) -> None:
        texts, places = ("a", "b", "c"), (0, 7, 10)
        keys = tuple(Key(place, text) for place, text in zip(places, texts, strict=True))
        track = Track("", keys, before=Extend(before), after=Extend(after))
        # The same thread of numbers says which key it is, each held until the next.
        held = tuple(Key(place, float(n), HOLD) for n, place in enumerate(places))
        numbers = Track(0.0, held, before=Extend(before), after=Extend(after))
        for at in (frame, float(round(frame))):
            local, _ = _fold(numbers, np.array([at]))
            expected = texts[max(n for n, place in enumerate(places) if place <= local[0] + 1e-9)]
            self.assertEqual(value_at(track, WORDS, at), expected)


class ExtendTest(unittest.TestCase):
    def test_repeat_is_half_open(self) -> None:
        self.assertEqual(at(ramp(Rule.REPEAT), 9, 10, 11, 20, 25), [28, 10, 12, 10, 20])
        self.assertEqual(at(ramp(before=Rule.REPEAT), -1, -10, -5), [28, 10, 20])

    def test_ping_pong(self) -> None:
        self.assertEqual(at(ramp(Rule.PING_PONG), 10, 12, 20, 22), [30, 26, 10, 14])
        self.assertEqual(at(ramp(before=Rule.PING_PONG), -2, -10, -12), [14, 30, 26])

    def test_accumulate_adds_a_cycle_each_time_without_drift(self) -> None:
        self.assertEqual(at(ramp(Rule.ACCUMULATE), 10, 15, 20, 10_005), [30, 40, 50, 10 + 1000 * 20 + 10])
        self.assertEqual(at(ramp(before=Rule.ACCUMULATE), -5, -10), [0, -10])

    def test_carry_on_keeps_the_last_speed(self) -> None:
        self.assertEqual(at(ramp(Rule.CARRY_ON), 11, 20), [32, 50])
        self.assertEqual(at(ramp(before=Rule.CARRY_ON), -5), [0])

    def test_a_count_ends_it(self) -> None:
        self.assertEqual(at(ramp(Rule.REPEAT, count=1), 15, 19, 20, 25, 99), [20, 28, 30, 30, 30])


class PathTest(unittest.TestCase):
    def test_straight_path(self) -> None:
        np.testing.assert_allclose(
            travel((0, 0), (10, 20), None, None, np.array([0.0, 0.5, 1.5])), [[0, 0], [5, 10], [15, 30]]
        )

    @given(*(st.tuples(st.floats(-300, 300), st.floats(-300, 300)) for _ in range(3)))
    def test_speed_is_even_along_the_way(
        self, end: tuple[float, float], out: tuple[float, float], into: tuple[float, float]
    ) -> None:
        points = travel((0.0, 0.0), end, out, into, np.linspace(0, 1, 2001))
        steps = np.hypot(*np.diff(points, axis=0).T)
        if steps.sum() < 1:
            return
        # Where the way turns back on itself a chord is shorter than its arc; no step is ever longer than even.
        runs = steps.reshape(-1, 10).sum(axis=1)
        self.assertLess(runs.max() / runs.mean(), 1.006)
        self.assertLess(abs(np.median(runs) / runs.mean() - 1), 0.006)

    def test_gentle_curve_is_even_to_half_a_percent(self) -> None:
        points = travel((0.0, 0.0), (400.0, 0.0), (120.0, -200.0), (-120.0, -200.0), np.linspace(0, 1, 401))
        steps = np.hypot(*np.diff(points, axis=0).T)
        self.assertLess(np.abs(steps / steps.mean() - 1).max(), 0.005)

    def test_handles_bend_the_track(self) -> None:
        track = Track(
            (0.0, 0.0), (Key(0, (0.0, 0.0), handle_out=(0.0, -100.0)), Key(10, (100.0, 0.0), handle_in=(0.0, -100.0)))
        )
        middle = value_at(track, PAIR, 5)
        self.assertAlmostEqual(middle[0], 50, 4)
        self.assertAlmostEqual(middle[1], -75, 4)

    def test_path_without_length(self) -> None:
        result = travel((5.0, 5.0), (5.0, 5.0), (0.0, 0.0), (0.0, 0.0), np.array([0.0, 0.7]))
        np.testing.assert_array_equal(result, [[5, 5], [5, 5]])


class ColourTest(unittest.TestCase):
    def test_oklab_of_known_colours(self) -> None:
        # Values of CSS Color 4, section 9 (white, and red to three decimals).
        np.testing.assert_allclose(srgb_to_oklab(np.array([[1.0, 1, 1]])), [[1, 0, 0]], atol=1e-4)
        np.testing.assert_allclose(srgb_to_oklab(np.array([[1.0, 0, 0]])), [[0.628, 0.225, 0.126]], atol=1e-3)

    @given(st.tuples(*(st.floats(0, 1) for _ in range(3))))
    def test_there_and_back(self, rgb: tuple[float, float, float]) -> None:
        np.testing.assert_allclose(oklab_to_srgb(srgb_to_oklab(np.array([rgb]))), [rgb], atol=1e-6)

    def test_keys_keep_their_exact_colours_and_fade_keeps_the_hue(self) -> None:
        red, clear = (0.9, 0.1, 0.2, 1.0), (0.9, 0.1, 0.2, 0.0)
        track = Track(red, (Key(0, red), Key(10, clear)))
        self.assertEqual(value_at(track, COLOUR, 0), red)
        half = value_at(track, COLOUR, 5)
        np.testing.assert_allclose(half, (0.9, 0.1, 0.2, 0.5), atol=1e-6)

    def test_gradients_mix_stop_by_stop(self) -> None:
        dark = ((0.0, 0.0, 0.0, 0.0, 1.0), (0.5, 0.2, 0.2, 0.2, 1.0))
        light = ((0.2, 1.0, 1.0, 1.0, 1.0), (1.0, 0.2, 0.2, 0.2, 1.0))
        mixed = value_at(Track(dark, (Key(0, dark), Key(10, light))), STOPS, 5)
        self.assertAlmostEqual(mixed[0][0], 0.1)
        self.assertAlmostEqual(mixed[1][0], 0.75)
        self.assertAlmostEqual(mixed[1][1], 0.2, 5)


class HeldTest(unittest.TestCase):
    def test_words_hold_until_the_next_key(self) -> None:
        track = Track("", (Key(5, "a"), Key(9, "b")), after=Extend(Rule.ONCE))
        self.assertEqual([value_at(track, WORDS, f) for f in (0, 5, 8.9, 9, 50)], ["a", "a", "a", "b", "b"])

    def test_words_repeat(self) -> None:
        track = Track("", (Key(0, "a"), Key(5, "b"), Key(10, "a")), after=Extend(Rule.REPEAT))
        self.assertEqual([value_at(track, WORDS, f) for f in (12, 17, 23)], ["a", "b", "a"])


def slopes(track: Track, parameter: Parameter, *sides: tuple[float, int]) -> list[float]:
    """The speed just after (1) or before (-1) frames."""
    step = 1e-3
    found = []
    for frame, side in sides:
        near, far = (value_at(track, parameter, frame + times * side * step) for times in (1, 2))
        found.append((far - near) * side / step)
    return found


class ShapingTest(unittest.TestCase):
    def test_flatten_and_smooth(self) -> None:
        track = Track(0.0, (Key(0, 0.0), Key(10, 10.0), Key(30, 40.0)))
        flat = speeds(flatten(track, 10), NUMBER, np.array([9.95, 10.05]))
        np.testing.assert_allclose(flat, 0, atol=0.1)
        smooth = speeds(smooth_through(track, NUMBER, 10), NUMBER, np.array([9.9, 10.1]))
        np.testing.assert_allclose(smooth, 40 / 30, atol=0.05)

    @given(st.lists(st.tuples(st.integers(4, 15), st.integers(-90, 90)), min_size=2, max_size=5), st.integers(-50, 50))
    def test_a_loop_is_smooth_through_its_seam(self, steps: list[tuple[int, int]], start: int) -> None:
        frames = np.cumsum([0, *(gap for gap, _ in steps)]).tolist()
        values = [start, *(value for _, value in steps[:-1]), start]
        track = Track(0.0, tuple(Key(f, float(v)) for f, v in zip(frames, values, strict=True)))
        begin, end = frames[0], frames[-1]
        for at in (begin, end):
            made = smooth_through(track, NUMBER, at, (begin, end))
            out, into = slopes(made, NUMBER, (begin, 1), (end, -1))
            way_in, way_out = values[-1] - values[-2], values[1] - values[0]
            if way_in * way_out <= 0:
                np.testing.assert_allclose((out, into), 0, atol=0.4)
            else:
                expected = (way_in + way_out) / (frames[-1] - frames[-2] + frames[1] - frames[0])
                np.testing.assert_allclose((out, into), expected, rtol=0.02, atol=0.4)
        # Without a seam there, or with another end, an end is an end.
        other = evolve(track, keys=(*track.keys[:-1], Key(end, float(start + 30))))
        for thread, seam in ((track, None), (track, (begin, end + 1)), (other, (begin, end))):
            self.assertEqual(flatten(thread, end), smooth_through(thread, NUMBER, end, seam))

    def test_rounds_go_on_at_one_speed(self) -> None:
        turn = evolve(NUMBER, period=360.0)
        track = Track(0.0, (Key(0, 0.0), Key(20, 250.0), Key(50, 360.0)))
        made = smooth_through(track, turn, 50, (0, 50))
        np.testing.assert_allclose(slopes(made, turn, (0, 1), (50, -1)), 360 / 50, rtol=0.01)
        for rule in (Rule.REPEAT, Rule.ACCUMULATE):
            again = evolve(track, after=Extend(rule), keys=tuple(evolve(k, frame=k.frame + 5) for k in track.keys))
            made = smooth_through(again, turn, 5, (0, 100))
            np.testing.assert_allclose(slopes(made, turn, (5, 1), (55, -1), (55, 1)), 360 / 50, rtol=0.01)

    def test_what_turns_back_comes_to_rest_in_several_dimensions_too(self) -> None:
        back = Track((0.0, 0.0), (Key(0, (100.0, 100.0)), Key(10, (100.0, 150.0)), Key(20, (100.0, 60.0))))
        flat = smooth_through(back, PAIR, 10)
        self.assertEqual(flatten(back, 10), flat)
        on = evolve(back, keys=(*back.keys[:2], Key(20, (130.0, 190.0))))
        self.assertNotEqual(flatten(on, 10), smooth_through(on, PAIR, 10))

    def test_lists_of_unlike_length_come_to_rest(self) -> None:
        short = ((0.0, 0.0, 0.0, 0.0, 1.0), (1.0, 1.0, 1.0, 1.0, 1.0))
        long = (short[0], (0.5, 1.0, 0.0, 0.0, 1.0), short[1])
        track = Track(short, (Key(0, short), Key(10, long), Key(20, short)))
        for frame in (0, 10, 20):
            self.assertEqual(flatten(track, frame), smooth_through(track, STOPS, frame, (0, 20)))

    def test_softness_reads_back(self) -> None:
        self.assertEqual([round(v, 9) for v in softness(CubicBezier(0.2, 0, 0.7, 1)) or ()], [20, 30])
        self.assertIsNone(softness(CubicBezier(0.2, 0.4, 0.7, 1)))

    def test_spacing_is_the_share_of_the_way(self) -> None:
        np.testing.assert_allclose(spacing(ramp(), NUMBER, 0, 10), np.linspace(0, 1, 11), atol=1e-9)
        np.testing.assert_array_equal(spacing(Track(1.0), NUMBER, 0, 3), np.zeros(4))
