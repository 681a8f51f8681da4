"""Hands on the canvas: choosing by a box, what is covered or lies deeper, copies by dragging, sizes, panning, Tab."""

import numpy as np
from attrs import evolve
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from spiralis.app.canvas.content_grips import content_grips
from spiralis.app.canvas.group_handles import group_frame
from spiralis.app.canvas.handles import frame_of
from spiralis.app.strips.add_strip import add_shape, add_text
from spiralis.core.model import Layer, Project, Track
from spiralis.core.model.drivers import Follow, Wobble
from tests.app.harness import ALT, CONTROL, LEFT, NONE, SHIFT, WindowTest
from tests.core.samples import backdrop, project


def crowd() -> Project:
    """Return two overlapping rectangles, one apart, words in a box, and a ground: 640 by 480."""

    def box(name: str, x: float, y: float, side: float = 100.0) -> Layer:
        return Layer(name.capitalize(), "shape", 0, 50, id=name).with_values(
            form="rectangle", size=(side, side), position=(x, y), fill=(0.9, 0.4, 0.2, 1.0), stroke=6.0, corners=10.0
        )

    words = Layer("Words", "text", 0, 50, id="words").with_values(
        text="two words", size=30.0, position=(480.0, 400.0), flow="box", frame=(200.0, 100.0)
    )
    return project(box("front", 200, 200), box("under", 220, 220, 160.0), box("apart", 480, 150), words,
                   backdrop(640, 480, (0.1, 0.2, 0.3, 1.0)), width=640, height=480, length=50)  # fmt: skip


