"""Timeline, Pace, Details, transport: by mouse and keys."""

from unittest import mock

import numpy as np
from attrs import evolve
from PyQt6.QtCore import QEvent, QPointF, Qt
from PyQt6.QtGui import QFont, QFontMetrics, QHelpEvent, QImage, QPainter
from PyQt6.QtWidgets import QApplication, QMenu, QStyle, QStyleOptionComboBox, QToolTip

from spiralis.app.colours import ColourPanel
from spiralis.app.details.composition import PieceHead, PieceMixing, PieceShutter
from spiralis.app.details.fixed_rows import ParentList, SpanEditor
from spiralis.app.details.section import Section
from spiralis.app.pace.segment import shown_segment
from spiralis.app.timeline.layout import LABELS
from spiralis.app.timeline.marks import EYE_X, LOCK_X, MARK_STEP
from spiralis.app.timeline.painting import shortened
from spiralis.app.widgets.fields import ListField, NumberField
from spiralis.app.widgets.short_label import ShortLabel
from spiralis.app.work.cached import forget_all
from spiralis.core.animation.easing import HOLD, CubicBezier
from spiralis.core.editing.keys import KeyRef
from spiralis.core.model import Key, Layer, Rule, Track
from spiralis.core.storage import load
from tests.app.harness import ALT, CONTROL, SHIFT, WindowTest


class LongListTest(WindowTest):
    def test_a_name_that_is_too_long_ends_in_dots(self) -> None:
        shown = []
        for name in ("mascot-that-looks-around.png", "mascot-that-lo…", "mascot-that-loo"):
            box = ListField(self.window)
            box.addItem(name)
            box.setFixedSize(400, 26)
            option = QStyleOptionComboBox()
            box.initStyleOption(option)
            field = box.style().subControlRect(
                QStyle.ComplexControl.CC_ComboBox, option, QStyle.SubControl.SC_ComboBoxEditField, box
            )
            room = box.fontMetrics().horizontalAdvance("mascot-that-lo…") + 1
            box.setFixedSize(400 - field.width() + room, 26)
            box.show()
            self.settle()
            shown.append(box.grab().toImage())
            box.deleteLater()
        self.assertEqual(shown[0], shown[1])
        self.assertNotEqual(shown[0], shown[2])

    def test_it_holds_what_is_chosen_until_it_opens_or_a_key_walks_in_it(self) -> None:
        self.session.select(["words"])
        self.settle(0.1)
        parents = next(b for b in self.editor.details.page.findChildren(ParentList))
        self.assertEqual([parents.itemText(place) for place in range(parents.count())], ["none"])
        parents.showPopup()
        self.assertEqual([parents.itemText(place) for place in range(parents.count())], ["none", "Square", "Ground"])
        parents.hidePopup()
        self.session.edit_layers("Name", lambda layer: evolve(layer, name="Box"), ["square"])
        parents.setFocus()
        self.press(parents, Qt.Key.Key_Down)
        self.settle(0.1)
        self.assertEqual(self.layer("words").parent, "square")
        self.assertEqual(parents.currentText(), "Box")
        self.session.undo()
        self.settle(0.1)
        self.assertEqual(parents.currentText(), "none")


