"""No command changes a locked layer: all of them are tried against a piece whose layers are all locked."""

from __future__ import annotations

import unittest
from unittest import mock

from attrs import evolve
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog, QMessageBox

from spiralis.core.editing.keys import KeyRef
from spiralis.core.editing.locking import locked_in
from spiralis.core.model import Layer
from tests.app.harness import WindowTest

#: Commands that leave the piece, ask for files, or are about the whole piece.
_ELSEWHERE = (
    "New…", "Open…", "Open the demo", "Quit", "Save", "Save as…", "Save a copy…", "Back to the saved file",
    "Bring files in…", "Open artwork as a piece…", "Export…", "Write this frame…", "Write captions…", "Lock or unlock",
    "Undo", "Redo", "Shortcuts…", "Play or stop", "Find a command, layer or effect…", "Close the piece", "Full screen",
    "Picture in a window of its own",
)  # fmt: skip


def bare(layer: Layer) -> Layer:
    return evolve(layer, solo=False, folded=False, tint="", reference=False)


class LockedTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        for target in (QDialog, QMessageBox):
            patch = mock.patch.object(target, "exec", lambda *_: 0)
            patch.start()
            self.addCleanup(patch.stop)
        self.act("Choose all layers")
        self.session.edit_layers("Lock", lambda layer: evolve(layer, locked=True))
        self.first = self.session.composition_id
        self.before = [bare(layer) for layer in self.session.composition.layers]

    def check(self, label: str) -> None:
        piece = self.session.project.composition(self.first)
        kept = [bare(layer) for layer in piece.layers if layer.id in {y.id for y in self.before}]
        order = [y.id for y in self.before]
        self.assertEqual(sorted(kept, key=lambda y: order.index(y.id)) == self.before, True, label)

    def test_no_menu_command_changes_them(self) -> None:
        for label, action in list(self.window.actions_.items()):
            if label in _ELSEWHERE or not action.isEnabled():
                continue
            with self.subTest(label):
                self.session.show_composition(self.first)
                self.session.go_to(10)
                ids = [layer.id for layer in self.session.composition.layers if layer.id in self.original]
                self.session.select(ids, [KeyRef("square", "position", 0), KeyRef("square", "position", 20)])
                windows = self.window.windows
                with mock.patch.object(windows, "choose_move"), mock.patch.object(windows, "choose_effect"):
                    action.trigger()
                self.editor.canvas.end_everything()
                self.settle(0)
                self.check(label)

    @property
    def original(self) -> set[str]:
        return {layer.id for layer in self.before}

    def test_no_hand_changes_them(self) -> None:
        canvas = self.editor.canvas
        self.session.select(["square"])
        self.drag(canvas, self.on_canvas(160, 240), self.on_canvas(300, 300))
        self.check("drag on the canvas")
        self.drag(self.editor.timeline.rows, self.bead("square", "position", 20), self.bead("square", "position", 0))
        self.check("drag of a key")
        self.double_click(canvas, self.on_canvas(480, 120))
        self.type_(canvas, "No")
        self.press(canvas, Qt.Key.Key_Escape)
        self.check("typing")
        self.press(canvas, Qt.Key.Key_Right)
        self.check("nudge")
        self.session.set_property("opacity", 3.0, ["words"])
        self.check("a value in Details")

    def test_layers_of_a_locked_group_are_locked(self) -> None:
        self.session.edit("Unlock", lambda p: evolve(p, layers=tuple(evolve(y, locked=False) for y in p.layers)))
        self.session.select(["square", "words"])
        self.act("Group")
        group = self.session.layers[0].id
        self.act("Lock or unlock")
        self.assertEqual({group, "square", "words"}, set(locked_in(self.session.composition)))
        before = self.session.composition.layer("words")
        self.session.set_property("opacity", 3.0, ["words"])
        self.session.select(["words"])
        self.act("Delete")
        self.assertIs(before, self.session.composition.layer("words"))

    def test_a_deleted_parent_may_not_move_them(self) -> None:
        self.session.edit("Unlock", lambda p: evolve(p, layers=tuple(evolve(y, locked=False) for y in p.layers)))
        self.session.edit("Hang", lambda p: p.with_layer(evolve(p.layer("words"), parent="square", locked=True)))
        self.session.select(["square"])
        self.act("Delete")
        self.assertEqual("square", self.layer("words").parent)
        self.assertIsNotNone(self.session.composition.find("square"))


if __name__ == "__main__":
    unittest.main()
