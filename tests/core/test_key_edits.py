"""Edits of keys and of layers in time, against what they are defined to be."""

from __future__ import annotations

import unittest
from collections.abc import Mapping
from fractions import Fraction
from itertools import pairwise
from typing import Any

import numpy as np
from attrs import evolve
from hypothesis import given, settings
from hypothesis import strategies as st

from spiralis.core.animation.easing import HOLD, LINEAR, CubicBezier
from spiralis.core.animation.placing import headings, positions
from spiralis.core.animation.timecode import time_text, timecode
from spiralis.core.animation.tracks import evaluate
from spiralis.core.editing.edits import set_value, shifted, toggle_key
from spiralis.core.editing.keys import (
    KeyRef,
    gap_closed,
    keys_aligned,
    keys_mirrored,
    keys_moved,
    keys_reversed,
    keys_stretched,
    set_at,
    without_keys,
)
from spiralis.core.editing.pasting_keys import Paste, as_held, pasted
from spiralis.core.editing.separating import joined, largest_difference, separated
from spiralis.core.editing.sequencing import FADES, in_turn, random_turns
from spiralis.core.editing.spans import slipped, span_moved, split
from spiralis.core.editing.spreading import Variation, settled, stagger_order, staggered, varied
from spiralis.core.model import Composition, Key, Layer, Project, Rule, Track
from spiralis.core.model.kinds import layer_kind
from spiralis.core.model.track import turned
from spiralis.core.render.layers import Evaluated
from tests.core.samples import backdrop, piece, project

EASE = CubicBezier(0.7, 0.1, 0.9, 0.6)
ROTATION = layer_kind("backdrop").parameter("rotation")


def turning(*keys: tuple[int, float], name: str = "l", easing: CubicBezier = EASE) -> Layer:
    track = Track(0.0, tuple(Key(frame, value, easing) for frame, value in keys))
    return Layer(name.upper(), "backdrop", 0, 100, id=name).with_track("rotation", track)


def refs(composition: Composition, *names: str) -> frozenset[KeyRef]:
    return frozenset(
        KeyRef(layer.id, "rotation", key.frame)
        for layer in composition.layers
        if not names or layer.id in names
        for key in layer.track("rotation").keys
    )


def frames(composition: Composition, name: str = "l") -> list[int]:
    return [key.frame for key in composition.layer(name).track("rotation").keys]


def values(composition: Composition, at: np.ndarray, name: str = "l") -> np.ndarray:
    return evaluate(composition.layer(name).track("rotation"), ROTATION, at)[:, 0]


def shown_at(composition: Composition, name: str, frame: int) -> Mapping[str, Any]:
    """Return a layer's values at a frame, by its tracks alone."""
    layer = composition.layer(name)
    return {what: float(evaluate(layer.track(what), layer.parameter(what), np.array([frame]))[0, 0])
            for what in ("visible", "opacity")}  # fmt: skip


