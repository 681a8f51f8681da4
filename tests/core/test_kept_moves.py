"""Moves of a person's own: weaker and stronger than they were kept, and through their file."""

from __future__ import annotations

import json
import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from spiralis.core.animation.easing import CubicBezier
from spiralis.core.animation.tracks import value_at
from spiralis.core.editing.kept_moves import PREFIX, as_row, from_row, kept_move, offer_kept
from spiralis.core.editing.moving import with_move
from spiralis.core.model import Key, Layer, MoveUse, Project, Track
from spiralis.core.moves import points_of
from spiralis.core.moves.base import Room
from tests.core.samples import piece

EASE = CubicBezier(0.2, 0.9, 0.4, 1.0)
ROOM = Room((200.0, 100.0), (0.0, 0.0, 20.0, 10.0))


def swoop() -> tuple[Project, Layer]:
    layer = Layer("Kite", "shape", 0, 60, id="kite").with_values(form="rectangle", size=(20.0, 16.0))
    layer = layer.with_track("position", Track((0.0, 0.0), (Key(5, (0.0, 40.0), EASE), Key(25, (60.0, 50.0)))))
    layer = layer.with_track("opacity", Track(100.0, (Key(5, 0.0, EASE), Key(25, 100.0))))
    layer = layer.with_track("scale", Track((100.0, 100.0), (Key(5, (50.0, 200.0), EASE), Key(25, (100.0, 100.0)))))
    return Project("Kites", (piece(layer, length=60),)), layer


class KeptMoveTest(unittest.TestCase):
    def setUp(self) -> None:
        project, layer = swoop()
        self.kept = kept_move(project, project.compositions[0], layer, "Swoop in", "entrance")
        offer_kept((self.kept,))
        self.addCleanup(offer_kept, ())

    @given(st.floats(0, 400))
    def test_its_departures_grow_with_the_strength_and_no_layer_is_less_than_clear(self, strength: float) -> None:
        first, last = points_of(MoveUse(PREFIX + "Swoop in", 0, 20, strength), ROOM)
        by = strength / 100
        room_for = 100.0 / self.kept.side
        for seen, whole in zip(first.place, (-60.0, -10.0), strict=True):
            self.assertAlmostEqual(seen, whole * by * room_for)
        self.assertAlmostEqual(first.scale[0], 1 - 0.5 * by)
        self.assertAlmostEqual(first.scale[1], 1 + by)
        self.assertAlmostEqual(first.opacity, max(1 - by, 0.0))
        self.assertEqual((last.place, last.scale, last.opacity), ((0.0, 0.0), (1.0, 1.0), 1.0))

    def test_a_bent_way_stays_bent(self) -> None:
        bent = (Key(5, (0.0, 40.0), EASE, handle_out=(30.0, -50.0)), Key(25, (60.0, 50.0), handle_in=(-10.0, -40.0)))
        layer = Layer("Kite", "shape", 0, 60, id="kite").with_values(form="rectangle", size=(20.0, 16.0))
        moving = layer.with_track("position", Track((60.0, 50.0), bent))
        project = Project("Kites", (piece(moving, length=60),))
        kept = kept_move(project, project.compositions[0], moving, "Arc", "entrance")
        offer_kept((kept,))
        plain = layer.with_values(position=(60.0, 50.0))
        bare = Project("Kites", (piece(plain, length=60),))
        again = with_move(bare, bare.compositions[0], plain, MoveUse(PREFIX + "Arc", 5, 20))
        for frame in range(30):
            seen = [value_at(y.track("position"), y.parameter("position"), frame) for y in (moving, again)]
            np.testing.assert_allclose(seen[1], seen[0], atol=1e-6, err_msg=str(frame))

    def test_its_file_holds_all_of_it(self) -> None:
        self.assertEqual(from_row(json.loads(json.dumps(as_row(self.kept)))), self.kept)

    def test_what_no_file_of_ours_holds_is_refused(self) -> None:
        for name, wrong in (("family", "dance"), ("seconds", 0), ("side", "wide"), ("points", [])):
            with self.assertRaises((ValueError, TypeError, KeyError), msg=name):
                from_row({**as_row(self.kept), name: wrong})


if __name__ == "__main__":
    unittest.main()
