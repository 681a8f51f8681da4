"""Moves and copies in the real window: choosing, adjusting and taking away a move; other words in a squeezed pair."""

from __future__ import annotations

import numpy as np
from attrs import evolve
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtWidgets import QDialogButtonBox, QPushButton, QToolButton

from spiralis.app.details.moves import MovesEditor
from spiralis.app.moves import MovesChooser
from spiralis.app.moves.keeping import KeepMotion
from spiralis.app.strips.poses import PosesWindow
from spiralis.app.timeline.thumbnails import layer_picture
from spiralis.core.animation.easing import HOLD
from spiralis.core.render import render_frame
from spiralis.demo.project import demo_project
from tests.app.harness import ALT, SHIFT, WindowTest
from tests.core.samples import seam_jumps


class ChooserTest(WindowTest):
    def chooser(self) -> MovesChooser:
        """Open the chooser with its keys and return it."""
        self.press(self.window, Qt.Key.Key_M, ALT | SHIFT)
        return self.open_one()

    def open_one(self) -> MovesChooser:
        self.until(lambda: any(d.isVisible() for d in self.window.findChildren(MovesChooser)))
        return next(d for d in self.window.findChildren(MovesChooser) if d.isVisible())

    def end(self, chooser: MovesChooser, button: QDialogButtonBox.StandardButton) -> None:
        self.click(chooser.buttons.button(button))
        self.until(lambda: not any(d.isVisible() for d in self.window.findChildren(MovesChooser)))

    def test_words_are_typed_letter_by_letter_unless_one_says_otherwise(self) -> None:
        self.session.select(["words"])
        chooser = self.chooser()
        self.click(chooser.tiles["type-in"])
        self.assertEqual(chooser.part.currentData(), "letters")
        self.assertEqual((self.value("words", "spread_by"), self.value("words", "spread_at_once")), ("letters", True))
        self.click(chooser.tiles["fade-in"])
        keys = len(self.layer("words").track("opacity").keys)
        self.assertEqual((self.value("words", "spread_by"), keys), ("none", 2))
        chooser.part.setCurrentIndex(chooser.part.findData("words"))
        chooser.part.activated.emit(chooser.part.currentIndex())
        self.click(chooser.tiles["type-in"])
        self.assertEqual(self.value("words", "spread_by"), "words")
        self.end(chooser, QDialogButtonBox.StandardButton.Ok)
        self.assertEqual([use.part for use in self.layer("words").moves], ["words"])

    def test_what_one_set_stays_for_another_move_of_the_same_family(self) -> None:
        self.session.select(["words"])
        self.session.go_to(30)
        chooser = self.chooser()
        self.assertEqual(0, chooser.fields["first"].value, "a move begins with its layer, not where the playhead is")
        self.enter_number(chooser.fields["first"], "12")
        self.click(chooser.tiles["pop-in"])
        self.enter_number(chooser.fields["length"], "9")
        self.click(chooser.tiles["fade-in"])
        (use,) = self.layer("words").moves
        self.assertEqual(("fade-in", 12, 9), (use.name, use.first, use.length))
        self.click(next(button for button in chooser.families.buttons() if button.text() == "Exits"))
        self.click(chooser.tiles["fade-out"])
        (use,) = self.layer("words").moves
        self.assertEqual(self.session.composition.length, use.last, "an exit ends with its layer")
        self.assertEqual(100.0, chooser.fields["strength"].value)
        self.assertNotEqual(30, self.session.frame, "moves play where they are")
        self.end(chooser, QDialogButtonBox.StandardButton.Ok)
        self.assertEqual(30, self.session.frame)
        self.settle()
        editor = self.editor.details.findChild(MovesEditor)
        self.click(next(b for b in editor.findChildren(QPushButton) if b.text().startswith("Fade out")))
        chooser = self.open_one()
        before = self.layer("words").moves[0]
        self.click(chooser.tiles["shrink"])
        (use,) = self.layer("words").moves
        times = (before.first, before.length), (use.first, use.length)
        self.assertEqual(*times, "what takes a move's place keeps its time")
        self.end(chooser, QDialogButtonBox.StandardButton.Cancel)
        self.assertEqual("fade-out", self.layer("words").moves[0].name)
        self.assertEqual(30, self.session.frame)

    def test_loops_one_after_another_close_the_loop_each(self) -> None:
        self.session.select(["square", "words"])
        for track in self.layer("square").animated():
            self.session.edit_layers("Still", lambda y, name=track: y.with_track(
                name, evolve(y.track(name), keys=())), ["square"])  # fmt: skip
        chooser = self.chooser()
        self.click(next(button for button in chooser.families.buttons() if button.text() == "Loops"))
        self.click(chooser.tiles["sway"])
        self.enter_number(chooser.fields["apart"], "7")
        self.end(chooser, QDialogButtonBox.StandardButton.Ok)
        firsts = [self.layer(name).track("rotation").keys[0].frame for name in ("square", "words")]
        self.assertEqual(7, abs(firsts[1] - firsts[0]))
        self.assertEqual([], seam_jumps(self.session.project, self.session.composition))

    def test_a_move_is_chosen_seen_adjusted_and_taken_away(self) -> None:
        self.session.select(["words"])
        before = dict(self.layer("words").properties)
        chooser = self.chooser()
        self.assertFalse(chooser.buttons.button(QDialogButtonBox.StandardButton.Ok).isEnabled())
        self.click(chooser.tiles["pop-in"])
        self.assertEqual([use.name for use in self.layer("words").moves], ["pop-in"])
        self.assertTrue(self.window.player.playing)
        self.enter_number(chooser.fields["length"], "10")
        self.end(chooser, QDialogButtonBox.StandardButton.Ok)
        self.assertEqual([key.frame for key in self.layer("words").track("scale").keys][-1], 10)
        self.assertFalse(self.window.player.playing)

        editor = self.editor.details.findChild(MovesEditor)
        self.click(next(b for b in editor.findChildren(QPushButton) if b.text().startswith("Pop in")))
        chooser = self.open_one()
        self.assertEqual(chooser.fields["length"].value, 10)
        self.enter_number(chooser.fields["first"], "5")
        self.assertNotIn("set by hand", chooser.note.text())
        self.end(chooser, QDialogButtonBox.StandardButton.Ok)
        self.assertEqual([key.frame for key in self.layer("words").track("scale").keys][::3], [5, 15])

        words = self.layer("words")
        track = words.track("scale")
        held = track.with_key(evolve(track.keys[0], easing=HOLD))
        self.session.edit_layers("By hand", lambda y: y.with_track("scale", held))
        self.settle(0.2)
        self.click(next(b for b in editor.findChildren(QPushButton) if b.text().startswith("Pop in")))
        chooser = self.open_one()
        self.enter_number(chooser.fields["first"], "7")
        self.assertIn("What was set by hand on its keys goes: Scale.", chooser.note.text())
        self.end(chooser, QDialogButtonBox.StandardButton.Cancel)
        self.assertIs(HOLD, self.layer("words").track("scale").keys[0].easing)

        self.settle(0.2)
        away = next(b for b in editor.findChildren(QToolButton) if b.accessibleName() == "Take Pop in away")
        self.click(away)
        self.assertEqual(dict(self.layer("words").properties)["text"], before["text"])
        self.assertEqual((self.layer("words").moves, self.layer("words").animated()), ((), []))

    def test_a_loop_goes_over_the_letters(self) -> None:
        self.session.select(["words"])
        self.session.go_to(0)
        chooser = MovesChooser(self.window, self.session, self.window.player)
        chooser.show()
        self.click(next(b for b in chooser.families.buttons() if b.text() == "Loops"), QPointF(8, 8))
        chooser.tiles["hop"].click()
        self.assertTrue(chooser.part.isVisible())
        chooser.part.setCurrentIndex(chooser.part.findData("letters"))
        chooser.part.activated.emit(chooser.part.currentIndex())
        chooser.accept()
        words = self.layer("words")
        self.assertEqual([(key.frame, key.value % 100) for key in words.track("wave").keys], [(0, 0.0), (50, 0.0)])
        self.assertEqual((words.track("spread_by").value, words.track("position").keys), ("letters", ()))
        chooser = MovesChooser(self.window, self.session, self.window.player)
        chooser.show()
        self.click(next(b for b in chooser.families.buttons() if b.text() == "Loops"), QPointF(8, 8))
        chooser.choose(chooser.tiles["spin"].move_)
        self.assertFalse(chooser.part.isVisible())
        chooser.reject()

    def test_tiles_show_words_that_have_not_arrived_yet(self) -> None:
        plain = layer_picture(self.session.project, self.session.composition, self.layer("words"), 60)
        away = self.layer("words").with_values(spread_by="letters", spread=0.0)
        seen = layer_picture(self.session.project, self.session.composition.with_layer(away), away, 60)
        self.assertGreater(plain[:, :, 3].max(), 200)
        np.testing.assert_array_equal(seen, plain)

    def test_a_motion_is_kept_of_a_layer_only(self) -> None:
        self.session.select([])
        self.act("Keep the motion as a move…")
        self.assertEqual([], self.window.findChildren(KeepMotion))
        self.assertTrue(self.said)

    def test_cancel_takes_everything_back(self) -> None:
        self.session.select(["words"])
        before = self.session.project
        chooser = self.chooser()
        for name in ("pop-in", "drop-in", "unfold"):
            self.click(chooser.tiles[name])
        self.end(chooser, QDialogButtonBox.StandardButton.Cancel)
        self.assertEqual(self.session.project, before)

    def test_keys_in_the_way_are_told_in_the_dialog(self) -> None:
        self.session.select(["square"])
        chooser = self.chooser()
        self.click(chooser.tiles["glide-in"])
        self.assertIn("Position of “Square” has keys between frames 0 and 20", chooser.note.text())
        self.assertFalse(chooser.buttons.button(QDialogButtonBox.StandardButton.Ok).isEnabled())
        self.click(chooser.tiles["fade-in"])
        self.assertEqual([use.name for use in self.layer("square").moves], ["fade-in"])
        self.end(chooser, QDialogButtonBox.StandardButton.Cancel)

    def test_a_loop_goes_round_whole_times_and_tiles_move(self) -> None:
        self.session.select(["words"])
        chooser = self.chooser()
        self.click(next(b for b in chooser.families.buttons() if b.text() == "Loops"))
        tile = chooser.tiles["spin"]
        first = tile.grab().toImage()
        self.until(lambda: tile.grab().toImage() != first)
        self.click(tile)
        self.assertEqual(seam_jumps(self.session.project, self.session.composition)[1:], [])
        self.assertNotIn("Words: Rotation", seam_jumps(self.session.project, self.session.composition))
        self.end(chooser, QDialogButtonBox.StandardButton.Ok)
        self.assertEqual(self.layer("words").track("rotation").keys[-1].frame, 50)


