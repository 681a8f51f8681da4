"""A key set where a thread rests, carries on or repeats changes nothing that is seen."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as some

from spiralis.core.animation.easing import HOLD, LINEAR, CubicBezier
from spiralis.core.animation.tracks import evaluate, value_at
from spiralis.core.editing.edits import put_key, toggle_key
from spiralis.core.editing.rounds import with_rounds_written
from spiralis.core.model import Key, Layer, Track
from spiralis.core.model.track import Extend, Rule

SOFT = CubicBezier(0.45, 0.0, 0.55, 1.0)
EASINGS = (LINEAR, HOLD, SOFT, CubicBezier(0.9, 0.1, 0.6, 0.8))
FRAMES = list(range(-60, 120))


def seen(layer: Layer, name: str) -> list[object]:
    return [value_at(layer.track(name), layer.parameter(name), frame) for frame in FRAMES]


@some.composite
def threads(draw: some.DrawFn, values: some.SearchStrategy[object]) -> Track:
    frames = sorted(2 * n for n in draw(some.lists(some.integers(0, 12), min_size=2, max_size=4, unique=True)))
    keys = tuple(Key(frame, draw(values), draw(some.sampled_from(EASINGS))) for frame in frames)
    before, after = (Extend(draw(some.sampled_from(list(Rule))), draw(some.sampled_from((0, 0, 2)))) for _ in range(2))
    return Track(keys[0].value, keys, before, after)


class RoundsTest(unittest.TestCase):
    def assert_kept(self, name: str, track: Track, frame: int, atol: float = 2e-5) -> Layer:
        layer = Layer("Layer", "shape", 0, 100).with_track(name, track)
        made = layer if track.index_at(frame) is not None else toggle_key(layer, name, frame)
        if track.index_at(frame) is None:
            self.assertIsNotNone(made.track(name).index_at(frame))
        parameter = layer.parameter(name)
        if parameter.numeric:
            there, here = (evaluate(y.track(name), parameter, np.array(FRAMES, dtype=float)) for y in (layer, made))
            apart = there - here
            if parameter.period is not None:
                apart -= np.round(apart / parameter.period) * parameter.period
            self.assertLess(float(np.abs(apart).max()), atol * max(float(np.abs(there).max()), 1.0), (track, frame))
        else:
            self.assertEqual(seen(layer, name), seen(made, name), (track, frame))
        return made

    @settings(max_examples=100, deadline=None)
    @given(threads(some.integers(-3, 3).map(lambda n: 90.0 * n)), some.integers(-40, 80))
    def test_turns(self, track: Track, frame: int) -> None:
        self.keep_or_mixed("rotation", track, frame)

    @settings(max_examples=70, deadline=None)
    @given(threads(some.tuples(some.integers(-20, 20).map(float), some.integers(-9, 9).map(float))),
           some.integers(-40, 80))  # fmt: skip
    def test_places(self, track: Track, frame: int) -> None:
        self.keep_or_mixed("position", track, frame)

    @settings(max_examples=70, deadline=None)
    @given(threads(some.booleans()), some.integers(-40, 80))
    def test_switches(self, track: Track, frame: int) -> None:
        self.keep_or_mixed("visible", track, frame)

    def keep_or_mixed(self, name: str, track: Track, frame: int) -> None:
        """Check it outside of the keys (inside see the tests of cutting), where the other end repeats nothing or the
        same for ever, and what is asked lies within the rounds that there are."""
        first, last = track.keys[0].frame, track.keys[-1].frame
        here, other = (track.before, track.after) if frame < first else (track.after, track.before)
        repeats = [end.rule not in (Rule.ONCE, Rule.CARRY_ON) for end in (here, other)]
        alike = not repeats[1] or (here == other and not here.count)
        eases = {key.easing for key in track.keys[:-1]}
        if here.rule is Rule.PING_PONG and HOLD in eases and eases != {HOLD} and isinstance(track.value, float | tuple):
            # Turned round, a step jumps a frame earlier: such threads stay as they are.
            return
        within = not here.count or -2 <= (frame - first) // (last - first) <= 2
        if not first <= frame <= last and alike and (within or not repeats[0]):
            self.assert_kept(name, track, frame)

    @settings(max_examples=60, deadline=None)
    @given(threads(some.tuples(*[some.sampled_from((0.1, 0.25, 0.3, 0.5))] * 4)), some.sampled_from(Rule))
    def test_rounds_of_colours(self, track: Track, rule: Rule) -> None:
        parameter = Layer("Layer", "shape", 0, 100).parameter("fill")
        one = Track(track.value, track.keys, after=Extend(rule))
        made = with_rounds_written(one, parameter, track.keys[-1].frame + 9)
        there, here = (evaluate(each, parameter, np.arange(0.0, 60.0)) for each in (one, made))
        self.assertLess(float(np.abs(there - here).max()), 1e-5, one)

    def test_the_rest_of_a_round_stays_and_the_round_is_longer(self) -> None:
        keys = (Key(0, 0.0, SOFT), Key(10, 90.0, SOFT), Key(20, 0.0, SOFT))
        made = self.assert_kept("rotation", Track(0.0, keys, after=Extend(Rule.REPEAT)), 43).track("rotation")
        self.assertEqual([0, 10, 20, 30, 40, 43, 50, 60], [key.frame for key in made.keys])
        self.assertEqual(Rule.REPEAT, made.after.rule)

    def test_a_value_set_on_a_later_round_leaves_the_ones_before(self) -> None:
        keys = (Key(0, 0.0, LINEAR), Key(10, 90.0, LINEAR), Key(20, 0.0, LINEAR))
        layer = Layer("Layer", "shape", 0, 100).with_track("rotation", Track(0.0, keys, after=Extend(Rule.REPEAT)))
        made = layer.with_track("rotation", put_key(layer.track("rotation"), layer, "rotation", 45, 200.0))
        was, now = seen(layer, "rotation"), seen(made, "rotation")
        self.assertEqual(was[60:101], now[60:101])
        self.assertEqual(200.0, now[105])
        self.assertEqual(was[110:121], now[110:121])

    def test_a_stair_goes_on_up(self) -> None:
        keys = (Key(0, (0.0, 0.0), SOFT), Key(12, (30.0, -20.0), SOFT))
        self.assert_kept("position", Track((0.0, 0.0), keys, after=Extend(Rule.ACCUMULATE)), 30)

    def test_bends_of_a_way_go_round_with_it(self) -> None:
        keys = (Key(0, (0.0, 0.0), SOFT, None, (20.0, 30.0)), Key(10, (60.0, 0.0), SOFT, (-9.0, 25.0), (12.0, -30.0)),
                Key(20, (0.0, 0.0), SOFT, (-15.0, -20.0), None))  # fmt: skip
        for rule in (Rule.REPEAT, Rule.PING_PONG):
            made = self.assert_kept("position", Track((0.0, 0.0), keys, after=Extend(rule)), 47, atol=1e-3)
            self.assertEqual([0, 10, 20, 30, 40, 47, 50, 60], [key.frame for key in made.track("position").keys])

    def test_whole_turns_go_on_as_such(self) -> None:
        keys = (Key(0, 0.0, LINEAR), Key(10, 360.0, LINEAR))
        made = self.assert_kept("rotation", Track(0.0, keys, after=Extend(Rule.REPEAT)), 25).track("rotation")
        self.assertEqual(1080.0, made.keys[-1].value)

    def test_a_limit_is_not_passed(self) -> None:
        layer = Layer("Layer", "shape", 0, 100)
        keys = (Key(0, 50.0, LINEAR), Key(10, 80.0, LINEAR))
        track = Track(50.0, keys, after=Extend(Rule.ACCUMULATE))
        self.assertIs(track, with_rounds_written(track, layer.parameter("opacity"), 25))
        many = Track(50.0, (Key(0, 50.0, LINEAR), Key(1, 50.0, LINEAR)), after=Extend(Rule.REPEAT))
        self.assertIs(many, with_rounds_written(many, layer.parameter("opacity"), 100_000))

    def test_a_path_with_a_handle_at_its_end_rests_there(self) -> None:
        keys = (Key(0, (0.0, 0.0), SOFT), Key(12, (30.0, 0.0), SOFT, (-5.0, 9.0), (5.0, -9.0)))
        made = self.assert_kept("position", Track((0.0, 0.0), keys), 30)
        way = evaluate(made.track("position"), made.parameter("position"), np.array([18.0, 24.0]))
        np.testing.assert_allclose(way, [[30.0, 0.0], [30.0, 0.0]])


if __name__ == "__main__":
    unittest.main()
