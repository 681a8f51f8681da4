"""Room for the picture: how large it is, what folds, what is remembered, what a narrow window does."""

import json
import time

from attrs import evolve
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel, QPushButton, QToolButton, QWidget

from spiralis.app.strips.add_strip import AddStrip
from spiralis.app.widgets.dividers import GRIP, Dividers
from spiralis.app.workspace.room import room_file
from spiralis.core.model import Project
from tests.app.harness import WindowTest, sample_project


def of_size(width: int, height: int) -> Project:
    """Return the sample in another format."""
    project = sample_project()
    return project.with_composition(evolve(project.compositions[0], width=width, height=height))


class RoomTest(WindowTest):
    sample = staticmethod(lambda: of_size(1080, 1350))

    def setUp(self) -> None:
        super().setUp()
        self.settle(0.3)

    @property
    def percent(self) -> float:
        return 100 * self.editor.canvas.viewport.zoom

    def press_key(self, key: Qt.Key, held: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        QTest.keyClick(self.window, key, held)
        self.settle(0.2)

    def show_format(self, width: int, height: int) -> None:
        self.session.edit("Format", lambda piece: evolve(piece, width=width, height=height))
        self.settle(0.3)
        self.editor.canvas.viewport.fit()

    def test_an_upright_piece_has_45_percent_and_55_with_pace_folded(self) -> None:
        self.assertGreaterEqual(self.percent, 45)
        self.press_key(Qt.Key.Key_2, Qt.KeyboardModifier.AltModifier)
        self.assertFalse(self.editor.pace.isVisible())
        self.assertGreaterEqual(self.percent, 55)
        self.assertTrue(self.editor.transport.isVisible())
        self.press_key(Qt.Key.Key_2, Qt.KeyboardModifier.AltModifier)
        self.assertTrue(self.editor.pace.isVisible())
        self.assertGreaterEqual(self.percent, 45)

    def test_a_wide_piece_lies_across_the_top_with_45_percent_with_and_without_pace(self) -> None:
        self.show_format(1920, 1080)
        self.assertTrue(self.session.view["across"])
        self.assertGreaterEqual(self.percent, 45)
        below = self.editor.timeline.mapTo(self.window, QPoint()).y()
        self.assertGreater(below, self.editor.canvas.mapTo(self.window, QPoint()).y() + self.editor.canvas.height())
        self.session.view.toggle("pace")
        self.settle(0.2)
        self.assertTrue(self.editor.pace.isVisible())
        self.assertGreaterEqual(self.percent, 44.9)
        self.session.view.toggle("across")
        self.settle(0.2)
        right = self.editor.canvas.mapTo(self.window, QPoint()).x() + self.editor.canvas.width()
        self.assertGreaterEqual(self.editor.timeline.mapTo(self.window, QPoint()).x(), right)

    def test_one_key_leaves_the_picture_and_the_ring_alone(self) -> None:
        self.press_key(Qt.Key.Key_F8)
        for panel in (self.editor.timeline, self.editor.pace, self.editor.details):
            self.assertFalse(panel.isVisible())
        self.assertTrue(self.editor.transport.ring.isVisible())
        self.assertGreaterEqual(self.percent, 55)
        self.press_key(Qt.Key.Key_F8)
        for panel in (self.editor.timeline, self.editor.pace, self.editor.details):
            self.assertTrue(panel.isVisible())

    def test_keys_go_on_to_where_they_went_or_to_the_picture(self) -> None:
        self.session.select(["words"])
        self.settle(0.1)
        rows, canvas = self.editor.timeline.rows, self.editor.canvas
        for held in (self.editor.details.editors["rotation"].field, self.editor.pace.css, rows):
            held.setFocus()
            self.press_key(Qt.Key.Key_F8)
            self.assertIs(canvas, QApplication.focusWidget(), held)
            self.press_key(Qt.Key.Key_F8)
            self.assertIs(canvas, QApplication.focusWidget())
        rows.setFocus()
        self.press_key(Qt.Key.Key_2, Qt.KeyboardModifier.AltModifier)
        self.assertFalse(self.editor.pace.isVisible())
        self.assertIs(rows, QApplication.focusWidget())

    def test_a_panel_that_is_asked_for_comes_out_of_picture_alone(self) -> None:
        self.session.view.toggle("alone")
        self.settle(0.2)
        button = next(b for b in self.editor.transport.findChildren(QToolButton) if b.accessibleName() == "Details")
        self.click(button)
        self.settle(0.2)
        self.assertTrue(self.editor.details.isVisible())
        self.assertFalse(self.session.view["alone"])
        self.click(button)
        self.settle(0.2)
        self.assertFalse(self.editor.details.isVisible())

    def test_a_divider_is_easy_to_grab_and_a_double_click_evens_out(self) -> None:
        self.assertGreaterEqual(GRIP, 8)
        outer = self.editor.arrangement.findChild(Dividers)
        before = outer.sizes()
        handle = outer.handle(1)
        self.drag(handle, QPointF(4, 200), QPointF(-56, 200))
        self.settle(0.2)
        self.assertLess(outer.sizes()[0], before[0] - 40)
        moved = outer.sizes()
        self.session.view.toggle("details")
        self.settle(0.2)
        self.session.view.toggle("details")
        self.settle(0.2)
        self.assertEqual(outer.sizes(), moved)
        QTest.mouseDClick(handle, Qt.MouseButton.LeftButton, pos=QPoint(4, 200))
        self.settle(0.2)
        self.assertEqual(outer.sizes(), before)

    def test_the_bar_of_the_letters_is_there_with_the_layers_folded_too(self) -> None:
        bar = self.editor.text_bar
        for name in ("layers", "alone"):
            self.session.view.put({name: name == "alone"})
            self.settle(0.2)
            self.editor.canvas.edit_text("words")
            self.settle(0.2)
            self.assertTrue(bar.isVisible())
            self.assertGreaterEqual(bar.width(), 320)
            self.session.view.put({name: name != "alone"})
            self.settle(0.2)
            self.assertTrue(bar.isVisible())
            QTest.keyClick(self.editor.canvas, Qt.Key.Key_Escape)
            self.settle(0.1)
            self.assertFalse(bar.isVisible())

    def test_what_is_folded_is_remembered_by_shape_of_piece_and_by_the_next_window(self) -> None:
        self.session.view.toggle("pace")
        self.settle(0.1)
        self.show_format(1080, 1080)
        self.assertTrue(self.session.view["pace"])
        self.show_format(1080, 1920)
        self.assertFalse(self.session.view["pace"])
        ends = time.monotonic() + 5
        while not room_file().exists() and time.monotonic() < ends:
            self.settle(0.1)
        self.assertEqual(json.loads(room_file().read_text())["upright"]["folded"], ["pace"])

    def test_a_damaged_memory_of_the_room_is_no_reason_not_to_open(self) -> None:
        from spiralis.app.workspace.room import Remembered

        wrong_sizes = '{"upright": {"folded": [1], "sizes": {"beside": {"outer": ["x"]}}}}'
        for text in ("[]", "{", '{"upright": 3}', wrong_sizes):
            room_file().parent.mkdir(parents=True, exist_ok=True)
            room_file().write_text(text)
            remembered = Remembered()
            self.assertEqual(remembered.folded("upright"), frozenset())
            self.assertEqual(remembered.sizes("upright", "beside"), {})
            self.assertFalse(remembered.across("upright"))

    def test_details_is_never_wider_than_its_room_whatever_is_chosen(self) -> None:
        from PyQt6.QtWidgets import QScrollArea

        from spiralis.core.editing.text_runs import with_look
        from spiralis.core.model import EdgePin, Layer, layer_kinds
        from tests.core.samples import project

        layers = [Layer(kind.label, kind.name, 0, 20, id=kind.name).with_values(depth=True) for kind in layer_kinds()]
        dressed = {"text": "Words", "runs": with_look((), 0, 2, marked=True), "plate": "each line", "line": "under"}
        layers = [layer.with_values(**dressed) if layer.kind == "text" else layer for layer in layers]
        pins = tuple(EdgePin(edge, "drawn beginning", "shape") for edge in ("pivot across", "pivot down"))
        layers = [evolve(layer, edge_pins=pins) if layer.kind == "picture" else layer for layer in layers]
        self.session.replace_project(project(*layers, width=640, height=480), None)
        self.window.resize(1280, 800)
        self.settle(0.3)
        for layer in layers:
            self.session.select([layer.id])
            self.settle(0.4)
            for area in self.editor.details.findChildren(QScrollArea):
                if area.isVisible() and area.widget() is not None:
                    room, least = area.viewport().width(), area.widget().minimumSizeHint().width()
                    self.assertLessEqual(least, room, layer.kind)

    def test_nothing_is_cut_in_the_smallest_window(self) -> None:
        self.session.select(["square"])
        self.nest_within_nest()
        for size in ((1100, 700), (1280, 800)):
            self.window.resize(*size)
            for names in ((), ("pace",), ("details",), ("across",), ("alone",)):
                for name in names:
                    self.session.view.toggle(name)
                self.settle(0.3)
                for panel in (self.editor.transport, self.editor.pace, self.editor.piece_bar, self.editor.add_strip):
                    if panel.isVisible():
                        with self.subTest(size=size, folded=names, panel=type(panel).__name__):
                            self.check_inside(panel)
                for name in names:
                    self.session.view.toggle(name)

    def test_what_adds_layers_is_named_where_there_is_room(self) -> None:
        around = QWidget()
        around.resize(600, 80)
        strip = AddStrip(self.session)
        strip.setParent(around)
        around.show()
        for width, named in ((500, True), (300, False), (500, True)):
            strip.resize(width, strip.height())
            strip.show()
            self.settle()
            styles = {button.toolButtonStyle() for button in (strip.backdrop, strip.artwork, strip.shape, strip.text)}
            self.assertEqual({(Qt.ToolButtonStyle.ToolButtonTextBesideIcon if named
                               else Qt.ToolButtonStyle.ToolButtonIconOnly)}, styles)  # fmt: skip
            self.check_inside(strip)
        around.close()

    def nest_within_nest(self) -> None:
        """Go two nests deep: the way there, beside the menus, is as long as it gets."""
        for _ in range(2):
            self.session.select([self.session.composition.layers[0].id])
            self.act("Nest at full size")
            self.session.go_into(self.session.composition.layers[0])
            self.settle()
        self.session.select([self.session.composition.layers[0].id])

    def check_inside(self, panel: QWidget) -> None:
        """Every visible button and label lies in its panel, is wide enough for its text, and overlaps no other."""
        seen: list[tuple[str, object]] = []
        for part in panel.findChildren(QWidget):
            if not part.isVisible() or not isinstance(part, QToolButton | QPushButton | QLabel):
                continue
            if part.visibleRegion().isEmpty():
                continue  # Scrolled out of sight.
            text = part.text()
            place = part.rect().translated(part.mapTo(panel, QPoint()))
            if not isinstance(part, QLabel):
                self.assertTrue(panel.rect().contains(place), (text, part.accessibleName(), place, panel.rect()))
                style = getattr(part, "toolButtonStyle", lambda: None)()
                if text and style is not Qt.ToolButtonStyle.ToolButtonIconOnly:
                    self.assertGreaterEqual(part.width(), part.fontMetrics().horizontalAdvance(text), text)
            for other, taken in seen:
                self.assertFalse(place.intersects(taken), (text, other))  # type: ignore[arg-type]
            if part.parent() is not None and not isinstance(part.parent(), QToolButton):
                seen.append((text or part.accessibleName(), place))
