"""Dashes that move: a line is added and dashed, its dashes get keys, and the loop is clean."""

import unittest

import numpy as np
from PyQt6.QtWidgets import QWidget

from spiralis.core.checks.seam import check
from spiralis.core.editing.keys import KeyRef
from spiralis.core.model.track import Rule
from tests.app.harness import WindowTest


class DashesTest(WindowTest):
    def field(self, name: str, part: int = 0) -> QWidget:
        self.settle(0.2)
        editor = self.editor.details.editors[name]
        field: QWidget = editor.fields[part] if hasattr(editor, "fields") else editor.field
        return field

    def test_a_dashed_line_moves_on_round_the_loop(self) -> None:
        menu = self.editor.add_strip.shape.menu()
        next(action for action in menu.actions() if action.text() == "Line").trigger()
        self.settle(0.3)
        self.assertNotIn("dash_shift", self.editor.details.editors, "nothing is dashed yet")
        self.enter_number(self.field("dash"), "24")
        self.enter_number(self.field("dash", 1), "16")
        self.settle(0.3)
        (line,) = self.session.layers
        self.click(self.editor.details.beads["dash_shift"])
        self.session.go_to(25)
        self.enter_number(self.field("dash_shift"), "100")
        self.assertEqual([0, 25], [key.frame for key in self.layer(line.id).track("dash_shift").keys])
        self.session.select([line.id], [KeyRef(line.id, "dash_shift", 0)])
        self.click(self.editor.pace.tiles.tiles["straight"])
        rules = self.editor.pace.rules["after"]
        rules.activated.emit(rules.findData(Rule.REPEAT))
        seen = self.seen_at((0, 6, 12))
        self.assertGreater(np.abs(seen[0] - seen[1]).max(), 60)
        self.assertGreater(np.abs(seen[1] - seen[2]).max(), 60)
        found = check(self.session.project, self.session.composition)
        self.assertEqual([], [cause.sentence for cause in found.causes if cause.layer == line.id])


if __name__ == "__main__":
    unittest.main()