class RearrangeTest(unittest.TestCase):
    def test_stretching_keeps_the_anchor_and_rounds_to_frames(self) -> None:
        before = piece(turning((10, 0.0), (20, 50.0), (40, 90.0)), length=100)
        after, landed = keys_stretched(before, refs(before), 10, 1.5)
        self.assertEqual(frames(after), [10, 25, 55])
        self.assertEqual({ref.frame for ref in landed}, {10, 25, 55})
        squeezed, _ = keys_stretched(before, refs(before), 10, 0.0)
        self.assertEqual([(k.frame, k.value) for k in squeezed.layer("l").track("rotation").keys], [(10, 90.0)])

    @given(st.integers(0, 30), st.integers(1, 20), st.integers(1, 30))
    def test_reversing_plays_the_same_values_backwards(self, first: int, gap: int, more: int) -> None:
        before = piece(turning((first, 0.0), (first + gap, 70.0), (first + gap + more, -20.0)), length=100)
        after, _ = keys_reversed(before, refs(before))
        last = first + gap + more
        at = np.linspace(first, last, 41)
        np.testing.assert_allclose(values(after, at), values(before, first + last - at), atol=1e-5)
        again, _ = keys_reversed(after, refs(after))
        np.testing.assert_allclose(values(again, at), values(before, at), atol=1e-5)

    def test_a_mirror_goes_there_and_back_again(self) -> None:
        before = piece(turning((5, 0.0), (15, 80.0), (25, 40.0)), length=100)
        after, chosen = keys_mirrored(before, refs(before))
        self.assertEqual(frames(after), [5, 15, 25, 35, 45])
        self.assertEqual(len(chosen), 5)
        at = np.linspace(0, 20, 33)
        np.testing.assert_allclose(values(after, 25 + at), values(after, 25 - at), atol=1e-5)

    def test_threads_are_aligned_by_their_first_or_last_keys(self) -> None:
        before = piece(turning((5, 0.0), (15, 1.0)), turning((9, 0.0), (30, 1.0), name="m"), length=100)
        first, _ = keys_aligned(before, refs(before), last=False)
        self.assertEqual((frames(first), frames(first, "m")), ([5, 15], [5, 26]))
        last, _ = keys_aligned(before, refs(before), last=True)
        self.assertEqual((frames(last), frames(last, "m")), ([20, 30], [9, 30]))

    def test_deleting_closes_the_gap_and_locked_layers_keep_theirs(self) -> None:
        before = piece(turning((0, 0.0), (10, 1.0), (20, 2.0), (35, 3.0)), length=100)
        keys = frozenset({KeyRef("l", "rotation", 10)})
        self.assertEqual(frames(gap_closed(before, keys)), [0, 10, 25])
        locked = before.with_layer(evolve(before.layer("l"), locked=True))
        for change in (lambda c: gap_closed(c, keys), lambda c: keys_reversed(c, keys)[0]):
            self.assertEqual(change(locked), locked)


class SetAtTest(unittest.TestCase):
    @given(st.integers(0, 60), st.floats(-90, 90), st.integers(-5, 30))
    def test_a_value_set_at_a_frame_is_told_from_keys_moved_and_taken(self, frame: int, value: float, by: int) -> None:
        before = piece(turning((10, 0.0), (20, 50.0), (40, 95.0)), length=100)
        layer = before.layer("l")
        there = {10: 0.0, 20: 50.0, 40: 95.0}.get(frame) != value
        after = before.with_layer(set_value(layer, "rotation", value, frame))
        self.assertEqual(set_at(before, after, frame), there)
        self.assertFalse(set_at(before, after, frame + 1))
        self.assertFalse(set_at(before, before.with_layer(set_value(layer, "opacity", 40.0, frame)), frame))
        moved, _ = keys_moved(before, frozenset({KeyRef("l", "rotation", 20)}), by, copying=False)
        for at in (20, 20 + by, frame):
            self.assertFalse(set_at(before, moved, at))
            self.assertFalse(set_at(before, without_keys(before, {KeyRef("l", "rotation", at)}), at))
        keys = tuple(evolve(key, easing=HOLD) for key in layer.track("rotation").keys)
        paced = before.with_layer(layer.with_track("rotation", evolve(layer.track("rotation"), keys=keys)))
        self.assertFalse(any(set_at(before, paced, at) for at in (10, 20, 40)))

    def test_the_first_key_is_one_and_what_a_move_writes_is_none(self) -> None:
        before = piece(turning((10, 0.0), (20, 50.0)), length=100)
        first = before.with_layer(toggle_key(before.layer("l"), "opacity", 7, LINEAR))
        self.assertTrue(set_at(before, first, 7))
        layer = set_value(before.layer("l"), "rotation", 33.0, 20)
        self.assertTrue(set_at(before, before.with_layer(layer), 20))
        written = evolve(layer, moves=("anything but what was there",))
        self.assertFalse(set_at(before, before.with_layer(written), 20))


