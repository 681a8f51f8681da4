"""Keys that are added without a change, layers that rest and go on, and bars that are edited together."""

import unittest

import numpy as np
from attrs import evolve
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from spiralis.core.animation.ease_tiles import soft
from spiralis.core.animation.easing import HOLD, LINEAR, CubicBezier, LinearPoints
from spiralis.core.animation.tracks import evaluate, value_at
from spiralis.core.editing.cutting import with_key_kept, without_key_kept
from spiralis.core.editing.edits import set_value, toggle_key
from spiralis.core.editing.freezing import frozen_at
from spiralis.core.editing.keys import KeyRef, without_keys
from spiralis.core.editing.pasting_values import only_look, only_value, with_look_of, with_pace_of, with_value_of
from spiralis.core.editing.spans import BarEdit, bars_edited
from spiralis.core.errors import ModelError
from spiralis.core.model import Extend, Key, Layer, Rule, Track
from spiralis.core.model.blocks import Block
from tests.core.samples import backdrop, project

SOFT = CubicBezier(0.3, 0, 0.2, 1)
FRAMES = np.arange(0, 61, 0.25)
fractions = st.floats(0, 1)


def carrier(**tracks: Track) -> Layer:
    layer = Layer("Carrier", "carrier", 0, 60, id="c")
    for name, track in tracks.items():
        layer = layer.with_track(name, track)
    return layer