class TimelineTest(WindowTest):
    def frames(self, layer: str = "square", name: str = "position") -> list[int]:
        return [key.frame for key in self.layer(layer).track(name).keys]

    def at_frame(self, frame: int, y: float) -> QPointF:
        return QPointF(self.editor.timeline.axis().x(frame), y)

    def row(self, layer: str):  # type: ignore[no-untyped-def]
        return next(r for r in self.editor.timeline.rows.rows() if r.layer.id == layer and r.name is None)

    def test_dragging_a_bead_moves_its_key(self) -> None:
        rows = self.editor.timeline.rows
        self.drag(rows, self.bead("square", "position", 20), self.bead("square", "position", 20) + self._by(10))
        self.assertEqual(self.frames(), [0, 30])
        self.assertEqual(self.session.history.undo_name, "Move keys")
        self.session.undo()
        self.assertEqual(self.frames(), [0, 20])

    def _by(self, frames: int) -> QPointF:
        return QPointF(frames * self.editor.timeline.axis().per_frame, 0)

    def test_alt_drag_copies(self) -> None:
        rows = self.editor.timeline.rows
        self.drag(rows, self.bead("square", "position", 20), self.bead("square", "position", 20) + self._by(15), ALT)
        self.assertEqual(self.frames(), [0, 20, 35])

    def test_box_select_and_delete(self) -> None:
        rows = self.editor.timeline.rows
        middle = self.bead("square", "position", 0).y()
        self.drag(rows, self.at_frame(10, middle - 9), self.at_frame(45, middle + 60))
        self.assertEqual({ref.frame for ref in self.session.keys}, {20})
        self.act("Delete")
        self.assertEqual(self.frames(), [0])

    def test_choosing_several_and_nudging(self) -> None:
        rows = self.editor.timeline.rows
        self.click(rows, self.bead("square", "position", 0))
        self.click(rows, self.bead("square", "position", 20), CONTROL)
        self.assertEqual(len(self.session.keys), 2)
        self.press(rows, Qt.Key.Key_Right)
        self.press(rows, Qt.Key.Key_Right, SHIFT)
        self.assertEqual(self.frames(), [11, 31])

    def test_a_double_click_on_a_thread_adds_a_key(self) -> None:
        rows = self.editor.timeline.rows
        self.double_click(rows, self.at_frame(12, self.bead("square", "position", 0).y()))
        self.assertEqual(self.frames(), [0, 12, 20])
        self.assertEqual(self.session.frame, 12)

    def test_span_ends_trim_and_the_middle_moves(self) -> None:
        rows, row = self.editor.timeline.rows, self.row("words")
        self.drag(rows, self.at_frame(50, row.middle) - QPointF(3, 0), self.at_frame(30, row.middle) - QPointF(3, 0))
        self.assertEqual((self.layer("words").first, self.layer("words").last), (0, 30))
        self.drag(rows, self.at_frame(15, row.middle), self.at_frame(20, row.middle))
        self.assertEqual((self.layer("words").first, self.layer("words").last), (5, 35))

    def test_eye_and_lock(self) -> None:
        rows, row = self.editor.timeline.rows, self.row("words")
        self.click(rows, QPointF(EYE_X + 8, row.middle))
        self.assertFalse(self.value("words", "visible"))
        self.click(rows, QPointF(LOCK_X + 8, row.middle))
        self.assertTrue(self.layer("words").locked)
        self.session.set_property("opacity", 10.0, ["words"])
        self.assertEqual(self.value("words", "opacity"), 100.0)

    def said_of(self, place: QPointF) -> str:
        """What comes up where one points for a while."""
        rows, at = self.editor.timeline.rows, place.toPoint()
        with mock.patch.object(QToolTip, "showText") as shown:
            QApplication.sendEvent(rows, QHelpEvent(QEvent.Type.ToolTip, at, rows.mapToGlobal(at)))
        return str(shown.call_args.args[1])

    def test_marks_eye_lock_and_keys_say_what_they_are(self) -> None:
        words = self.row("words")
        self.assertEqual("Words · Text", self.said_of(QPointF(70, words.middle)))
        self.assertEqual("A click hides it", self.said_of(QPointF(EYE_X + 8, words.middle)))
        self.assertEqual("A click locks it", self.said_of(QPointF(LOCK_X + 8, words.middle)))
        self.assertEqual("", self.said_of(self.at_frame(30, words.middle)))
        first = self.layer("square").track("position").keys[0].value
        text = f"Position: {first[0]:g} px, {first[1]:g} px at frame 0"
        self.assertEqual(text, self.said_of(self.bead("square", "position", 0)))
        self.assertEqual("Position", self.said_of(QPointF(60, self.bead("square", "position", 0).y())))

        mark = QPointF(EYE_X - 11, 0)
        self.session.select(["words"])
        self.act("Matte by the layer in front")
        matte = self.layer("words").mattes[0].layer
        names = {layer.id: layer.name for layer in self.session.composition.layers}
        for name, said in (("words", f"Shows through its matte: {names[matte]}"),
                           (matte, "Not seen itself: it is the matte of Words")):  # fmt: skip
            self.assertEqual(said, self.said_of(mark + QPointF(0, self.row(name).middle)))
        self.session.edit_layers("Hang", lambda y: evolve(y, parent=matte), ["words"])
        self.settle()
        self.assertEqual(f"Hangs on {names[matte]} and moves along with it",
                         self.said_of(mark + QPointF(0, self.row("words").middle)))  # fmt: skip
        self.assertIn("its matte", self.said_of(mark + QPointF(-MARK_STEP, self.row("words").middle)))

    def test_what_a_shared_nest_and_what_copies_show_is_said(self) -> None:
        self.session.select(["words"])
        self.act("Nest at full size")
        (nest,) = self.session.selected
        mark = QPointF(EYE_X - 11, 0)
        inner = self.session.project.composition(self.layer(nest).track("composition").value).name
        self.assertEqual(f"Shows the composition {inner}", self.said_of(mark + QPointF(0, self.row(nest).middle)))
        self.act("Duplicate")
        self.settle()
        self.assertIn("as another layer does", self.said_of(mark + QPointF(0, self.row(nest).middle)))
        self.session.select(["square"])
        self.act("Copies of the chosen layer")
        self.settle()
        (copies,) = self.session.selected
        self.session.set_property("show_source", False, [copies])
        self.settle()
        said = self.said_of(mark + QPointF(0, self.row("square").middle))
        self.assertEqual(f"Not seen itself: {self.layer(copies).name} shows it in its place", said)

    def test_dragging_a_name_reorders(self) -> None:
        rows = self.editor.timeline.rows
        self.drag(rows, QPointF(70, self.row("words").middle), QPointF(70, 2))
        self.assertEqual([y.name for y in self.session.composition.layers], ["Words", "Square", "Ground"])

    def test_renaming_in_place(self) -> None:
        rows = self.editor.timeline.rows
        self.double_click(rows, QPointF(70, self.row("words").middle))
        field = rows._name_field
        assert field is not None
        field.selectAll()
        self.type_(field, "Greeting")
        self.press(field, Qt.Key.Key_Return)
        self.assertEqual(self.layer("words").name, "Greeting")

    def test_ruler_scrubs_and_sets_the_play_span(self) -> None:
        ruler, axis = self.editor.timeline.ruler, self.editor.timeline.axis()
        self.drag(ruler, QPointF(axis.x(5), 25), QPointF(axis.x(33), 25))
        self.assertEqual(self.session.frame, 33)
        self.drag(ruler, QPointF(axis.x(50), 8), QPointF(axis.x(40), 8))
        self.assertEqual(self.session.composition.play_span, (0, 40))
        self.double_click(ruler, QPointF(axis.x(20), 6))
        self.assertIsNone(self.session.composition.play_span)

    def test_copied_keys_are_pasted_onto_another_layer_at_the_playhead(self) -> None:
        rows = self.editor.timeline.rows
        self.click(rows, self.bead("square", "position", 0))
        self.click(rows, self.bead("square", "position", 20), CONTROL)
        self.act("Copy")
        self.session.select(["words"])
        self.session.go_to(7)
        self.act("Paste")
        self.assertEqual(self.frames("words"), [7, 27])
        self.assertEqual(self.layer("words").track("position").keys[1].value, (400.0, 240.0))

    def test_layers_are_copied_and_duplicated(self) -> None:
        self.session.select(["square"])
        self.act("Copy")
        self.act("Paste")
        self.act("Duplicate")
        names = [y.name for y in self.session.composition.layers]
        self.assertEqual(len([name for name in names if name.startswith("Square")]), 3)
        self.assertEqual(len(set(names)), len(names))

    def test_names_that_are_cut_off_keep_what_tells_copies_apart(self) -> None:
        metrics = self.window.fontMetrics()
        room = metrics.horizontalAdvance("Box kite window")
        self.assertEqual("Box kite window", shortened(metrics, "Box kite window", room))
        one, two = (shortened(metrics, f"Box kite window {number}", room) for number in (2, 12))
        self.assertRegex(one, "^Box kite w.*… 2$")
        self.assertRegex(two, "^Box kite .*… 12$")
        for text in (one, two, shortened(metrics, "Box kite windows", room)):
            self.assertLessEqual(metrics.horizontalAdvance(text), room)
        self.assertTrue(shortened(metrics, "Box kite windows", room).endswith("…"))

    def test_labels_do_not_reach_into_time(self) -> None:
        self.assertLess(LOCK_X + 16, LABELS)


