"""Sound in the window: brought in, seen, heard while it plays, and written."""

from __future__ import annotations

import sys
from pathlib import Path
from unittest import mock

import av
import numpy as np
from attrs import evolve
from PyQt6.QtCore import QIODevice, Qt
from PyQt6.QtWidgets import QToolButton, QVBoxLayout, QWidget

from spiralis.app.canvas.handles import frame_of
from spiralis.app.sources.entries import entries_of, entry_picture
from spiralis.app.strips.sound_button import SoundButton
from spiralis.app.work.loudspeaker import Round
from spiralis.app.work.loudspeaker import loudspeaker as real_loudspeaker
from spiralis.core.geometry import Affine
from spiralis.core.media.sources import read_source
from spiralis.core.model import Layer
from spiralis.core.sound.mixing import mixed
from spiralis.core.sound.reading import RATE
from tests.app.harness import WindowTest
from tests.core.sounds import clip_with_sound, tone, write_wav


class Ears:
    """A loudspeaker that reads when it is told to, and keeps what it read."""

    def __init__(self) -> None:
        self.device: QIODevice | None = None
        self.stopped = 0

    def start(self, device: QIODevice) -> None:
        self.device = device

    def stop(self) -> None:
        self.device, self.stopped = None, self.stopped + 1

    def hear(self, samples: int) -> np.ndarray:
        """Return so many samples, int16 (n, 2)."""
        assert self.device is not None
        return np.frombuffer(bytes(self.device.read(4 * samples)), dtype="<i2").reshape(-1, 2)


