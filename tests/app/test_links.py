"""Links and loops in the real window: follow, dial, wobble, bake, close the loop, random turns."""

from __future__ import annotations

from collections.abc import Callable
from unittest import mock

import numpy as np
from attrs import evolve
from PyQt6.QtCore import QMimeData, QPointF, QRect, Qt
from PyQt6.QtGui import QDragEnterEvent, QDropEvent
from PyQt6.QtWidgets import QApplication, QComboBox, QMenu, QPushButton, QToolButton

from spiralis.app.canvas.handles import frame_of
from spiralis.app.commands.tying import THREAD, set_follow
from spiralis.app.details.dial_stops import DialStops
from spiralis.app.details.edges import EdgesEditor
from spiralis.app.details.linking import LinkButton, fill_menu
from spiralis.app.timeline.layout import LABELS
from spiralis.app.timeline.painting import followed
from spiralis.app.widgets.asking import LiveDialog
from spiralis.app.widgets.fields import NumberField
from spiralis.core.animation.drivers import values_over
from spiralis.core.animation.easing import LINEAR
from spiralis.core.editing.sequencing import FADES
from spiralis.core.model import EdgePin
from spiralis.core.model.drivers import DialJoin, Follow
from spiralis.core.storage import load, save
from tests.app.harness import NONE, SHIFT, WindowTest, answered


