"""What stays while the playhead moves is painted once, and anew as soon as anything else has changed."""

from __future__ import annotations

from collections.abc import Callable
from unittest import mock

from attrs import evolve
from PyQt6.QtGui import QImage

from spiralis.app.style import TINT_COLOURS
from spiralis.app.timeline import rows as rows_module
from spiralis.app.timeline.layout import Filter
from spiralis.app.work.soon import Soon
from spiralis.core.model import Key, Track
from spiralis.core.model.project import Marker
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
        self.rows.update()
        return self.seen()

    def painted(self) -> mock.MagicMock:
        return self.enterContext(mock.patch.object(rows_module, "draw_layer_row", wraps=rows_module.draw_layer_row))

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
        }  # fmt: skip
        before = self.seen()
        for name, change in steps.items():
            with self.subTest(name):
                change()
                self.until(lambda: not any(soon.isActive() for soon in self.rows.findChildren(Soon)))
                now = self.seen()
                self.assertEqual(now, self.anew())
                self.assertNotEqual(now, before)
                before = now

    def change(self, layer: str, **values: object) -> None:
        self.session.edit_layers("Change", lambda y: evolve(y, **values), [layer])


class StillCurvesTest(WindowTest):
    def test_curves_are_painted_with_the_playhead_only_where_it_shows_on_them(self) -> None:
        curves = self.editor.pace.curves
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
        self.assertEqual(asked.call_count, 1)