class HandsTest(WindowTest):
    sample = staticmethod(crowd)

    def setUp(self) -> None:
        super().setUp()
        self.canvas = self.editor.canvas
        self.session.view.put({"snap": False})

    def click_at(self, x: float, y: float, keys: Qt.KeyboardModifier = NONE) -> None:
        QTest.mouseClick(self.canvas, LEFT, keys, self.on_canvas(x, y).toPoint())
        self.settle()

    def seen(self, name: str) -> tuple[float, ...]:
        at = self.session.evaluated()
        layer = self.session.composition.layer(name)
        return at.matrix(layer).box(at.box(layer))

    def value(self, name: str, of: str) -> object:
        return self.session.evaluated().values(self.session.composition.layer(name))[of]

    def handle(self, name: str) -> QPointF:
        frame = frame_of(self.session, self.canvas.viewport.to_widget)
        assert frame is not None
        return QPointF(*frame.handles()[name])

    # -- choosing ----------------------------------------------------------------------------------------

    def test_a_drag_over_the_ground_chooses_by_a_box_and_shift_adds(self) -> None:
        self.drag(self.canvas, self.on_canvas(60, 60), self.on_canvas(210, 210))
        self.assertEqual(set(self.session.selected), {"front", "under"})
        self.drag(self.canvas, self.on_canvas(620, 60), self.on_canvas(500, 160), SHIFT)
        self.assertEqual(set(self.session.selected), {"front", "under", "apart"})
        self.drag(self.canvas, self.on_canvas(20, 20), self.on_canvas(40, 40))
        self.assertEqual(self.session.selected, ())
        self.assertIsNone(self.session.history.undo_name)

    def test_a_click_on_the_ground_still_chooses_it_and_outside_lets_go(self) -> None:
        self.click_at(20, 20)
        self.assertEqual(self.session.selected, (self.session.composition.layers[-1].id,))
        self.click_at(-60, 200)
        self.assertEqual(self.session.selected, ())

    def test_what_wobbles_stays_under_the_hand(self) -> None:
        for name, wobble in (("position", Wobble(60.0, 3.0)), ("rotation", Wobble(50.0, 3.0))):
            layer = self.session.composition.layer("apart")
            track = evolve(layer.track(name), wobble=wobble)
            self.session.edit("Wobble", lambda p, y=layer, n=name, t=track: p.with_layer(y.with_track(n, t)))
        self.session.go_to(17)
        self.session.select(["apart"])
        x, y = self.value("apart", "position")
        self.assertGreater(abs(x - 480) + abs(y - 150), 10)
        self.drag(self.canvas, self.on_canvas(x, y), self.on_canvas(x - 60, y + 40))
        np.testing.assert_allclose(self.value("apart", "position"), (x - 60, y + 40), atol=1.5)
        turn, before = self.handle("turn"), float(self.value("apart", "rotation"))
        middle = self.on_canvas(*self.value("apart", "position"))
        arm = turn - middle
        self.drag(self.canvas, turn, middle + QPointF(-arm.y(), arm.x()), steps=12)
        self.assertAlmostEqual(before + 90, float(self.value("apart", "rotation")), delta=2)

    def test_what_follows_another_layer_says_so_and_moves_along_with_it(self) -> None:
        led = self.session.composition.layer("apart")
        track = Track((480.0, 150.0), driver=Follow("front", "position", 1.0, 150.0))
        self.session.edit("Follow", lambda p: p.with_layer(led.with_track("position", track)))
        said: list[str] = []
        self.session.failed.connect(said.append)
        self.session.select(["apart"])
        before = self.session.project
        self.drag(self.canvas, self.on_canvas(350, 350), self.on_canvas(390, 380))
        self.assertIs(before, self.session.project)
        self.assertIn("Position of “Apart” follows something else; bake it to keys, or drive it no more.", said)
        said.clear()
        self.session.select(["apart", "front"])
        self.drag(self.canvas, self.on_canvas(350, 350), self.on_canvas(390, 380))
        np.testing.assert_allclose(self.value("front", "position"), (240, 230), atol=1.5)
        np.testing.assert_allclose(self.value("apart", "position"), (390, 380), atol=1.5)
        self.assertEqual([], said)
        self.session.select(["apart"])
        pivot = self.handle("pivot")
        self.drag(self.canvas, pivot, pivot + QPointF(9, 9))
        self.assertEqual((50.0, 50.0), self.value("apart", "pivot"))
        self.assertIn("Position of “Apart” follows something else", said[0])
        said.clear()
        self.act("Align left edges")
        self.assertIn("The place of “Apart” follows something else", said[0])

    def test_what_follows_something_stops_no_edit_of_the_others(self) -> None:
        led = self.session.composition.layer("apart")
        track = Track(0.0, driver=Follow("front", "opacity"))
        self.session.edit("Follow", lambda p: p.with_layer(led.with_track("rotation", track)))
        said: list[str] = []
        self.session.failed.connect(said.append)
        self.session.select(["apart", "under"])
        self.session.set_property("rotation", 30.0)
        self.assertEqual((30.0, track), (self.value("under", "rotation"),
                                         self.session.composition.layer("apart").track("rotation")))  # fmt: skip
        frame = group_frame(self.session, self.canvas.viewport.to_widget)
        assert frame is not None
        corner = QPointF(*frame.handles()["se"])
        middle = self.on_canvas(*frame.pivot)
        self.drag(self.canvas, corner, corner + (corner - middle) * 0.25, steps=8)
        frame = group_frame(self.session, self.canvas.viewport.to_widget)
        assert frame is not None
        turn, middle = QPointF(*frame.handles()["turn"]), self.on_canvas(*frame.pivot)
        arm = turn - middle
        self.drag(self.canvas, turn, middle + QPointF(-arm.y(), arm.x()), steps=12)
        self.assertAlmostEqual(120.0, float(self.value("under", "rotation")), delta=3)
        self.assertGreater(float(self.value("apart", "scale")[0]), 110)
        self.assertEqual(track, self.session.composition.layer("apart").track("rotation"))
        self.assertEqual([], said)

    def test_what_is_chosen_can_be_dragged_although_it_is_covered(self) -> None:
        self.session.select(["under"])
        self.drag(self.canvas, self.on_canvas(200, 190), self.on_canvas(240, 260))
        np.testing.assert_allclose(self.value("under", "position"), (260, 290), atol=1.5)
        self.assertEqual(self.value("front", "position"), (200.0, 200.0))
        self.assertEqual(self.session.selected, ("under",))

    def test_a_mere_click_takes_the_front_one_and_another_goes_deeper(self) -> None:
        self.session.select(["under"])
        self.click_at(200, 190)
        self.assertEqual(self.session.selected, ("front",))
        QTest.qWait(QApplication.doubleClickInterval() + 50)
        self.click_at(200, 190)
        self.assertEqual(self.session.selected, ("under",))
        QTest.qWait(QApplication.doubleClickInterval() + 50)
        self.click_at(200, 190)
        self.assertEqual(self.session.selected, (self.session.composition.layers[-1].id,))
        QTest.qWait(QApplication.doubleClickInterval() + 50)
        self.click_at(200, 190)
        self.assertEqual(self.session.selected, ("front",))

    def test_a_mere_click_on_one_of_several_chosen_ones_chooses_it_alone(self) -> None:
        self.session.select(["front", "apart"])
        self.click_at(480, 150)
        self.assertEqual(self.session.selected, ("apart",))
        self.session.select(["front", "apart"])
        before = self.value("front", "position")
        self.drag(self.canvas, self.on_canvas(480, 150), self.on_canvas(440, 250))
        self.assertEqual(self.session.selected, ("front", "apart"))
        self.assertNotEqual(before, self.value("front", "position"))

    def test_alt_click_lists_what_lies_there(self) -> None:
        listed: list[list[Layer]] = []
        self.canvas.hand.lister = listed.append
        self.click_at(200, 190, ALT)
        ground = self.session.composition.layers[-1].id
        self.assertEqual([layer.id for layer in listed[0]], ["front", "under", ground])

    def test_alt_drag_takes_a_copy_along_in_one_step(self) -> None:
        count = len(self.session.composition.layers)
        self.drag(self.canvas, self.on_canvas(480, 150), self.on_canvas(400, 300), ALT)
        self.assertEqual(len(self.session.composition.layers), count + 1)
        self.assertEqual(self.value("apart", "position"), (480.0, 150.0))
        (copy,) = self.session.selected
        np.testing.assert_allclose(self.value(copy, "position"), (400, 300), atol=1.5)
        self.session.undo()
        self.assertEqual(len(self.session.composition.layers), count)

    def test_tab_walks_through_the_layers_and_escape_lets_go(self) -> None:
        self.canvas.setFocus()
        ids = [layer.id for layer in self.session.composition.layers]
        for name in ids:
            QTest.keyClick(self.canvas, Qt.Key.Key_Tab)
            self.assertEqual(self.session.selected, (name,))
        QTest.keyClick(self.canvas, Qt.Key.Key_Backtab)
        self.assertEqual(self.session.selected, (ids[-2],))
        QTest.keyClick(self.canvas, Qt.Key.Key_Escape)
        self.assertEqual(self.session.selected, ())

    # -- sizes -------------------------------------------------------------------------------------------

    def test_a_rectangle_is_resized_without_stretching_and_its_opposite_corner_stays(self) -> None:
        self.session.select(["apart"])
        before = self.seen("apart")
        self.drag(self.canvas, self.handle("se"), self.on_canvas(590, 260))
        after = self.seen("apart")
        np.testing.assert_allclose(after, (before[0], before[1], 590, 260), atol=1.5)
        self.assertEqual(self.value("apart", "scale"), (100.0, 100.0))
        self.assertEqual(self.value("apart", "corners"), 10.0)
        self.drag(self.canvas, self.handle("w"), self.on_canvas(400, 200))
        np.testing.assert_allclose(self.seen("apart"), (400, before[1], 590, 260), atol=2.5)

    def test_a_box_of_words_grows_and_its_letters_do_not(self) -> None:
        self.session.select(["words"])
        before = self.seen("words")
        self.drag(self.canvas, self.handle("nw"), self.on_canvas(before[0] - 60, before[1] - 40))
        self.assertEqual(self.value("words", "size"), 30.0)
        np.testing.assert_allclose(self.value("words", "frame"), (260, 140), atol=2)
        np.testing.assert_allclose(self.seen("words")[2:], before[2:], atol=0.6)

    def test_alt_scales_with_all_that_is_in_it(self) -> None:
        self.session.select(["apart"])
        self.drag(self.canvas, self.handle("se"), self.on_canvas(580, 250), ALT)
        self.assertEqual(self.value("apart", "size"), (100.0, 100.0))
        self.assertGreater(self.value("apart", "scale")[0], 150)  # type: ignore[index]

    def test_a_turned_and_animated_one_keeps_its_way(self) -> None:
        self.session.set_property("rotation", 30.0, ["apart"])
        self.session.edit_layers("Key", lambda layer: layer.with_track("position", _way()), ["apart"])
        self.session.select(["apart"])
        at = self.session.evaluated()
        corner = at.matrix(self.session.composition.layer("apart")).apply(0.0, 0.0)
        place = self.handle("se")
        self.drag(self.canvas, place, place + QPointF(30, 50))
        now = self.session.evaluated().matrix(self.session.composition.layer("apart")).apply(0.0, 0.0)
        np.testing.assert_allclose(now, corner, atol=0.1)
        keys = self.session.composition.layer("apart").track("position").keys
        self.assertEqual(len(keys), 2)
        np.testing.assert_allclose(np.subtract(keys[1].value, keys[0].value), (0, 100), atol=1e-6)

    def test_it_snaps_and_says_how_large_it_is(self) -> None:
        self.session.view.put({"snap": True})
        self.session.select(["apart"])
        start = self.handle("e").toPoint()
        QTest.mousePress(self.canvas, LEFT, NONE, start)
        goal = self.on_canvas(638, 150)
        for share in (0.5, 1.0):
            QTest.mouseMove(self.canvas, (QPointF(start) + (goal - QPointF(start)) * share).toPoint())
            self.settle()
        drag = self.canvas.hand.drag
        assert drag is not None
        self.assertIn("×", drag.says)
        self.assertTrue(drag.guides)
        QTest.mouseRelease(self.canvas, LEFT, NONE, goal.toPoint())
        self.assertAlmostEqual(self.seen("apart")[2], 640.0, delta=0.01)

    def test_the_grip_of_the_corners_rounds_them(self) -> None:
        self.session.select(["apart"])
        grip = content_grips(self.session, self.canvas.viewport.to_widget)[0]
        zoom = self.canvas.viewport.zoom
        self.drag(self.canvas, QPointF(*grip.place), QPointF(grip.place[0] + 20 * zoom, grip.place[1]))
        self.assertAlmostEqual(self.value("apart", "corners"), 30.0, delta=2.0)  # type: ignore[arg-type]
        self.assertEqual(self.session.history.undo_name, "Corners of Apart")

    # -- moving the picture ----------------------------------------------------------------------------

    def test_the_space_bar_moves_the_picture_and_plays_where_it_did_not(self) -> None:
        self.canvas.setFocus()
        before, held = self.canvas.viewport.centre, self.session.project
        QTest.keyPress(self.canvas, Qt.Key.Key_Space)
        self.drag(self.canvas, self.on_canvas(200, 200), self.on_canvas(260, 240))
        QTest.keyRelease(self.canvas, Qt.Key.Key_Space)
        np.testing.assert_allclose(np.subtract(before, self.canvas.viewport.centre), (60, 40), atol=2)
        self.assertIs(self.session.project, held)
        self.assertFalse(self.window.player.playing)
        QTest.keyClick(self.canvas, Qt.Key.Key_Space)
        self.assertTrue(self.window.player.playing)
        QTest.keyClick(self.canvas, Qt.Key.Key_Space)
        self.assertFalse(self.window.player.playing)

    def wheel(self, turned: QPoint, fingers: QPoint | None = None, keys: Qt.KeyboardModifier = NONE) -> None:
        middle = QPointF(self.canvas.rect().center())
        event = QWheelEvent(
            middle, self.canvas.mapToGlobal(middle), fingers or QPoint(), turned, Qt.MouseButton.NoButton, keys,
            Qt.ScrollPhase.NoScrollPhase, False,
        )  # fmt: skip
        QApplication.sendEvent(self.canvas, event)

    def test_fingers_move_the_wheel_zooms(self) -> None:
        zoom, centre = self.canvas.viewport.zoom, self.canvas.viewport.centre
        self.wheel(QPoint(0, -30), QPoint(12, -30))
        self.assertEqual(self.canvas.viewport.zoom, zoom)
        np.testing.assert_allclose(np.subtract(centre, self.canvas.viewport.centre) * zoom, (12, -30), atol=1e-6)
        self.wheel(QPoint(0, 120))
        self.assertGreater(self.canvas.viewport.zoom, zoom)
        zoom = self.canvas.viewport.zoom
        self.wheel(QPoint(0, -30), QPoint(0, -30), CONTROL)
        self.assertLess(self.canvas.viewport.zoom, zoom)

    def test_scroll_bars_come_with_a_large_picture_and_move_it(self) -> None:
        across, down = self.canvas.bars.bars
        self.assertFalse(across.isVisible() or down.isVisible())
        self.canvas.viewport.zoom_to(4.0)
        self.assertTrue(across.isVisible() and down.isVisible())
        before = self.canvas.viewport.centre
        across.setValue(across.value() + 100)
        np.testing.assert_allclose(np.subtract(self.canvas.viewport.centre, before), (10, 0), atol=0.11)
        self.canvas.viewport.fit()
        self.assertFalse(across.isVisible())

    def test_new_layers_of_a_kind_do_not_lie_on_each_other(self) -> None:
        places = [add_shape(self.session, "star").track("position").value for _ in range(3)]
        places += [add_text(self.session).track("position").value for _ in range(3)]
        self.assertEqual(len(set(places[:3])), 3)
        self.assertEqual(len(set(places[3:])), 3)


def _way() -> object:
    from spiralis.core.model import Key, Track

    return Track((480.0, 150.0), (Key(0, (480.0, 150.0)), Key(40, (480.0, 250.0))))
