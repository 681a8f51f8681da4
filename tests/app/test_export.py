"""The export window: frames as encoded, sizes, settings that belong together, the list, fit under, the feed."""

import json
import os
import re
from unittest import mock

import numpy as np
from attrs import evolve
from PIL import Image
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QFileDialog

from spiralis.app.export.feed import FeedPreview
from spiralis.app.export.queue import DONE, FAILED, PAUSED, STOPPED, WAITING
from spiralis.app.export.window import ExportWindow
from spiralis.app.library.targets import OWN_TARGETS
from spiralis.core.media.exporters import exporters, video
from spiralis.core.model import Layer
from spiralis.core.storage.parts import parts_root
from tests.app.harness import WindowTest, answered


class ExportTest(WindowTest):
    def shown(self, kind: str = "mp4"):  # type: ignore[no-untyped-def]
        self.act("Export…")
        export = self.window.windows.export
        assert export is not None
        self.click(export.cards[kind])
        return export

    def written(self, export, name: str):  # type: ignore[no-untyped-def]
        export.start(self.folder / name)
        self.until(lambda: export.running is None, 60)
        self.settle()
        return export.foot.result


class WindowOfExportTest(ExportTest):
    def test_every_kind_of_file_has_a_card_and_its_settings(self) -> None:
        export = self.shown()
        self.assertEqual(set(export.cards), {kind.name for kind in exporters()})
        for kind in exporters():
            self.click(export.cards[kind.name])
            self.assertEqual(set(export.settings.fields), {p.name for p in kind.settings}, kind.name)
            for parameter in kind.settings:
                self.assertEqual(export.settings.values[parameter.name], parameter.default, (kind.name, parameter.name))

    def test_what_was_set_for_one_kind_is_there_again(self) -> None:
        export = self.shown("gif")
        self.enter_number(export.settings.fields["colours"], "17")
        self.click(export.cards["webp"])
        self.click(export.cards["gif"])
        self.assertEqual(export.settings.fields["colours"].value, 17)

    def test_a_video_is_packed_by_size_and_its_size_is_guessed_at_once(self) -> None:
        export = self.shown("mp4")
        settings = export.settings
        self.assertTrue(settings.fields["megabytes"].isHidden())
        box = settings.fields["quality"]
        box.setCurrentIndex(box.findData("by size"))
        box.activated.emit(box.currentIndex())
        self.assertFalse(settings.fields["megabytes"].isHidden())
        said: list[str] = []
        words = export.preview.words.text
        box.setCurrentIndex(box.findData("best"))
        box.activated.emit(box.currentIndex())
        self.until(lambda: said.append(words()) or "an estimate from" in words(), 30)
        self.assertTrue(any("a first guess" in each for each in said), said[-1])
        box.setCurrentIndex(box.findData("by size"))
        box.activated.emit(box.currentIndex())
        self.enter_number(settings.fields["megabytes"], "0.04")
        self.until(lambda: words().startswith("under 40 kB"), 30)
        result = self.written(export, "small.mp4")
        self.assertLessEqual(result.path.stat().st_size, 40_000)
        self.assertEqual(result.frames, self.session.composition.length)

    def test_the_size_of_every_kind_of_file_is_estimated(self) -> None:
        export = self.shown("mp4")
        words = export.preview.words
        for name, card in export.cards.items():
            self.click(card)
            if export.kind.many_files:
                export.settings.single.setChecked(False)
                export.settings.single.clicked.emit(False)
            words.setText("")
            self.until(lambda: " · " in words.text() and not re.search("guess|being", words.text()), 60)
            self.assertRegex(words.text(), r"^(about |under )?[0-9.]+ [kM]?B", name)

    def test_it_writes_the_piece_as_it_is_now(self) -> None:
        export = self.shown("png")
        settings = export.settings
        self.session.go_to(7)
        self.click(export.cards["mp4"])
        self.enter_number(settings.first, "3")
        last = settings.last.value
        ground = Layer("Red", "shape", 0, 50, id="red").with_values(
            form="rectangle", size=(400.0, 400.0), fill=(1.0, 0.0, 0.0, 1.0), position=(200.0, 200.0))  # fmt: skip
        self.session.edit("Red", lambda piece: evolve(
            piece, name="Renamed", width=400, height=400, length=50, layers=(ground, *piece.layers)))  # fmt: skip
        self.settle()
        self.assertIn("Renamed · 400 × 400", export.subject.text())
        self.assertEqual("Export Renamed", export.windowTitle())
        self.assertEqual((400, 400), settings.size)
        self.assertEqual((3, last if last < 49 else 49), (settings.first.value, settings.last.value))
        self.click(export.cards["png"])
        # What lies behind the main window is not packed again and again while somebody works there.
        self.window.activateWindow()
        self.until(self.window.isActiveWindow)
        with mock.patch.object(export.preview, "refresh") as refresh:
            self.session.set_property("opacity", 90.0, ["words"])
            self.settle()
            refresh.assert_not_called()
            export.activateWindow()
            self.until(export.isActiveWindow)
            self.assertEqual(1, refresh.call_count)
        # Another piece on the canvas changes nothing here: neither which piece nor which of its frames.
        other = evolve(self.session.composition, id="other", name="Other", length=60, layers=())
        self.session.edit_project("Another", self.session.project.with_composition(other))
        self.session.show_composition("other")
        self.session.go_to(55)
        self.assertEqual((7, 8), settings.span)
        self.written(export, "frame.png")
        with Image.open(self.folder / "frame.png") as image:
            self.assertEqual(((400, 400), (255, 0, 0)), (image.size, image.convert("RGB").getpixel((200, 200))))
        # Its own size is kept by what was set, and the window of another piece takes its place.
        settings.show_size(100, 80)
        self.session.edit_project("Larger", self.session.project.with_composition(
            evolve(self.session.project.composition(export.piece.id), width=500)))  # fmt: skip
        self.assertEqual((100, 80), settings.size)
        first = export.piece.id
        self.act("Export…")
        self.assertEqual(1, sum(w.isVisible() for w in self.window.findChildren(ExportWindow)))
        self.assertEqual("Export Other", self.window.windows.export.windowTitle())
        self.act("Export…")
        self.assertEqual("Export Other", self.window.windows.export.windowTitle())
        # Where the piece goes there is nothing to write.
        self.session.show_composition(first)
        self.session.edit_project("Without", evolve(self.session.project, compositions=tuple(
            piece for piece in self.session.project.compositions if piece.id != "other")))  # fmt: skip
        self.assertFalse(self.window.windows.export.isVisible())

    def test_the_focus_stays_with_the_buttons_while_a_file_is_written_and_after(self) -> None:
        export = self.shown()
        foot = export.foot
        foot.begin.setFocus()
        with mock.patch("spiralis.app.export.window.ask_save", lambda *told: self.folder / "kites.mp4"):
            QTest.keyClick(foot.begin, Qt.Key.Key_Space)
        self.assertIs(foot.work_on, export.focusWidget())
        self.until(lambda: export.running is None, 60)
        self.assertEqual(DONE, export.item.state)
        self.assertIs(foot.begin, export.focusWidget())
        # Whoever has gone on to a number meanwhile keeps it.
        export.settings.width_field.setFocus()
        self.written(export, "again.mp4")
        self.assertIs(export.settings.width_field, export.focusWidget())

    def test_settings_show_where_they_matter(self) -> None:
        export = self.shown("mp4")
        settings = export.settings
        self.assertTrue(settings.fields["number"].isHidden())
        box = settings.fields["quality"]
        box.setCurrentIndex(box.findData("by number"))
        box.activated.emit(box.currentIndex())
        self.assertFalse(settings.fields["number"].isHidden())

    def test_the_frame_is_shown_as_encoded_with_a_line_between(self) -> None:
        export = self.shown("gif")
        self.enter_number(export.settings.fields["colours"], "2")
        self.until(lambda: len(export.preview.images) == 2 and "about" in export.preview.words.text(), 30)
        labels = [label for label, _, _ in export.preview.images]
        self.assertEqual(labels, ["as drawn · frame 0", "as it will be"])
        drawn, encoded = (image for _, image, _ in export.preview.images)
        self.assertEqual((drawn.width(), drawn.height()), (encoded.width(), encoded.height()))
        self.assertNotEqual(drawn, encoded)
        compared = export.preview.compared
        before = compared.grab().toImage()
        middle = compared.height() / 2
        self.drag(compared, QPointF(compared.width() / 2, middle), QPointF(compared.width() * 0.9, middle))
        self.assertAlmostEqual(compared.share, 0.9, delta=0.02)
        self.assertNotEqual(compared.grab().toImage(), before)
        self.click(export.preview.pixels)
        self.assertEqual(compared.zoom, 4.0)
        self.click(export.preview.whole)
        export.preview.slider.setValue(30)
        self.until(lambda: export.preview.images[0][0] == "as drawn · frame 30", 30)

    def test_another_size_is_filled_stretched_or_barred_and_never_barred_unasked(self) -> None:
        export = self.shown("png")
        settings = export.settings
        self.assertTrue(settings.how.isHidden())
        self.enter_number(settings.width_field, "320")
        self.assertEqual(settings.size, (320, 240))
        self.click(settings.chain)
        self.enter_number(settings.height_field, "320")
        self.assertFalse(settings.how.isHidden())
        results = {}
        for index in range(3):
            settings.how.setCurrentIndex(index)
            settings.how.activated.emit(index)
            self.written(export, f"{index}.png")
            results[index] = np.array(Image.open(self.folder / f"{index}.png").convert("RGBA"))
            self.assertEqual(results[index].shape, (320, 320, 4))
        np.testing.assert_allclose(results[0][0, :, :3].astype(int), [[25, 51, 77]] * 320, atol=2)
        self.assertTrue(np.all(results[2][0, :, :3] == 0))  # Bars, because they were asked for.
        self.assertGreater(int(results[2][160, 5, 2]), 60)
        settings.how.setCurrentIndex(0)
        settings.how.activated.emit(0)
        self.enter_number(settings.across, "-100")
        self.written(export, "left.png")
        left = np.array(Image.open(self.folder / "left.png").convert("RGBA"))
        self.assertFalse(np.array_equal(left, results[0]))

    def test_a_sequence_asks_before_it_takes_the_place_of_another(self) -> None:
        export = self.shown("png")
        self.click(export.settings.single)
        self.enter_number(export.settings.last, "3")
        first = self.written(export, "kites.png")
        self.assertEqual((first.path, first.frames), (self.folder / "kites" / "kites-0000.png", 4))
        self.enter_number(export.settings.last, "1")
        asked: list[str] = []
        with mock.patch("spiralis.app.export.window.ask_save", lambda *told: self.folder / "kites.png"):
            with answered("Cancel", asked):
                self.click(export.foot.begin)
            self.assertIsNone(export.running)
            self.assertEqual(len(list((self.folder / "kites").iterdir())), 4)
            with answered("Replace", asked):
                self.click(export.foot.begin)
            self.until(lambda: len(list((self.folder / "kites").iterdir())) == 2, 30)
        self.assertIn("holds 4 pictures", asked[0])
        self.assertEqual(len(asked), 2)

    def test_rate_and_rounds_reach_the_file(self) -> None:
        export = self.shown("mp4")
        self.enter_number(export.settings.rate, "50")
        self.enter_number(export.settings.repeat, "2")
        self.enter_number(export.settings.last, "9")
        self.assertIn("40 frames, 0.80 s", export.settings.about.text())
        result = self.written(export, "a.mp4")
        self.assertEqual((result.frames, round(result.seconds, 2)), (40, 0.8))

    def test_a_see_through_piece_lies_over_a_ground_where_the_file_keeps_no_alpha(self) -> None:
        ground = next(y for y in self.session.composition.layers if y.kind == "backdrop")
        self.session.edit("Clear", lambda p: evolve(p, layers=tuple(y for y in p.layers if y.id != ground.id)))
        export = self.shown("mp4")
        self.until(lambda: export.settings.see_through, 20)
        self.assertFalse(export.settings.ground.isHidden())
        export.settings.ground.show_value((1.0, 1.0, 1.0, 1.0))
        result = self.written(export, "a.mp4")
        pixels = export.kind.read(result.path, 0)
        self.assertGreater(int(pixels[10, 10, :3].min()), 245)
        self.click(export.cards["webm"])
        self.assertTrue(export.settings.ground.isHidden())
        result = self.written(export, "a.webm")
        self.assertEqual(int(export.kind.read(result.path, 0)[10, 10, 3]), 0)
        self.click(export.cards["gif"])
        self.click(export.settings.over)
        self.assertFalse(export.settings.ground.isHidden())
        result = self.written(export, "a.gif")
        self.assertGreater(int(export.kind.read(result.path, 0)[10, 10].min()), 250)


