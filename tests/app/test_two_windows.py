"""One file in two windows: the second one says so, and nothing is saved over what somebody else wrote unasked."""

from __future__ import annotations

import os
import unittest
from pathlib import Path
from unittest import mock

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QMessageBox, QPushButton

from spiralis.app.session import Session
from spiralis.app.window import Window
from spiralis.core.storage import load, save
from spiralis.core.storage.recovery import Journal, Recovered
from spiralis.core.storage.versions import versions
from tests.app.harness import WindowTest, sample_project


class TwoWindowsTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.path = self.folder / "kites.spiralis"
        save(sample_project(), self.path)
        self.assertTrue(self.window.files.open(self.path))
        self.settle()

    def other(self) -> Window:
        window = Window(Session(sample_project()))
        window.show()
        self.addCleanup(window.close)
        return window

    def opacity(self, path: Path) -> float:
        return float(load(path).compositions[0].layer("words").track("opacity").value)  # type: ignore[arg-type]

    def pressing(self, text: str) -> None:
        """Press a button of the question that is about to come, by the mouse."""

        def press() -> None:
            box = QApplication.activeModalWidget()
            assert isinstance(box, QMessageBox)
            self.asked.append(box.text())
            button = next(b for b in box.findChildren(QPushButton) if b.text() == text)
            QTest.mouseClick(button, Qt.MouseButton.LeftButton)

        self.asked: list[str] = []
        QTimer.singleShot(200, press)

    def changed_by_both(self) -> None:
        theirs = load(self.path)
        piece = theirs.compositions[0]
        save(theirs.with_composition(piece.with_layer(piece.layer("words").with_values(opacity=11.0))), self.path)
        self.session.set_property("opacity", 22.0, ["words"])

    def test_the_second_window_says_that_the_first_has_it(self) -> None:
        second = self.other()
        told: list[str] = []
        second.session.said.connect(told.append)
        second.files.open(self.path)
        self.assertTrue(any("kites.spiralis" in line and "another window" in line for line in told), told)
        # Once the first shows something else, nobody has it.
        save(sample_project(), self.folder / "other.spiralis")
        self.window.files.open(self.folder / "other.spiralis")
        third, told = self.other(), []
        second.close()
        third.session.said.connect(told.append)
        third.files.open(self.path)
        self.assertEqual([line for line in told if "another" in line], [])

    def test_saving_again_and_again_asks_nothing(self) -> None:
        with mock.patch.object(QMessageBox, "exec") as asked:
            for value in (20.0, 30.0):
                self.session.set_property("opacity", value, ["words"])
                self.assertTrue(self.window.files.save())
        asked.assert_not_called()
        self.assertEqual(self.opacity(self.path), 30.0)

    def test_keep_both_saves_beside(self) -> None:
        self.changed_by_both()
        self.pressing("Keep both")
        self.assertTrue(self.window.files.save())
        self.assertIn("kites.spiralis", self.asked[0])
        beside = self.folder / "kites (2).spiralis"
        self.assertEqual((self.opacity(self.path), self.opacity(beside)), (11.0, 22.0))
        self.assertEqual(self.session.path, beside)

    def test_replace_saves_over_it_and_later_saves_ask_nothing(self) -> None:
        self.changed_by_both()
        self.pressing("Replace it")
        self.assertTrue(self.window.files.save())
        self.assertEqual(self.opacity(self.path), 22.0)
        with mock.patch.object(QMessageBox, "exec") as asked:
            self.session.set_property("opacity", 33.0, ["words"])
            self.assertTrue(self.window.files.save())
        asked.assert_not_called()

    def test_opening_theirs_shows_what_was_written(self) -> None:
        self.changed_by_both()
        self.pressing("Open it instead")
        self.assertFalse(self.window.files.save())
        self.assertEqual(self.opacity(self.path), 11.0)
        self.assertEqual(self.value("words", "opacity"), 11.0)
        self.assertFalse(self.session.history.unsaved)
        self.until(lambda: bool(versions(self.path, self.session.project)))
        kept = versions(self.path, self.session.project)[0]
        self.assertEqual(22.0, kept.load().compositions[0].layer("words").track("opacity").value)

    def recovered(self, age: float) -> None:
        """Recover a copy of unsaved work that was written so many seconds before the file was saved last."""
        piece = self.session.composition
        left = Journal()
        changed = piece.with_layer(piece.layer("words").with_values(opacity=44.0))
        left.write(self.session.project.with_composition(changed), self.path)
        saved = self.path.stat().st_mtime
        os.utime(left.path, (saved - age, saved - age))
        self.window.files.recover(Recovered(left, "kites", self.path))
        self.settle()

    def test_what_was_saved_after_a_recovered_copy_is_not_saved_over_unasked(self) -> None:
        self.recovered(60.0)
        self.pressing("Keep both")
        self.assertTrue(self.window.files.save())
        self.assertIn("kites.spiralis", self.asked[0])
        beside = self.folder / "kites (2).spiralis"
        self.assertEqual((self.opacity(self.path), self.opacity(beside)), (100.0, 44.0))

    def test_a_recovered_copy_of_what_is_in_the_file_is_saved_unless_that_changes(self) -> None:
        self.recovered(-60.0)
        self.changed_by_both()
        self.pressing("Cancel")
        self.assertFalse(self.window.files.save())
        self.recovered(-60.0)
        with mock.patch.object(QMessageBox, "exec") as asked:
            self.assertTrue(self.window.files.save())
        asked.assert_not_called()
        self.assertEqual(self.opacity(self.path), 44.0)

    def test_cancel_changes_nothing(self) -> None:
        self.changed_by_both()
        self.pressing("Cancel")
        self.assertFalse(self.window.files.save())
        self.assertEqual((self.opacity(self.path), self.value("words", "opacity")), (11.0, 22.0))
        self.assertTrue(self.session.history.unsaved)

    def test_a_file_that_was_taken_away_is_simply_written_again(self) -> None:
        self.path.unlink()
        self.session.set_property("opacity", 44.0, ["words"])
        with mock.patch.object(QMessageBox, "exec") as asked:
            self.assertTrue(self.window.files.save())
        asked.assert_not_called()
        self.assertEqual(self.opacity(self.path), 44.0)


if __name__ == "__main__":
    unittest.main()
