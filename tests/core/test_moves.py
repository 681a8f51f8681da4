"""Ready-made moves: every one of them against its own description, closed loops, adjusting, taking away, refusing."""

from __future__ import annotations

import unittest

import numpy as np
from attrs import evolve
from hypothesis import given, settings
from hypothesis import strategies as st

from spiralis.core.animation.easing import HOLD, LINEAR
from spiralis.core.editing.edits import moved_in_time
from spiralis.core.editing.moving import room_of, set_by_hand, taken_apart, with_move, with_move_changed, without_move
from spiralis.core.editing.reformat import reformatted
from spiralis.core.errors import ModelError
from spiralis.core.model import Key, Layer, MoveUse, Project, Rule, Track
from spiralis.core.model.drivers import Follow
from spiralis.core.moves import FAMILIES, Point, between, move, moves, points_of
from spiralis.core.render import render_frame
from spiralis.core.render.layers import Evaluated
from spiralis.core.render.space import camera_of
from spiralis.core.storage.conversion import from_json, to_json
from tests.core.samples import piece, seam_jumps

#: Which property each part of a point is written to.
WRITTEN = {"place": "position", "scale": "scale", "turn": "rotation", "opacity": "opacity", "skew": "skew",
           "deep": "position_z", "tip": "turn_x", "swing": "turn_y"}  # fmt: skip
NAMES = [each.name for each in moves()]


def kite(**values: object) -> Layer:
    return Layer("Kite", "shape", 0, 100, id="kite").with_values(
        form="star", size=(20.0, 16.0), fill=(1.0, 0.4, 0.0, 1.0), position=(30.0, 22.0),
        rotation=10.0, scale=(150.0, 80.0), opacity=80.0, **values,
    )  # fmt: skip


def kite_for(name: str) -> Layer:
    return kite(depth=True) if move(name).in_depth else kite()


def holding(layer: Layer) -> Project:
    composition = piece(layer, length=60)
    return Project("Moves", (composition,))


def taken(layer: Layer, *uses: MoveUse) -> tuple[Project, Layer]:
    project = holding(layer)
    for use in uses:
        layer = with_move(project, project.compositions[0], layer, use)
        project = project.with_composition(project.compositions[0].with_layer(layer))
    return project, layer


def state(project: Project, frame: float) -> dict[str, object]:
    composition = project.compositions[0]
    return dict(Evaluated(project, composition, frame).values(composition.layers[0]))


class ShiftedLoopTest(unittest.TestCase):
    @given(st.sampled_from([each.name for each in moves("loop")]), st.integers(-59, 90), st.sampled_from((1, 2, 4)))
    @settings(max_examples=60, deadline=None)
    def test_a_loop_that_begins_later_is_the_same_loop_later(self, name: str, late: int, times: int) -> None:
        plain = kite_for(name)
        (first, _), (other, layer) = (taken(plain, MoveUse(name, at, 60, times=times)) for at in (0, late))
        for frame in (0, 1, 17, 30, 42.5, 58, 59.75):
            early, shifted = state(first, (frame - late) % 60), state(other, frame)
            for key in WRITTEN.values():
                apart = np.subtract(shifted[key], early[key])
                period = plain.parameter(key).period
                apart = apart - np.round(apart / period) * period if period is not None else apart
                np.testing.assert_allclose(apart, 0, atol=1e-5, err_msg=key)
        # What is taken away or changed leaves nothing of it.
        project, piece_ = other, other.compositions[0]
        bare = without_move(project, piece_, layer, 0)
        for key in layer.properties:
            self.assertEqual(bare.track(key).after, plain.track(key).after)
        back = with_move_changed(project, piece_, layer, 0, MoveUse(name, 0, 60, times=times))
        for key in back.properties:
            self.assertEqual(Rule.ONCE, back.track(key).before.rule)

    def test_only_what_takes_the_whole_of_a_loop_goes_on(self) -> None:
        def rules(use: MoveUse, layer: Layer, loop: bool = True) -> set[Rule]:
            project = Project("Moves", (evolve(piece(layer, length=60), loop=loop),))
            made = with_move(project, project.compositions[0], layer, use)
            return {made.track(name).after.rule for name in made.animated()}

        self.assertEqual({Rule.REPEAT}, rules(MoveUse("sway", 5, 60, times=2), kite()))
        self.assertEqual({Rule.ACCUMULATE}, rules(MoveUse("spin", 5, 60), kite()))
        self.assertEqual({Rule.ONCE}, rules(MoveUse("sway", 5, 60, times=2), kite(), loop=False))
        self.assertEqual({Rule.ONCE}, rules(MoveUse("sway", 5, 40, times=2), kite()))
        self.assertEqual({Rule.ONCE}, rules(MoveUse("fade-in", -5, 60), kite()))
        self.assertEqual({Rule.ONCE}, rules(MoveUse("sway", 5, 70, times=2), kite()))
        # Beside keys of one's own nothing goes on, even where all of them would come round.
        for frame in (-3, 65):
            keyed = kite().with_track("rotation", Track(10.0, (Key(frame, 10.0),)))
            self.assertEqual({Rule.ONCE}, rules(MoveUse("sway", 5, 60), keyed))
        words = Layer("Kite", "text", 0, 100, id="kite").with_values(text="Up", size=20.0)
        self.assertEqual({Rule.ACCUMULATE}, rules(MoveUse("sway", 5, 60, part="letters"), words))