class PaceTest(WindowTest):
    def setUp(self) -> None:
        super().setUp()
        self.click(self.editor.timeline.rows, self.bead("square", "position", 0))

    def easing(self):  # type: ignore[no-untyped-def]
        return self.layer("square").track("position").keys[0].easing

    def test_dragging_a_handle_bends_the_curve(self) -> None:
        self.click(self.editor.pace.tiles.tiles["soft-both"])
        curves = self.editor.pace.curves
        plot = curves.plot(shown_segment(self.session))
        self.drag(curves, plot.at(0.45, 0), plot.at(0.8, 0.3))
        self.assertIsInstance(self.easing(), CubicBezier)
        np.testing.assert_allclose((self.easing().x1, self.easing().y1), (0.8, 0.3), atol=0.03)
        self.assertEqual(self.session.history.undo_name, "Ease: bent curve")
        self.session.undo()
        self.assertEqual(self.easing(), CubicBezier(0.45, 0, 0.55, 1))

    def test_shift_bends_both_ends_alike(self) -> None:
        self.click(self.editor.pace.tiles.tiles["soft-both"])
        curves = self.editor.pace.curves
        plot = curves.plot(shown_segment(self.session))
        self.drag(curves, plot.at(0.45, 0), plot.at(0.7, 0.2), SHIFT)
        self.assertAlmostEqual(self.easing().x1, 1 - self.easing().x2, 6)
        self.assertAlmostEqual(self.easing().y1, 1 - self.easing().y2, 6)

    def test_the_curves_of_all_threads_follow_every_edit(self) -> None:
        self.session.select([])
        curves = self.editor.pace.curves

        def seen() -> bytes:
            self.settle()
            image = curves.grab().toImage()
            return bytes(image.bits().asarray(image.sizeInBytes()))  # type: ignore[union-attr]

        shown = [seen()]
        layer = self.layer("square")
        position = layer.track("position")
        bent = evolve(position, keys=(evolve(position.keys[0], easing=HOLD), *position.keys[1:]))
        fade = Track(100.0, (Key(0, 0.0), Key(30, 100.0)))

        def lengthen() -> None:
            longer = evolve(self.session.composition, length=90)
            self.session.edit_project("Longer", self.session.project.with_composition(longer))

        for edit in (
            lambda: self.session.edit_layers("Bend", lambda each: each.with_track("position", bent), ["square"]),
            lambda: self.session.edit_layers("Fade", lambda each: each.with_track("opacity", fade), ["words"]),
            lengthen,
        ):  # fmt: skip
            edit()
            shown.append(seen())
            self.assertEqual(len(set(shown)), len(shown), "each edit shows")
            forget_all()
            self.assertEqual(seen(), shown[-1], "what is kept is what would be drawn")
        while self.session.history.undo_name:
            self.session.undo()
        self.assertEqual(seen(), shown[0])

    def test_what_holds_from_key_to_key_shows_so_and_takes_no_ease(self) -> None:
        blink = Track(True, (Key(0, True), Key(20, False), Key(40, True)))
        self.session.edit_layers("Blink", lambda layer: layer.with_track("visible", blink), ["square"])
        pace = self.editor.pace
        moving, holding = ({KeyRef("square", name, 0)} for name in ("position", "visible"))
        self.session.select(["square"], moving | holding)
        self.settle()
        segment = shown_segment(self.session)
        assert segment is not None
        self.assertEqual("position", segment.parameter.name, "what can be bent comes first")
        self.session.select(["square"], holding)
        self.settle()
        segment = shown_segment(self.session)
        assert segment is not None
        self.assertEqual(("visible", HOLD), (segment.parameter.name, segment.left.easing))
        self.assertFalse(any(tile.isEnabled() for tile in (*pace.tiles.tiles.values(), pace.css, pace.start)))
        self.assertTrue(pace.rules["after"].isEnabled(), "it can repeat")
        before = self.session.project
        self.window.context.keys.straighten()
        self.assertIs(before, self.session.project)

    def test_the_ends_of_a_segment_are_said_where_there_is_room(self) -> None:
        written: list[str] = []
        curves = self.editor.pace.curves

        class Writing(QPainter):
            def drawText(self, *args: object) -> None:
                written.append(str(args[-1]))
                super().drawText(*args)  # type: ignore[call-overload]

        for width, said in ((420, True), (190, False)):
            written.clear()
            curves.resize(width, 240)
            image = QImage(width, 240, QImage.Format.Format_ARGB32)
            painter = Writing(image)
            curves._paint_still(painter, shown_segment(self.session))
            painter.end()
            first, last = (key.value for key in self.layer("square").track("position").keys)
            text = f"{first[0]:g}, {first[1]:g} → {last[0]:g}, {last[1]:g}"
            self.assertEqual(said, text in written, written)

    def test_tiles_css_and_softness(self) -> None:
        pace = self.editor.pace
        self.click(pace.tiles.tiles["hold"])
        self.assertEqual(self.easing(), HOLD)
        pace.css.setFocus()
        pace.css.selectAll()
        self.type_(pace.css, "ease-out")
        self.press(pace.css, Qt.Key.Key_Return)
        self.assertEqual(self.easing(), CubicBezier(0, 0, 0.58, 1))
        self.enter_number(pace.start, "20")
        self.enter_number(pace.stop, "60")
        self.assertEqual(self.easing(), CubicBezier(0.2, 0, 0.4, 1))

    def test_css_that_is_none_is_answered_and_changes_nothing(self) -> None:
        pace, before = self.editor.pace, self.easing()
        pace.css.setFocus()
        pace.css.selectAll()
        self.type_(pace.css, "wobbly")
        self.press(pace.css, Qt.Key.Key_Return)
        self.assertIn("wobbly", self.said[-1])
        self.assertTrue(self.window.notice.isVisible())
        self.assertEqual(self.easing(), before)

    def test_an_ease_goes_to_all_chosen_segments(self) -> None:
        self.session.edit_layers(
            "key", lambda y: y.with_track("rotation", Track(0.0, (Key(0, 0.0), Key(9, 5.0)))), ["square"]
        )
        self.session.select(["square"], {KeyRef("square", "position", 0), KeyRef("square", "rotation", 0)})
        self.click(self.editor.pace.tiles.tiles["bounce"])
        tile = self.editor.pace.tiles.tiles["bounce"].tile.easing
        self.assertEqual((self.easing(), self.layer("square").track("rotation").keys[0].easing), (tile, tile))

    def test_extend_rules(self) -> None:
        box = self.editor.pace.rules["after"]
        box.setCurrentIndex(box.findData(Rule.PING_PONG))
        box.activated.emit(box.currentIndex())
        self.settle()
        self.session.go_to(40)
        self.assertEqual(self.layer("square").track("position").after.rule, Rule.PING_PONG)
        np.testing.assert_allclose(self.value("square", "position"), (160, 240))


