"""Checks in the window: findings live in the piece bar, each broken on purpose, mended by a click, or left alone."""

from __future__ import annotations

from unittest import mock

from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QInputDialog

from spiralis.app.checks.rows import CauseRow
from spiralis.app.checks.window import ChecksWindow
from spiralis.app.work.playback import Player
from spiralis.core.animation.easing import HOLD
from spiralis.core.checks.piece import check_piece
from spiralis.core.checks.seam import check
from spiralis.core.errors import Cancelled
from spiralis.core.model import Key, Track
from tests.app.harness import WindowTest


class ChecksWindowTest(WindowTest):
    """The sample's words “Hi” stand still on a dark ground for all of its 50 frames."""

    def shown(self) -> ChecksWindow:
        self.click(self.editor.piece_bar.findings)
        checks = self.window.windows.checks
        assert checks is not None
        self.looked(checks)
        return checks

    def looked(self, checks: ChecksWindow) -> None:
        self.settle(0.5)
        self.until(lambda: checks.findings is not None and "looking" not in checks.about.text())

    def row(self, checks: ChecksWindow, finder: str) -> CauseRow:
        return next(row for row in checks.list.rows if row.cause.finder == finder)

    def mend(self, checks: ChecksWindow, finder: str, name: str) -> None:
        self.click(self.row(checks, finder).buttons[name])
        self.looked(checks)
        self.assertNotIn(finder, [row.cause.finder for row in checks.list.rows])

    def test_the_piece_bar_counts_and_leads_there(self) -> None:
        bar = self.editor.piece_bar.findings
        self.until(lambda: self.editor.checks.findings is not None)
        self.assertEqual(bar.text(), "Checks")
        self.session.set_property("size", 8.0, ["words"])
        self.until(lambda: bar.text() == "1 finding")
        self.assertIn("on a phone", bar.toolTip())
        checks = self.shown()
        self.assertEqual((checks.words.text(), len(checks.list.rows)), ("1 finding", 1))
        self.until(lambda: not checks.list.rows[0].picture.pixmap().isNull())
        self.mend(checks, "small-words", "larger-words")
        self.assertEqual(checks.words.text(), "Nothing found")
        self.act("Undo")
        self.until(lambda: bar.text() == "1 finding")

    def test_nothing_is_said_of_another_piece_before_it_was_looked_at(self) -> None:
        words = self.layer("words").with_values(position=(635.0, 120.0))
        self.session.edit("Off", lambda piece: piece.with_layer(words))
        bar = self.editor.piece_bar
        self.until(lambda: "finding" in bar.findings.text())
        self.until(lambda: bar.loop.text() == "Jump")
        here = self.session.composition_id
        self.window.actions_["New composition…"].trigger()
        self.assertNotEqual(here, self.session.composition_id)
        self.assertEqual(("Checks", "Loop: …"), (bar.findings.text(), bar.loop.text()))
        self.until(lambda: bar.loop.text() == "Loop is clean")
        self.session.show_composition(here)
        self.assertEqual(("Checks", "Loop: …"), (bar.findings.text(), bar.loop.text()))
        self.until(lambda: bar.loop.text() == "Jump" and "finding" in bar.findings.text())

    def test_nothing_is_looked_for_while_frames_that_play_are_still_to_be_made(self) -> None:
        player, checks, seam = self.window.player, self.editor.checks, self.editor.seam
        self.until(lambda: checks.findings is not None and seam.verdict is not None)
        # Looking at the frames themselves, which comes later and asks whether it plays, has a test of its own.
        checks._drawing.wait = 10**6
        checks._drawing.stop()
        for watch, name, find in (
            (checks, "spiralis.app.checks.watch.check_piece", check_piece),
            (seam, "spiralis.app.seam.watch.check", check),
        ):  # fmt: skip
            watch._soon.wait = 30
            with mock.patch(name, side_effect=find) as asked:
                with mock.patch.object(Player, "pressed", True):
                    watch._soon.ask()
                    QTest.qWait(300)  # What waits on purpose is not waited for.
                    self.assertFalse(asked.called)
                self.until(lambda asked=asked: asked.called)
                stops = asked.call_args.kwargs["stops"]
                self.assertFalse(stops())
                with mock.patch.object(Player, "pressed", True):
                    self.assertTrue(stops())
                # What was given up comes again.
                asked.reset_mock()
                asked.side_effect = [Cancelled("stopped"), find(self.session.project, self.session.composition)]
                watch._soon.ask()
                self.until(lambda asked=asked: asked.call_count == 2)
        self.assertFalse(player.pressed)
        with mock.patch.object(player, "ready_frames", return_value=set(range(50))):
            player.playing = True
            self.assertFalse(player.pressed)
            with mock.patch.object(player, "ready_frames", return_value=set(range(49))):
                self.assertTrue(player.pressed)
            player.playing = False

    def test_frames_are_looked_at_once_nobody_does_anything(self) -> None:
        watch, bar = self.editor.checks, self.editor.piece_bar.findings
        self.until(lambda: watch.findings is not None)
        self.session.set_property("fill", (0.14, 0.24, 0.34, 1.0), ["words"])  # Seen by drawing alone.
        self.until(lambda: watch.findings is not None and not watch.findings.whole)
        self.assertEqual(bar.text(), "Checks")
        self.window.player.playing = True
        watch._drawing.wait = 40
        watch._drawing.ask()
        self.settle(0.3)
        self.assertFalse(watch.findings.whole)
        self.window.player.playing = False
        # Whoever goes on working ends it, and it begins anew later.
        with mock.patch("spiralis.app.checks.watch.check_piece", side_effect=check_piece) as asked:
            self.until(lambda: asked.called)
            self.assertFalse(asked.call_args.kwargs["stops"]())
            self.session.go_to(self.session.frame + 1)
            self.assertTrue(asked.call_args.kwargs["stops"]())
            self.until(lambda: watch.findings.whole)
        self.assertEqual(bar.text(), "1 finding")
        self.session.set_property("fill", (1.0, 1.0, 1.0, 1.0), ["words"])
        self.until(lambda: bar.text() == "Checks")

    def test_words_off_the_frame_too_faint_and_too_short(self) -> None:
        self.session.set_property("position", (620.0, 120.0), ["words"])
        self.session.set_property("fill", (0.14, 0.24, 0.34, 1.0), ["words"])
        checks = self.shown()
        found = {row.cause.finder for row in checks.list.rows}
        self.assertLessEqual({"cut-words", "contrast"}, found)
        self.mend(checks, "cut-words", "into-the-frame")
        self.mend(checks, "contrast", "clearer-fill")
        self.assertEqual(checks.words.text(), "Nothing found")

    def test_flashes_lead_to_their_frame_and_can_be_left_alone(self) -> None:
        lights = tuple(Key(frame, (float(frame // 3 % 2),) * 3 + (1.0,), HOLD) for frame in range(0, 50, 3))
        ground = self.session.composition.layers[-1]
        self.session.edit_layers("Flash", lambda y: y.with_track("colour", Track(lights[0].value, lights)), [ground.id])
        self.session.go_to(30)
        checks = self.shown()
        row = self.row(checks, "flashes")
        self.assertIn("WCAG 2.3.1", row.cause.sentence)
        self.assertEqual(checks.list.rows[0], row, "what can harm comes first")
        checks.acts.show_cause(row.cause)
        self.assertEqual(self.session.frame, row.cause.frames[0])
        with mock.patch.object(QInputDialog, "getText", return_value=("shown in a hall with a warning", True)):
            self.click(row.leave)
        self.looked(checks)
        again = self.row(checks, "flashes")
        self.assertEqual(again.leave.text(), "Look at it again")
        self.assertEqual(self.session.composition.left_alone[0][3], "shown in a hall with a warning")
        self.click(again.leave)
        self.looked(checks)
        self.assertEqual(self.row(checks, "flashes").leave.text(), "Leave it…")

    def test_spelling_by_a_list_of_ones_own(self) -> None:
        path = self.folder / "words.txt"
        path.write_text("kite\nwind\n", encoding="utf-8")
        checks = self.shown()
        checks.spell_by(path)
        self.looked(checks)
        self.assertIn("“hi”", self.row(checks, "spelling").cause.sentence)
        self.click(checks.spell)
        self.looked(checks)
        self.assertEqual((checks.spell.text(), checks.list.rows), ("Word list…", []))
        checks.spell_by(self.folder / "none.txt")
        self.assertRegex(self.said[-1], "none.txt")
