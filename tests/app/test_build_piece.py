"""A small piece from nothing to exported files, by mouse and keys alone."""

from pathlib import Path
from unittest import mock

import av
import numpy as np
from PIL import Image
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QFileDialog

from spiralis.core.animation.easing import CubicBezier
from spiralis.core.storage import load
from tests.app.harness import WindowTest
from tests.core.samples import png_bytes


class BuildPieceTest(WindowTest):
    sample = None

    def test_from_the_start_page_to_an_mp4_and_a_gif(self) -> None:
        self._start()
        self._add_layers()
        self._animate()
        self._play()
        self._undo_and_redo()
        self._save_and_reopen()
        self._export()

    def _start(self) -> None:
        start = self.window.start
        self.enter_number(start.fields.across, "320")
        self.enter_number(start.fields.down, "800/2")
        self.enter_number(start.fields.length, "1.2")
        self.click(start.begin)
        piece = self.session.composition
        self.assertTrue(self.window.editing)
        self.assertEqual((piece.width, piece.height, piece.length), (320, 400, 30))

    def _add_layers(self) -> None:
        window = self.window
        self.click(window.editor.add_strip.backdrop)
        self.click(window.editor.add_strip.text)
        self.assertIsNotNone(window.editor.canvas.typing.editing)
        self.type_(window.editor.canvas, "Fly")
        self.press(window.editor.canvas, Qt.Key.Key_Return)
        self.type_(window.editor.canvas, "high")
        self.press(window.editor.canvas, Qt.Key.Key_Escape)
        pixels = np.full((60, 60, 4), (250, 40, 60, 255), np.uint8)
        path = self.folder / "kite.png"
        path.write_bytes(png_bytes(pixels))
        at = window.editor.canvas.mapTo(window, self.on_canvas(60, 300).toPoint())
        self.drop([path], QPointF(at))
        names = [layer.name for layer in self.session.composition.layers]
        self.assertEqual(names, ["kite", "Fly high", "Backdrop"])
        self.assertEqual(self.value(self.session.composition.layers[1].id, "text"), "Fly\nhigh")
        self.kite = self.session.composition.layers[0].id
        np.testing.assert_allclose(self.value(self.kite, "position"), (60, 300), atol=2)

    def _animate(self) -> None:
        window = self.window
        window.editor.details.refresh()
        self.click(window.editor.details.beads["position"])
        ruler, axis = window.editor.timeline.ruler, window.editor.timeline.axis()
        self.drag(ruler, QPointF(axis.x(0), 25), QPointF(axis.x(20), 25))
        self.assertEqual(self.session.frame, 20)
        self.drag(window.editor.canvas, self.on_canvas(60, 300), self.on_canvas(240, 120))
        keys = self.layer(self.kite).track("position").keys
        self.assertEqual([key.frame for key in keys], [0, 20])
        np.testing.assert_allclose(keys[1].value, (240, 120), atol=6)
        self.click(window.editor.timeline.rows, self.bead(self.kite, "position", 0))
        self.click(window.editor.pace.tiles.tiles["snap"])
        self.assertEqual(self.layer(self.kite).track("position").keys[0].easing, CubicBezier(0.12, 0.9, 0.2, 1))
        self.assertIn(".12, .9", window.editor.pace.css.text())

    def _play(self) -> None:
        player = self.window.player
        self.until(lambda: len(player.ready_frames()) == 30)
        self.click(self.editor.transport.play)
        self.assertTrue(player.playing)
        seen = set()
        self.until(lambda: bool(seen.add(self.session.frame)) or len(seen) >= 25, 10)
        self.click(self.editor.transport.play)
        self.assertFalse(player.playing)
        self.assertEqual(player.late, 0)

    def _undo_and_redo(self) -> None:
        history = self.session.history
        self.assertEqual(history.undo_name, "Ease: Snap")
        end = self.session.project
        steps = 0
        while history.undo_name is not None:
            QTest.keyClick(self.window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
            self.settle(0.005)
            steps += 1
            self.assertLess(steps, 30)
        self.assertEqual(self.session.composition.layers, ())
        for _ in range(steps):
            self.session.redo()
        self.assertIs(self.session.project, end)

    def _save_and_reopen(self) -> None:
        path = self.folder / "kites.spiralis"
        with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(path), "")):
            self.act("Save")
        self.assertFalse(self.session.history.unsaved)
        before = self.session.project
        self.assertEqual(load(path), before)
        self.assertTrue(self.window.files.open(path))
        self.assertEqual(self.session.project, before)
        self.assertIn("kites.spiralis", self.window.windowTitle())

    def _export(self) -> None:
        for name, suffix in (("mp4", ".mp4"), ("gif", ".gif")):
            self.act("Export…")
            export = self.window.windows.export
            self.click(export.cards[name])
            target = self.folder / f"out{suffix}"
            with mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(target), "")):
                self.click(export.foot.begin)
            self.until(lambda export=export: export.running is None, 60)
            self.settle()
            self.assertIn("30 frames, 1.20 s, 320 × 400", export.foot.state.text())
            self.assertTrue(export.foot.open_file.isVisible() and export.foot.show_folder.isVisible())
            export.close()
        self._check_mp4(self.folder / "out.mp4")
        self._check_gif(self.folder / "out.gif")

    def _check_mp4(self, path: Path) -> None:
        with av.open(str(path)) as container:
            frames = [frame.to_ndarray(format="rgb24") for frame in container.decode(video=0)]
        self.assertEqual((len(frames), frames[0].shape), (30, (400, 320, 3)))
        self._check_square(frames[0], (60, 300))
        self._check_square(frames[25], (240, 120))

    def _check_gif(self, path: Path) -> None:
        with Image.open(path) as image:
            self.assertEqual((image.n_frames, image.info["loop"]), (30, 0))
            image.seek(25)
            self._check_square(np.array(image.convert("RGB")), (240, 120))

    def _check_square(self, frame: np.ndarray, middle: tuple[float, float]) -> None:
        red = (frame[..., 0].astype(int) > 180) & (frame[..., 1] < 110)
        y, x = np.nonzero(red)
        self.assertGreater(len(x), 2500)
        np.testing.assert_allclose((x.mean(), y.mean()), middle, atol=8)