class DetailsTest(WindowTest):
    def editor_of(self, name: str):  # type: ignore[no-untyped-def]
        return self.editor.details.editors[name]

    def choose(self, *ids: str) -> None:
        self.session.select(ids)
        self.settle()

    def test_going_to_and_fro_keeps_rows_and_mixes_up_nothing(self) -> None:
        self.choose("square")
        details = self.editor.details
        field = details.editors["opacity"].field
        kept = details.area
        self.click(field)
        self.type_(field, "12")
        self.session.select(["words"])
        self.settle()
        other = details.editors["opacity"].field
        self.assertIsNot(other, field)
        self.assertEqual(100.0, self.value("words", "opacity"), "what was half typed is not another layer's")
        self.click(details.area.findChild(Section).head)
        self.session.set_property("opacity", 40.0)
        self.session.select(["square"])
        self.settle()
        self.assertIs(details.area, kept)
        self.assertEqual((100.0, "100 %", 40.0), (self.value("square", "opacity"), field.text(),
                                                  self.value("words", "opacity")))  # fmt: skip
        first = kept.findChild(Section)
        self.assertFalse(first.body.isVisible(), "folding one section folds its like")
        self.click(first.head)
        self.assertTrue(first.body.isVisible())
        self.enter_number(details.editors["opacity"].field, "55")
        self.assertEqual((55.0, 40.0), (self.value("square", "opacity"), self.value("words", "opacity")))

    def test_numbers_are_typed_with_arithmetic(self) -> None:
        self.choose("words")
        self.enter_number(self.editor_of("position").fields[0], "50% + 10")
        self.assertEqual(self.value("words", "position"), (330.0, 120.0))
        self.enter_number(self.editor_of("rotation").field, "90/4")
        self.assertEqual(self.value("words", "rotation"), 22.5)

    def test_numbers_are_dragged(self) -> None:
        self.choose("words")
        field = self.editor_of("opacity").field
        start = QPointF(field.rect().center())
        self.drag(field, start, start - QPointF(30, 0))
        self.assertAlmostEqual(self.value("words", "opacity"), 70, delta=1)
        self.assertEqual(self.session.history.undo_name, "Opacity of Words")
        self.session.undo()
        self.assertEqual(self.value("words", "opacity"), 100)

    def test_wrong_numbers_are_answered(self) -> None:
        self.choose("words")
        self.enter_number(self.editor_of("opacity").field, "250")
        self.assertIn("250", self.said[-1])
        self.enter_number(self.editor_of("opacity").field, "much")
        self.assertIn("much", self.said[-1])
        self.assertEqual(self.value("words", "opacity"), 100)

    def test_linked_scale_keeps_the_ratio(self) -> None:
        self.choose("words")
        self.enter_number(self.editor_of("scale").fields[0], "150")
        self.assertEqual(self.value("words", "scale"), (150.0, 150.0))
        self.click(self.editor_of("scale").link)
        self.enter_number(self.editor_of("scale").fields[1], "50")
        self.assertEqual(self.value("words", "scale"), (150.0, 50.0))

    def test_beads_set_and_remove_keys(self) -> None:
        self.choose("words")
        bead = self.editor.details.beads["opacity"]
        self.click(bead)
        self.assertEqual(bead.state, "here")
        self.session.go_to(9)
        self.settle()
        self.assertEqual(bead.state, "keys")
        self.enter_number(self.editor_of("opacity").field, "20")
        self.assertEqual([k.frame for k in self.layer("words").track("opacity").keys], [0, 9])
        self.click(bead)
        self.assertEqual([k.frame for k in self.layer("words").track("opacity").keys], [0])

    def test_several_layers_edit_together_by_component(self) -> None:
        self.choose("words", "square")
        self.session.go_to(0)
        self.settle()
        self.enter_number(self.editor_of("position").fields[1], "300")
        self.assertEqual(self.value("words", "position"), (480.0, 300.0))
        self.assertEqual(self.value("square", "position"), (160.0, 300.0))

    def test_choices_switches_words_and_colours(self) -> None:
        self.choose("words")
        box = self.editor_of("blend").box
        box.setCurrentIndex(box.findData("screen"))
        box.activated.emit(box.currentIndex())
        self.click(self.editor_of("motion_blur").box)
        self.editor_of("text").text.setPlainText("Ahoy\nthere")
        self.settle()
        self.assertEqual(
            [self.value("words", n) for n in ("blend", "motion_blur", "text")], ["screen", True, "Ahoy\nthere"]
        )
        with mock.patch.object(ColourPanel, "exec", _make_green):
            self.click(self.editor_of("fill").field)
        np.testing.assert_allclose(self.value("words", "fill"), (0, 1, 0, 1), atol=1e-4)

    def test_cancel_in_the_colour_panel_leaves_each_layer_its_own_and_no_key(self) -> None:
        other = evolve(self.layer("words"), id="other").with_values(fill=(0.0, 0.0, 1.0, 1.0))
        keys = (Key(0, (1.0, 0.0, 0.0, 1.0)), Key(20, (0.0, 1.0, 0.0, 1.0)))
        other = other.with_track("fill", Track((0.0, 0.0, 1.0, 1.0), keys))
        self.session.edit("Another", lambda piece: evolve(piece, layers=(other, *piece.layers)))
        self.session.go_to(7)
        self.session.select(["words", "other"])
        self.settle()
        before = self.session.project

        def moved(panel: ColourPanel) -> int:
            for hex_ in ("#00ff00", "#0011ff"):
                panel.hex.setText(hex_)
                panel.hex.editingFinished.emit()
            return 0

        def kept(panel: ColourPanel) -> int:
            moved(panel)
            assert panel.grid is not None
            panel.grid.add((0.5, 0.5, 0.5, 1.0))
            return moved(panel)

        field = self.editor_of("fill").field
        shown = field.value
        with mock.patch.object(ColourPanel, "exec", moved):
            self.click(field)
        self.assertTrue(self.session.project is before)
        self.assertEqual(shown, field.value)
        with mock.patch.object(ColourPanel, "exec", kept):
            self.click(field)
        self.assertEqual(((0.5, 0.5, 0.5, 1.0),), self.session.project.swatches)
        self.assertEqual(before.compositions, self.session.project.compositions)
        self.act("Undo")
        self.assertTrue(self.session.project is before)

    def test_a_number_that_is_only_clicked_and_left_changes_nothing(self) -> None:
        self.session.edit_layers("Place", lambda y: y.with_values(position=(480.123456, 120.0)), ["words"])
        self.session.edit_layers("Turn", lambda y: y.with_values(rotation=12.3456), ["words"])
        before = self.session.project
        for chosen in (("words",), ("words", "square")):
            self.session.select(chosen)
            self.settle()
            for name in ("position", "rotation"):
                field = self.editor_of(name).findChildren(NumberField)[0]
                for leave in (Qt.Key.Key_Return, None):
                    self.click(field)
                    self.assertFalse(field.isReadOnly())
                    if leave is None:
                        self.editor.canvas.setFocus(Qt.FocusReason.MouseFocusReason)
                        self.settle()
                    else:
                        self.press(field, leave)
                    self.assertTrue(field.isReadOnly())
                    self.assertTrue(self.session.project is before, (name, chosen))
        # What is typed counts, also where it looks the same as rounded.
        self.session.select(["words"])
        self.settle()
        self.enter_number(self.editor_of("rotation").findChildren(NumberField)[0], "12.35+0")
        self.assertEqual(12.35, self.value("words", "rotation"))

    def test_what_is_typed_and_not_entered_counts_for_the_next_command(self) -> None:
        def typed(text: str) -> None:
            self.session.select(["words"])
            self.settle()
            field = self.editor_of("opacity").findChildren(NumberField)[0]
            self.click(field)
            self.type_(field, text)
            self.assertFalse(field.isReadOnly())

        path = self.folder / "typed.spiralis"
        self.assertTrue(self.window.files.save_to(path))
        typed("55")
        self.act("Save")
        self.assertEqual(55.0, load(path).compositions[0].layer("words").track("opacity").value)
        self.assertFalse(self.session.history.unsaved)
        typed("66")
        self.act("Undo")
        self.assertEqual(55.0, self.value("words", "opacity"))
        typed("77")
        self.act("Choose all layers")
        self.assertEqual((77.0, 100.0), (self.value("words", "opacity"), self.value("square", "opacity")))
        self.act("Save")
        typed("88")
        with mock.patch.object(self.window.files, "may_leave", return_value=False) as asked:
            self.window.close()
        self.assertTrue(asked.called and self.session.history.unsaved)
        self.assertEqual(88.0, self.value("words", "opacity"))

    def test_what_is_typed_is_set_on_the_frame_where_it_was_typed(self) -> None:
        self.session.select(["square"])
        self.session.go_to(4)
        self.settle()
        field = self.editor_of("position").findChildren(NumberField)[0]
        ruler = self.editor.timeline.ruler
        for frame, text in ((12, "200"), (30, "210")):
            self.click(field)
            self.type_(field, text)
            self.click(ruler, QPointF(self.editor.timeline.axis().x(frame), 24))
            self.assertTrue(field.isReadOnly())
            self.assertEqual(frame, self.session.frame)
        keys = {key.frame: key.value[0] for key in self.layer("square").track("position").keys}
        self.assertEqual({4: 200.0, 12: 210.0}, {frame: keys[frame] for frame in keys if frame not in (0, 20)})
        # A press in the field itself goes on with the typing.
        self.click(field)
        self.type_(field, "1")
        self.click(field)
        self.assertFalse(field.isReadOnly())
        self.press(field, Qt.Key.Key_Escape)
        self.assertTrue(field.isReadOnly())

    def test_what_is_typed_counts_where_another_window_is_pressed(self) -> None:
        self.session.select(["square"])
        self.settle()
        self.click(self.editor.piece_bar.loop)
        seam = self.window.windows.seam
        assert seam is not None
        self.until(lambda: seam.plot.changes is not None)
        field = self.editor.details.editors["opacity"].findChildren(NumberField)[0]
        self.click(field)
        self.type_(field, "55")
        self.assertFalse(field.isReadOnly())
        area = seam.plot._plot()
        self.click(seam.plot, QPointF(area.left() + 1, area.center().y()))
        self.assertNotEqual(0, self.session.frame)
        self.assertEqual(55.0, self.value("square", "opacity"))
        self.assertTrue(field.isReadOnly())
        # A menu over the field is no other place: it may paste into it.
        self.click(field)
        menu = QMenu(field)
        menu.addAction("Paste")
        menu.popup(field.mapToGlobal(field.rect().center()))
        self.click(menu)
        self.assertFalse(field.isReadOnly())
        self.press(field, Qt.Key.Key_Escape)
        seam.close()

    def test_what_the_first_layer_has_is_typed_for_all_of_them(self) -> None:
        self.session.edit_layers("Turn", lambda y: y.with_values(rotation=12.0), ["words"])
        self.session.select(["square", "words"])
        self.settle()
        before = self.session.project
        rotation = self.editor_of("rotation").findChildren(NumberField)[0]
        self.assertEqual(0.0, rotation.value)
        self.enter_number(rotation, "0")
        self.assertEqual([0.0, 0.0], [self.value(name, "rotation") for name in ("square", "words")])
        self.enter_number(rotation, "0")
        self.session.undo()
        self.assertTrue(self.session.project is before, "the second time there was nothing to do")
        y = self.editor_of("position").findChildren(NumberField)[1]
        self.enter_number(y, f"{y.value:g}")
        self.assertEqual([240.0, 240.0], [self.value(name, "position")[1] for name in ("square", "words")])
        self.assertEqual(480.0, self.value("words", "position")[0])
        self.session.undo()
        self.editor.details.relative.setChecked(True)
        self.enter_number(rotation, "0")
        self.assertTrue(self.session.project is before, "by as much as the first: by nothing")

    def test_a_linked_scale_that_is_typed_as_it_is_is_no_step(self) -> None:
        self.choose("square")
        self.assertTrue(self.layer("square").linked_scale)
        before = self.session.project
        self.enter_number(self.editor_of("scale").findChildren(NumberField)[0], "100")
        self.assertTrue(self.session.project is before)

    def test_words_that_take_the_place_of_others_are_said_once(self) -> None:
        other = evolve(self.layer("words"), id="other").with_values(text="Others")
        self.session.edit("Another", lambda piece: evolve(piece, layers=(*piece.layers, other)))
        told: list[str] = []
        self.session.said.connect(told.append)
        self.choose("words")
        self.editor_of("text").text.setPlainText("Alone")
        self.assertEqual([], told)
        self.choose("words", "other")
        area = self.editor_of("text").text
        area.setFocus()
        self.type_(area, "ab")
        self.assertEqual(["All 2 layers have these words now; undo brings back their own."], told)
        self.assertEqual(self.value("words", "text"), self.value("other", "text"))
        self.session.undo()
        self.assertEqual("Others", self.value("other", "text"))

    def test_the_colour_and_the_span_of_the_first_layer_are_given_to_all_of_them(self) -> None:
        other = evolve(self.layer("words"), id="other", last=30).with_values(fill=(0.0, 0.0, 1.0, 1.0))
        self.session.edit("Another", lambda piece: evolve(piece, layers=(*piece.layers, other)))
        self.session.select(["words", "other"])
        self.settle()
        before, fill = self.session.project, self.value("words", "fill")

        def nothing(panel: ColourPanel) -> int:
            return 1

        def same(panel: ColourPanel) -> int:
            assert panel.grid is not None
            panel.grid.taken.emit(panel.value)
            return 1

        with mock.patch.object(ColourPanel, "exec", nothing):
            self.click(self.editor_of("fill").field)
        self.assertTrue(self.session.project is before, "nothing was picked")
        with mock.patch.object(ColourPanel, "exec", same):
            self.click(self.editor_of("fill").field)
        self.assertEqual([fill, fill], [self.value(name, "fill") for name in ("words", "other")])
        self.session.undo()
        self.assertTrue(self.session.project is before, "it is one step")
        last = self.editor.details.page.findChildren(SpanEditor)[0].fields[1]
        self.enter_number(last, f"{last.value:g}")
        self.assertEqual([50, 50], [self.layer(name).last for name in ("words", "other")])

    def test_gradient_stops_appear_with_the_style_and_move(self) -> None:
        ground = self.session.composition.layers[-1].id
        self.choose(ground)
        self.assertNotIn("stops", self.editor.details.editors)
        self.session.set_property("style", "linear", [ground])
        self.settle()
        field = self.editor_of("stops").field
        first = self.value(ground, "stops")
        self.drag(field, field._place(0.0), field._place(0.4))
        self.assertAlmostEqual(self.value(ground, "stops")[0][0], 0.4, delta=0.03)
        self.double_click(field, QPointF(field.width() * 0.8, 10))
        self.assertEqual(len(self.value(ground, "stops")), len(first) + 1)

    def test_a_parent_is_chosen_and_nothing_moves(self) -> None:
        self.session.set_property("rotation", 40.0, ["square"])
        self.choose("words")
        before = self.session.evaluated().matrix(self.layer("words"))
        self.choose_parent("Square")
        self.settle()
        after = self.session.evaluated().matrix(self.layer("words"))
        self.assertEqual(self.layer("words").parent, "square")
        np.testing.assert_allclose(after.apply(10, 10), before.apply(10, 10), atol=1e-3)
        self.choose("square")
        self.choose_parent("Words")
        self.assertIn("each other's parents", self.said[-1])

    def test_without_a_layer_the_piece_itself_is_shown(self) -> None:
        self.choose()
        page = self.editor.details.page.findChild(PieceHead)
        self.enter_number(page.length, "80")
        self.assertEqual(self.session.composition.length, 80)
        self.assertEqual(self.layer("words").last, 80)


