"""What stays while the playhead moves is painted once, and anew as soon as anything else has changed."""

from __future__ import annotations

from collections.abc import Callable
from unittest import mock

import numpy as np
from attrs import evolve
from PyQt6.QtCore import QPoint, QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QWidget

from spiralis.app.canvas import painting as canvas_painting
from spiralis.app.style import PANEL, TINT_COLOURS
from spiralis.app.timeline import painting, row_pictures
from spiralis.app.timeline.layout import Filter
from spiralis.app.widgets.strokes import corners_of
from spiralis.app.work.background import SmallPictures
from spiralis.app.work.soon import Soon
from spiralis.core.animation.easing import HOLD, CubicBezier, Steps
from spiralis.core.editing.keys import KeyRef
from spiralis.core.model import Key, Layer, Rule, Track
from spiralis.core.model.drivers import Follow
from spiralis.core.model.layer import Matte
from spiralis.core.model.project import Marker
from spiralis.core.model.reframing import Reframing
from spiralis.core.model.track import Extend
from tests.app.harness import WindowTest


class StillRowsTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        keys = Track(0.0, (Key(0, 0.0), Key(20, 40.0), Key(49, 90.0)))
        self.session.edit_layers("Keys", lambda layer: layer.with_track("rotation", keys), ["square"])
        self.settle()
        self.rows = self.editor.timeline.rows

    def seen(self) -> QImage:
        return self.rows.grab().toImage()

    def anew(self) -> QImage:
        self.rows.pictures.forget()
        self.rows.update()
        return self.seen()

    def painted(self) -> mock.MagicMock:
        return self.enterContext(mock.patch.object(row_pictures, "draw_layer_row", wraps=row_pictures.draw_layer_row))

    def test_a_move_of_the_playhead_paints_no_row_and_is_seen(self) -> None:
        self.rows.repaint()
        painted = self.painted()
        for frame in (5, 20, 31, 49):
            self.session.go_to(frame)
            self.rows.repaint()
        self.assertEqual(painted.call_count, 0)
        before = self.seen()
        painted.reset_mock()
        self.session.go_to(31)
        self.assertNotEqual(self.seen(), before)
        self.assertEqual(painted.call_count, 0)
        self.assertEqual(self.seen(), self.anew())
        self.assertGreater(painted.call_count, 0)

    def test_rings_are_filled_where_a_key_is_under_the_playhead(self) -> None:
        ring = next(row for row in self.rows.rows() if row.name == "rotation" and row.layer.id == "square")
        colours = []
        for frame in (20, 21):
            self.session.go_to(frame)
            colours.append(self.seen().pixelColor(26, round(ring.middle)).name())
        self.assertNotEqual(*colours)

    def test_whatever_changes_is_seen_at_once(self) -> None:
        session = self.session
        steps: dict[str, Callable[[], object]] = {
            "choose": lambda: session.select(["square"]),
            "value": lambda: session.set_property("rotation", 77.0, ["square"]),
            "lock": lambda: self.change("square", locked=True),
            "unlock": session.undo,
            "name": lambda: self.change("words", name="Other words"),
            "span": lambda: self.change("words", first=7),
            "tint": lambda: self.change("words", tint=next(iter(TINT_COLOURS))),
            "hide": lambda: session.set_property("visible", False, ["words"]),
            "marker": lambda: session.edit("Marker", lambda piece: evolve(piece, markers=(Marker(9, "here"),))),
            "filter": lambda: self.rows.set_filter(Filter(text="sq")),
            "no filter": lambda: self.rows.set_filter(Filter()),
            "undo": session.undo,
            "none": lambda: session.select(()),
            "key": lambda: session.select(["square"], {KeyRef("square", "rotation", 20)}),
            "no key": lambda: session.select(["square"]),
            "solo": lambda: self.change("words", solo=True),
            "parent": lambda: self.change("words", parent="square"),
            "matte": lambda: self.change("words", mattes=(Matte("square"),)),
            "follow": lambda: self.link("words", Follow("square", "rotation")),
            "what is followed": lambda: session.edit_layers(
                "Keys", lambda y: y.with_track("rotation", Track(0.0, (Key(0, 9.0), Key(11, 40.0)))), ["square"]),
            "no link": session.undo,
            "order": lambda: session.edit("Order", lambda piece: evolve(piece, layers=piece.layers[::-1])),
            "extend": lambda: session.edit_layers("Repeat", lambda y: y.with_track(
                "rotation", evolve(y.track("rotation"), after=Extend(Rule.PING_PONG))), ["square"]),
            "length": lambda: session.edit("Length", lambda piece: evolve(piece, length=80)),
            "narrow": lambda: self.window.resize(1100, 800),
        }  # fmt: skip
        before = self.seen()
        for name, change in steps.items():
            with self.subTest(name):
                change()
                self.settle()
                self.until(lambda: not any(soon.isActive() for soon in self.rows.findChildren(Soon)))
                now = self.seen()
                self.assertEqual(now, self.anew())
                self.assertNotEqual(now, before)
                before = now

    def test_an_edit_paints_the_rows_of_its_layer_and_no_others(self) -> None:
        self.seen()
        painted = self.painted()
        lines = self.enterContext(mock.patch.object(row_pictures, "draw_track_row", wraps=row_pictures.draw_track_row))
        self.session.set_property("rotation", 77.0, ["square"])
        self.seen()
        layers = {call.args[1].layer.id for call in (*painted.call_args_list, *lines.call_args_list)}
        self.assertEqual(layers, {"square"})
        self.assertLess(len(layers), len(self.session.composition.layers))
        painted.reset_mock()
        self.change("words", first=9)
        self.seen()
        self.assertEqual({call.args[1].layer.id for call in painted.call_args_list}, {"words"})
        # Rows that come to lie lower show what they showed.
        for drawn in (painted, lines):
            drawn.reset_mock()
        self.session.edit("Add", lambda piece: evolve(piece, layers=(Layer("new", "carrier", 0, 50), *piece.layers)))
        self.settle()
        self.seen()
        self.assertEqual([call.args[1].layer.name for call in painted.call_args_list], ["new"])
        self.assertEqual(lines.call_count, 0)
        self.assertEqual(self.seen(), self.anew())

    def test_rows_that_were_scrolled_to_are_those_that_lie_there(self) -> None:
        many = tuple(Layer(f"carrier {number}", "carrier", 0, 50) for number in range(60))
        self.session.edit("Many", lambda piece: evolve(piece, layers=(*many, *piece.layers)))
        self.settle()
        area, seen = self.editor.timeline.area, []
        for place in (0, 31, 200, 0):
            area.verticalScrollBar().setValue(place)
            self.settle()
            seen.append(area.viewport().grab().toImage())
            self.rows.pictures.forget()
            self.rows.update()
            self.assertEqual(seen[-1], area.viewport().grab().toImage(), place)
        self.assertEqual(seen[0], seen[3])
        self.assertTrue(seen[0] != seen[1] != seen[2])

    def test_what_a_format_has_as_its_own_is_marked_as_soon_as_it_is(self) -> None:
        # The layers stay the very same: only the composition says so.
        for own in ((), (("words", "position"),), (("square", "rotation"),), (("square", ""),)):
            piece = evolve(self.session.composition, follows=Reframing("", own=own))
            with mock.patch.object(type(self.session), "composition", piece):
                self.rows.update()
                self.assertEqual(self.seen(), self.anew(), own)

    def test_how_many_show_a_nest_is_counted_anew_when_others_do(self) -> None:
        pictures = []
        for count in (0, 2, 5):
            with mock.patch.object(row_pictures, "shared_count", return_value=count), mock.patch.object(
                painting, "shared_count", return_value=count
            ):
                self.rows.update()
                pictures.append(self.seen())
                self.assertEqual(pictures[-1], self.anew())
        self.assertTrue(pictures[0] != pictures[1] != pictures[2])

    def link(self, layer: str, driver: Follow) -> None:
        track = Track(0.0, driver=driver)
        self.session.edit_layers("Follow", lambda y: y.with_track("rotation", track), [layer])

    def change(self, layer: str, **values: object) -> None:
        self.session.edit_layers("Change", lambda y: evolve(y, **values), [layer])