class LinkTest(WindowTest):
    def choose(self, name: str, *path: str) -> None:
        """Choose an entry of a Details row's menu."""
        self.settle(0.1)
        details = self.editor.details
        button = next(b for b in details.findChildren(LinkButton) if b.parameter.name == name and b.isVisible())
        menu = button.menu()
        fill_menu(menu, self.session, button.parameter, self.window)
        for index, label in enumerate(path):
            action = next(a for a in menu.actions() if a.text() == label)
            if index == len(path) - 1:
                action.trigger()
            else:
                menu = action.menu()
                assert isinstance(menu, QMenu)
        self.settle(0.1)

    def test_what_shows_nothing_has_no_look_and_a_dial_no_place(self) -> None:
        rows = {}
        for name in ("Carrier", "Dial"):
            next(a for a in self.editor.add_strip.shape.menu().actions() if a.text() == name).trigger()
            self.settle(0.3)
            self.until(lambda: self.editor.details.page.whole)
            rows[name] = set(self.editor.details.page.editors)
        self.assertLessEqual({"position", "scale", "rotation", "pivot", "size"}, rows["Carrier"])
        self.assertEqual({"value", "minimum", "maximum", "visible"}, rows["Dial"])
        self.assertFalse({"opacity", "blend", "motion_blur", "crop_across"} & rows["Carrier"])
        self.assertIsNone(frame_of(self.session, self.editor.canvas.viewport.to_widget))

    def live(self, **values: float | str):  # type: ignore[no-untyped-def]
        def run(dialog: LiveDialog) -> int:
            for name, value in values.items():
                field = dialog.fields[name]
                if isinstance(field, QComboBox):
                    field.setCurrentIndex(field.findData(value))
                else:
                    field.show_value(float(value))
            dialog.apply()
            dialog.accept()
            return 1

        return mock.patch.object(LiveDialog, "exec", run)

    def test_a_ring_dragged_onto_a_thread_follows_it(self) -> None:
        self.session.select(["words"])
        self.settle(0.1)
        rows, torn = self.editor.timeline.rows, []
        bead = self.editor.details.beads["rotation"]
        bead.torn.disconnect()
        bead.torn.connect(torn.append)
        self.drag(bead, QPointF(9, 9), QPointF(-40, 30))
        self.assertEqual(torn, ["rotation"])
        self.assertFalse(self.layer("words").track("rotation").animated)

        row = next(row for row in rows.rows() if row.layer.id == "square" and row.name == "position")
        mime = QMimeData()
        mime.setData(THREAD, b"rotation")
        place = QPointF(40, row.top + row.height / 2)
        link, left, none = Qt.DropAction.LinkAction, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
        entering = QDragEnterEvent(place.toPoint(), link, mime, left, none)
        QApplication.sendEvent(rows, entering)
        self.assertTrue(entering.isAccepted())
        QApplication.sendEvent(rows, QDropEvent(place, link, mime, left, none))
        self.assertEqual(self.layer("words").track("rotation").driver, Follow("square", "position", component=0))

        mime.setData(THREAD, b"fill")
        QApplication.sendEvent(rows, QDragEnterEvent(place.toPoint(), link, mime, left, none))
        QApplication.sendEvent(rows, QDropEvent(place, link, mime, left, none))
        self.assertIn("Fill cannot follow that; drop it on a thread of its own sort.", self.said)

    def test_an_edge_is_pinned_to_the_words_whatever_they_are(self) -> None:
        self.session.select(["square"])
        self.settle(0.1)
        editor = self.editor.details.findChild(EdgesEditor)
        self.click(next(b for b in editor.findChildren(QPushButton) if b.text() == "Pin down"))
        self.assertEqual(self.layer("square").edge_pins, (EdgePin("top", "top", "", 190.0),))

        def boxes() -> list[QComboBox]:
            found = editor.findChildren(QComboBox)
            return [box for box in found if box.accessibleName() == "Pinned to" and box.isVisible()]

        self.until(lambda: bool(boxes()))
        whose = boxes()[0]
        whose.setCurrentIndex(whose.findText("Words"))
        whose.activated.emit(whose.currentIndex())
        self.settle(0.1)
        before = self.session.evaluated().matrix(self.layer("square")).f
        self.session.set_property("size", 160.0, ["words"])
        self.assertNotAlmostEqual(self.session.evaluated().matrix(self.layer("square")).f, before, places=0)
        stands = self.session.evaluated().matrix(self.layer("square")).f
        self.settle(0.1)
        away = next(b for b in editor.findChildren(QToolButton) if b.isVisible())
        self.click(away)
        self.assertEqual(self.layer("square").edge_pins, ())
        self.session.undo()
        self.assertAlmostEqual(self.session.evaluated().matrix(self.layer("square")).f, stands, places=6)

    def test_a_layer_goes_along_a_line(self) -> None:
        ring = self.add_shape("Ellipse")
        self.session.set_property("position", (320.0, 240.0), [ring])
        self.session.select(["words", ring])
        self.act("Go along the chosen line")
        self.assertEqual(self.session.selected, ("words",))
        self.assertEqual(len(self.layer(ring).track("drawn_offset").keys), 2)

        def place() -> tuple[float, float]:
            at = self.session.evaluated()
            layer = self.layer("words")
            left, top, right, bottom = at.box(layer)
            return at.matrix(layer).apply((left + right) / 2, (top + bottom) / 2)

        size = self.value(ring, "size")
        found = []
        for frame in (0, self.session.composition.length // 2):
            self.session.go_to(frame)
            x, y = place()
            found.append((x, y))
            self.assertAlmostEqual(((x - 320) / (size[0] / 2)) ** 2 + ((y - 240) / (size[1] / 2)) ** 2, 1.0, places=2)
        self.assertAlmostEqual(found[0][0] + found[1][0], 640, delta=2)
        self.settle(0.3)
        editor = next(e for e in self.editor.details.findChildren(EdgesEditor) if e.isVisible())
        field = next(f for f in editor.findChildren(NumberField) if f.accessibleName().startswith("How far along"))
        before = place()
        self.enter_number(field, "50")
        self.assertEqual([pin.along for pin in self.layer("words").edge_pins], [50.0, 50.0])
        x, y = place()
        self.assertAlmostEqual(before[0] + x, 640, delta=2)
        # Another layer that has no line leaves it no line's end to be pinned to.
        self.settle(0.3)
        editor = next(e for e in self.editor.details.findChildren(EdgesEditor) if e.isVisible())
        lists = {box.accessibleName(): box for box in editor.findChildren(QComboBox)}
        whose, to = lists["Pinned to"], lists["Edge it is pinned to"]
        self.assertIn("drawn end", [to.itemData(n) for n in range(to.count())])
        whose.setCurrentIndex(whose.findData(""))
        whose.activated.emit(whose.currentIndex())
        self.assertEqual(self.layer("words").edge_pins[-1].to in ("middle", "centre"), True)
        self.act("Undo")
        self.act("Undo")
        self.act("Undo")
        self.assertEqual(self.layer("words").edge_pins, ())
        self.assertEqual(self.layer(ring).track("drawn_offset").keys, ())

    def test_what_is_pinned_is_dragged_by_its_gaps(self) -> None:
        def place() -> tuple[float, float]:
            matrix = self.session.evaluated().matrix(self.layer("square"))
            return matrix.e, matrix.f

        for pins in ((EdgePin("left", "left", gap=5.0),), (EdgePin("top", "bottom", "words", 3.0),),
                     (EdgePin("right", "right"), EdgePin("centre", "centre", "words")),
                     (EdgePin("left", "left", "gone", 7.0),)):  # fmt: skip
            self.session.edit_layers("Pin", lambda layer, pins=pins: evolve(layer, edge_pins=pins), ["square"])
            self.session.select(["square"])
            self.settle(0.1)
            before, start = self.session.project, place()
            for key, held in ((Qt.Key.Key_Right, SHIFT), (Qt.Key.Key_Down, NONE)):
                self.press(self.editor.canvas, key, held)
            self.assertEqual((round(place()[0] - start[0], 3), round(place()[1] - start[1], 3)), (10.0, 1.0), pins)
            made = self.layer("square")
            self.assertEqual([(p.edge, p.layer) for p in made.edge_pins], [(p.edge, p.layer) for p in pins])
            self.session.go_to(20)
            frames = [self.session.evaluated(frame).matrix(made) for frame in (0, 20)]
            if len(pins) == 2:
                self.assertEqual(frames[0], frames[1], "no keys were set")
                self.assertEqual([p.gap for p in made.edge_pins], [10.0, 1.0])
            if pins[0].layer == "gone":
                self.assertEqual(made.edge_pins, pins)
            while self.session.project is not before:
                self.session.undo()
            self.session.go_to(0)

    def test_words_follow_the_square_late_then_are_baked(self) -> None:
        self.session.select(["words"])
        self.choose("position", "Follow", "Square", "Position")
        self.assertIsInstance(self.layer("words").track("position").driver, Follow)
        self.assertEqual(followed(self.session.composition), {("square", "position")})
        rows = self.editor.timeline.rows
        row = next(row for row in rows.rows() if row.layer.id == "square" and row.name == "position")
        area = QRect(LABELS - 24, int(row.top), 20, int(row.height))
        self.assertGreater(len({rows.grab(area).toImage().pixel(x, y) for x in range(20) for y in range(20)}), 3)
        with self.live(gain=50.0, delay=10.0):
            self.choose("position", "Gain, offset, delay…")
        self.session.go_to(20)
        np.testing.assert_allclose(self.value("words", "position"), (140.0, 120.0), atol=1e-6)
        names = [row.name for row in self.editor.timeline.rows.rows() if row.layer.id == "words"]
        self.assertIn("position", names)
        self.editor.timeline.rows.grab()
        before = values_over(self.session.composition, self.layer("words"), "position", np.arange(50.0))
        self.choose("position", "Bake to keys")
        track = self.layer("words").track("position")
        self.assertIsNone(track.driver)
        after = values_over(self.session.composition, self.layer("words"), "position", np.arange(50.0))
        np.testing.assert_allclose(after, before, atol=1e-9)

    def test_deleting_what_is_followed_keeps_the_look_and_says_so(self) -> None:
        said: list[str] = []
        self.session.said.connect(said.append)
        self.session.select(["words"])
        self.choose("position", "Follow", "Square", "Position")
        before = values_over(self.session.composition, self.layer("words"), "position", np.arange(50.0))
        self.session.select(["square"])
        self.act("Delete")
        after = values_over(self.session.composition, self.layer("words"), "position", np.arange(50.0))
        np.testing.assert_allclose(after, before, atol=1e-9)
        self.assertIn("Words: Position", said[-1])

    def test_one_dial_drives_three_properties(self) -> None:
        self.session.select(["words"])
        self.choose("rotation", "Value here at the dial's place", "New dial")
        dial = self.session.composition.layers[0]
        self.assertEqual(dial.kind, "dial")
        for name in ("scale", "opacity"):
            self.choose(name, "Value here at the dial's place", "Dial")
        slider, field, _ = self._dials()["", dial.id]
        slider.setValue(1000)
        self.settle(0.1)
        self.assertAlmostEqual(self.value(dial.id, "value"), 100.0)
        # What is set now is the value at this place of the dial.
        ends = {"rotation": 90.0, "scale": (50.0, 80.0), "opacity": 20.0}
        for name, value in ends.items():
            self.session.set_property(name, value)
            np.testing.assert_allclose(self.session.evaluated().values(self.layer("words"))[name], value)
        self.enter_number(field, "50")
        self.settle(0.1)
        seen = self.session.evaluated().values(self.layer("words"))
        for name, value in {"rotation": 45.0, "scale": (75.0, 90.0), "opacity": 60.0}.items():
            self.assertIsInstance(self.layer("words").track(name).driver, DialJoin)
            np.testing.assert_allclose(seen[name], value)

    def test_what_a_property_was_tied_to_before_is_said(self) -> None:
        told: list[str] = []
        self.session.said.connect(told.append)
        self.session.select(["words"])
        for _ in range(2):
            self.choose("rotation", "Value here at the dial's place", "New dial")
        self.assertEqual(len(told), 1)
        self.assertIn("“Words”, on the dial Dial", told[0])
        dial = self.layer("words").track("rotation").driver.dial
        name = self.layer(dial).name
        self.choose("rotation", "Value here at the dial's place", name)
        self.assertEqual(len(told), 1, "another stop of the same dial takes nothing away")
        self.choose("rotation", "Follow", "Square", "Rotation")
        self.assertIn(f"on the dial {name}", told[1])
        self.choose("rotation", "Follow", "Square", "Opacity")
        self.assertEqual(len(told), 2)
        self.session.undo()
        self.session.undo()
        self.assertIsInstance(self.layer("words").track("rotation").driver, DialJoin)
        self.session.edit_layers("Lock", lambda y: evolve(y, locked=True), ["words"])
        set_follow(self.session, "rotation", Follow("square", "rotation"))
        self.assertEqual(len(told), 2, "a locked layer keeps its tie")

    def test_stops_of_a_dial_are_listed_moved_eased_and_dropped(self) -> None:
        self.session.select(["words"])
        self.choose("rotation", "Value here at the dial's place", "New dial")
        dial = self.session.composition.layers[0].id
        for place, value in ((100.0, 90.0), (50.0, 60.0)):
            self.session.edit_layers("Dial", lambda y, p=place: y.with_values(value=p), [dial])
            self.session.set_property("rotation", value)
        button = next(b for b in self.window.findChildren(QPushButton) if b.accessibleName() == "Stops of Dial")
        self.click(button, QPointF(10, 8))
        window = next(w for w in self.window.findChildren(DialStops) if w.isVisible())
        key = ("words", "rotation")
        self.assertEqual([field.value for field in window.places[key]], [0.0, 50.0, 100.0])
        self.enter_number(window.places[key][1], "25")

        def stops() -> tuple[tuple[float, float], ...]:
            return self.layer("words").track("rotation").driver.stops

        self.assertEqual(stops(), ((0.0, 0.0), (25.0, 60.0), (100.0, 90.0)))
        self.enter_number(window.places[key][1], "100")
        self.assertIn("a stop at 100 already", self.said[-1])
        self.assertEqual([field.value for field in window.places[key]], [0.0, 25.0, 100.0])
        ease = window.eases[key]
        ease.activated.emit(next(i for i in range(ease.count()) if "Hold" not in ease.itemText(i) and i > 2))
        self.session.edit_layers("Dial", lambda y: y.with_values(value=12.5), [dial])
        bent = self.layer("words").track("rotation").driver.ease
        self.assertNotEqual(bent, LINEAR)
        self.assertAlmostEqual(self.value("words", "rotation"), 60.0 * float(bent.solve(np.array([0.5]))[0]))
        save(self.session.project, self.folder / "eased.spiralis")
        again = load(self.folder / "eased.spiralis").compositions[0].layer("words")
        self.assertEqual(again.track("rotation").driver, self.layer("words").track("rotation").driver)
        window.drops[key][1].click()
        self.assertEqual(stops(), ((0.0, 0.0), (100.0, 90.0)))
        self.assertFalse(window.drops[key][0].isEnabled())
        self.session.undo()
        self.settle(0.1)
        self.assertEqual(len(window.places[key]), 3)
        for _ in range(3):
            self.session.undo()
        self.assertEqual(stops()[1], (50.0, 60.0))
        window.close()

    def _dials(self):  # type: ignore[no-untyped-def]
        from spiralis.app.details.dials import DialsSection

        return next(d for d in self.editor.details.findChildren(DialsSection) if d.isVisible()).rows

    def test_a_wobble_is_asked_for_and_returns(self) -> None:
        self.session.select(["words"])
        with self.live(amount=20.0, rate=2.0):
            self.choose("position", "Wobble…")
        layer = self.layer("words")
        values = values_over(self.session.composition, layer, "position", np.array([0.0, 13.0, 50.0]))
        np.testing.assert_array_equal(values[0], values[2])
        self.assertGreater(float(np.abs(values[1] - values[0]).max()), 0.1)
        self.picture()

    def test_the_loop_is_closed_and_the_piece_trimmed(self) -> None:
        self.until(lambda: "Jump" in self.editor.piece_bar.loop.text())
        self.session.select([])
        self.act("Close the loop")
        keys = self.layer("square").track("position").keys
        self.assertEqual((keys[-1].frame, keys[-1].value), (50, keys[0].value))
        self.until(lambda: "clean" in self.editor.piece_bar.loop.text())
        self.act("Undo")
        self.act("Trim the composition to its loop")
        self.assertEqual(self.session.composition.length, 20)

    def test_layers_show_in_turn_and_fade_over_one_another_around_the_seam(self) -> None:
        at_work: Callable[[int], dict[str, float]] = lambda frame: {  # noqa: E731
            name: round(values["opacity"], 6) if values["visible"] else 0.0
            for name in ("square", "words") for values in [self.session.evaluated(frame).values(self.layer(name))]
        }  # fmt: skip
        start = self.session.project
        self.session.select(["square", "words"])
        asked: list[str] = []
        with self.live(), answered("Leave", asked):
            self.act("Show in turn…")
        self.assertEqual([at_work(frame) for frame in (0, 24, 25, 49)],
                         [{"square": 100.0, "words": 0.0}] * 2 + [{"square": 0.0, "words": 100.0}] * 2)  # fmt: skip
        # What a person has made may go only if that is wanted.
        before = self.session.project
        with self.live(fade=10.0), answered("Leave", asked):
            self.act("Show in turn…")
        self.assertEqual((len(asked), self.session.project), (1, before))
        with self.live(stay=20.0, fade=10.0), answered("Go on", asked):
            self.act("Show in turn…")
        self.act("Undo")
        self.assertIs(self.session.project, before)
        self.act("Undo")
        self.assertIs(self.session.project, start)
        with self.live(fade=10.0, how=FADES[1]):
            self.act("Show in turn…")
        # The square lies in front: it fades in around the seam, and out over the words.
        self.assertEqual([at_work(frame) for frame in (0, 5, 10, 25, 30, 35, 49)], [
            {"square": square, "words": words}
            for square, words in ((0, 100), (50, 100), (100, 0), (100, 100), (50, 100), (0, 100), (0, 100))
        ])  # fmt: skip
        self.until(lambda: "clean" in self.editor.piece_bar.loop.text())

    def test_words_typed_one_after_another_show_in_that_order(self) -> None:
        ids = []
        for word in ("ONE", "TWO", "THREE"):
            self.editor.add_strip.text.click()
            self.settle(0.1)
            ids.append(self.session.selected[0])
            self.type_(self.editor.canvas, word)
            self.press(self.editor.canvas, Qt.Key.Key_Escape)
        self.session.select(ids)
        with self.live():
            self.act("Show in turn…")
        seen = [
            [name for name in ids if self.session.evaluated(frame).values(self.layer(name))["visible"]]
            for frame in (0, self.session.composition.length // 2, self.session.composition.length - 1)
        ]
        self.assertEqual(seen, [[name] for name in ids])

    def test_turns_ask_before_what_drives_a_property_goes(self) -> None:
        driven = self.layer("words").track("opacity")
        follows = evolve(driven, driver=Follow("square", "rotation"))
        self.session.edit("Join", lambda piece: piece.with_layer(self.layer("words").with_track("opacity", follows)))
        self.session.select(["square", "words"])
        before, asked = self.session.project, list[str]()
        with self.live(fade=5.0), answered("Leave", asked):
            self.act("Show in turn…")
        self.assertEqual((len(asked), self.session.project), (1, before))
        with self.live(), answered("Leave", asked):
            self.act("Random sequence…")
        self.assertEqual(len(asked), 1, "its keys are on Shown")
        self.assertEqual(self.layer("words").track("opacity"), follows)

    def test_layers_show_in_random_turns(self) -> None:
        self.session.select(["square", "words"])
        with self.live(least=3.0, most=6.0, seed=4.0):
            self.act("Random sequence…")
        seen: Callable[[int], list[str]] = lambda frame: [  # noqa: E731
            name for name in ("square", "words") if self.session.evaluated(frame).values(self.layer(name))["visible"]
        ]
        self.assertTrue(all(len(seen(frame)) == 1 for frame in range(50)))
        self.assertGreater(len({tuple(seen(frame)) for frame in range(50)}), 1)
        self.assertEqual(seen(0), seen(49))
