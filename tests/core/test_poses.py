"""Pose strips: captured looks written as keys, captured anew, moved, removed, returned to."""

from __future__ import annotations

import unittest

import numpy as np
from attrs import evolve
from hypothesis import given
from hypothesis import strategies as st

from spiralis.core.editing.posing import (
    changed_pose,
    fitted_to_strip,
    moved_pose,
    with_captured,
    with_strip,
    without_pose,
)
from spiralis.core.errors import ModelError
from spiralis.core.model import Composition, Layer, Project, Track
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
