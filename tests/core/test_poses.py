"""Pose strips: captured looks written as keys, captured anew, moved, removed, returned to."""

from __future__ import annotations

import unittest
from collections.abc import Callable, Iterable

import numpy as np
from attrs import evolve
from hypothesis import given
from hypothesis import strategies as st

from spiralis.core.animation.easing import HOLD, LINEAR
from spiralis.core.editing.arranging import seen_box
from spiralis.core.editing.grouping import grouped, ungrouped
from spiralis.core.editing.nesting import nest, open_up
from spiralis.core.editing.posing import (
    changed_pose,
    changed_strip,
    fitted_to_strip,
    moved_pose,
    overwritten,
    with_captured,
    with_strip,
    without_pose,
)
from spiralis.core.editing.reformat import cropped, reformatted
from spiralis.core.editing.reframing import add_format
from spiralis.core.editing.removing import removed
from spiralis.core.editing.reparenting import with_hung
from spiralis.core.editing.separating import position_switched
from spiralis.core.editing.sources import replaced
from spiralis.core.errors import ModelError
from spiralis.core.model import Composition, Key, Layer, Project, Source, Track
from spiralis.core.model.drivers import Follow
from spiralis.core.render.layers import Evaluated
from tests.core.samples import piece, seam_jumps


def kite(**values: object) -> Layer:
    return Layer("Kite", "shape", 0, 200, id="kite").with_values(**{"form": "star", "position": (10.0, 10.0), **values})


def seen(composition: Composition, frame: float) -> Evaluated:
    return Evaluated(Project("Poses", (composition,)), composition, frame)


def value(composition: Composition, name: str, frame: float) -> object:
    return seen(composition, frame).values(composition.layer("kite"))[name]


def posed(*looks: dict[str, object]) -> Composition:
    """Return a piece with one pose for each set of values of the kite."""
    made = piece(kite(**looks[0]), length=200)
    for look in looks:
        arranged = made.with_layer(kite(**look))
        at = seen(arranged, 0)
        made = with_captured(made, at, ["kite"])
    return made


class WritingTest(unittest.TestCase):
    def test_poses_stay_and_in_betweens_lead_on(self) -> None:
        made = posed({"rotation": 0.0}, {"rotation": 90.0}, {"rotation": 30.0})
        self.assertEqual(made.poses.begins, (0, 14, 28, 42))
        frames = np.arange(60)
        turns = np.array([value(made, "rotation", int(f)) for f in frames])
        for begin, wanted in ((0, 0.0), (14, 90.0), (28, 30.0)):
            np.testing.assert_allclose(turns[begin : begin + 6], wanted)
        between = turns[6:14]
        self.assertEqual(len(np.unique(np.round(between, 9))), 8)
        self.assertTrue((np.diff(turns[5:15]) > 0).all())
        self.assertAlmostEqual(turns[42], 0.0)

    def test_only_what_differs_gets_keys(self) -> None:
        made = posed({"rotation": 0.0}, {"rotation": 90.0})
        self.assertEqual(made.layer("kite").animated(), ["rotation"])

    def test_what_cannot_be_mixed_changes_with_its_pose(self) -> None:
        made = posed({"visible": True}, {"visible": False}, {"visible": True})
        self.assertEqual([value(made, "visible", f) for f in (0, 13, 14, 27, 28)], [True, True, False, False, True])

    @given(st.lists(st.tuples(st.integers(1, 30), st.integers(0, 30), st.floats(-200, 200)), min_size=2, max_size=7))
    def test_every_pose_is_met_exactly_whatever_the_times(self, rows: list[tuple[int, int, float]]) -> None:
        made = posed(*({"rotation": turn} for _, _, turn in rows))
        for index, (stay, between, _) in enumerate(rows):
            made = changed_pose(made, index, lambda p, s=stay, b=between: evolve(p, stay=s, between=b))
        for begin, (stay, _, turn) in zip(made.poses.begins, rows, strict=False):
            for frame in (begin, begin + stay - 1):
                self.assertAlmostEqual(float(value(made, "rotation", frame)), turn, places=6)

    def test_a_fitted_piece_loops(self) -> None:
        made = fitted_to_strip(posed({"position": (10.0, 10.0)}, {"position": (40.0, 20.0)}))
        self.assertEqual(made.length, 28)
        self.assertEqual(seam_jumps(Project("Poses", (made,)), made), [])