class OwnTargetsTest(ExportTest):
    def setUp(self) -> None:
        super().setUp()
        self.addCleanup(OWN_TARGETS.path.unlink, missing_ok=True)

    def test_they_are_kept_taken_shared_and_dropped(self) -> None:
        export = self.shown("gif")
        self.enter_number(export.settings.fields["colours"], "48")
        self.enter_number(export.settings.width_field, "320")
        self.enter_number(export.settings.rate, "12.5")
        export.targets.keep("Mail, small")
        self.click(export.cards["mp4"])
        self.enter_number(export.settings.width_field, "640")
        self.click(export.targets.own["Mail, small"])
        self.assertEqual(export.kind.name, "gif")
        self.assertEqual((export.settings.fields["colours"].value, export.settings.size), (48, (320, 240)))
        self.assertEqual(float(export.settings.own_rate), 12.5)
        shared = self.folder / "ours.targets.json"
        OWN_TARGETS.share(shared)
        with mock.patch("spiralis.app.library.keeping.sure", return_value=True):
            next(a for a in export.targets.drops.actions() if a.text() == "Mail, small").trigger()
        self.settle()
        self.assertEqual(export.targets.own, {})
        export.targets.read(shared)
        self.assertEqual(list(export.targets.own), ["Mail, small"])

    def test_files_that_are_no_targets_are_refused_in_a_sentence(self) -> None:
        export = self.shown("gif")
        good = {"name": "a", "kind": "gif", "settings": {"colours": 8, "gone": 1}}
        for row, fine in (
            (good, True), ({**good, "kind": "wax"}, False), ({**good, "settings": {"colours": 9999}}, False),
            ({**good, "width": -4}, False), ({**good, "rate": "fast"}, False), ({"kind": "gif"}, False),
        ):  # fmt: skip
            path = self.folder / "a.targets.json"
            path.write_text(json.dumps({"format": "spiralis-targets", "targets": [row]}))
            export.foot.state.setText("")
            export.targets.read(path)
            self.assertEqual("no targets" in export.foot.state.text(), not fine, row)
        self.assertEqual([dict(t.settings) for t in OWN_TARGETS.all()], [{"colours": 8.0}])