class EveryMoveTest(unittest.TestCase):
    def test_there_are_ten_of_each_family_or_more(self) -> None:
        for family in FAMILIES:
            self.assertGreaterEqual(len(moves(family)), 10, family)

    @given(st.sampled_from(NAMES), st.floats(20, 250), st.floats(-180, 180), st.floats(0, 100))
    @settings(max_examples=150, deadline=None)
    def test_the_keys_do_what_the_points_say(self, name: str, strength: float, way: float, softness: float) -> None:
        use = MoveUse(name, 8, 40, strength, way, softness)
        plain = kite_for(name)
        project, layer = taken(plain, use)
        points = points_of(use, room_of(holding(plain), holding(plain).compositions[0], plain, use))
        frames = [8 + round(point.at * 40) for point in points]
        if len(set(frames)) < len(frames):
            return
        self.assertEqual((points[0].at, points[-1].at), (0.0, 1.0))
        for point, frame in zip(points, frames, strict=True):
            seen = state(project, frame)
            np.testing.assert_allclose(seen["position"], np.add((30.0, 22.0), point.place), atol=1e-6)
            np.testing.assert_allclose(seen["scale"], np.multiply((150.0, 80.0), point.scale), atol=1e-6)
            self.assertAlmostEqual(seen["rotation"], 10.0 + point.turn, places=6)
            self.assertAlmostEqual(seen["opacity"], 80.0 * point.opacity, places=6)
            deep = tuple(seen[n] for n in ("position_z", "turn_x", "turn_y"))
            np.testing.assert_allclose(deep, (point.deep, point.tip, point.swing), atol=1e-6)
        self.assertEqual(layer.moves, (use,))
        rest = {"place": (0.0, 0.0), "scale": (1.0, 1.0), "turn": 0.0, "opacity": 1.0, "skew": (0.0, 0.0), "deep": 0.0,
                "tip": 0.0, "swing": 0.0}  # fmt: skip
        left = {part for part, value in rest.items() if any(getattr(point, part) != value for point in points)}
        self.assertEqual({WRITTEN[part] for part in left}, set(layer.animated()), "nothing that stays gets keys")

    def test_moves_in_depth_are_for_what_stands_there(self) -> None:
        deep = [each for each in moves() if each.in_depth]
        self.assertEqual({each.family for each in deep}, set(FAMILIES))
        for each in deep:
            with self.assertRaisesRegex(ModelError, "lies flat; switch In depth on"):
                taken(kite(), MoveUse(each.name, 8, 40))
            _, layer = taken(kite_for(each.name), MoveUse(each.name, 8, 40))
            written = {"position_z", "turn_x", "turn_y"} & set(layer.animated())
            self.assertTrue(written, each.name)

    def test_a_camera_that_goes_round_keeps_its_middle(self) -> None:
        away = 64 * 50 / 36
        camera = Layer("Camera", "camera", 0, 100, id="camera").with_values(
            depth=True, position=(32.0, 24.0), position_z=-away
        )
        project, _ = taken(camera, MoveUse("go-round", 0, 40))
        for frame in (0, 10, 17, 30):
            at = Evaluated(project, project.compositions[0], frame)
            eye = camera_of(at)
            x, y, w = eye.matrix @ (32.0, 24.0, 0.0, 1.0)
            np.testing.assert_allclose((x / w, y / w), (32.0, 24.0), atol=0.7 if frame == 17 else 1e-6)
            self.assertAlmostEqual(np.linalg.norm(eye.place - (32, 24, 0)), away, delta=1.0 if frame == 17 else 1e-6)

    def test_entrances_end_exits_begin_and_loops_do_both_at_rest(self) -> None:
        for each in moves():
            use = MoveUse(each.name, 0, 30, direction=each.direction or 0.0)
            plain = kite_for(each.name)
            points = points_of(use, room_of(holding(plain), holding(plain).compositions[0], plain, use))
            for point, rests in ((points[0], each.family != "entrance"), (points[-1], each.family != "exit")):
                bare = evolve(point, at=0.0, ease=Point(0.0).ease, into=None, out=None)
                if each.family == "loop":
                    bare = evolve(bare, turn=bare.turn % 360, tip=bare.tip % 360)
                if rests:
                    self.assertEqual(bare, Point(0.0), each.name)
                else:
                    self.assertNotEqual(bare, Point(0.0), each.name)

    def test_entrances_begin_out_of_sight(self) -> None:
        for each in moves("entrance"):
            project, _ = taken(kite_for(each.name), MoveUse(each.name, 10, 30, direction=each.direction or 0.0))
            self.assertEqual(render_frame(project, project.compositions[0].id, 5).max(), 0, each.name)

    def test_loops_close_also_over_several_rounds(self) -> None:
        for each in moves("loop"):
            for times in (1, 3):
                use = MoveUse(each.name, 0, 60, direction=each.direction or 0.0, times=times)
                project, _ = taken(kite_for(each.name), use)
                self.assertEqual(seam_jumps(project, project.compositions[0]), [], f"{each.name} × {times}")
                first, later = (render_frame(project, project.compositions[0].id, f) for f in (0, 25))
                self.assertGreater(np.abs(first - later).max(), 0, each.name)

    def test_an_exit_is_its_entrance_backwards(self) -> None:
        entrance = points_of(MoveUse("glide-in", 0, 20, direction=180.0), _room())
        leaving = points_of(MoveUse("glide-away", 0, 20, direction=0.0), _room())
        for share in np.linspace(0, 1, 9):
            one, other = between(entrance, 1 - float(share)), between(leaving, float(share))
            np.testing.assert_allclose(one.place, other.place, atol=1e-6)
            self.assertAlmostEqual(one.opacity, other.opacity, places=6)

    def test_flying_in_starts_just_outside_the_frame(self) -> None:
        for way in (0.0, 90.0, 180.0, -90.0, 30.0):
            project, _ = taken(kite(), MoveUse("fly-in", 10, 30, direction=way))
            composition = project.compositions[0]
            at = Evaluated(project, composition, 0.0)
            left, top, right, bottom = at.matrix(composition.layers[0]).box(at.box(composition.layers[0]))
            outside = max(-right, left - composition.width, -bottom, top - composition.height)
            self.assertGreater(outside, 0)
            self.assertLess(outside, 2)