class ChangingTest(unittest.TestCase):
    def test_capturing_anew_updates_the_keys(self) -> None:
        made = posed({"rotation": 0.0}, {"rotation": 90.0})
        arranged = made.with_layer(kite(rotation=45.0, opacity=50.0))
        made = with_captured(made, seen(arranged, 14), ["kite"], 1)
        self.assertAlmostEqual(float(value(made, "rotation", 14)), 45.0)
        self.assertAlmostEqual(float(value(made, "opacity", 14)), 50.0)
        self.assertAlmostEqual(float(value(made, "opacity", 0)), 100.0)

    def test_another_layer_joins_later(self) -> None:
        made = posed({"rotation": 0.0}, {"rotation": 90.0})
        other = evolve(kite(rotation=5.0), id="other", name="Other")
        made = evolve(made, layers=(*made.layers, other))
        made = with_captured(made, seen(made, 14), ["other"], 1)
        self.assertEqual(made.layer("other").animated(), [])
        self.assertEqual(len(made.poses.poses[1].look()) - len(made.poses.poses[0].look()),
                         len([v for v in made.poses.poses[1].values if v[0] == "other"]))  # fmt: skip

    def test_removing_down_to_one_pose_leaves_its_look_without_keys(self) -> None:
        made = without_pose(posed({"rotation": 20.0}, {"rotation": 90.0}), 1)
        self.assertEqual(made.layer("kite").animated(), [])
        self.assertEqual(value(made, "rotation", 0), 20.0)
        made = without_pose(posed({"rotation": 20.0}, {"rotation": 90.0}), 0)
        self.assertEqual(([], 90.0), (made.layer("kite").animated(), value(made, "rotation", 0)))

    def test_moving_a_pose(self) -> None:
        made = moved_pose(posed({"rotation": 1.0}, {"rotation": 2.0}, {"rotation": 3.0}), 2, 0)
        self.assertEqual([value(made, "rotation", f) for f in made.poses.begins[:3]], [3.0, 1.0, 2.0])

    def test_without_returning_the_last_pose_holds(self) -> None:
        made = posed({"rotation": 1.0}, {"rotation": 2.0})
        made = with_strip(made, evolve(made.poses, returns=False))
        self.assertEqual(value(made, "rotation", 150), 2.0)

    def test_a_layer_that_is_gone_and_a_driven_value_are_left_alone(self) -> None:
        made = posed({"rotation": 1.0}, {"rotation": 2.0})
        gone = evolve(made, layers=())
        self.assertEqual(with_strip(gone, evolve(made.poses, softness=10.0)).layers, ())
        driven = made.with_layer(
            made.layer("kite").with_track("rotation", Track(0.0, driver=Follow("kite", "opacity")))
        )
        again = with_strip(driven, evolve(made.poses, softness=10.0))
        self.assertEqual(Track(0.0, driver=Follow("kite", "opacity")), again.layer("kite").track("rotation"))

    def test_nothing_chosen_and_nothing_to_fit_are_told(self) -> None:
        bare = piece(kite(), length=200)
        with self.assertRaisesRegex(ModelError, "Choose the layers"):
            with_captured(bare, seen(bare, 0), [])
        with self.assertRaisesRegex(ModelError, "two poses or more"):
            fitted_to_strip(bare)


if __name__ == "__main__":
    unittest.main()