class HearingTest(WindowTest):
    def setUp(self) -> None:
        self.ears: list[Ears] = []
        self.enterContext(mock.patch("spiralis.app.work.loudspeaker.loudspeaker", self._ears))
        # These ears hear as fast as they are asked to, not as the clock goes.
        self.enterContext(mock.patch("spiralis.app.work.loudspeaker._OFF", 60.0))
        super().setUp()
        self.addCleanup(lambda: self.window.player.stop())

    def _ears(self) -> Ears:
        self.ears.append(Ears())
        return self.ears[-1]

    @property
    def button(self) -> QToolButton:
        return self.editor.transport.sound

    def bring(self, samples: np.ndarray | None = None) -> Layer:
        """Drop a sound onto the canvas and return its layer."""
        own = tone(1.0, 440) * np.linspace(0.2, 1, RATE) if samples is None else samples
        self.drop([write_wav(self.folder / "Tune.wav", own)], self.on_canvas(320, 240))
        self.until(lambda: any(layer.kind == "sound" for layer in self.session.composition.layers))
        self.settle()
        return next(layer for layer in self.session.composition.layers if layer.kind == "sound")

    def wanted(self) -> np.ndarray:
        """Return what the piece sounds like, as 16 bits."""
        piece = self.session.composition
        return np.rint(np.clip(mixed(self.session.project, piece, *piece.span), -1, 1) * 32767).astype("<i2")

    def play(self) -> Ears:
        before = len(self.ears)
        self.press(self.window, Qt.Key.Key_Space)
        self.until(lambda: len(self.ears) > before and self.ears[-1].device is not None)
        return self.ears[-1]

    def place(self) -> int:
        """Return how many samples the round on the loudspeaker has gone."""
        return int(self.ears[-1].device.place)  # type: ignore[union-attr]

    def test_a_dropped_file_becomes_a_layer_that_is_only_heard(self) -> None:
        self.assertFalse(self.button.isVisible())
        layer = self.bring()
        self.assertEqual(("Tune", (0, 50)), (layer.name, (layer.first, layer.last)))
        self.assertEqual((layer.id,), self.session.selected)
        self.assertTrue(self.button.isVisible())
        rows = set(self.editor.details.editors)
        self.assertLessEqual({"volume", "fades", "start", "in", "out", "ends", "source"}, rows)
        self.assertFalse(rows & {"position", "scale", "opacity", "blend"})
        self.assertIsNone(frame_of(self.session, Affine()))
        self.act("Undo")
        self.until(lambda: not self.button.isVisible())

    def test_its_bar_shows_how_loud_it_is(self) -> None:
        own = np.zeros(RATE)
        own[RATE // 2 : RATE // 2 + RATE // 20] = 0.9
        layer = self.bring(own)
        rows = self.editor.timeline.rows
        self.until(lambda: rows.outlines.of(layer) is not None)
        self.settle(0.2)
        row = next(row for row in rows.rows() if row.layer.id == layer.id and row.name is None)
        axis = rows.axis()

        def bright(frame: float) -> int:
            image = rows.grab().toImage()
            return max(image.pixelColor(round(axis.x(frame)), round(row.middle) + off).lightness() for off in (-4, 4))

        self.assertGreater(bright(13), bright(6) + 40)
        (digest,) = rows.outlines._peaks
        own = rows.outlines._peaks[digest]
        for peaks, seen in ((np.zeros(200), False), (own, True)):
            rows.outlines._take(digest, peaks)
            self.settle()
            self.assertEqual(seen, bright(13) > bright(6) + 40)
        field = self.editor.details.editors["volume"].field
        self.enter_number(field, "0")
        self.settle(0.2)
        self.assertLess(bright(13), bright(6) + 10)

    def test_it_is_heard_from_where_it_plays_round_and_round(self) -> None:
        self.bring()
        self.session.go_to(20)
        self.settle()
        ears = self.play()
        self.assertTrue(20 / 25 <= self.place() / RATE <= self.window.player.gone)
        start, wanted = self.place(), self.wanted()
        count = 2 * len(wanted)
        np.testing.assert_array_equal(ears.hear(count), wanted[np.arange(start, start + count) % len(wanted)])
        self.press(self.window, Qt.Key.Key_Space)
        self.assertEqual((None, 1), (ears.device, ears.stopped))

    def test_once_it_is_over_it_is_silent(self) -> None:
        round_ = Round(np.full((100, 2), 0.5, dtype=np.float32), False, 40)
        found = np.frombuffer(round_.read(400), dtype="<i2").reshape(-1, 2)
        np.testing.assert_array_equal(found, np.where(np.arange(100)[:, None] < 60, [[16384, 16384]], 0))

    def test_it_is_about_where_the_clock_is_around_the_seam_as_well(self) -> None:
        for loop, place, near in (
            (True, 100, True), (True, 1.2 * RATE, False), (True, 1.9 * RATE, True), (True, 7.9 * RATE, True),
            (False, 1.9 * RATE, False), (False, 0.4 * RATE, True),
        ):  # fmt: skip
            with self.subTest(loop=loop, place=place), mock.patch("spiralis.app.work.loudspeaker._OFF", 0.5):
                round_ = Round(np.zeros((2 * RATE, 2), dtype=np.float32), loop, round(place))
                self.assertEqual(near, round_.near(0, 2 * RATE))

    def test_its_button_silences_it_and_lets_it_be_heard_again(self) -> None:
        self.bring()
        ears = self.play()
        self.click(self.button)
        self.assertEqual(1, ears.stopped)
        self.assertFalse(self.button.isChecked())
        self.click(self.button)
        self.until(lambda: len(self.ears) == 2 and self.ears[-1].device is not None)

    def test_played_once_from_now_on_it_ends_with_this_round(self) -> None:
        self.bring(np.full(3 * RATE, 0.5))
        self.session.go_to(2)
        player = self.window.player
        ears = self.play()
        # It is in its second round, say.
        player._from = (player._from[0] - 2.0, player._from[1])
        frame = self.session.frame
        self.click(self.editor.transport.loop)
        self.until(lambda: len(self.ears) == 2 and self.ears[1].device is not None)
        self.assertEqual(1, ears.stopped)
        self.assertTrue(player.playing)
        self.assertGreaterEqual(self.session.frame, frame)
        heard = np.abs(self.ears[1].hear(3 * RATE))[:, 0]
        self.assertTrue(heard[0] > 10_000 and not heard[2 * RATE :].any())
        self.until(lambda: not player.playing)
        self.assertEqual((49, 1), (self.session.frame, self.ears[1].stopped))
        self.click(self.editor.transport.loop)

    def test_the_picture_beside_the_slots_is_heard_from_its_place_in_the_play_span(self) -> None:
        self.session.edit("Span", lambda piece: evolve(piece, play_span=(10, 35)))
        picture = self.window.fill_in.picture
        picture.frame = 15
        picture.set_playing(True)
        self.assertAlmostEqual(0.2, picture.gone, delta=0.1)
        picture.set_playing(False)

    def test_its_button_is_no_window_of_its_own_before_it_has_a_place(self) -> None:
        self.bring()
        button = SoundButton(self.session, self.window.player)
        self.addCleanup(button.deleteLater)
        self.assertFalse(button.isVisible())
        place = QWidget()
        self.addCleanup(place.deleteLater)
        QVBoxLayout(place).addWidget(button)
        place.show()
        self.assertTrue(button.isVisible())

    def test_an_edit_is_heard_without_a_gap(self) -> None:
        layer = self.bring(np.full(3 * RATE, 0.5))
        ears = self.play()
        device, loud = ears.device, int(np.abs(ears.hear(100)).max())
        self.session.edit("Quieter", lambda piece: piece.with_layer(piece.layer(layer.id).with_values(volume=50.0)))
        self.until(lambda: int(np.abs(ears.hear(100)).max()) < 0.6 * loud)
        self.assertIs(device, ears.device)
        self.assertEqual((1, 0), (len(self.ears), ears.stopped))

    def test_what_is_shown_alone_is_heard_alone(self) -> None:
        self.bring(np.full(3 * RATE, 0.25))
        backdrop = Layer("Ground", "backdrop", 0, 50)
        self.session.edit("Ground", lambda piece: evolve(piece, layers=(*piece.layers, backdrop)))
        ears = self.play()
        self.assertGreater(int(np.abs(ears.hear(100)).max()), 4000)
        self.session.select([backdrop.id])
        self.act("Show alone")
        self.until(lambda: int(np.abs(ears.hear(100)).max()) == 0)
        self.act("Show alone")
        self.until(lambda: int(np.abs(ears.hear(100)).max()) > 4000)

    def test_cut_within_a_fade_it_is_heard_as_before(self) -> None:
        layer = self.bring(np.full(3 * RATE, 0.5))
        self.session.edit("Fades", lambda piece: piece.with_layer(piece.layer(layer.id).with_values(fades=(1.6, 0.0))))
        before = self.wanted().astype(int)
        self.session.go_to(20)
        self.act("Split at the playhead")
        parts = [y for y in self.session.composition.layers if y.kind == "sound"]
        self.assertEqual([(0.8, 0.0), (0.0, 0.0)], [y.track("beyond").value for y in parts])
        np.testing.assert_allclose(self.wanted(), before, atol=60)
        self.act("Undo")
        np.testing.assert_array_equal(self.wanted(), before)

    def test_another_choice_of_the_view_mixes_nothing_anew(self) -> None:
        self.bring()
        self.play()
        with mock.patch("spiralis.app.work.hearing.mixed", side_effect=AssertionError) as mixing:
            self.session.view.toggle("guides")
            self.settle(0.3)
            self.assertEqual(0, mixing.call_count)

    def test_fill_in_view_lets_the_piece_be_heard_by_its_own_clock_and_goes_along_with_what_is_filled_in(self) -> None:
        page = self.window.fill_in
        self.act("Fill-in view: slots, variants, formats")
        self.settle(0.2)
        self.assertEqual((False, []), (page.sound.isVisible(), self.ears))
        page.leave()
        layer = self.bring(np.full(3 * RATE, 0.5))
        self.act("Fill-in view: slots, variants, formats")
        self.until(lambda: len(self.ears) == 1 and self.ears[0].device is not None)
        ears = self.ears[0]
        self.assertTrue(page.sound.isVisible())
        self.assertFalse(self.button.isVisible())
        loud = int(np.abs(ears.hear(100)).max())
        quieter = self.session.project.with_composition(
            self.session.composition.with_layer(layer.with_values(volume=50.0))
        )
        # A row of the table that somebody looks at is heard as well, and then the piece as it is.
        self.session.peek.show_project(quieter)
        self.until(lambda: int(np.abs(ears.hear(100)).max()) < 0.6 * loud)
        self.session.peek.end()
        self.until(lambda: int(np.abs(ears.hear(100)).max()) > 0.9 * loud)
        self.assertEqual((1, 0), (len(self.ears), ears.stopped))
        self.press(page.picture, Qt.Key.Key_Space)
        self.assertEqual(1, ears.stopped)
        self.press(page.picture, Qt.Key.Key_Space)
        self.until(lambda: len(self.ears) == 2 and self.ears[1].device is not None)
        self.assertLess((page.picture.gone - self.place() / RATE) % 2, 0.8)
        page.leave()
        self.assertEqual((1, 1), (self.ears[0].stopped, self.ears[1].stopped))

    def test_fill_in_view_goes_on_from_elsewhere_with_its_sound(self) -> None:
        self.bring(np.full(3 * RATE, 0.5))
        self.act("Fill-in view: slots, variants, formats")
        page = self.window.fill_in
        self.until(lambda: len(self.ears) == 1 and self.ears[0].device is not None)
        with mock.patch("spiralis.app.work.loudspeaker._OFF", 0.5):
            began, frame = page.picture._began
            page.picture._began = (began - 0.9, frame)
            page.picture.playingChanged.emit()
            self.until(lambda: len(self.ears) == 2 and self.ears[1].device is not None)
        self.assertEqual(1, self.ears[0].stopped)
        self.assertLess((page.picture.gone - self.place() / RATE) % 2, 0.8)

    def test_the_feed_preview_is_silent_until_it_is_asked_for_the_sound_of_the_file(self) -> None:
        self.bring(tone(3.0, 440))
        self.act("Export…")
        window, path = self.window.windows.export, self.folder / "heard.mp4"
        for sound in (True, False):
            window.settings.fields["sound"].setChecked(sound)
            window.start(path)
            self.until(lambda: window.running is None and window.foot.result is not None, 60)
            self.click(window.foot.feed)
            feed = window.feed
            self.until(lambda feed=feed: feed.frames is not None, 20)
            self.settle(0.1)
            self.assertEqual((sound, []), (feed.sound.isVisible(), self.ears))
            if sound:
                feed._since -= 0.5
                self.click(feed.sound)
                self.assertGreaterEqual(self.place(), RATE // 2)
                self.assertEqual(2 * RATE, len(feed.frames.sound))
                self.assertGreater(int(np.abs(self.ears[0].hear(4800)).max()), 10_000)
                self.press(feed, Qt.Key.Key_Escape)
                self.assertEqual((1, False), (self.ears.pop().stopped, feed._clock.isActive()))
            else:
                feed.close()

    def test_without_a_loudspeaker_it_plays_and_says_so(self) -> None:
        self.bring()
        with mock.patch("spiralis.app.work.loudspeaker.loudspeaker", lambda: None):
            self.press(self.window, Qt.Key.Key_Space)
            self.until(lambda: "no loudspeaker" in self.button.toolTip())
        self.assertTrue(self.window.player.playing)

    def test_a_system_without_a_library_for_sound_has_no_loudspeaker(self) -> None:
        with mock.patch.dict(sys.modules, {"PyQt6.QtMultimedia": None}):
            self.assertIsNone(real_loudspeaker())

    def test_a_silent_piece_looks_for_no_loudspeaker(self) -> None:
        self.press(self.window, Qt.Key.Key_Space)
        self.settle(0.3)
        self.assertEqual([], self.ears)

    def test_a_clip_brings_its_sound_along(self) -> None:
        path = self.folder / "Clip.mov"
        path.write_bytes(clip_with_sound(tone(1.0)))
        self.drop([path], self.on_canvas(320, 240))
        self.until(lambda: any(layer.kind == "footage" for layer in self.session.composition.layers))
        self.until(lambda: self.button.isVisible())
        self.assertIn("volume", self.editor.details.editors)
        self.assertGreater(int(np.abs(self.play().hear(4800)).max()), 10_000)

    def test_markers_are_set_on_its_beats(self) -> None:
        own = np.concatenate([np.zeros(RATE // 4), tone(0.5) * np.linspace(1, 0, RATE // 2)] * 2)
        layer = self.bring(own)
        said: list[str] = []
        self.session.said.connect(said.append)
        self.act("Markers on its beats")
        self.assertEqual([6, 25], [marker.frame for marker in self.session.composition.markers])
        self.assertIn("2 markers were set.", said)
        self.act("Undo")
        self.assertEqual((), self.session.composition.markers)
        self.session.select(["square"])
        self.act("Markers on its beats")
        self.assertIn("Choose a sound, or a clip that has one, first.", self.said)
        self.session.set_property("volume", 0.0, [layer.id])
        self.session.select([layer.id])
        self.act("Loudness as a dial")
        self.assertIn("“Tune” is silent.", self.said)

    def test_a_dial_goes_by_how_loud_it_is(self) -> None:
        self.bring(tone(2.0) * np.linspace(0, 1, 2 * RATE))
        self.act("Loudness as a dial")
        (dial,) = self.session.layers
        self.assertEqual(("dial", "Loudness of Tune"), (dial.kind, dial.name))
        self.session.go_to(25)
        self.assertAlmostEqual(50, self.session.evaluated().values(dial)["value"], delta=5)

    def test_sources_list_it_with_its_length_and_outline(self) -> None:
        self.bring()
        project = self.session.project
        entry = next(entry for entry in entries_of(project) if entry.group == "Sounds")
        self.assertIn("1.00 s", entry.detail)
        picture = entry_picture(project, entry, 80)
        assert picture is not None
        tall = (picture[..., 3] > 0).sum(axis=0)
        self.assertGreater(int(tall[72:].max()), 2 * int(tall[:8].max()))

    def test_another_file_takes_its_place_and_no_picture_does(self) -> None:
        layer = self.bring()
        other = read_source(write_wav(self.folder / "Other.wav", tone(0.5, 200)))
        self.session.edit_project("Bring in", self.session.project.with_source(other)[0])
        self.session.select([])
        self.settle()
        self.session.select([layer.id])
        self.settle()
        editor = self.editor.details.editors["source"]
        listed = [editor.box.itemText(place) for place in range(editor.box.count())]
        self.assertIn("Other.wav", listed)
        pictures = {source.name for source in self.session.project.sources if source.kind == "picture"}
        self.assertFalse(pictures & set(listed))
        editor.box.setCurrentIndex(listed.index("Other.wav"))
        editor.box.activated.emit(listed.index("Other.wav"))
        self.settle()
        self.assertEqual(other.id, self.value(layer.id, "source"))

    def test_the_export_window_offers_it_where_anything_is_heard(self) -> None:
        self.assertFalse(self.offered("mp4"))
        self.bring()
        self.assertTrue(self.offered("mp4"))
        window = self.window.windows.export
        path = self.folder / "out.mp4"
        window.start(path)
        self.until(lambda: path.exists() and window.running is None, 60)
        self.assertEqual(["aac", "h264"], self.kinds(path))
        window.settings.fields["sound"].click()
        window.start(path)
        self.until(lambda: window.running is None and self.kinds(path) == ["h264"], 60)
        self.assertFalse(self.offered("gif"))
        self.assertIn("GIF keeps no sound", window.settings.about.text())

    def kinds(self, path: Path) -> list[str]:
        with av.open(str(path)) as held:
            return sorted(stream.codec_context.name for stream in held.streams)

    def offered(self, kind: str) -> bool:
        """Return whether the export window has a row for sound, for a kind of file."""
        self.window.windows.show_export()
        window = self.window.windows.export
        self.click(window.cards[kind])
        self.settle()
        field = window.settings.fields.get("sound")
        return field is not None and field.isVisible()