class PasteTest(unittest.TestCase):
    def test_values_differences_and_pace(self) -> None:
        source = turning((10, 0.0), (20, 30.0), name="s")
        target = turning((0, 100.0), (40, 140.0), name="t", easing=LINEAR)
        here = piece(target, length=100)
        held = as_held(here.rate, [source])
        plain, chosen = pasted(here, held, ["t"], Paste("values", 50))
        self.assertEqual(frames(plain, "t"), [0, 40, 50, 60])
        self.assertEqual({ref.frame for ref in chosen}, {50, 60})
        changed, _ = pasted(here, held, ["t"], Paste("differences", 50))
        added = [key.value for key in changed.layer("t").track("rotation").keys][2:]
        self.assertEqual(added, [140.0, 170.0])
        paced, _ = pasted(here, held, ["t"], Paste("pace", 0))
        self.assertEqual(paced.layer("t").track("rotation").keys[0].easing, EASE)
        self.assertEqual(frames(paced, "t"), [0, 40])
        own, _ = pasted(here, held, ["t"], Paste("values", None))
        self.assertEqual(frames(own, "t"), [0, 10, 20, 40])

    def test_seconds_are_kept_over_other_rates(self) -> None:
        held = as_held(Fraction(25), [turning((10, 0.0), (35, 30.0), name="s")])
        here = evolve(piece(turning(name="t"), length=200), rate=Fraction(50))
        made, _ = pasted(here, held, ["t"], Paste("values", 0))
        self.assertEqual(frames(made, "t"), [0, 50])