class AlongTest(unittest.TestCase):
    """What maps a layer's values maps the looks that poses hold of it: a strip written anew shows what was seen."""

    def setUp(self) -> None:
        board = Layer("Board", "carrier", 0, 200, id="board").with_values(position=(70.0, 40.0), scale=(50.0, 50.0))
        board = board.with_values(rotation=30.0)
        ground = Layer("Ground", "backdrop", 0, 200, id="ground").with_values(position=(50.0, 50.0))
        looks = (
            {"position": (20.0, 30.0), "rotation": 0.0}, {"position": (60.0, 35.0), "rotation": 90.0},
            {"position": (40.0, 80.0), "rotation": 15.0},
        )  # fmt: skip
        made = posed(*({"size": (30.0, 20.0), **look} for look in looks))
        self.piece = evolve(made, layers=(board, *made.layers, ground), id="piece")
        self.project = Project("Poses", (self.piece,))

    def boxes(self, piece: Composition, frames: Iterable[int]) -> np.ndarray:
        project = self.project.with_composition(piece) if self.project.find(piece.id) else Project("P", (piece,))
        at = [Evaluated(project, piece, float(frame)) for frame in frames]
        kites = [next(y for y in piece.layers if y.name == "Kite") for _ in at]
        return np.array([seen_box(each, layer) for each, layer in zip(at, kites, strict=True)])

    def assert_goes_along(self, piece: Composition, later: int = 0) -> None:
        begins = [begin + later for begin in (0, 14, 28)]
        before = self.boxes(piece, begins)
        self.assertEqual((*begins, 42 + later), piece.poses.begins)
        for change in (lambda s: evolve(s, softness=21.0), lambda s: evolve(s, returns=False)):
            np.testing.assert_allclose(before, self.boxes(changed_strip(piece, change), begins), atol=1e-6)
            # So it is where the strip's own looks decide, as they do when another pose is captured.
            np.testing.assert_allclose(before, self.boxes(with_strip(piece, change(piece.poses)), begins), atol=1e-6)
        longer = changed_pose(piece, 0, lambda pose: evolve(pose, stay=pose.stay + 5))
        late = [begins[0], *(begin + 5 for begin in begins[1:])]
        np.testing.assert_allclose(before, self.boxes(longer, late), atol=1e-6)
        layer = next(y for y in piece.layers if y.name == "Kite")
        for pose in piece.poses.poses:
            for owner, name, held in pose.values:
                if owner == layer.id and name in ("scale", "size"):
                    np.testing.assert_allclose(layer.track(name).value, held)

    def test_formats(self) -> None:
        for scales in ("keep", "fit", "cover"):
            made = reformatted(self.piece, 300, 150, self.piece.rate, self.piece.length, scales)
            self.assert_goes_along(made)
        project, made_id = add_format(self.project, "piece", 300, 150)
        self.assert_goes_along(project.composition(made_id))

    def test_frames_cropped(self) -> None:
        self.assert_goes_along(cropped(self.piece, (10.0, 5.0, 90.0, 85.0)))

    def test_x_and_y(self) -> None:
        apart, _ = position_switched(self.piece, ["kite"], True)
        self.assert_goes_along(apart)
        self.assert_goes_along(position_switched(apart, ["kite"], False)[0])

    def test_what_it_hangs_on(self) -> None:
        hung = with_hung(seen(self.piece, 0), self.piece, "kite", "board")
        self.assert_goes_along(hung)
        self.assert_goes_along(with_hung(seen(hung, 5), hung, "kite", None))
        self.assert_goes_along(removed(self.project.with_composition(hung), hung, ["board"]).piece)
        held, group = grouped(self.project, hung, ["kite"], 3)
        self.assert_goes_along(held)
        self.assert_goes_along(ungrouped(self.project.with_composition(held), held, group, 3).piece)

    def test_several_that_hang_on_what_goes(self) -> None:
        twin = evolve(kite(size=(9.0, 9.0)), id="twin")
        made = evolve(piece(kite(size=(30.0, 20.0)), twin, self.piece.layer("board"), length=200), id="piece")
        for turn in (0.0, 40.0, 80.0):
            look = {"position": (30.0 + turn, 40.0), "rotation": turn}
            arranged = evolve(made, layers=tuple(
                y.with_values(**look) if y.id in ("kite", "twin") else y for y in made.layers))  # fmt: skip
            made = with_captured(made, seen(arranged, 0), ["kite", "twin"])
        for name in ("kite", "twin"):
            made = with_hung(seen(made, 0), made, name, "board")

        def boxes(of: Composition) -> list[list[float]]:
            moments = [seen(of, float(begin)) for begin in of.poses.begins]
            return [[*seen_box(at, of.layer(name))] for at in moments for name in ("kite", "twin")]

        freed = removed(self.project.with_composition(made), made, ["board"]).piece
        np.testing.assert_allclose(boxes(freed), boxes(made), atol=1e-6)
        for pose, begin in zip(freed.poses.poses, freed.poses.begins, strict=False):
            at = seen(freed, float(begin))
            for owner, name, held in pose.values:
                if name in ("position", "rotation", "scale"):
                    np.testing.assert_allclose(at.values(freed.layer(owner))[name], held, atol=1e-6, err_msg=owner)

    def test_nests(self) -> None:
        made, shown = nest(self.project, "piece", ["kite"], "Inner", cropped=True)
        inner = made.composition(made.composition("piece").layer(shown).track("composition").value)
        self.assertNotEqual((inner.width, inner.height), (self.piece.width, self.piece.height))
        self.assert_goes_along(inner)
        hung = with_hung(seen(self.piece, 0), self.piece, "kite", "board")
        both, pair = nest(self.project.with_composition(hung), "piece", ["kite", "board"], "Both", cropped=True)
        self.assert_goes_along(both.composition(both.composition("piece").layer(pair).track("composition").value))
        later = made.composition("piece")
        later = later.with_layer(evolve(later.layer(shown), first=7).with_values(start=7.0))
        opened, _ = open_up(made.with_composition(later), "piece", shown)
        self.project = opened
        self.assert_goes_along(opened.composition("piece"), later=7)

    def test_another_picture(self) -> None:
        small, large = (Source(f"{n}.png", f"{n:064x}", ".png", n, n, id=f"of{n}", data=b"-") for n in (20, 80))
        kite = self.piece.layer("kite")
        picture = Layer("Kite", "picture", 0, 200, id="kite").with_values(source="of20")
        for name in ("position", "rotation"):
            picture = picture.with_track(name, kite.track(name))
        strip = self.piece.poses
        poses = (evolve(pose, values=tuple(row for row in pose.values if picture.has(row[1]))) for pose in strip.poses)
        piece = evolve(self.piece.with_layer(picture), poses=evolve(strip, poses=tuple(poses)))
        self.project = Project("Poses", (piece,), sources=(small, large))
        self.assert_goes_along(piece)
        self.project = replaced(self.project, "of20", evolve(large, id="of20"))
        self.assertEqual((25.0, 25.0), self.project.composition("piece").layer("kite").track("scale").value)
        self.assert_goes_along(self.project.composition("piece"))


