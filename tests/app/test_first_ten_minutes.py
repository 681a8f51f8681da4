"""“The first ten minutes” of the README, word for word: each step is read there and done as it says."""

import re
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QPointF, Qt, QTimer
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QDialogButtonBox

from spiralis.app.canvas.handles import frame_of
from spiralis.app.commands.find import Find
from spiralis.app.effects import EffectsChooser
from spiralis.app.moves import MovesChooser
from tests.app.harness import ALT, CONTROL, NONE, SHIFT, WindowTest
from tests.core.samples import png_bytes
from tests.core.sounds import RATE, tone, write_wav

README = Path(__file__).parents[2] / "README.md"
LEFT = Qt.MouseButton.LeftButton


def steps() -> list[str]:
    """Return the steps as the README has them, each as one line."""
    section = README.read_text(encoding="utf-8").split("## The first ten minutes")[1].split("\n| | |")[0]
    return [" ".join(step.split()) for step in re.split(r"^\d+\. ", section.strip(), flags=re.MULTILINE)[1:]]


class FirstTenMinutesTest(WindowTest):
    sample = None

    def test_every_step_does_what_it_says(self) -> None:
        written = steps()
        done = [self.one, self.two, self.three, self.four, self.five, self.six, self.seven, self.eight, self.nine]
        self.assertEqual(len(written), len(done))
        for text, step in zip(written, done, strict=True):
            with self.subTest(text[:40]):
                # A sentence that changes has to be tried again: each step holds the words that it tries.
                self.assertEqual(" ".join((step.__doc__ or "").split()), text)
                step()
        self.assertEqual(self.said, [])

    def handle(self, name: str) -> QPointF:
        frame = frame_of(self.session, self.editor.canvas.viewport.to_widget)
        assert frame is not None
        return QPointF(*frame.handles()[name])

    def top(self) -> str:
        return self.session.composition.layers[0].id

    def one(self) -> None:
        """`./run`, then **File > New…** and click a card: **Portrait**."""
        self.act("New…")
        self.click(next(card for card in self.window.start.cards if card.choice.name == "Portrait"))
        piece = self.session.composition
        self.assertTrue(self.window.editing)
        self.assertEqual((piece.width, piece.height, piece.layers), (1080, 1350, ()))

    def two(self) -> None:
        """**Backdrop** above the layer list lays a ground. In **Details**, set Style to Linear and drag the stops."""
        self.click(self.editor.add_strip.backdrop)
        style = self.editor.details.editors["style"].box
        style.setFocus()
        QTest.keyClicks(style, "Linear")
        self.settle(0.2)
        self.assertEqual(self.value(self.top(), "style"), "linear")
        stops = self.editor.details.editors["stops"].field
        before = self.value(self.top(), "stops")
        self.drag(stops, stops._place(0.0), stops._place(0.3))
        self.assertAlmostEqual(self.value(self.top(), "stops")[0][0], 0.3, delta=0.03)
        self.assertEqual(before[0][0], 0.0)

    def three(self) -> None:
        """**Text**, and type; Enter makes a new line, Escape ends it. Drag the words; they snap to edges, thirds and
        the centre."""
        canvas = self.editor.canvas
        self.click(self.editor.add_strip.text)
        self.type_(canvas, "Fly")
        self.press(canvas, Qt.Key.Key_Return)
        self.type_(canvas, "high")
        self.press(canvas, Qt.Key.Key_Escape)
        self.assertEqual(self.value(self.top(), "text"), "Fly\nhigh")
        for goal in ((360.0, 1350 / 3), (540.0, 675.0)):
            here = self.value(self.top(), "position")
            off = (goal[0] + 5, goal[1] - 5)
            self.drag(canvas, self.on_canvas(*here), self.on_canvas(*off), steps=8)
            np.testing.assert_allclose(self.value(self.top(), "position"), goal, atol=0.6)

    def four(self) -> None:
        """Drop a PNG, an SVG or a clip on the canvas. Drag its round handles to scale it (a shape or a box of words
        takes another size), the lit one to turn it, the diamond to move its pivot. Ctrl+J lists everything the project
        is made of; **Finishes** and **Effects** in Details glow, soften, bend, colour and more; Alt+Shift+E shows
        [all of them](docs/effects.md) on the chosen layer."""
        pixels = np.full((300, 300, 4), (250, 40, 60, 255), np.uint8)
        path = self.folder / "kite.png"
        path.write_bytes(png_bytes(pixels))
        self.drop([path], QPointF(self.editor.canvas.mapTo(self.window, self.on_canvas(540, 1000).toPoint())))
        self.picture_layer = self.top()
        np.testing.assert_allclose(self.value(self.top(), "position"), (540, 1000), atol=3)
        self.drag(self.editor.canvas, self.handle("se"), self.handle("se") + QPointF(30, 30))
        self.assertGreater(self.value(self.top(), "scale")[0], 110)
        self.drag(self.editor.canvas, self.handle("turn"), self.handle("turn") + QPointF(60, 40), steps=12)
        self.assertGreater(self.value(self.top(), "rotation"), 5)
        self.drag(self.editor.canvas, self.handle("pivot"), self.handle("pivot") + QPointF(17, 23))
        self.assertNotEqual(self.value(self.top(), "pivot"), (50.0, 50.0))
        self.press(self.window, Qt.Key.Key_J, CONTROL)
        self.assertTrue(self.editor.drawer.isVisible())
        self.press(self.window, Qt.Key.Key_J, CONTROL)
        self.press(self.window, Qt.Key.Key_E, ALT | SHIFT)
        self.until(lambda: any(c.isVisible() for c in self.window.findChildren(EffectsChooser)))
        chooser = next(c for c in self.window.findChildren(EffectsChooser) if c.isVisible())
        self.assertGreater(len(chooser.tiles), 30)
        chooser.reject()
        self.assertEqual(self.layer(self.top()).blocks, ())

    def five(self) -> None:
        """Motion, from the end: drag around the **loop ring** to frame 20, click the ring left of **Position** in
        Details. That is where the picture *ends up*. Go to frame 0 and drag the picture to where it comes from: a
        second key."""
        ring, layer = self.editor.transport.ring, self.picture_layer
        self.session.go_to(0)
        QTest.mousePress(ring, LEFT, NONE, ring._point(0).toPoint())
        for frame in range(1, 21):
            self._move(ring, ring._point(frame), NONE)
        QTest.mouseRelease(ring, LEFT, NONE, ring._point(20).toPoint())
        self.settle()
        self.assertEqual(self.session.frame, 20)
        self.click(self.editor.details.beads["position"])
        ends_up = self.value(layer, "position")
        self.session.go_to(0)
        self.settle()
        here = self.on_canvas(*ends_up)
        self.drag(self.editor.canvas, here, here + QPointF(-110, -60))
        keys = self.layer(layer).track("position").keys
        self.assertEqual([key.frame for key in keys], [0, 20])
        self.assertEqual(keys[1].value, ends_up)
        self.assertLess(keys[0].value[0], ends_up[0] - 50)

    def six(self) -> None:
        """Click the first bead in the timeline, and in **Pace** try the tiles; then bend the curve by its handles. The
        drawing below shows the speed, the ticks the spacing frame by frame."""
        layer, pace = self.picture_layer, self.editor.pace
        self.click(self.editor.timeline.rows, self.bead(layer, "position", 0))
        for tile in ("snap", "overshoot"):
            self.click(pace.tiles.tiles[tile])
            self.assertEqual(self.layer(layer).track("position").keys[0].easing, pace.tiles.tiles[tile].tile.easing)
        curves = pace.curves
        self.drag(curves, QPointF(curves.width() * 0.7, 40), QPointF(curves.width() * 0.5, 20))
        bent = self.layer(layer).track("position").keys[0].easing
        self.assertNotEqual(bent, pace.tiles.tiles["overshoot"].tile.easing)

    def seven(self) -> None:
        """Faster still: **Motion > Moves…** shows entrances, loops and exits played by your own layer; click one.
        *Arrange > Copies of the chosen layer* repeats it; its *Delay* lets each copy begin some frames later."""
        words = self.session.composition.layers[1].id
        self.session.select([words])
        self.settle()
        self.act("Moves…")
        self.until(lambda: any(d.isVisible() for d in self.window.findChildren(MovesChooser)))
        chooser = next(d for d in self.window.findChildren(MovesChooser) if d.isVisible())
        self.click(chooser.tiles["pop-in"])
        self.click(chooser.buttons.button(QDialogButtonBox.StandardButton.Ok))
        self.assertEqual([use.name for use in self.layer(words).moves], ["pop-in"])
        self.act("Copies of the chosen layer")
        copies = next(layer for layer in self.session.composition.layers if layer.kind == "copies")
        delay = next(e for e in self.editor.details.editors.values() if e.parameter.label.startswith("Delay"))
        self.enter_number(delay.field, "3")
        self.assertEqual(self.value(copies.id, "delay"), 3)

    def eight(self) -> None:
        """Space plays; F8 leaves the picture alone with its ring. Ctrl+F finds any command by typing. The line on top
        says whether the loop is clean; click it for Seam check, which names what breaks it and mends it. Drop a WAV,
        MP3 or Opus file for [sound](docs/guide/sound.md); *Motion > Markers on its beats* shows where it asks for
        keys."""
        for playing in (True, False):
            self.editor.canvas.setFocus()
            self.press(self.editor.canvas, Qt.Key.Key_Space)
            self.assertEqual(self.window.player.playing, playing)
        # Without a window manager nobody gives the keys back to the window when a dialog closes.
        self.window.activateWindow()
        self.settle()
        for alone in (True, False):
            self.press(self.window, Qt.Key.Key_F8)
            self.settle(0.3)
            self.assertEqual(self.editor.details.isVisible(), not alone)
            self.assertTrue(self.editor.transport.ring.isVisible())
        found: list[str] = []

        def type_in_find() -> None:
            find = next(each for each in self.window.findChildren(Find) if each.isVisible())
            QTest.keyClicks(find.field, "nest")
            items = (find.list.topLevelItem(row) for row in range(find.list.topLevelItemCount()))
            found.extend(item.text(0) for item in items if item is not None)
            QTest.keyClick(find.field, Qt.Key.Key_Escape)

        QTimer.singleShot(300, type_in_find)
        self.press(self.window, Qt.Key.Key_F, CONTROL)
        self.assertTrue(any("Nest" in label for label in found), found)
        self.click(self.editor.piece_bar.loop)
        seam = self.window.windows.seam
        assert seam is not None
        self.until(lambda: seam.verdict is not None and "looking" not in seam.about.text(), 60)
        self.assertFalse(seam.verdict.clean)
        self.assertTrue(seam.verdict.causes)
        self.click(seam.all)
        self.until(lambda: seam.verdict.clean and "looking" not in seam.about.text(), 60)
        self.until(lambda: "clean" in self.editor.piece_bar.loop.text())
        seam.close()
        struck = np.concatenate([np.zeros(2 * RATE // 5), tone(0.5) * np.linspace(1, 0, RATE // 2)])
        self.drop([write_wav(self.folder / "Note.wav", struck)], self.on_canvas(540, 675))
        self.until(lambda: any(layer.kind == "sound" for layer in self.session.composition.layers))
        self.act("Markers on its beats")
        rate = float(self.session.composition.rate)
        self.assertEqual([round(rate * 2 / 5)], [marker.frame for marker in self.session.composition.markers])

    def nine(self) -> None:
        """**Export…**: MP4 for feeds, GIF, WebM, WebP for pages. The middle shows the frame as it comes out of the
        file; **Fit under…** keeps it below so many MB."""
        self.click(self.editor.piece_bar.export)
        export = self.window.windows.export
        assert export is not None
        for name in ("mp4", "gif", "webm", "webp"):
            self.click(export.cards[name])
        self.until(lambda: len(export.preview.images) == 2, 60)
        self.assertEqual(export.preview.images[1][0], "as it will be")
        self.assertTrue(export.foot.fit.isVisible())
        self.enter_number(export.settings.last, "5")
        export.start(self.folder / "a.webp")
        self.until(lambda: export.running is None, 60)
        self.settle()
        self.assertEqual(export.foot.result.frames, 6)