def _room() -> object:
    plain = kite()
    return room_of(holding(plain), holding(plain).compositions[0], plain, MoveUse("fade-in", 0, 20))


class ChangingTest(unittest.TestCase):
    def test_taking_a_move_away_leaves_nothing_of_it(self) -> None:
        for name in NAMES:
            project, layer = taken(kite_for(name), MoveUse(name, 5, 30))
            bare = without_move(project, project.compositions[0], layer, 0)
            self.assertEqual(bare.moves, ())
            self.assertEqual(bare.animated(), kite().animated(), name)
            for key in ("position", "scale", "rotation", "opacity", "position_z", "turn_x", "turn_y"):
                np.testing.assert_allclose(bare.track(key).value, kite().track(key).value, err_msg=name)

    def test_three_moves_on_end_and_the_middle_one_taken_away(self) -> None:
        uses = (MoveUse("glide-in", 0, 15), MoveUse("float", 15, 30, times=2), MoveUse("glide-away", 45, 14))
        project, layer = taken(kite(), *uses)
        self.assertEqual(render_frame(project, project.compositions[0].id, 0).max(), 0)
        bare = without_move(project, project.compositions[0], layer, 1)
        self.assertEqual([use.name for use in bare.moves], ["glide-in", "glide-away"])
        self.assertEqual([key.frame for key in bare.track("position").keys], [0, 15, 45, 59])

    def test_a_move_is_adjusted_as_one_thing(self) -> None:
        project, layer = taken(kite(), MoveUse("pop-in", 0, 20), MoveUse("spin", 20, 30))
        other = MoveUse("pop-in", 4, 10, strength=200.0)
        changed = with_move_changed(project, project.compositions[0], layer, 0, other)
        self.assertEqual(changed.moves, (other, MoveUse("spin", 20, 30)))
        _, fresh = taken(kite(), other, MoveUse("spin", 20, 30))
        self.assertEqual(changed.track("scale"), fresh.track("scale"))

    def test_what_a_hand_changed_on_its_keys_is_found_also_in_another_format(self) -> None:
        for name in NAMES:
            with self.subTest(move=name):
                project, layer = taken(kite_for(name), MoveUse(name, 5, 20, times=1 + (move(name).family == "loop")))
                composition = project.compositions[0]
                self.assertEqual([], set_by_hand(project, composition, layer, 0))
                larger = reformatted(composition, 2 * composition.width, 2 * composition.height, composition.rate,
                                     composition.length, "fit")  # fmt: skip
                held = project.with_composition(larger)
                self.assertEqual([], set_by_hand(held, larger, larger.layers[0], 0))
                written = layer.animated()[0]
                track = layer.track(written)
                other = LINEAR if track.keys[0].easing == HOLD else HOLD
                eased = layer.with_track(written, track.with_key(evolve(track.keys[0], easing=other)))
                told = set_by_hand(project, composition.with_layer(eased), eased, 0)
                self.assertEqual([layer.parameter(written).label], told)

    def test_taken_apart_keys_stay(self) -> None:
        _, layer = taken(kite(), MoveUse("pop-in", 0, 20))
        plain = taken_apart(layer, 0)
        self.assertEqual((plain.moves, plain.track("scale")), ((), layer.track("scale")))

    def test_moving_the_layer_in_time_takes_its_moves_along(self) -> None:
        _, layer = taken(kite(), MoveUse("pop-in", 0, 20))
        self.assertEqual(moved_in_time(layer, 7).moves[0].first, 7)

    def test_a_move_goes_along_the_screen_below_a_turned_parent(self) -> None:
        carrier = Layer("Carrier", "carrier", 0, 100, id="carrier").with_values(rotation=90.0, scale=(200.0, 200.0))
        layer = evolve(kite(), parent="carrier")
        composition = piece(layer, carrier, length=60)
        project = Project("Moves", (composition,))
        moved = with_move(project, composition, layer, MoveUse("glide-in", 0, 20, direction=0.0))
        made = Evaluated(project, composition.with_layer(moved), 0.0)
        rest = Evaluated(project, composition, 0.0)
        start, end = (e.matrix(e.composition.layers[0]).apply(0, 0) for e in (made, rest))
        self.assertAlmostEqual(start[1], end[1], places=6)
        self.assertLess(start[0], end[0] - 1)