class HandTest(unittest.TestCase):
    """What a hand did to the keys of a strip."""

    def setUp(self) -> None:
        self.piece = posed({"rotation": 0.0}, {"rotation": 90.0})

    def by_hand(self, change: Callable[[Track], Track]) -> Composition:
        layer = self.piece.layer("kite")
        return self.piece.with_layer(layer.with_track("rotation", change(layer.track("rotation"))))

    def test_another_name_leaves_all_keys(self) -> None:
        eased = self.by_hand(lambda t: evolve(t, keys=tuple(evolve(key, easing=LINEAR) for key in t.keys)))
        named = changed_pose(eased, 1, lambda pose: evolve(pose, name="Up"))
        self.assertEqual(eased.layers, named.layers)
        self.assertEqual("Up", named.poses.poses[1].name)

    def test_a_value_on_a_poses_first_frame_is_the_poses_from_then_on(self) -> None:
        turned = self.by_hand(lambda t: t.with_key(Key(14, 45.0, HOLD)))
        longer = changed_pose(turned, 0, lambda pose: evolve(pose, stay=10))
        self.assertEqual([], overwritten(turned, longer))
        self.assertEqual(45.0, value(longer, "rotation", 18))
        self.assertEqual(45.0, longer.poses.poses[1].look()["kite", "rotation"])

    def test_keys_that_go_are_told(self) -> None:
        more = self.by_hand(lambda t: t.with_key(Key(10, 200.0)))
        softer = changed_strip(more, lambda strip: evolve(strip, softness=5.0))
        self.assertEqual(["Kite: Rotation"], overwritten(more, softer))
        self.assertEqual([], overwritten(self.piece, changed_strip(self.piece, lambda s: evolve(s, softness=5.0))))
        # The first strip takes the place of a motion that was there.
        moved = piece(kite().with_track("rotation", Track(0.0, (Key(0, 0.0), Key(50, 90.0)))), length=200)
        once = with_captured(moved, seen(moved, 0), ["kite"])
        self.assertEqual([], overwritten(moved, once))
        twice = with_captured(once, seen(once, 50), ["kite"])
        self.assertEqual(["Kite: Rotation"], overwritten(once, twice))