class ListTest(ExportTest):
    def add(self, export, name: str, **more: object):  # type: ignore[no-untyped-def]
        return self.window.windows.queue.add(export.kind, export.job_for(self.folder / name))

    def test_files_wait_come_in_turn_and_can_change_places(self) -> None:
        export = self.shown("mp4")
        queue = self.window.windows.queue
        first, second, third = (self.add(export, f"{name}.mp4") for name in "abc")
        queue.pause(first, True)
        self.assertEqual([first.state, second.state, third.state], [PAUSED, WAITING, WAITING])
        queue.move(third, -1)
        self.assertEqual(queue.items, [first, third, second])
        rows = export.list.rows
        self.assertEqual([row.item for row in rows], [first, third, second])
        may = [[row.buttons[name].isEnabled() for name in ("Sooner", "Later")] for row in rows[1:]]
        self.assertEqual(may, [[False, True], [True, False]])
        self.click(rows[2].buttons["Stop"])
        self.assertEqual(second.state, STOPPED)
        self.assertEqual(first.state, PAUSED)
        self.click(rows[0].buttons["Go on"])
        self.until(lambda: first.state == DONE and third.state == DONE, 60)
        self.assertFalse((self.folder / "b.mp4").exists())
        self.settle()
        self.click(export.list.rows[2].buttons["Again"])
        self.until(lambda: second.state == DONE, 60)
        self.assertFalse(queue.busy)
        self.click(export.list.rows[0].buttons["Copy path"])
        self.assertEqual(QGuiApplication.clipboard().text(), str(self.folder / "a.mp4"))
        self.click(export.list.rows[0].buttons["Off the list"])
        self.assertNotIn(first, queue.items)
        self.assertTrue((self.folder / "a.mp4").exists())

    def test_a_held_export_stands_still_and_cancel_leaves_nothing(self) -> None:
        export = self.shown("mp4")
        queue = self.window.windows.queue
        item = self.add(export, "a.mp4")
        self.until(lambda: item.progress is not None and item.progress.done >= 2, 30)
        queue.pause(item, True)
        self.settle(0.3)
        held = item.progress.done
        self.settle(0.3)
        self.assertLessEqual(item.progress.done, held + 1)
        queue.cancel(item)
        self.until(lambda: item.state == STOPPED, 20)
        self.assertEqual(list(self.folder.iterdir()), [])

    def test_a_long_one_that_was_stopped_goes_on_from_its_finished_parts(self) -> None:
        self.enterContext(mock.patch.dict(os.environ, {"XDG_CACHE_HOME": str(self.folder / "cache")}))
        for name, value in (("LONG", 8), ("PART", 4)):
            self.enterContext(mock.patch.object(video, name, value))
        export = self.shown("mp4")
        queue = self.window.windows.queue
        item = self.add(export, "a.mp4")
        self.until(lambda: item.progress is not None and item.progress.done >= 6, 30)
        queue.cancel(item)
        self.until(lambda: item.state == STOPPED, 20)
        kept = list(parts_root().glob("*/0*.mp4"))
        self.assertGreaterEqual(len(kept), 1)
        told: list[int] = []
        queue.retry(item)
        assert item.run is not None
        item.run.progressed.connect(lambda progress: told.append(progress.before))
        self.until(lambda: item.state == DONE, 60)
        self.assertEqual(set(told), {4 * len(kept)})
        self.assertEqual(list(parts_root().iterdir()), [])

    def test_one_that_fails_does_not_hold_up_the_next(self) -> None:
        export = self.shown("mp4")
        queue = self.window.windows.queue
        bad = queue.add(export.kind, export.job_for(self.folder / "none" / "a.mp4"))
        good = self.add(export, "b.mp4")
        self.until(lambda: good.state == DONE, 60)
        self.assertEqual(bad.state, FAILED)
        self.assertIn("not there", bad.sentence)

    def test_it_goes_on_beside_the_work_and_says_when_it_is_there(self) -> None:
        export = self.shown("mp4")
        said: list[str] = []
        self.session.said.connect(said.append)
        export.start(self.folder / "a.mp4")
        self.click(export.foot.work_on)
        self.assertFalse(export.isVisible())
        self.until(lambda: "%" in self.editor.piece_bar.export.text(), 30)
        self.session.select(["words"])
        self.act("Delete")
        self.until(lambda: not self.window.windows.exporting, 60)
        self.settle()
        self.assertIn("a.mp4 was written", said[-1])
        self.assertEqual(self.editor.piece_bar.export.text(), "Export…")

    def test_a_second_file_is_added_behind_the_first(self) -> None:
        export = self.shown("mp4")
        export.start(self.folder / "a.mp4")
        self.window.windows.queue.pause(export.item, True)
        export.hide()
        other = self.shown("gif")
        self.assertEqual(other.foot.begin.text(), "Add to the list…")
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(self.folder / "b.gif"), "")):
            self.click(other.foot.begin)
            self.assertEqual(other.foot.state.text(), "b.gif waits for its turn on the list.")
            # The same name twice would leave one file of two.
            other.hide()
            self.click(self.shown("gif").foot.begin)
        self.assertEqual([item.state for item in self.window.windows.queue.items], [PAUSED, WAITING])
        rows = self.window.windows.export.list.rows
        self.assertEqual([rows[1].buttons[name].isEnabled() for name in ("Sooner", "Later")], [False, False])
        self.assertIn("b.gif” is on the export list already", self.window.windows.export.foot.state.text())
        self.window.windows.queue.pause(self.window.windows.queue.items[0], False)
        self.until(lambda: not self.window.windows.exporting, 60)
        self.assertEqual(sorted(path.name for path in self.folder.iterdir()), ["a.mp4", "b.gif"])


