"""Seam check in the window: the verdict in the piece bar and on the ring, frames, plot, mends, what is left alone."""

from unittest import mock

import numpy as np
from attrs import evolve
from PyQt6.QtCore import QPointF
from PyQt6.QtWidgets import QInputDialog

from spiralis.app.seam.window import SeamWindow
from spiralis.core.editing.keys import KeyRef
from tests.app.harness import WindowTest


class SeamWindowTest(WindowTest):
    """The sample's square slides from left to right within 20 of 50 frames, and jumps back at the end."""

    def shown(self) -> SeamWindow:
        self.click(self.editor.piece_bar.loop)
        seam = self.window.windows.seam
        assert seam is not None
        self.looked(seam)
        return seam

    def looked(self, seam: SeamWindow) -> None:
        """Wait until what the window says is about the piece as it is now."""
        self.settle(0.3)
        self.until(lambda: seam.verdict is not None and "looking" not in seam.about.text())

    def test_the_verdict_is_live_in_the_piece_bar_and_on_the_ring(self) -> None:
        bar, ring = self.editor.piece_bar.loop, self.editor.transport.ring
        self.until(lambda: bar.text() == "Jump")
        self.assertIn("Square: Position", bar.toolTip())
        self.session.go_to(12)
        self.settle()
        broken = ring.grab().toImage()
        self.session.select(["square"])
        self.act("Close the loop")
        self.until(lambda: bar.text() == "Loop is clean")
        self.session.select([])
        self.settle(0.4)
        self.assertNotEqual(ring.grab().toImage(), broken)
        self.act("Undo")
        self.until(lambda: bar.text() == "Jump")

    def test_it_shows_both_frames_their_difference_and_the_change(self) -> None:
        seam = self.shown()
        self.assertEqual(seam.words.text(), "Jump")
        self.assertEqual(seam.pictures.names, ("Last frame, 49", "First frame, 0"))
        assert seam.pictures.last is not None and seam.pictures.first is not None and seam.plot.changes is not None
        self.assertGreater(int(np.abs(seam.pictures.last.astype(int) - seam.pictures.first).max()), 50)
        self.assertEqual(len(seam.plot.changes), 50)
        self.assertEqual(int(np.argmax(seam.plot.changes)), 49)
        area = seam.plot._plot()
        self.click(seam.plot, QPointF(area.left() + 0.5 * area.width() / 50, area.center().y()))
        self.assertEqual(self.session.frame, 25)
        weak = seam.pictures.grab().toImage()
        self.enter_number(seam.gain, "40")
        self.assertNotEqual(seam.pictures.grab().toImage(), weak)
        self.click(seam.flick)
        self.assertTrue(seam.pictures.flicking)
        one = seam.pictures.grab().toImage()
        self.until(lambda: seam.pictures.grab().toImage() != one)
        seam.close()
        self.assertFalse(seam.pictures.flicking)

    def test_one_click_mends_one_undo_takes_it_back(self) -> None:
        seam = self.shown()
        row = seam.list.rows[0]
        self.assertEqual(list(row.buttons), ["set-last-to-first", "ping-pong", "cross-fade"])
        self.click(row.buttons["set-last-to-first"])
        self.looked(seam)
        self.assertEqual((seam.words.text(), seam.list.rows), ("Loop is clean", []))
        keys = self.layer("square").track("position").keys
        self.assertEqual((keys[-1].frame, keys[-1].value), (50, keys[0].value))
        self.assertFalse(seam.all.isEnabled())
        self.act("Undo")
        self.looked(seam)
        self.assertEqual(seam.words.text(), "Jump")

    def test_everything_is_mended_in_one_step(self) -> None:
        self.session.select(["words"])
        self.session.edit_layers("Trim", lambda y: evolve(y, last=47), ["words"])
        seam = self.shown()
        self.assertEqual(len(seam.list.rows), 2)
        self.click(seam.all)
        self.looked(seam)
        self.assertEqual(seam.words.text(), "Loop is clean")
        self.assertEqual(self.layer("words").last, 50)
        self.act("Undo")
        self.assertEqual(self.layer("words").last, 47)
        self.assertEqual(len(self.layer("square").track("position").keys), 2)

    def test_what_is_meant_is_left_alone_with_a_reason(self) -> None:
        seam = self.shown()
        with mock.patch.object(QInputDialog, "getText", return_value=("a cut on purpose", True)):
            self.click(seam.list.rows[0].leave)
        self.looked(seam)
        self.assertEqual(seam.words.text(), "Loop is clean")
        self.assertIn("a cut on purpose", seam.list.rows[0].findChildren(type(seam.words))[0].text())
        self.until(lambda: self.editor.piece_bar.loop.text() == "Loop is clean")
        self.click(seam.list.rows[0].leave)
        self.looked(seam)
        self.assertEqual(seam.words.text(), "Jump")

    def test_it_leads_to_the_layer_and_its_keys(self) -> None:
        seam = self.shown()
        seam.list.rows[0].showAsked.emit(seam.list.rows[0].cause)
        self.assertEqual(self.session.selected, ("square",))
        self.assertEqual(self.session.keys, {KeyRef("square", "position", 0), KeyRef("square", "position", 20)})

    def test_a_locked_layer_is_said_to_stay(self) -> None:
        self.session.select(["square"])
        self.act("Lock or unlock")
        seam = self.shown()
        self.click(seam.list.rows[0].buttons["set-last-to-first"])
        self.assertIn("locked", self.said[-1])

    def test_rows_about_what_is_gone_meanwhile_say_so(self) -> None:
        """The window looks a moment after each change; until then it lists what was there."""
        seam = self.shown()
        cause = seam.list.rows[0].cause
        self.session.edit("Clear", lambda piece: evolve(piece, layers=piece.layers[1:]))
        project = self.session.project
        for mend in cause.mends:
            seam.list.rows[0].mendAsked.emit(cause, mend)
            self.assertTrue(self.said and self.session.project is project, mend)
        seam.list.rows[0].showAsked.emit(cause)
        self.assertEqual((), self.session.selected)
        here = self.session.composition_id
        seam.list.rows[0].showAsked.emit(evolve(cause, piece="gone"))
        self.assertEqual(here, self.session.composition_id)
        self.assertIn("not in the project any more", self.said[-1])