class SpreadTest(unittest.TestCase):
    def test_orders(self) -> None:
        self.assertEqual(stagger_order(4, "top down"), [0, 1, 2, 3])
        self.assertEqual(stagger_order(4, "bottom up"), [3, 2, 1, 0])
        self.assertEqual(stagger_order(5, "from the centre"), [2, 1, 0, 1, 2])
        self.assertEqual(sorted(stagger_order(6, "random", 4)), list(range(6)))
        self.assertEqual(stagger_order(6, "random", 4), stagger_order(6, "random", 4))

    def test_layers_or_only_their_chosen_keys_come_one_after_another(self) -> None:
        before = piece(*(turning((0, 0.0), (10, 9.0), name=n) for n in "abc"), length=100)
        whole, _ = staggered(before, ["a", "b", "c"], 3, "top down")
        self.assertEqual([(y.first, frames(whole, y.id)) for y in whole.layers][1:], [(3, [3, 13]), (6, [6, 16])])
        keys = frozenset(KeyRef(n, "rotation", 10) for n in "abc")
        some, landed = staggered(before, ["a", "b", "c"], 3, "bottom up", keys=keys)
        self.assertEqual([frames(some, n) for n in "abc"], [[0, 16], [0, 13], [0, 10]])
        self.assertEqual(len(landed), 3)
        two = frozenset(ref for ref in keys if ref.layer != "b")
        some, _ = staggered(before, ["a", "b", "c"], 3, "top down", keys=two)
        self.assertEqual([frames(some, n) for n in "abc"], [[0, 10], [0, 10], [0, 16]])
        held = before.with_layer(evolve(before.layer("b"), locked=True))
        whole, _ = staggered(held, ["a", "b", "c"], 3, "top down")
        spans = [(y.first, frames(whole, y.id)) for y in whole.layers]
        self.assertEqual(spans, [(0, [0, 10]), (0, [0, 10]), (6, [6, 16])])

    def test_staggered_loops_stay_closed_and_what_moves_once_moves_once(self) -> None:
        pulse = ((0, 0.0), (10, 90.0), (30, 0.0))
        there_and_back, round_, once = ((0, 5.0), (50, 40.0), (100, 5.0)), ((0, 0.0), (60, 80.0), (100, 360.0)), (
            (0, 0.0), (90, 50.0))  # fmt: skip
        for shape, closes in ((pulse, True), (there_and_back, True), (round_, True), (once, False)):
            before = piece(*(turning(*shape, name=n) for n in "abc"), length=100)
            keys = refs(before)
            made, landed = staggered(before, ["a", "b", "c"], 45, "as given", keys=keys)
            self.assertEqual({ref.frame for ref in landed if ref.layer == "c"}, {frame + 90 for frame, _ in shape})
            at = np.arange(100.0)
            for late, name in ((0, "a"), (45, "b"), (90, "c")):
                apart = values(made, at, name) - values(before, (at - late) % 100, name)
                same = np.allclose(apart - np.round(apart / 360) * 360, 0, atol=1e-6)
                self.assertEqual(closes or name == "a", same, (shape, name))
            moved, _ = staggered(evolve(before, loop=False), ["a", "b", "c"], 45, "as given", keys=keys)
            self.assertTrue(all(y.track("rotation").after.rule is Rule.ONCE for y in moved.layers))
            some = frozenset(ref for ref in keys if ref.frame)
            part, _ = staggered(before, ["a", "b", "c"], 45, "as given", keys=some)
            self.assertTrue(all(y.track("rotation").after.rule is Rule.ONCE for y in part.layers))
            some = frozenset(ref for ref in keys if ref.frame != shape[-1][0])
            part, _ = staggered(before, ["a", "b", "c"], -15, "as given", keys=some)
            self.assertTrue(all(y.track("rotation").after.rule is Rule.ONCE for y in part.layers))

    @given(st.integers(0, 1000))
    def test_variations_are_small_repeatable_and_keep_the_ends(self, seed: int) -> None:
        before = piece(*(turning((0, 0.0), (30, 60.0), (60, 20.0), (100, 0.0), name=n) for n in "ab"), length=100)
        by = Variation(3.0, 10.0, 20.0, seed)
        after, _ = varied(before, refs(before), by)
        self.assertEqual(after, varied(before, refs(before), by)[0])
        for name in "ab":
            keys = after.layer(name).track("rotation").keys
            self.assertEqual([(keys[0].frame, keys[0].value), (keys[-1].frame, keys[-1].value)], [(0, 0.0), (100, 0.0)])
            self.assertLessEqual(abs(keys[1].frame - 30), 3)
            self.assertLessEqual(abs(keys[1].value - 60), 6.0 + 1e-9)
            self.assertTrue(all(len(key.easing.css()) < 40 for key in keys), "handles that can be read")
        self.assertNotEqual(after.layer("a").track("rotation"), after.layer("b").track("rotation"))

    @given(st.lists(st.tuples(st.integers(0, 99), *(st.integers(0, 100),) * 4), min_size=1, max_size=6,
                    unique_by=lambda row: row[0]))  # fmt: skip
    def test_keys_turned_twice_are_what_they_were(self, rows: list[tuple[int, int, int, int, int]]) -> None:
        run = [Key(frame, 0.0, CubicBezier(*(part / 100 for part in ease)), (frame, 1.0), (frame, 2.0))
               for frame, *ease in sorted(rows)]  # fmt: skip
        once = turned(run, lambda frame: -frame)
        self.assertEqual(turned(once, lambda frame: -frame), run)
        self.assertEqual([(key.frame, key.handle_in, key.handle_out) for key in once],
                         [(-key.frame, key.handle_out, key.handle_in) for key in reversed(run)])  # fmt: skip
        for key, before in zip(once, reversed(run[:-1]), strict=False):
            self.assertEqual(key.easing, before.easing.reversed_in_time(), "the way there, the other way round")
        self.assertEqual(once[-1].easing, run[-1].easing)

    @given(st.integers(0, 99), st.integers(2, 6), st.integers(0, 20), st.integers(1, 90), st.integers(1, 9),
           st.integers(0, 5))  # fmt: skip
    def test_random_turns_follow_another_and_close_the_loop(
        self, seed: int, count: int, first: int, length: int, least: int, more: int
    ) -> None:
        turns = random_turns(count, first, first + length, least, least + more, seed)
        self.assertEqual(turns, random_turns(count, first, first + length, least, least + more, seed))
        at, shown = zip(*turns, strict=True)
        self.assertEqual(first, at[0])
        self.assertEqual(shown[0], shown[-1])
        self.assertTrue(all(one != other for one, other in pairwise(shown)), shown)
        self.assertTrue(set(shown) <= set(range(count)))
        waits = [later - sooner for sooner, later in pairwise(at)]
        self.assertTrue(all(wait >= least for wait in waits), waits)
        self.assertTrue(all(wait <= least + more for wait in waits[:-1]), waits)
        self.assertLessEqual(at[-1] + (least if len(turns) > 1 else 0), first + length)

    @settings(deadline=None)
    @given(
        st.permutations(["a", "b", "c", "d"]), st.integers(2, 4), st.floats(1, 70), st.integers(0, 40),
        st.integers(20, 90), st.booleans(), st.sampled_from(FADES),
    )  # fmt: skip
    def test_in_turn_one_shows_at_a_time_or_fades_over_the_other(
        self, ids: list[str], count: int, stay: float, fade: int, length: int, loop: bool, how: str
    ) -> None:
        ids = ids[:count]
        layers = tuple(evolve(backdrop(8, 8, (0, 0, 0, 1)), id=y, name=y, last=length) for y in "abcd")
        before = evolve(piece(*layers, length=length), loop=loop)
        before = before.with_layer(before.layer("b").with_values(opacity=60.0))
        after = in_turn(before, ids, stay, fade, how)
        self.assertEqual(in_turn(after, ids, stay, fade, how), after)
        for other in set("abcd") - set(ids):
            self.assertEqual(after.layer(other), before.layer(other))
        starts = [round(k * stay) for k in range(max(round(length / stay), 1)) if round(k * stay) < length]
        turns = [(start, ids[k % count]) for k, start in enumerate(starts)]
        fade = min([fade, *(later - start for start, later in pairwise([*starts, length]))])
        for frame in range(length):
            number = max(k for k, start in enumerate(starts) if start <= frame)
            who, previous = turns[number][1], turns[number - 1][1] if number or loop else turns[0][1]
            shown = {y: shown_at(after, y, frame) for y in ids}
            parts = {y: (v["opacity"] if v["visible"] else 0.0) / (60 if y == "b" else 100) for y, v in shown.items()}
            share = (frame - starts[number]) / fade if fade else 1.0
            expected = dict.fromkeys(ids, 0.0) | {who: 1.0}
            if share < 1 and who != previous:
                nearer = who if "abcd".index(who) < "abcd".index(previous) else previous
                expected |= {who: share, previous: 1 - share}
                if how != FADES[0]:
                    expected[previous if nearer == who else who] = 1.0
            for y in ids:
                self.assertAlmostEqual(parts[y], expected[y], msg=f"{y} at {frame}")

    def test_in_turn_leaves_locked_layers_and_single_ones_alone(self) -> None:
        layers = tuple(evolve(backdrop(8, 8, (0, 0, 0, 1)), id=y, name=y, locked=y == "b") for y in "abc")
        before = piece(*layers)
        self.assertIs(in_turn(before, ["a", "b"], 5.0), before)
        after = in_turn(before, ["c", "b", "a"], 10.0)
        self.assertEqual(after.layer("b"), before.layer("b"))
        self.assertEqual([shown_at(after, y, 3)["visible"] for y in "ca"], [True, False])

    @given(st.integers(0, 1000), st.lists(st.integers(1, 99), min_size=1, max_size=6, unique=True))
    def test_a_variation_keeps_every_key_in_its_turn(self, seed: int, at: list[int]) -> None:
        before = piece(turning(*((frame, float(place)) for place, frame in enumerate(sorted(at)))), length=100)
        after, landed = varied(before, refs(before), Variation(4.0, 0.0, 20.0, seed))
        now = frames(after)
        self.assertEqual(sorted(set(now)), now)
        self.assertTrue(all(abs(new - old) <= 4 for new, old in zip(now, sorted(at), strict=True)), (now, at))
        self.assertEqual({ref.frame for ref in landed}, set(now))

    def test_settling_swings_around_the_end_value(self) -> None:
        track = turning((0, 0.0), (20, 100.0)).track("rotation")
        made = settled(track, ROTATION, 20, 10.0, 3, 16)
        self.assertEqual([round(key.value, 6) for key in made.keys], [0.0, 110.0, 95.0, 102.5, 100.0])
        self.assertEqual([key.frame for key in made.keys], [0, 20, 24, 28, 36])
        self.assertEqual(settled(track, ROTATION, 0, 10.0, 3, 16), track)

    @given(st.integers(1, 40), st.integers(1, 12), st.integers(1, 60))
    def test_settling_loses_no_key_and_ends_before_the_next(self, room: int, count: int, duration: int) -> None:
        track = turning((0, 0.0), (20, 100.0), (20 + room, 30.0), (90, 7.0)).track("rotation")
        made = settled(track, ROTATION, 20, 10.0, count, duration)
        self.assertEqual(track.keys[2:], made.keys[-2:])
        self.assertEqual(track.keys[0], made.keys[0])
        frames = [key.frame for key in made.keys]
        self.assertEqual(sorted(set(frames)), frames)
        if room == 1:
            self.assertEqual(track, made)
        else:
            swings = made.keys[1:-3]
            self.assertEqual(min(count, max(min(duration, room - 1) - 1, 1)), len(swings))
            self.assertEqual((100.0, 20 + min(duration, room - 1)), (made.keys[-3].value, made.keys[-3].frame))
            self.assertTrue(all((swing.value > 100) == (place % 2 == 0) for place, swing in enumerate(swings)))