def _make_green(panel: ColourPanel) -> int:
    panel.hex.setText("#00ff00")
    panel.hex.editingFinished.emit()
    return 1


class ShortLabelTest(WindowTest):
    def shown(self, share: float) -> ShortLabel:
        """Return a label that has a share of the room that its words need."""
        label = ShortLabel("Opacity a step", "Of each copy")
        self.addCleanup(label.deleteLater)
        label.resize(round(share * label.fontMetrics().horizontalAdvance(label.text())), 24)
        self.assertFalse(label.grab().isNull())
        return label

    def test_words_that_nearly_fit_get_narrower_and_stay_whole(self) -> None:
        for share in (1.05, 0.97, 0.9):
            label = self.shown(share)
            self.assertLessEqual(QFontMetrics(label._narrowed()).horizontalAdvance(label.text()), label.width() + 1)
            self.assertEqual("Of each copy", label.toolTip())
        self.assertEqual(self.shown(1.05)._narrowed().stretch(), QFont(self.shown(1.05).font()).stretch())

    def test_words_that_are_far_too_long_are_cut_and_told(self) -> None:
        label = self.shown(0.6)
        self.assertEqual(ShortLabel.NARROWEST, label._narrowed().stretch())
        self.assertEqual("Opacity a step: Of each copy", label.toolTip())


