"""The timeline by keyboard alone: rows, keys of a thread, more of them, a new one, moved, deleted."""

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from spiralis.core.animation.easing import CubicBezier
from spiralis.core.editing.keys import KeyRef
from spiralis.core.model import Key, Track
from tests.app.harness import NONE, SHIFT, WindowTest


class TimelineKeyboardTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        track = Track(0.0, tuple(Key(frame, float(frame)) for frame in (0, 10, 30)))
        self.session.edit_layers("Keys", lambda layer: layer.with_track("rotation", track), ["square"])
        self.rows = self.editor.timeline.rows
        self.rows.setFocus()
        self.session.select([])
        self.settle()

    def key(self, key: Qt.Key, held: Qt.KeyboardModifier = NONE) -> None:
        QTest.keyClick(self.rows, key, held)
        self.settle(0)

    def chosen(self) -> list[int]:
        return sorted(ref.frame for ref in self.session.keys if (ref.layer, ref.name) == ("square", "rotation"))

    def go_to_rotation(self) -> None:
        for _ in range(20):
            self.key(Qt.Key.Key_Down)
            row = self.rows.keyboard.row()
            assert row is not None
            if (row.layer.id, row.name) == ("square", "rotation"):
                return
        self.fail("the thread was not reached")

    def test_down_and_up_go_through_all_rows_and_round(self) -> None:
        seen = []
        count = len(self.rows.rows())
        for _ in range(count):
            self.key(Qt.Key.Key_Down)
            row = self.rows.keyboard.row()
            assert row is not None
            seen.append((row.layer.id, row.name))
        self.assertEqual(seen, [(row.layer.id, row.name) for row in self.rows.rows()])
        self.key(Qt.Key.Key_Down)
        first = self.rows.keyboard.row()
        assert first is not None
        self.assertEqual((first.layer.id, first.name), seen[0])
        self.key(Qt.Key.Key_Up)
        last = self.rows.keyboard.row()
        assert last is not None
        self.assertEqual((last.layer.id, last.name), seen[-1])

    def test_keys_are_chosen_extended_moved_and_deleted(self) -> None:
        self.go_to_rotation()
        self.key(Qt.Key.Key_PageDown)
        self.assertEqual((self.chosen(), self.session.frame), ([0], 0))
        self.key(Qt.Key.Key_PageDown)
        self.assertEqual((self.chosen(), self.session.frame), ([10], 10))
        self.key(Qt.Key.Key_PageDown, SHIFT)
        self.assertEqual((self.chosen(), self.session.frame), ([10, 30], 30))
        self.key(Qt.Key.Key_Right)
        self.assertEqual([key.frame for key in self.layer("square").track("rotation").keys], [0, 11, 31])
        self.key(Qt.Key.Key_PageUp)
        self.assertEqual(self.chosen(), [11])
        self.act("Delete")
        self.assertEqual([key.frame for key in self.layer("square").track("rotation").keys], [0, 31])

    def test_enter_sets_a_key_here_and_chooses_it(self) -> None:
        self.go_to_rotation()
        self.session.go_to(20)
        self.key(Qt.Key.Key_Return)
        self.assertEqual([key.frame for key in self.layer("square").track("rotation").keys], [0, 10, 20, 30])
        self.assertEqual(self.session.keys, {KeyRef("square", "rotation", 20)})

    def test_the_row_with_the_keyboard_is_framed_and_only_while_it_has_it(self) -> None:
        self.go_to_rotation()
        row = self.rows.keyboard.row()
        assert row is not None
        self.settle()
        corner = self.rows.grab().toImage().pixelColor(40, round(row.top + 1))
        self.editor.canvas.setFocus()
        self.settle()
        without = self.rows.grab().toImage().pixelColor(40, round(row.top + 1))
        apart = np.abs(np.subtract(corner.getRgb()[:3], without.getRgb()[:3])).max()
        self.assertGreater(apart, 60)


class CurveKeyboardTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.session.view.toggle("pace")
        self.session.select(["square"], {KeyRef("square", "position", 0)})
        self.settle(0.2)
        self.curves = self.editor.pace.curves
        self.curves.setFocus()

    def easing(self) -> CubicBezier:
        found = self.session.composition.layer("square").track("position").keys[0].easing
        assert isinstance(found, CubicBezier)
        return found

    def test_arrows_bend_by_the_handle_that_is_held(self) -> None:
        QTest.keyClick(self.curves, Qt.Key.Key_Right, SHIFT)
        self.assertAlmostEqual(self.easing().x1, 0.1)
        second = (self.easing().x2, self.easing().y2)
        QTest.keyClick(self.curves, Qt.Key.Key_PageDown)
        QTest.keyClick(self.curves, Qt.Key.Key_Up)
        self.assertAlmostEqual(self.easing().y2, round(second[1], 2) + 0.01)
        self.assertAlmostEqual(self.easing().x1, 0.1)
        self.session.undo()
        self.assertAlmostEqual(self.easing().y2, second[1])

    def test_the_held_handle_is_ringed_only_with_focus(self) -> None:
        self.settle()
        lit = self.curves.grab().toImage()
        self.editor.timeline.rows.setFocus()
        self.settle()
        self.assertNotEqual(lit, self.curves.grab().toImage())


class RulerKeyboardTest(WindowTest):
    def test_arrows_step(self) -> None:
        ruler = self.editor.timeline.ruler
        ruler.setFocus(Qt.FocusReason.TabFocusReason)
        QTest.keyClick(ruler, Qt.Key.Key_Right)
        self.assertEqual(self.session.frame, 1)
        QTest.keyClick(ruler, Qt.Key.Key_Right, SHIFT)
        self.assertEqual(self.session.frame, 11)
        QTest.keyClick(ruler, Qt.Key.Key_Left)
        self.assertEqual(self.session.frame, 10)
