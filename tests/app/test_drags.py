"""Every drag in the window: Escape takes it back, and nothing that comes meanwhile is an error or is lost."""

from __future__ import annotations

from attrs import evolve
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QWidget

from spiralis.app.canvas.handles import frame_of
from spiralis.app.canvas.path_editing import path_grips
from spiralis.app.canvas.pen import Points
from spiralis.app.details.angle_dial import AngleDial
from spiralis.app.details.curve import CurveField
from spiralis.app.details.stops import StopsField
from spiralis.app.pace.segment import shown_segment
from spiralis.app.strips.add_strip import add_shape
from spiralis.app.widgets.asking import Ask, LiveDialog
from spiralis.app.widgets.fields import NumberField, Slider
from spiralis.core.editing.effecting import with_effect
from spiralis.core.editing.keys import KeyRef
from spiralis.core.editing.linking import add_dial
from spiralis.core.model import Marker, Project
from tests.app.harness import ALT, CONTROL, LEFT, NONE, WindowTest, sample_project

#: Where a drag begins: the widget, the point, the keys that are held.
Grip = tuple[QWidget, QPointF, Qt.KeyboardModifier]
#: What may come while a drag is under way.
_MEANWHILE = ("Delete", "Undo", "Duplicate", "Lock or unlock", "Play or stop", "Nest at full size", "New composition…")


def marked() -> Project:
    """The sample with a marker and a play span."""
    project = sample_project()
    piece = evolve(project.compositions[0], markers=(Marker(30, "there"),), play_span=(5, 45))
    return evolve(project, compositions=(piece,))


