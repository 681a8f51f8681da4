"""Fewer keys: the motion stays within what was asked for, what was not chosen stays as it was."""

import math
import unittest

import numpy as np
from attrs import evolve
from hypothesis import given, settings
from hypothesis import strategies as st

from spiralis.core.animation.ease_tiles import bounce
from spiralis.core.animation.easing import HOLD, LINEAR, CubicBezier
from spiralis.core.animation.tracks import evaluate
from spiralis.core.editing.fewer_keys import thinned, with_fewer_keys
from spiralis.core.editing.keys import KeyRef
from spiralis.core.model import Extend, Key, Layer, Rule, Track
from tests.core.samples import piece

LAYER = Layer("Carrier", "carrier", 0, 200, id="c")
PLACE, TURN = LAYER.parameter("position"), LAYER.parameter("rotation")


def dense(rows: np.ndarray, parameter=TURN) -> Track:  # type: ignore[no-untyped-def]
    """Return a thread with a key a frame."""
    keys = tuple(Key(frame, parameter.from_array(np.atleast_1d(row))) for frame, row in enumerate(rows))
    return Track(keys[0].value, keys)


def frames(track: Track) -> list[int]:
    return [key.frame for key in track.keys]


def apart(one: Track, other: Track, parameter, at: np.ndarray) -> float:  # type: ignore[no-untyped-def]
    return float(np.linalg.norm(evaluate(one, parameter, at) - evaluate(other, parameter, at), axis=1).max())