class TransportTest(WindowTest):
    def test_the_ring_scrubs_over_the_seam(self) -> None:
        ring = self.editor.transport.ring
        self.session.go_to(45)
        self.drag(ring, ring._point(45), ring._point(55), steps=8)
        self.assertEqual(self.session.frame, 5)

    def test_keys_and_ends(self) -> None:
        self.act("Next key")
        self.assertEqual(self.session.frame, 20)
        self.act("Last frame")
        self.assertEqual(self.session.frame, 49)
        self.act("Next frame")
        self.assertEqual(self.session.frame, 0)
        self.session.go_to(30)
        self.act("Previous key")
        self.assertEqual(self.session.frame, 20)

    def test_playing_holds_the_rate(self) -> None:
        player, now = self.window.player, 100.0
        self.until(lambda: len(player.ready_frames()) == 50)
        with mock.patch("spiralis.app.work.playback.time") as clock:
            clock.perf_counter.side_effect = lambda: now
            player.play()
            # A turn of the event loop that was held is caught up with at once: time is never stretched.
            for seconds in (0.05, 0.09, 0.13, 0.5, 1.29, 1.99, 2.01, 7.7):
                now = 100.0 + seconds
                self.until(lambda due=int(seconds * 25) % 50: self.session.frame == due)
            player.stop()
        self.assertEqual(player.late, 0)

    def test_resolution_drops_before_time_and_sharpens_at_rest(self) -> None:
        player = self.window.player
        self.picture()
        full = player.scale
        self.session.set_property("opacity", 50.0, ["square"])
        player.maker._costs[player.session.composition_id, full] = 0.2
        player.play()
        self.assertAlmostEqual(player.scale, full / 4)
        self.until(lambda: len(player.ready_frames()) > 5)
        player.stop()
        self.assertEqual(player.scale, full)
        height = self.picture().shape[0]
        self.assertEqual(height, round(480 * full))

    def test_an_edit_shows_and_undo_finds_its_ready_frames_again(self) -> None:
        before = self.picture()
        self.session.set_property("opacity", 0.0, ["square"])
        self.assertFalse(np.array_equal(self.picture(), before))
        self.session.undo()
        self.assertIs(self.window.player.picture(), before)

    def test_preview_resolution(self) -> None:
        self.picture()
        self.editor.transport._set_share(0.25)
        self.assertEqual(self.picture().shape[:2], (120, 160))

    def test_the_loop_is_judged(self) -> None:
        bar = self.editor.piece_bar
        self.until(lambda: "Jump" in bar.loop.text())
        self.assertIn("Square: Position", bar.loop.toolTip())
        self.session.edit("Loop", lambda piece: evolve(piece, loop=False))
        self.until(lambda: bar.loop.text() == "Plays once")