class RefusingTest(unittest.TestCase):
    def test_keys_in_the_way_are_named(self) -> None:
        layer = kite().with_track("scale", Track((100.0, 100.0), (Key(9, (100.0, 100.0)), Key(30, (50.0, 50.0)))))
        with self.assertRaisesRegex(ModelError, "Scale of “Kite” has keys between frames 0 and 20"):
            taken(layer, MoveUse("pop-in", 0, 20))
        taken(layer, MoveUse("glide-in", 0, 20, strength=50.0))

    def test_a_driven_value_is_named(self) -> None:
        layer = kite().with_track("rotation", Track(0.0, driver=Follow("kite", "opacity")))
        with self.assertRaisesRegex(ModelError, "Rotation of “Kite” follows something else"):
            taken(layer, MoveUse("spin", 0, 20))

    def test_numbers_out_of_range(self) -> None:
        for values in ({"length": 0}, {"times": 0}, {"strength": -1.0}, {"part": "halves"}, {"softness": float("nan")}):
            with self.assertRaises(ModelError):
                MoveUse(**{"name": "spin", "first": 0, "length": 20, **values})


class TextTest(unittest.TestCase):
    def test_letters_arrive_and_leave_one_after_another(self) -> None:
        text = Layer("Word", "text", 0, 100, id="word").with_values(text="kite", size=16.0, position=(30.0, 28.0))
        project, layer = taken(
            text, MoveUse("glide-in", 0, 20, part="letters"), MoveUse("glide-away", 30, 20, part="letters")
        )
        ink = [float(render_frame(project, project.compositions[0].id, f)[:, :, 3].sum()) for f in (0, 8, 20, 25, 50)]
        self.assertEqual((ink[0], ink[4]), (0, 0))
        self.assertTrue(0 < ink[1] < ink[2])
        self.assertEqual(ink[2], ink[3])
        self.assertFalse(layer.track("position").keys)
        bare = without_move(project, project.compositions[0], layer, 0)
        bare = without_move(project, project.compositions[0].with_layer(bare), bare, 0)
        self.assertEqual(dict(bare.properties), dict(text.properties))

    def test_loops_go_over_the_letters_and_come_back(self) -> None:
        text = Layer("Word", "text", 0, 100, id="word").with_values(text="I I I", size=16.0, position=(30.0, 28.0))
        still = render_frame(holding(text), "Piece", 0)
        for each in moves("loop"):
            if not each.by_parts:
                continue
            with self.subTest(each.name):
                project, layer = taken(text, MoveUse(each.name, 0, 60, times=2, part="letters"))
                piece_id = project.compositions[0].id
                for rest in (0, 30, 60):  # At both ends of each round all letters stand as they are.
                    np.testing.assert_allclose(render_frame(project, piece_id, rest), still, atol=1e-5)
                columns = np.abs(render_frame(project, piece_id, 4) - still).sum(axis=(0, 2))
                left, right = np.array_split(columns, 2)
                self.assertGreater(left.max(), 0.05)  # The first letter is on its way,
                self.assertLess(right[-12:].max(), 1e-4)  # the last one is not.
                self.assertEqual(seam_jumps(project, project.compositions[0]), [])
                bare = without_move(project, project.compositions[0], layer, 0)
                self.assertEqual(dict(bare.properties), dict(text.properties))

    def test_a_text_whose_parts_are_on_their_way_takes_no_other_move_then(self) -> None:
        text = Layer("Word", "text", 0, 100, id="word").with_values(text="kite", size=16.0, position=(30.0, 28.0))
        use = MoveUse("glide-in", 0, 20, part="letters")
        keyed = text.with_track("spread", Track(0.0, (Key(4, 0.0), Key(14, 100.0))))
        with self.assertRaisesRegex(ModelError, "of “Word” has keys between frames 0 and 20"):
            taken(keyed, use)
        with self.assertRaisesRegex(ModelError, "of “Word” follows something else"):
            taken(text.with_track("spread", Track(0.0, driver=Follow("word", "opacity"))), use)

    def test_a_wave_beside_an_entrance_by_letters_stays_when_that_goes(self) -> None:
        text = Layer("Word", "text", 0, 100, id="word").with_values(text="kite", size=16.0, position=(30.0, 28.0))
        uses = (MoveUse("glide-in", 0, 20, part="letters"), MoveUse("hop", 20, 30, part="letters"))
        project, layer = taken(text, *uses)
        bare = without_move(project, project.compositions[0], layer, 0)
        self.assertEqual(bare.track("wave").keys, layer.track("wave").keys)
        self.assertEqual(bare.track("spread_by").value, "letters")
        self.assertEqual(bare.track("spread").value, 100.0)

    def test_files_keep_moves(self) -> None:
        project, _ = taken(kite(), MoveUse("spin", 3, 20, 200.0, 180.0, 10.0, 2))
        self.assertEqual(from_json(to_json(project), "x"), project)


if __name__ == "__main__":
    unittest.main()