class SpanTest(unittest.TestCase):
    def test_splitting_changes_nothing_in_sight(self) -> None:
        before = piece(turning((0, 0.0), (40, 90.0)), length=50)
        at = Evaluated(Project(compositions=(before,)), before, 0.0)
        after, later = split(at, ["l"], 20)
        self.assertEqual([(y.first, y.last) for y in after.layers], [(20, 100), (0, 20)])
        self.assertEqual(later, [after.layers[0].id])
        shown = [next(y for y in after.layers if y.shown_at(f)) for f in (0, 19, 20, 40)]
        self.assertEqual({y.track("rotation") for y in shown}, {before.layer("l").track("rotation")})
        self.assertEqual(split(at, ["l"], 0)[0].layers, before.layers)

    def test_what_runs_over_its_span_shows_the_same_when_it_is_split(self) -> None:
        drawings = tuple((f"drawing {n}", 1 + n % 3) for n in range(7))
        book = Layer("Book", "flipbook", 3, 43, id="book").with_values(drawings=drawings, fit=True)
        inside = evolve(book, id="inside", parent="group")
        group = Layer("Group", "group", 0, 50, id="group")
        before = piece(group, inside, book, length=50)
        for chosen, name in ((["book"], "book"), (["group"], "inside")):
            start = Evaluated(Project(compositions=(before,)), before, 0.0)
            after, _ = split(start, chosen, 20)
            parts = [y for y in after.layers if y.kind == "flipbook" and y.name.startswith("Book") and y.id != "book"]
            parts = [after.layer("book"), *parts] if name == "book" else parts
            ended = Evaluated(Project(compositions=(after,)), after, 0.0)
            for frame in range(3, 43):
                shown = [y for y in parts if y.shown_at(frame) and (y.parent is None) == (name == "book")]
                self.assertEqual(1, len(shown), frame)
                was = start.at_frame(frame).own_frame(before.layer(name))
                self.assertEqual(was, ended.at_frame(frame).own_frame(shown[0]), (name, frame))

    def test_slip_and_span(self) -> None:
        clip = Layer("F", "footage", 0, 50, id="f")
        self.assertEqual((slipped(clip, 7).track("start").value, slipped(clip, 7).first), (7, 0))
        moved = span_moved(turning((0, 0.0), (10, 1.0)), 5)
        self.assertEqual((moved.first, [k.frame for k in moved.track("rotation").keys]), (5, [0, 10]))