class FitTest(ExportTest):
    def test_the_best_way_under_a_limit_is_found_shown_and_taken(self) -> None:
        export = self.shown("gif")
        self.enter_number(export.settings.fields["steady"], "0")
        self.click(export.foot.fit)
        fit = export.fitting
        self.enter_number(fit.limit, "0.02")
        self.click(fit.search)
        self.until(lambda: not fit.looking, 90)
        chosen = fit.chosen()
        self.assertIsNotNone(chosen)
        self.assertLessEqual(chosen.bytes, 20_000)
        self.assertGreater(len(fit.cards), 1)
        self.assertTrue(any(not card.picture.isNull() for card in fit.cards))
        self.click(fit.take)
        for name, value in chosen.step.settings.items():
            self.assertEqual(export.settings.values[name], value, name)
        result = self.written(export, "a.gif")
        self.assertLessEqual(result.bytes, 20_000)

    def test_what_is_pinned_stays_and_what_cannot_be_is_a_sentence(self) -> None:
        export = self.shown("gif")
        self.click(export.foot.fit)
        fit = export.fitting
        self.enter_number(fit.limit, "0.01")
        self.enter_number(fit.limit, "0.01")
        for name in ("size", "rate", "colours"):
            fit.pins[name].setChecked(True)
        fit.limit.show_value(0.0005)
        fit.look()
        self.until(lambda: not fit.looking, 90)
        self.assertIn("does not get under", fit.state.text())
        self.assertFalse(fit.take.isEnabled())
        fit.reject()


class FeedTest(ExportTest):
    def test_the_written_file_goes_round_at_its_own_pace(self) -> None:
        for kind in ("gif", "mp4"):
            export = self.shown(kind)
            self.written(export, f"a.{kind}")
            self.click(export.foot.feed)
            feed = export.feed
            assert isinstance(feed, FeedPreview)
            self.until(lambda feed=feed: feed.frames is not None and feed.shown > 3, 20)
            self.assertEqual((len(feed.frames.pictures), float(feed.frames.seconds)), (50, 2.0))
            light = feed.phone.grab().toImage().pixelColor(40, 40).lightness()
            self.click(feed.dark)
            self.settle()
            self.assertLess(feed.phone.grab().toImage().pixelColor(40, 40).lightness(), light)
            feed.close()
            export.close()
            self.press(self.editor.canvas, Qt.Key.Key_Escape)