class CompositionDetailsTest(WindowTest):
    def test_blur_of_everything_is_chosen_and_seen(self) -> None:
        def fading(layer: Layer) -> Layer:
            faded = layer.with_track("opacity", Track(100.0, (Key(10, 100.0), Key(11, 0.0))))
            return faded.with_values(motion_blur=True)

        self.session.edit_layers("Fade", fading, ["words"])
        self.session.select([])
        self.session.go_to(10)
        before = self.picture().copy()
        details = self.editor.details.page.findChild(PieceShutter)
        assert details is not None
        self.assertEqual("movement", details.blur_of.currentData())
        details.blur_of.setFocus()
        self.press(details.blur_of, Qt.Key.Key_Down)
        self.settle()
        self.assertEqual("everything", self.session.composition.blur_of)
        self.assertEqual("Blur of", self.session.history.undo_name)
        # While the shutter is open the words begin to fade: they are a little thinner than at its middle.
        difference = np.abs(self.picture().astype(int) - before)
        self.assertTrue(4 <= int(difference.max()) < 40, difference.max())
        self.session.undo()
        self.settle()
        self.assertEqual("movement", details.blur_of.currentData())

    def test_the_light_of_the_piece_is_chosen_and_seen(self) -> None:
        self.session.set_property("opacity", 50.0, ["square"])
        self.session.select([])
        before = self.picture().astype(int)
        details = self.editor.details.page.findChild(PieceMixing)
        assert details is not None
        details.light.setFocus()
        self.press(details.light, Qt.Key.Key_Down)
        self.assertEqual(("linear", "Light"), (self.session.composition.light, self.session.history.undo_name))
        brighter = self.picture().astype(int) - before
        height, width = brighter.shape[:2]
        y, x = int(height * 240 / 480), int(width * 160 / 640)
        self.assertGreater(int(brighter[y, x, :3].max()), 8)
        self.assertLessEqual(int(np.abs(brighter[2, 2]).max()), 1)