class ThinnedTest(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(st.lists(st.floats(-50, 50), min_size=3, max_size=40), st.floats(0.05, 20))
    def test_a_number_is_nowhere_off_by_more(self, values: list[float], off: float) -> None:
        track = dense(np.array(values))
        made = thinned(track, TURN, frames(track), off)
        self.assertLessEqual(apart(made, track, TURN, np.arange(len(values))), off * (1 + 1e-9))
        self.assertEqual((made.keys[0].value, made.keys[-1].value), (track.keys[0].value, track.keys[-1].value))
        self.assertTrue(made is track or len(made.keys) < len(track.keys))

    @settings(max_examples=20, deadline=None)
    @given(st.integers(0, 10_000), st.floats(0.3, 5))
    def test_nor_is_a_way_that_turns_rests_and_shakes(self, seed: int, off: float) -> None:
        random = np.random.default_rng(seed)
        steps = np.cumsum(random.normal(0, 1, (60, 2)), axis=0) * (random.random(60) > 0.2)[:, None]
        track = dense(np.cumsum(steps, axis=0), PLACE)
        made = thinned(track, PLACE, frames(track), off)
        self.assertLessEqual(apart(made, track, PLACE, np.arange(60)), off * (1 + 1e-9))
        self.assertLess(len(made.keys), 60)

    def test_plain_motion_needs_few(self) -> None:
        turn = 2 * np.pi * np.arange(151) / 150
        circle = np.stack([540 + 200 * np.cos(turn), 540 + 200 * np.sin(turn)], 1)
        shaken = circle + np.random.default_rng(1).normal(0, 0.2, circle.shape)
        for name, rows, parameter, most in (
            ("line", np.arange(151.0)[:, None] * (3.0, 1.0), PLACE, 2), ("rest", np.full(151, 7.0), TURN, 2),
            ("circle", circle, PLACE, 5), ("shaken circle", shaken, PLACE, 7), ("swing", 30 * np.sin(turn), TURN, 5),
        ):  # fmt: skip
            with self.subTest(name):
                track = dense(rows, parameter)
                made = thinned(track, parameter, frames(track), 1.0)
                self.assertLessEqual(len(made.keys), most)
                self.assertLessEqual(apart(made, track, parameter, np.arange(151)), 1.0)

    def test_a_way_is_smooth_at_the_keys_that_stay(self) -> None:
        turn = 2 * np.pi * np.arange(151) / 150
        track = dense(np.stack([540 + 200 * np.cos(turn), 540 + 200 * np.sin(turn)], 1), PLACE)
        made = thinned(track, PLACE, frames(track), 1.0)
        self.assertGreater(len(made.keys), 2)
        for key in made.keys[1:-1]:
            out, into = np.array(key.handle_out), -np.array(key.handle_in)
            self.assertGreater(out @ into / np.linalg.norm(out) / np.linalg.norm(into), 0.9999)

    def test_eased_keys_that_were_baked_come_back(self) -> None:
        soft = CubicBezier(0.5, 0, 0.5, 1)
        before = Track(0.0, (Key(0, 0.0, soft), Key(30, 90.0, soft), Key(60, 20.0)))
        track = dense(evaluate(before, TURN, np.arange(61)))
        made = thinned(track, TURN, frames(track), 0.5)
        self.assertEqual(3, len(made.keys))
        self.assertAlmostEqual(30, made.keys[1].frame, delta=2)
        between = np.arange(0, 60, 0.25)
        self.assertLessEqual(apart(made, before, TURN, between), 1.0)

    def test_what_jumps_and_what_is_not_chosen_stays(self) -> None:
        rows = np.concatenate([np.arange(20.0), np.full(10, 50.0), 50 + np.arange(20.0)])
        keys = list(dense(rows).keys)
        keys[19] = evolve(keys[19], easing=HOLD)
        track = Track(0.0, tuple(keys))
        made = thinned(track, TURN, set(frames(track)) - {40}, 0.01)
        self.assertEqual([0, 19, 20, 30, 39, 40, 41, 49], frames(made))
        self.assertEqual(HOLD, made.keys[1].easing)
        at = np.arange(0, 50, 0.1)
        self.assertLess(apart(made, track, TURN, at), 0.011)
        self.assertIs(track, thinned(track, TURN, {3, 4}, 100.0))
        self.assertIs(track, thinned(track, TURN, {3, 5, 7, 9}, 100.0), "keys that are no neighbours are no run")

    def test_handles_before_and_after_the_chosen_ones_stay(self) -> None:
        start = Key(0, (0.0, 0.0), LINEAR, handle_out=(0.0, 80.0))
        turn = np.pi / 2 * np.arange(20) / 19
        run = [Key(20 + n, (100 + 80 * math.sin(a), 80 * math.cos(a))) for n, a in enumerate(turn)]
        run[0], run[-1] = evolve(run[0], handle_in=(-40.0, 5.0)), evolve(run[-1], handle_out=(30.0, 9.0))
        end = Key(60, (300.0, 300.0), handle_in=(-5.0, -60.0))
        track = Track((0.0, 0.0), (start, *run, end))
        made = thinned(track, PLACE, [key.frame for key in run], 0.5)
        self.assertLess(len(made.keys), 7)
        self.assertEqual((-40.0, 5.0), made.keys[1].handle_in)
        self.assertEqual((30.0, 9.0), made.keys[-2].handle_out)
        outside = np.concatenate([np.arange(0, 20, 0.5), np.arange(39, 60, 0.5)])
        self.assertLess(apart(made, track, PLACE, outside), 1e-9)
        self.assertLessEqual(apart(made, track, PLACE, np.arange(20, 40)), 0.5)
        self.assertIsNotNone(made.keys[-2].handle_in)

    def test_keys_that_would_become_more_stay_and_no_ease_swings_out_far(self) -> None:
        rough = CubicBezier(0.9, -3, 0.1, 4)
        first = [evolve(key, easing=rough) for key in (Key(0, 0.0), Key(40, 90.0), Key(80, 0.0))]
        rest = [Key(100 + n, 0.001 * n + 50 * math.sin(math.pi * n / 40)) for n in range(41)]
        track = Track(0.0, (*first, *rest))
        made = thinned(track, TURN, {key.frame for key in track.keys} - {100}, 0.2)
        self.assertEqual(tuple(first), made.keys[:3])
        again = thinned(Track(0.0, tuple(first)), TURN, {0, 40, 80}, 0.2)
        self.assertEqual(tuple(first), again.keys)
        jumping = evolve(track, keys=(*(evolve(key, easing=bounce()) for key in track.keys[:2]), *track.keys[2:]))
        made = thinned(jumping, TURN, frames(track), 0.2)
        self.assertEqual(jumping.keys[:2], made.keys[:2])
        self.assertLess(len(made.keys), 12)
        eases = [key.easing for key in made.keys if isinstance(key.easing, CubicBezier)]
        self.assertGreater(len(eases), 1)
        self.assertLessEqual(max(max(abs(ease.y1), abs(ease.y2)) for ease in eases), 4.0)

    def test_what_repeats_goes_on_repeating(self) -> None:
        track = evolve(dense(20 * np.sin(2 * np.pi * np.arange(41) / 40)), after=Extend(Rule.REPEAT))
        made = thinned(track, TURN, frames(track), 0.5)
        self.assertLess(len(made.keys), 8)
        self.assertEqual(track.after, made.after)
        self.assertLessEqual(apart(made, track, TURN, np.arange(0, 160)), 0.5 + 1e-9)


class PieceTest(unittest.TestCase):
    def test_only_numbers_of_open_layers_change_and_the_keys_that_stay_are_told(self) -> None:
        turning = dense(np.arange(30.0))
        tinted = Track((1.0, 0.0, 0.0, 1.0), tuple(Key(n, (1.0, n / 30, 0.0, 1.0)) for n in range(30)))
        ground = Layer("Ground", "backdrop", 0, 200, id="g").with_track("rotation", turning)
        ground = ground.with_track("colour", tinted)
        held = evolve(LAYER.with_track("rotation", turning), locked=True)
        before = piece(ground, held, length=100)
        refs = [
            KeyRef(layer, name, n)
            for layer, name in (("g", "rotation"), ("g", "colour"), ("c", "rotation"))
            for n in range(5, 25)
        ]
        after, left = with_fewer_keys(before, refs, 0.1)
        turned = after.layer("g").track("rotation")
        self.assertEqual([*range(6), *range(24, 30)], frames(turned))
        self.assertIs(tinted, after.layer("g").track("colour"))
        self.assertIs(held, after.layer("c"))
        stay = {ref for ref in refs if ref.layer != "g" or ref.name == "colour" or ref.frame in (5, 24)}
        self.assertEqual(stay, left)

    def test_a_layer_in_a_locked_group_keeps_all_of_its_keys(self) -> None:
        group = evolve(Layer("Group", "group", 0, 100, id="group"), locked=True)
        before = piece(group, evolve(LAYER.with_track("rotation", dense(np.arange(30.0))), parent="group"), length=100)
        refs = {KeyRef("c", "rotation", frame) for frame in range(30)}
        self.assertEqual((before, refs), with_fewer_keys(before, refs, 0.1))
        free = before.with_layer(evolve(group, locked=False))
        self.assertEqual(2, len(with_fewer_keys(free, refs, 0.1)[1]))


if __name__ == "__main__":
    unittest.main()