class SqueezePairTest(WindowTest):
    sample = staticmethod(demo_project)

    def test_other_words_fit_the_same_width_and_still_loop(self) -> None:
        self.session.show_composition("squeeze-pair")
        self.settle(0.2)
        for layer, text in (("left-word", "UP"), ("right-word", "FARTHER")):
            self.session.select([layer])
            self.settle(0.2)
            field = self.editor.details.editors["text"].text
            field.selectAll()
            self.type_(field, text)
            self.assertEqual(self.layer(layer).track("text").value, text)
        project = self.session.project
        for frame in (0, 17, 60):
            picture = render_frame(project, "squeeze-pair", frame, 0.25)
            ground = picture[4, 4, :3]
            inked = np.abs(picture[:, :, :3] - ground).max(axis=2) > 0.25
            across = np.flatnonzero(inked.any(axis=0)) * 4
            self.assertAlmostEqual(across[0], 70, delta=5, msg=str(frame))
            self.assertAlmostEqual(across[-1], 1010, delta=6, msg=str(frame))
        self.assertEqual(seam_jumps(project, self.session.composition), [])
        np.testing.assert_array_equal(
            render_frame(project, "squeeze-pair", 0, 0.25), render_frame(project, "squeeze-pair", 100, 0.25)
        )


class PoseStripTest(WindowTest):
    def test_poses_are_captured_timed_and_captured_again(self) -> None:
        self.session.select(["words"])
        self.act("Pose strip…")
        strip = self.window.windows.poses
        assert strip is not None
        told: list[str] = []
        self.session.said.connect(told.append)
        self.click(strip.take)
        self.session.set_property("rotation", 40.0)
        self.session.set_property("visible", False)
        self.click(strip.take)
        self.settle(0.1)
        self.assertEqual(len(strip.cards), 2)
        self.assertEqual([key.frame for key in self.layer("words").track("rotation").keys], [0, 5, 14, 19, 28])
        self.enter_number(strip.cards[0].stay, "3")
        self.enter_number(strip.cards[1].between, "2")
        self.assertEqual(self.session.composition.poses.begins, (0, 11, 19))
        self.assertEqual([self.shown(frame) for frame in (0, 10, 11, 18, 19)], [True, True, False, False, True])

        self.click(strip.cards[1].picture)
        self.assertEqual(self.session.frame, 11)
        self.session.set_property("rotation", 80.0)
        self.session.set_property("visible", True)
        self.click(strip.cards[1].again)
        self.assertEqual(self.value("words", "rotation"), 80.0)
        self.assertEqual(self.layer("words").animated(), ["rotation"])
        self.click(strip.fit)
        self.assertEqual(self.session.composition.length, 19)
        self.assertNotIn("Words: Rotation", seam_jumps(self.session.project, self.session.composition))
        self.assertEqual([], told)
        self.session.go_to(9)
        self.session.set_property("rotation", 300.0)
        self.enter_number(strip.softness, "12")
        self.assertEqual(["Keys that no pose had written went; undo brings them back: Words: Rotation."], told)
        strip.close()

    def strip_of_one(self) -> PosesWindow:
        """Open the strip and capture the words as they are."""
        self.session.select(["words"])
        self.act("Pose strip…")
        strip = self.window.windows.poses
        assert strip is not None
        self.click(strip.take)
        self.settle(0.1)
        return strip

    def test_a_half_typed_name_is_the_pose_s_whatever_is_done_in_another_window(self) -> None:
        strip = self.strip_of_one()
        name = strip.cards[0].name
        name.setFocus()
        name.selectAll()
        self.type_(name, "At rest")
        self.window.activateWindow()
        self.editor.canvas.setFocus()
        self.session.set_property("opacity", 50.0, ["words"])
        self.settle()
        self.assertEqual("At rest", name.text())
        here = self.session.composition_id
        self.act("New composition…")
        self.assertEqual("At rest", self.session.project.composition(here).poses.poses[0].name)
        strip.close()

    def test_two_drags_of_a_time_are_two_steps(self) -> None:
        strip = self.strip_of_one()
        field = strip.cards[0].stay
        middle = QPointF(field.rect().center())
        versions = [self.session.project]
        for way in (20, 30):
            self.drag(field, middle, middle + QPointF(way, 0))
            versions.append(self.session.project)
        self.session.undo()
        self.assertTrue(self.session.project is versions[1])
        self.session.undo()
        self.assertTrue(self.session.project is versions[0])
        self.enter_number(field, "0")
        self.assertIn("takes 1 to", self.said[-1])
        strip.close()

    def shown(self, frame: int) -> object:
        return self.session.evaluated(frame).values(self.layer("words"))["visible"]