class KeyKeptTest(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(fractions, st.floats(-2, 3), fractions, st.floats(-2, 3), st.integers(1, 39))
    def test_a_bent_segment_runs_as_before(self, x1: float, y1: float, x2: float, y2: float, at: int) -> None:
        layer = carrier()
        parameter = layer.parameter("rotation")
        track = Track(0.0, (Key(0, -20.0, CubicBezier(x1, y1, x2, y2)), Key(40, 90.0, SOFT), Key(60, 0.0)))
        level = float(track.keys[0].easing(at / 40))
        made = with_key_kept(track, parameter, at)
        self.assertEqual([key.frame for key in made.keys], [0, at, 40, 60])
        if min(abs(level), abs(1 - level)) > 1e-3:
            # Where handles would cross, straight pieces stand in for what they cannot say.
            near = 2e-3 if x1 <= x2 else 0.3
            expected = evaluate(track, parameter, FRAMES)
            np.testing.assert_allclose(evaluate(made, parameter, FRAMES), expected, atol=near)

    @settings(max_examples=30, deadline=None)
    @given(st.integers(1, 39), st.floats(-200, 200), st.floats(-200, 200))
    def test_a_way_on_the_canvas_runs_as_before(self, at: int, dx: float, dy: float) -> None:
        parameter = carrier().parameter("position")
        keys = (Key(0, (0.0, 0.0), SOFT, None, (dx, dy)), Key(40, (300.0, 10.0), LINEAR, (-50.0, -90.0)))
        track = Track((0.0, 0.0), keys)
        made = with_key_kept(track, parameter, at)
        np.testing.assert_allclose(evaluate(made, parameter, FRAMES), evaluate(track, parameter, FRAMES), atol=1e-3)

    def test_straight_pieces_run_as_before(self) -> None:
        parameter = carrier().parameter("rotation")
        ease = LinearPoints(((0, 0), (0.2, 0.7), (0.6, 0.4), (1, 1)))
        track = Track(0.0, (Key(0, 0.0, ease), Key(40, 100.0)))
        for at in (3, 8, 17, 33):
            made = with_key_kept(track, parameter, at)
            np.testing.assert_allclose(evaluate(made, parameter, FRAMES), evaluate(track, parameter, FRAMES), atol=1e-9)

    def test_outside_the_keys_and_on_one_nothing_is_added(self) -> None:
        parameter = carrier().parameter("rotation")
        track = Track(0.0, (Key(10, 0.0), Key(40, 100.0)))
        for at in (5, 10, 40, 50):
            self.assertIs(with_key_kept(track, parameter, at), track)


class KeyGoneTest(unittest.TestCase):
    """A key that changes nothing in sight comes and goes without changing anything."""

    def there_and_back(self, name: str, track: Track, at: int) -> tuple[Layer, Layer]:
        layer = carrier(**{name: track})
        once = toggle_key(layer, name, at)
        self.assertIsNotNone(once.track(name).index_at(at))
        return once, toggle_key(once, name, at)

    @settings(max_examples=80, deadline=None)
    @given(fractions, st.floats(-0.4, 1.4), fractions, st.floats(-0.4, 1.4), st.integers(1, 39))
    def test_a_bend_is_itself_again(self, x1: float, y1: float, x2: float, y2: float, at: int) -> None:
        ease = CubicBezier(x1, y1, x2, y2)
        track = Track(0.0, (Key(-10, 3.0), Key(0, -20.0, ease), Key(40, 90.0, SOFT), Key(60, 0.0)))
        assume(all(abs(float(ease(at / 40)) - edge) > 0.05 for edge in (0, 1)))
        once, twice = self.there_and_back("rotation", track, at)
        parameter = once.parameter("rotation")
        before = evaluate(track, parameter, FRAMES)
        if x1 - x2 < 0.8 and not isinstance(once.track("rotation").keys[1].easing, LinearPoints):
            np.testing.assert_allclose(evaluate(once.track("rotation"), parameter, FRAMES), before, atol=2e-2)
        gone = twice.track("rotation")
        self.assertEqual([key.frame for key in track.keys], [key.frame for key in gone.keys])
        if max(x1, 1 - x2) < 0.9 and min(x1, 1 - x2) > 0.1 and 0.05 < y1 < 0.95 and 0.05 < y2 < 0.95 and x1 < x2:
            np.testing.assert_allclose(evaluate(gone, parameter, FRAMES), before, atol=0.1)

    def test_tiles_straight_ways_and_holds_come_back_as_they_were(self) -> None:
        for ease in (LINEAR, HOLD, soft("soft-start"), soft("soft-stop"), soft("soft-both", "strong"),
                     CubicBezier(0.8, 0, 0.2, 1), CubicBezier(0.12, 0.9, 0.2, 1)):  # fmt: skip
            for at in (7, 20, 31):
                track = Track(0.0, (Key(0, -20.0, ease), Key(40, 90.0)))
                once, twice = self.there_and_back("rotation", track, at)
                self.assertEqual(ease.css(), twice.track("rotation").keys[0].easing.css(), (ease, at))
                if ease in (LINEAR, HOLD):
                    self.assertEqual([ease, ease], [key.easing for key in once.track("rotation").keys[:2]])

    def test_a_way_on_the_canvas_is_itself_again(self) -> None:
        keys = (Key(0, (0.0, 0.0), SOFT, None, (90.0, -60.0)), Key(40, (300.0, 10.0), LINEAR, (-50.0, -90.0)))
        track = Track((0.0, 0.0), keys)
        for at in (4, 17, 30):
            once, twice = self.there_and_back("position", track, at)
            expected = evaluate(track, once.parameter("position"), FRAMES)
            for layer, near in ((once, 1e-3), (twice, 0.05)):
                got = evaluate(layer.track("position"), layer.parameter("position"), FRAMES)
                np.testing.assert_allclose(got, expected, atol=near)

    def test_a_key_that_does_something_leaves_as_ever(self) -> None:
        track = Track(0.0, (Key(0, 0.0, SOFT), Key(10, 90.0, HOLD), Key(20, 10.0), Key(30, 0.0)))
        parameter = carrier().parameter("rotation")
        for frame in (10, 20):
            self.assertEqual(track.without_keys({frame}), without_key_kept(track, parameter, frame))
        halved = toggle_key(carrier(rotation=Track(0.0, (Key(0, 0.0, SOFT), Key(40, 90.0)))), "rotation", 15)
        pushed = set_value(halved, "rotation", 70.0, 15).track("rotation")
        self.assertEqual(pushed.without_keys({15}), without_key_kept(pushed, parameter, 15))
        piece = project(carrier(rotation=track), width=9, height=9, length=60).compositions[0]
        for frames in ({0, 10, 20, 30}, {0, 10}, {20, 30}):
            made = without_keys(piece, [KeyRef("c", "rotation", frame) for frame in frames])
            self.assertEqual(track.without_keys(frames), made.layer("c").track("rotation"))

    def test_several_that_do_nothing_go_together(self) -> None:
        track = Track(0.0, (Key(0, 0.0, SOFT), Key(40, 90.0)))
        layer = carrier(rotation=track)
        for frame in (10, 22, 30):
            layer = toggle_key(layer, "rotation", frame)
        piece = project(layer, width=9, height=9, length=60).compositions[0]
        made = without_keys(piece, [KeyRef("c", "rotation", frame) for frame in (10, 22, 30)])
        parameter = layer.parameter("rotation")
        got = evaluate(made.layer("c").track("rotation"), parameter, FRAMES)
        np.testing.assert_allclose(got, evaluate(track, parameter, FRAMES), atol=0.05)
        self.assertEqual(2, len(made.layer("c").track("rotation").keys))


class FreezeTest(unittest.TestCase):
    def test_it_rests_and_goes_on_as_it_was(self) -> None:
        layer = carrier(rotation=Track(0.0, (Key(0, 0.0, SOFT), Key(40, 100.0))))
        piece = project(layer, width=100, height=100, length=60).compositions[0]
        made, landed = frozen_at(piece, ["c"], 15, 8)
        self.assertEqual(sorted(ref.frame for ref in landed), [15, 23])
        parameter, before = layer.parameter("rotation"), layer.track("rotation")
        after = made.layer("c").track("rotation")
        stop = value_at(before, parameter, 15)
        for frame in range(49):
            expected = value_at(before, parameter, frame if frame < 15 else frame - 8) if not 15 <= frame < 23 else stop
            self.assertAlmostEqual(value_at(after, parameter, frame), expected, places=4, msg=str(frame))

    def test_what_comes_later_waits_and_what_is_over_stays(self) -> None:
        layer = carrier(
            rotation=Track(0.0, (Key(30, 0.0), Key(40, 100.0))), opacity=Track(0.0, (Key(0, 0.0, HOLD), Key(10, 50.0)))
        )
        piece = project(layer, width=100, height=100, length=60).compositions[0]
        made = frozen_at(piece, ["c"], 20, 5)[0].layer("c")
        self.assertEqual([key.frame for key in made.track("rotation").keys], [35, 45])
        self.assertIs(made.track("opacity"), layer.track("opacity"))

    def test_locked_layers_stay(self) -> None:
        layer = evolve(carrier(rotation=Track(0.0, (Key(0, 0.0), Key(40, 100.0)))), locked=True)
        piece = project(layer, width=100, height=100, length=60).compositions[0]
        self.assertEqual(frozen_at(piece, ["c"], 15, 8), (piece, set()))


class BarsTest(unittest.TestCase):
    def setUp(self) -> None:
        layers = [Layer(name, "carrier", first, last, id=name) for name, first, last in (("a", 0, 50), ("b", 10, 14))]
        layers[0] = layers[0].with_track("rotation", Track(0.0, (Key(5, 1.0), Key(20, 2.0))))
        group = Layer("g", "group", 0, 50, id="g")
        inside = Layer("i", "carrier", 3, 30, id="i", parent="g")
        layers += [group, inside, backdrop(64, 48, (0, 0, 0, 1))]
        self.piece = project(*layers, width=64, height=48).compositions[0]

    def spans(self, how: BarEdit, by: int, *ids: str) -> dict[str, tuple[int, int]]:
        made = bars_edited(self.piece, ids, how, by)
        return {y.id: (y.first, y.last) for y in made.layers if y.id in ids or y.id == "i"}

    def test_several_move_with_their_keys(self) -> None:
        made = bars_edited(self.piece, ["a", "b"], BarEdit.MOVE, 7)
        self.assertEqual([(y.first, y.last) for y in made.layers[:2]], [(7, 57), (17, 21)])
        self.assertEqual([k.frame for k in made.layer("a").track("rotation").keys], [12, 27])
        alone = bars_edited(self.piece, ["a", "b"], BarEdit.MOVE_ALONE, 7)
        self.assertEqual([k.frame for k in alone.layer("a").track("rotation").keys], [5, 20])

    def test_trims_stop_at_the_shortest_bar(self) -> None:
        self.assertEqual(self.spans(BarEdit.BEGIN, 20, "a", "b"), {"a": (3, 50), "b": (13, 14), "i": (3, 30)})
        self.assertEqual(self.spans(BarEdit.END, -20, "a", "b"), {"a": (0, 47), "b": (10, 11), "i": (3, 30)})
        self.assertEqual(self.spans(BarEdit.END, 4, "a", "b"), {"a": (0, 54), "b": (10, 18), "i": (3, 30)})

    def test_where_all_are_locked_nothing_happens(self) -> None:
        for locked, ids in (("a", ["a"]), ("g", ["i"])):
            piece = self.piece.with_layer(evolve(self.piece.layer(locked), locked=True))
            for how in BarEdit:
                self.assertIs(piece, bars_edited(piece, ids, how, -3))

    def test_what_is_in_a_group_moves_once_with_it(self) -> None:
        self.assertEqual(self.spans(BarEdit.MOVE, 5, "g", "i")["i"], (8, 35))
        self.assertEqual(self.spans(BarEdit.MOVE, 5, "g")["i"], (8, 35))
        self.assertEqual(self.spans(BarEdit.END, 5, "g")["i"], (3, 30))

    def test_locked_ones_stay(self) -> None:
        self.piece = self.piece.with_layer(evolve(self.piece.layer("b"), locked=True))
        self.assertEqual(self.spans(BarEdit.MOVE, 5, "a", "b")["b"], (10, 14))


class PassingOnTest(unittest.TestCase):
    def test_a_thread_goes_to_another_property_of_its_kind(self) -> None:
        wave = Track(0.0, (Key(0, 5.0, SOFT), Key(10, 40.0)), after=Extend(Rule.PING_PONG, 3))
        held = only_value(carrier(rotation=wave), "rotation")
        made = with_value_of(carrier(), "opacity", held, 4).track("opacity")
        self.assertEqual((made.keys, made.after), (wave.keys, wave.after))
        with self.assertRaises(ModelError):
            with_value_of(carrier(), "position", held, 4)
        too_much = only_value(carrier(rotation=Track(400.0)), "rotation")
        with self.assertRaises(ModelError):
            with_value_of(carrier(), "opacity", too_much, 4)

    def test_a_value_is_a_key_where_there_are_keys(self) -> None:
        held = only_value(carrier(rotation=Track(33.0)), "rotation")
        self.assertEqual(with_value_of(carrier(), "rotation", held, 4).track("rotation").value, 33.0)
        moving = carrier(rotation=Track(0.0, (Key(0, 0.0), Key(10, 5.0))))
        keys = with_value_of(moving, "rotation", held, 4).track("rotation").keys
        self.assertEqual([(k.frame, k.value) for k in keys], [(0, 0.0), (4, 33.0), (10, 5.0)])

    def test_a_pace_goes_round(self) -> None:
        held = only_value(carrier(rotation=Track(0.0, (Key(0, 0.0, SOFT), Key(5, 1.0, HOLD), Key(9, 2.0)))), "rotation")
        keys = tuple(Key(frame, float(frame)) for frame in (0, 3, 6, 9))
        made = with_pace_of(carrier(opacity=Track(0.0, keys)), "opacity", held).track("opacity")
        self.assertEqual([k.easing for k in made.keys], [SOFT, HOLD, SOFT, LINEAR])
        self.assertEqual([(k.frame, k.value) for k in made.keys], [(k.frame, k.value) for k in keys])
        with self.assertRaises(ModelError):
            with_pace_of(carrier(), "opacity", held)

    def test_a_look_takes_paint_and_effects_but_neither_place_nor_words(self) -> None:
        red = (1.0, 0.0, 0.0, 1.0)
        block = Block("halo")
        words = Layer("Words", "text", 0, 60, id="w").with_values(text="Hi", fill=red, opacity=40.0)
        held = only_look(words.with_values(position=(9.0, 9.0)).with_block(block))
        other = Layer("Other", "text", 0, 60, id="o").with_values(text="Ho").with_block(Block("gaussian-blur"))
        made = with_look_of(other, held, set())
        self.assertEqual(made.track("fill").value, red)
        self.assertEqual(made.track("opacity").value, 40.0)
        self.assertEqual((made.track("text").value, made.track("position")), ("Ho", other.track("position")))
        self.assertEqual([b.kind for b in made.blocks], ["gaussian-blur", "halo"])
        shape = with_look_of(Layer("Shape", "shape", 0, 60, id="s"), held, set())
        self.assertEqual((shape.track("fill").value, shape.has("font")), (red, False))


if __name__ == "__main__":
    unittest.main()
