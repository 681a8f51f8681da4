"""Random sequences of edits: undoing all of them returns the start, redoing all of them the end, exactly."""

from __future__ import annotations

import unittest
from unittest import mock

from attrs import evolve
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from spiralis.app.commands.arranging import Arranging
from spiralis.app.commands.layers import Commands
from spiralis.app.main import application
from spiralis.app.session import Session
from spiralis.app.strips.add_strip import add_carrier, add_ground, add_shape, add_text
from tests.app.harness import sample_project

_MOVES = (
    "text", "star", "line", "clouds", "carrier", "duplicate", "delete", "front", "back", "align", "distribute", "fit",
    "flip", "mask", "matte", "nest", "open", "own", "lock", "reference", "solo", "fold", "tint", "centre", "trim",
    "key", "crop", "reset", "simplify", "union", "span", "move", "look",
)  # fmt: skip


def make(session: Session, move: str, number: int) -> None:
    """Do one edit to a layer that the number picks."""
    arranging, commands = Arranging(session), Commands(session)
    layers = session.composition.layers
    if layers:
        first = layers[number % len(layers)].id
        other = layers[(number * 7 + 1) % len(layers)].id
        session.select(dict.fromkeys([first, other] if number % 3 else [first]))
    session.go_to(number % session.composition.length)
    run = {
        "text": lambda: add_text(session), "star": lambda: add_shape(session, "star"),
        "line": lambda: add_shape(session, "line"), "clouds": lambda: add_ground(session, "clouds"),
        "carrier": lambda: add_carrier(session), "duplicate": commands.duplicate, "delete": commands.delete,
        "front": lambda: commands.restack(-1), "back": lambda: commands.restack(1),
        "align": lambda: arranging.align(("left", "centre", "bottom")[number % 3]),
        "distribute": lambda: arranging.distribute(number % 2),
        "fit": lambda: arranging.fit(("contain", "cover")[number % 2]), "flip": lambda: arranging.flip(number % 2),
        "mask": lambda: arranging.mask("ellipse", bool(number % 2)), "matte": arranging.matte,
        "nest": lambda: arranging.nest(bool(number % 2)), "open": arranging.open_up,
        "own": lambda: arranging.own_copy(bool(number % 2)), "lock": commands.toggle_lock,
        "reference": commands.toggle_reference, "solo": lambda: commands.toggle_flag("solo", "Show alone"),
        "fold": lambda: commands.toggle_flag("folded", "Fold"), "tint": lambda: commands.tint("teal"),
        "centre": commands.centre, "trim": lambda: commands.trim(bool(number % 2)),
        "key": lambda: commands.key(("position", "opacity")[number % 2]), "crop": arranging.crop_to_chosen,
        "reset": arranging.reset_place, "simplify": arranging.simplify, "union": lambda: arranging.combine("union"),
        "span": lambda: commands.span_edge(bool(number % 2)),
        "move": lambda: session.set_property("position", (float(number), 40.0)),
        "look": lambda: session.set_property("opacity", float(number % 101)),
    }[move]  # fmt: skip
    run()


class SequenceTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.app = application()
        # What combining would lose is asked first; the answer is yes, as somebody gives it who goes on.
        cls.enterClassContext(mock.patch("spiralis.app.commands.arranging.may_lose", return_value=True))

    @settings(max_examples=40, suppress_health_check=[HealthCheck.too_slow], deadline=None)
    @given(st.lists(st.tuples(st.sampled_from(_MOVES), st.integers(0, 400)), min_size=1, max_size=14))
    def test_undo_all_and_redo_all(self, moves: list[tuple[str, int]]) -> None:
        session = Session(sample_project())
        start = session.project
        for move, number in moves:
            make(session, move, number)
            session.close_step()
        end = session.project
        while session.history.undo_name is not None:
            session.undo()
        self.assertEqual(session.project, start)
        self.assertIs(session.project, start)
        while session.history.redo_name is not None:
            session.redo()
        self.assertIs(session.project, end)

    def test_the_same_edits_touch_what_they_say(self) -> None:
        session = Session(sample_project())
        for move in _MOVES:
            before = session.project
            make(session, move, 4)
            self.assertTrue(session.project is before or session.history.undo_name is not None, move)
        session.edit("Nothing", lambda piece: evolve(piece))
        self.assertIsNotNone(session.history.undo_name)


if __name__ == "__main__":
    unittest.main()