class StillCurvesTest(WindowTest):
    def test_curves_are_painted_with_the_playhead_only_where_it_shows_on_them(self) -> None:
        curves = self.editor.pace.curves
        self.session.view.toggle("pace")
        self.session.select(())
        self.settle()
        with mock.patch.object(curves, "update") as asked:
            for frame in (3, 8):
                self.session.go_to(frame)
        self.assertEqual(asked.call_count, 0)
        keys = Track(0.0, (Key(0, 0.0), Key(20, 40.0)))
        self.session.edit_layers("Keys", lambda layer: layer.with_track("rotation", keys), ["square"])
        self.session.select(["square"])
        self.settle()
        with mock.patch.object(curves, "update") as asked:
            self.session.go_to(11)
        strips = [call.args for call in asked.call_args_list]
        self.assertEqual(len(strips), 4, "in curve and spacing, where it was and where it is")
        self.assertLess(max(width for _, _, width, _ in strips), 12)


class PaintedInPartsTest(WindowTest):
    """What is on the screen after moves of the playhead is what one painting of everything would show."""

    def setUp(self) -> None:
        super().setUp()
        self.session.view.toggle("pace")
        keys = Track(0.0, (Key(0, 0.0), Key(20, 40.0), Key(49, 90.0)))
        away = Track((160.0, 240.0), (Key(0, (160.0, 240.0)), Key(20, (400.0, 240.0)), Key(49, (300.0, 90.0))))
        self.session.edit_layers(
            "Keys", lambda layer: layer.with_track("rotation", keys).with_track("position", away), ["square"]
        )
        self.session.select(["square"])
        # What comes by and by is tested elsewhere: ready frames, and what the checks say.
        self.enterContext(mock.patch.object(self.window.player, "ready_runs", lambda: [(3, 9), (20, 31)]))
        self.until(lambda: self.editor.transport.ring.seam.verdict is not None, 30)
        self.until(lambda: not SmallPictures.any_wanted(), 30)
        self.settle()

    def on_screen(self, widget: QWidget) -> QImage:
        corner = widget.mapTo(self.window, QPoint(0, 0))
        area = widget.visibleRegion().boundingRect()
        screen = self.window.screen().grabWindow(self.window.winId()).toImage()
        return screen.copy(area.translated(corner))

    def whole(self, widget: QWidget) -> QImage:
        widget.update()
        self.app.processEvents()
        return self.on_screen(widget)

    def test_rows_ruler_ring_and_curves_show_the_playhead_where_it_is_and_nowhere_else(self) -> None:
        timeline, ring, curves = self.editor.timeline, self.editor.transport.ring, self.editor.pace.curves
        seen = []
        # Onto a key, from one segment to the next and back, and to the very end.
        for frame in (0, 1, 7, 20, 19, 49, 0, 33, 34):
            self.session.go_to(frame)
            self.app.processEvents()
            for widget in (timeline.rows, timeline.ruler, ring, curves):
                with self.subTest(frame=frame, widget=type(widget).__name__):
                    now = self.on_screen(widget)
                    self.assertEqual(now, self.whole(widget))
                    seen.append(now)
        self.assertGreater(len({bytes(image.bits().asarray(image.sizeInBytes())) for image in seen[::4]}), 4)

    def test_nothing_peeks_out_of_the_playhead_of_a_number_that_it_covers(self) -> None:
        ruler = self.editor.timeline.ruler
        number = ruler._numbers[1]
        frames = range(50)
        notches = [QRectF(left, 14, width, 16) for left, width, _ in map(ruler._notch, frames)]
        partly = [f for f in frames if number.intersects(notches[f]) and not notches[f].contains(number)]
        self.assertTrue(partly)
        for frame in partly:
            self.session.go_to(frame)
            image = ruler.grab().toImage()
            beside = [x for x in range(int(number.left()) + 1, int(number.right()))
                      if not notches[frame].left() - 2 <= x <= notches[frame].right() + 2]  # fmt: skip
            seen = {image.pixelColor(x, y).name() for x in beside for y in range(16, 27)}
            self.assertLessEqual(seen, {PANEL}, frame)

    def test_ruler_ring_and_curves_show_what_changes(self) -> None:
        session = self.session
        ruler, ring, curves = self.editor.timeline.ruler, self.editor.transport.ring, self.editor.pace.curves

        def turned(which: int = 0, **changes: object) -> None:
            def change(layer: Layer) -> Layer:
                keys = list(layer.track("rotation").keys)
                keys[which] = evolve(keys[which], **changes)
                return layer.with_track("rotation", Track(0.0, tuple(keys)))

            session.edit_layers("Turn", change, ["square"])

        session.select(["square"], {KeyRef("square", "rotation", 0)})
        steps = {
            "bent": (curves, lambda: turned(easing=CubicBezier(0.8, 0.1, 0.9, 0.4))),
            "held": (curves, lambda: turned(easing=HOLD)),
            "steps": (curves, lambda: turned(easing=Steps(4, "end"))),
            "soft": (curves, lambda: turned(easing=CubicBezier(0.4, 0, 0.6, 1))),
            "focus": (curves, curves.setFocus),
            "other handle": (curves, lambda: QTest.keyClick(curves, Qt.Key.Key_PageDown)),
            "faster": (curves, lambda: turned(value=-90.0)),
            "other end": (curves, lambda: turned(1, value=200.0)),
            "another segment": (curves, lambda: session.select(["square"], {KeyRef("square", "rotation", 20)})),
            "another thread": (curves, lambda: session.select(["square"], {KeyRef("square", "position", 0)})),
            "no segment": (curves, lambda: session.select(["words"])),
            "a segment": (curves, lambda: session.select(["square"])),
            "marker": (ruler, lambda: session.edit("Marker", lambda y: evolve(y, markers=(Marker(9, "here"),)))),
            "span": (ruler, lambda: session.edit("Play span", lambda y: evolve(y, play_span=(5, 30)))),
            "unit": (ruler, lambda: session.view.count_in("timecode")),
            "keys": (ruler, lambda: session.select(
                ["square"], {KeyRef("square", "rotation", 0), KeyRef("square", "rotation", 20)})),
            "nothing chosen": (ring, lambda: session.select([])),
            "key on the ring": (ring, lambda: (session.select(["words"]), session.edit_layers(
                "Key", lambda y: y.with_track("opacity", Track(9.0, (Key(30, 9.0), Key(40, 40.0)))), ["words"]))),
            "another chosen": (ring, lambda: session.select(["square"])),
            "length": (ring, lambda: session.edit("Length", lambda y: evolve(y, length=80, play_span=None))),
        }  # fmt: skip
        for name, (widget, change) in steps.items():
            with self.subTest(name):
                self.settle()
                before = self.on_screen(widget)
                change()
                self.settle()
                now = self.on_screen(widget)
                self.assertNotEqual(now, before)
                for still in (ruler._still, ring._still, curves._still):
                    still.forget()
                self.assertEqual(now, self.whole(widget))

    def test_the_canvas_is_painted_once_a_frame(self) -> None:
        canvas, player = self.editor.canvas, self.window.player
        self.until(lambda: len(player.ready_frames()) == 50, 60)
        self.settle()
        painted = self.enterContext(mock.patch.object(canvas.outer, "paint", wraps=canvas.outer.paint))
        frames = []
        self.session.frameChanged.connect(lambda: frames.append(self.session.frame))
        player.play()
        self.until(lambda: len(frames) >= 20)
        player.stop()
        self.settle()
        self.assertLessEqual(painted.call_count, len(frames) + 3)
        self.assertGreaterEqual(painted.call_count, len(frames) // 2)


def _pixels_of(image: QImage) -> np.ndarray:
    """Return an image as int (h, w, 4)."""
    image = image.convertToFormat(QImage.Format.Format_RGBA8888)
    bits = image.constBits()
    assert bits is not None
    return np.frombuffer(bits.asarray(image.sizeInBytes()), np.uint8).reshape(image.height(), -1, 4).astype(int)


class WayTest(WindowTest):
    """The way of a chosen layer over the canvas."""

    def setUp(self) -> None:
        super().setUp()
        self.canvas = self.editor.canvas

    def way(self, *keys: Key) -> None:
        self.session.edit_layers("Way", lambda y: y.with_track("position", Track((0.0, 0.0), keys)), ["square"])
        self.session.select(["square"])
        self.settle()

    def seen(self) -> QImage:
        return self.canvas.grab().toImage()

    def all_of_it(self) -> QImage:
        """Return the canvas with a way that is painted straight onto it, whatever it takes in."""

        def straight(painter: QPainter, area: QRect, of: object, key: object, draw: Callable[[QPainter], None]) -> None:
            painter.save()
            draw(painter)
            painter.restore()

        with mock.patch.object(canvas_painting._way, "paint", straight):
            return self.seen()

    def assert_all_seen(self) -> None:
        shown, straight = _pixels_of(self.seen()), _pixels_of(self.all_of_it())
        self.assertLessEqual(int(np.abs(shown - straight).max()), 3)

    def test_it_is_shown_to_its_last_dot(self) -> None:
        upright, level = Key(0, (300.0, 40.0)), Key(40, (300.0, 440.0))
        ways = (upright, level), (Key(0, (20.0, 20.0)), Key(40, (620.0, 470.0))), (upright, Key(9, (301.0, 40.0)))
        for keys in ways:
            with self.subTest(keys=keys):
                self.way(*keys)
                self.assert_all_seen()
                (x, y), to_widget = keys[-1].value, self.canvas.viewport.to_widget
                end = QPointF(*to_widget.apply(x, y)).toPoint()
                self.assertNotEqual(self.seen().pixelColor(end), self.without().pixelColor(end))

    def without(self) -> QImage:
        with mock.patch.object(canvas_painting, "draw_motion_path"):
            return self.seen()

    def test_one_that_leaves_the_canvas_is_cut_there(self) -> None:
        self.way(Key(0, (-4000.0, 200.0)), Key(30, (320.0, 240.0)), Key(60, (900.0, 9000.0)))
        self.assert_all_seen()
        self.way(Key(0, (-4000.0, 200.0)), Key(30, (-3000.0, 240.0)))
        self.assertEqual(self.seen(), self.without())

    def test_it_is_made_ready_while_the_picture_is_awaited(self) -> None:
        self.way(Key(0, (300.0, 40.0)), Key(40, (300.0, 440.0)))
        self.session.go_to(0)
        self.settle()
        drawn = self.enterContext(mock.patch.object(canvas_painting, "_draw_way", wraps=canvas_painting._draw_way))
        with mock.patch.object(self.canvas.player, "awaits", return_value=True):
            self.session.set_property("position", (100.0, 60.0), ["square"])
            self.canvas._make_ready()
            self.assertEqual(drawn.call_count, 1)
        self.settle()
        self.canvas.repaint()
        self.assertEqual(drawn.call_count, 1, "the way that was made ready is not the one that is shown")
        self.assert_all_seen()

    def test_only_where_a_line_turns_are_its_corners(self) -> None:
        for name, places, corners in (
            ("straight, faster and faster", [(0, 0), (1, 2), (3, 6), (9, 18)], [(0, 0), (9, 18)]),
            ("there and back", [(0, 0), (5, 0), (2, 0)], [(0, 0), (5, 0), (2, 0)]),
            ("round a corner", [(0, 0), (5, 0), (5, 0), (5, 3), (5, 9)], [(0, 0), (5, 0), (5, 9)]),
            ("resting", [(4, 4), (4, 4), (4, 4)], [(4, 4)]),
            ("bent", [(0, 0), (5, 0), (10, 1)], [(0, 0), (5, 0), (10, 1)]),
        ):
            with self.subTest(name):
                np.testing.assert_allclose(corners_of(np.array(places, dtype=float)), corners)