class SeparateTest(unittest.TestCase):
    def layer(self, *handles: tuple[float, float] | None) -> Layer:
        out = handles[0] if handles else None
        keys = (Key(0, (0.0, 0.0), EASE, None, out), Key(20, (100.0, 50.0), EASE), Key(30, (100.0, 80.0)))
        return Layer("L", "carrier", 0, 50, id="l").with_track("position", Track((0.0, 0.0), keys))

    def test_a_straight_path_is_seen_the_same_apart_and_together(self) -> None:
        before = self.layer()
        apart = separated(before)
        self.assertEqual(apart.animated(), ["position_x", "position_y"])
        self.assertLess(largest_difference(before, apart, 50), 1e-9)
        self.assertLess(largest_difference(before, joined(apart), 50), 1e-9)

    def test_a_bent_path_keeps_its_keys_and_tells_the_rest(self) -> None:
        before = self.layer((0.0, 90.0))
        apart = separated(before)
        at = np.array([0.0, 20.0, 30.0])
        np.testing.assert_allclose(positions(before, at), positions(apart, at), atol=0.01)
        self.assertGreater(largest_difference(before, apart, 50), 5.0)

    def test_edits_go_to_both_threads(self) -> None:
        apart = separated(self.layer())
        moved = set_value(apart, "position", (5.0, 6.0), 10)
        self.assertEqual(len(moved.track("position_x").keys), 4)
        at = Evaluated(project(moved), piece(moved), 10)
        self.assertEqual(at.matrix(moved).apply(50, 50), (5.0, 6.0))
        self.assertEqual(shifted(apart, 3, 4).track("position_y").keys[1].value, 54.0)

    def test_a_layer_turns_along_its_way(self) -> None:
        layer = self.layer().with_values(along_path=True, size=(10.0, 10.0))
        np.testing.assert_allclose(headings(layer, np.array([5.0, 25.0, 45.0])), [26.565, 90.0, 90.0], atol=0.01)
        matrix = Evaluated(project(layer), piece(layer), 25).matrix(layer)
        np.testing.assert_allclose(matrix.apply_direction(1, 0), (0.0, 1.0), atol=1e-6)