class DragsTest(WindowTest):
    sample = staticmethod(marked)

    def setUp(self) -> None:
        super().setUp()
        self.first = self.session.project

    def ready(self) -> None:
        """Choose what the drags are of."""
        self.session.select(["square"], {KeyRef("square", "position", frame) for frame in (0, 20)})
        self.session.go_to(8)
        self.settle()

    def canvas_grips(self) -> dict[str, Grip]:
        canvas = self.editor.canvas
        frame = frame_of(self.session, canvas.viewport.to_widget)
        assert frame is not None
        handles = {name: QPointF(*place) for name, place in frame.handles().items()}
        x, y = self.value("square", "position")
        grips = {name: (canvas, handles[name], NONE) for name in ("turn", "pivot", "e", "se")}
        key = next(grip for grip in path_grips(self.session, canvas.viewport.to_widget) if grip.frame == 20)
        return {
            **grips,
            "move": (canvas, self.on_canvas(x, y + 20), NONE),
            "skew": (canvas, handles["n"], CONTROL),
            "copy": (canvas, self.on_canvas(x, y + 20), ALT),
            "key of the path": (canvas, QPointF(*key.place), NONE),
            "box": (canvas, self.on_canvas(600, 460), NONE),
            "guide": (canvas, QPointF(200, 5), NONE),
        }

    def other_grips(self) -> dict[str, Grip]:
        timeline, curves = self.editor.timeline, self.editor.pace.curves
        rows, ruler, axis = timeline.rows, timeline.ruler, timeline.axis()
        row = next(row for row in rows.rows() if row.layer.id == "square" and row.name is None)
        words = next(row for row in rows.rows() if row.layer.id == "words" and row.name is None)
        segment = shown_segment(self.session)
        assert segment is not None
        area = curves.plot(segment).at(0.3, 0.3)
        return {
            "keys": (rows, self.bead("square", "position", 20), NONE),
            "keys copied": (rows, self.bead("square", "position", 20), ALT),
            "bar": (rows, QPointF(axis.x(25), row.middle), NONE),
            "end of a bar": (rows, QPointF(axis.x(50) - 2, row.middle), NONE),
            "order": (rows, QPointF(70, words.middle), NONE),
            "box of keys": (rows, QPointF(axis.x(25), rows.height() - 8), NONE),
            "marker": (ruler, QPointF(axis.x(30), 24), NONE),
            "end of the span": (ruler, QPointF(axis.x(45), 7), NONE),
            "ends of the keys": (ruler, QPointF(axis.x(20), 38), NONE),
            "playhead": (ruler, QPointF(axis.x(15), 24), NONE),
            "curve": (curves, area, NONE),
            "speed": (curves, curves.areas()[1].center(), NONE),
        }

    def begin(self, grip: Grip) -> QPointF:
        widget, place, keys = grip
        QTest.mousePress(widget, LEFT, keys, place.toPoint())
        for step in (6, 14, 25):
            self._move(widget, place + QPointF(step, step), keys)
        self.settle(0.03)
        return place + QPointF(25, 25)

    def end(self, grip: Grip, place: QPointF) -> None:
        widget, _, keys = grip
        for step in (5, 11):
            self._move(widget, place + QPointF(step, -step), keys)
        QTest.mouseRelease(widget, LEFT, keys, (place + QPointF(11, -11)).toPoint())
        self.settle(0.03)

    def seen(self) -> tuple[object, ...]:
        session = self.session
        return id(session.project), session.selected, session.keys, session.frame

    def back(self) -> None:
        """Undo everything."""
        while self.session.history.undo_name is not None:
            self.session.undo()
        self.assertTrue(self.session.project is self.first)

    def test_escape_takes_every_drag_back(self) -> None:
        self.ready()
        names = [*self.canvas_grips(), *self.other_grips()]
        for name in names:
            with self.subTest(name):
                self.ready()
                before = self.seen()
                grip = {**self.canvas_grips(), **self.other_grips()}[name]
                place = self.begin(grip)
                self.assertNotEqual(before, self.seen(), "nothing was dragged")
                QTest.keyClick(self.window.windowHandle(), Qt.Key.Key_Escape)
                self.settle(0.03)
                self.assertEqual(before, self.seen())
                self.end(grip, place)
                self.assertEqual(before, self.seen(), "the same drag goes on")
                self.editor.canvas.setFocus()
                # Dragged to its end it stays, and Escape means what it always means.
                self.end(grip, self.begin(grip))
                after = self.session.project
                QTest.keyClick(self.window.windowHandle(), Qt.Key.Key_Escape)
                self.settle(0.03)
                self.assertTrue(after is self.session.project)
                self.back()

    def test_another_button_ends_no_drag(self) -> None:
        self.ready()
        grip = self.canvas_grips()["move"]
        place = self.begin(grip)
        QTest.mouseClick(self.editor.canvas, Qt.MouseButton.MiddleButton, NONE, place.toPoint())
        before = self.value("square", "position")
        self.end(grip, place)
        self.assertNotEqual(before, self.value("square", "position"))
        self.session.undo()
        self.assertTrue(self.session.project is self.first, "it is one step")

    def test_escape_means_nothing_of_a_drag_that_something_else_ended(self) -> None:
        self.ready()
        grip = self.canvas_grips()["move"]
        place = self.begin(grip)
        self.act("Nest at full size")
        nested = self.session.project
        QTest.keyClick(self.window.windowHandle(), Qt.Key.Key_Escape)
        self.assertTrue(self.session.project is nested)
        self.end(grip, place)

    def test_escape_takes_back_what_is_dragged_in_a_number_field(self) -> None:
        self.session.edit_layers("Fade", lambda layer: layer.with_values(opacity=70.0), ["words"])
        before = self.session.project
        # Of several layers each has its own value again.
        self.session.select(["square", "words"])
        self.settle()
        field = self.editor.details.editors["opacity"].findChildren(NumberField)[0]
        grip = (field, QPointF(field.rect().center()), NONE)
        for key_target in (self.window.windowHandle(), field):
            QTest.mousePress(field, LEFT, NONE, field.rect().center())
            self._move(field, grip[1] - QPointF(30, 0), NONE)
            self.assertLess(self.value("square", "opacity"), 80)
            QTest.keyClick(key_target, Qt.Key.Key_Escape)
            self.assertTrue(before is self.session.project)
            self.assertEqual(100.0, field.value)
            self.end(grip, grip[1] - QPointF(60, 0))
            self.assertTrue(before is self.session.project)
            self.assertTrue(field.isReadOnly())
        # The next drag is a step of its own.
        self.drag(field, grip[1], grip[1] - QPointF(20, 0))
        self.assertEqual("Opacity of 2 layers", self.session.history.undo_name)
        self.session.undo()
        self.assertTrue(before is self.session.project)

    def test_escape_during_a_drag_in_a_live_dialog_leaves_the_dialog(self) -> None:
        self.session.select(["square", "words"])
        dialog = LiveDialog(
            self.window, self.session, "Turn", "", (Ask("angle", "Angle", 10.0, "°", -360, 360, 1),),
            lambda values, merge: self.session.set_property("rotation", values["angle"], merge=merge),
        )  # fmt: skip
        dialog.open()
        self.settle()
        field = dialog.fields["angle"]
        assert isinstance(field, NumberField)
        middle = QPointF(field.rect().center())
        QTest.mousePress(field, LEFT, NONE, middle.toPoint())
        self._move(field, middle + QPointF(40, 0), NONE)
        self.assertGreater(self.value("words", "rotation"), 20)
        QTest.keyClick(field, Qt.Key.Key_Escape)
        QTest.mouseRelease(field, LEFT, NONE, middle.toPoint())
        self.assertTrue(dialog.isVisible())
        self.assertEqual((10.0, 10.0), (field.value, self.value("words", "rotation")))
        dialog.reject()
        self.assertEqual(0.0, self.value("words", "rotation"))

    def test_whatever_comes_during_a_drag_is_no_error_and_can_be_undone(self) -> None:
        self.ready()
        names = [*self.canvas_grips(), *self.other_grips()]
        # Each drag meets two of them.
        pairs = [(name, _MEANWHILE[(number + step) % len(_MEANWHILE)])
                 for number, name in enumerate(names) for step in (0, 3)]  # fmt: skip
        for name, label in pairs:
            with self.subTest(name, during=label):
                self.ready()
                grip = {**self.canvas_grips(), **self.other_grips()}[name]
                place = self.begin(grip)
                if self.window.actions_[label].isEnabled():
                    self.window.actions_[label].trigger()
                self.settle(0.03)
                done = self.session.project
                self.end(grip, place)
                if label != "Play or stop":
                    self.assertTrue(self.session.project is done, "the drag went on with what is no more")
                self.window.player.stop()
                self.editor.canvas.end_everything()
                self.assertEqual([], self.unforeseen)
                self.back()
                self.session.show_composition(self.first.compositions[0].id)

    def check_taken_back(self, widget: QWidget, start: QPointF, way: QPointF) -> None:
        """Drag in a widget, press Escape on the way, go on: nothing has happened; the next drag is one step."""
        before, frame = self.session.project, self.session.frame
        QTest.mousePress(widget, LEFT, NONE, start.toPoint())
        for share in (0.3, 0.7):
            self._move(widget, start + way * share, NONE)
        self.settle(0.03)
        self.assertTrue(before is not self.session.project or frame != self.session.frame, "nothing was dragged")
        QTest.keyClick(self.window.windowHandle(), Qt.Key.Key_Escape)
        self.settle(0.03)
        for share in (0.8, 1.0):
            self._move(widget, start + way * share, NONE)
        QTest.mouseRelease(widget, LEFT, NONE, (start + way).toPoint())
        self.settle(0.03)
        self.assertTrue(before is self.session.project)
        self.assertEqual(frame, self.session.frame)
        self.drag(widget, start, start + way)
        if before is self.session.project:
            self.assertNotEqual(frame, self.session.frame)
            self.session.go_to(frame)
        else:
            self.session.undo()
            self.assertTrue(before is self.session.project, "it is one step")
        self.settle(0.03)

    def test_escape_takes_back_what_is_dragged_in_details(self) -> None:
        ground = self.session.composition.layers[-1].id
        self.session.set_property("style", "linear", [ground])
        self.session.select([ground])
        self.settle()
        stops = self.editor.details.editors["stops"].findChildren(StopsField)[0]
        self.check_taken_back(stops, stops._place(0.0), QPointF(40, 0))
        for kind in ("tone-curve", "directional-blur"):
            self.session.edit_layers("Effects", lambda y, kind=kind: with_effect(y, kind), ["words"])
        self.session.select(["words"])
        self.settle()
        curve, dial = self.block_editor("all").findChildren(CurveField)[0], self.angle_dial()
        self.check_taken_back(curve, curve.place(0.0, 0.0), QPointF(10, -60))
        self.check_taken_back(dial, QPointF(20, 12), QPointF(-8, 10))

    def block_editor(self, name: str) -> QWidget:
        found = self.editor.details.editors
        return next(editor for key, editor in found.items() if key.endswith(f".{name}"))

    def angle_dial(self) -> AngleDial:
        return next(dial for dial in self.editor.details.page.findChildren(AngleDial) if dial.isVisible())

    def test_escape_takes_back_a_point_that_is_dragged_and_the_points_stay(self) -> None:
        add_shape(self.session, "rectangle")
        self.session.set_property("form", "drawing")
        layer = self.session.selected[0]
        self.settle()
        canvas = self.editor.canvas
        canvas.toolbox.edit_points(layer)
        tool = canvas.toolbox.tool
        assert isinstance(tool, Points)
        _, _, figure, matrix = tool._contours()[0]
        corner = QPointF(*(canvas.viewport.to_widget @ matrix).apply(*figure.contours[0].vertices[0][:2]))
        self.check_taken_back(canvas, corner, QPointF(30, 20))
        self.assertIs(canvas.toolbox.tool, tool)
        # With nothing in hand it ends the editing.
        QTest.keyClick(canvas, Qt.Key.Key_Escape)
        self.assertIsNone(canvas.toolbox.tool)

    def test_escape_takes_back_a_dial_and_the_ring(self) -> None:
        self.session.edit("Dial", lambda piece: add_dial(piece)[0])
        self.settle()
        slider = next(found for found in self.editor.details.page.findChildren(Slider) if found.isVisible())
        grip = QPointF(7, slider.height() / 2)
        self.check_taken_back(slider, grip, QPointF(50, 0))
        self.assertEqual(0, slider.value())
        ring = self.editor.transport.ring
        middle, radius = QPointF(ring.rect().center()), ring.width() * 0.42
        self.check_taken_back(ring, middle + QPointF(0, -radius), QPointF(radius, radius))