class TimecodeTest(unittest.TestCase):
    def test_known_labels(self) -> None:
        drop = Fraction(30000, 1001)
        for frame, text in ((0, "00:00:00;00"), (1799, "00:00:59;29"), (1800, "00:01:00;02"), (17982, "00:10:00;00"),
                            (107892, "01:00:00;00")):  # fmt: skip
            self.assertEqual(timecode(frame, drop), text)
        self.assertEqual(timecode(61, Fraction(60)), "00:00:01:01")
        self.assertEqual(timecode(-5, Fraction(25)), "-00:00:00:05")

    @given(st.integers(0, 300_000))
    def test_dropped_labels_never_come_and_none_comes_twice(self, frame: int) -> None:
        for rate in (Fraction(30000, 1001), Fraction(60000, 1001)):
            here, there = timecode(frame, rate), timecode(frame + 1, rate)
            self.assertLess(here, there)
            minutes, seconds, label = int(here[3:5]), here[6:8], int(here[9:])
            if seconds == "00" and minutes % 10:
                self.assertGreaterEqual(label, round(rate) // 15)

    def test_units(self) -> None:
        self.assertEqual(time_text(50, Fraction(25), "seconds"), "2.00 s")
        self.assertEqual(time_text(50, Fraction(25), "frames"), "50")
        self.assertEqual(HOLD.css(), "steps(1, end)")


if __name__ == "__main__":
    unittest.main()
