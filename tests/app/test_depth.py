"""Depth by mouse and keys: cards that fly in, handles for z and turns, views from elsewhere, cameras."""

import numpy as np
from attrs import evolve
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from spiralis.app.canvas.handles import frame_of
from spiralis.app.canvas.painting import way_in_space
from spiralis.app.canvas.picking import layer_at
from spiralis.app.canvas.sight import sight
from spiralis.app.canvas.space_handles import space_handles
from spiralis.app.moves.chooser import MovesChooser
from spiralis.core.geometry import Projection
from spiralis.core.model import Key, Project, Track
from spiralis.core.render.frame import render_rgba8
from tests.app.harness import CONTROL, NONE, SHIFT, WindowTest
from tests.core.samples import project


def empty() -> Project:
    return project(width=640, height=480, length=40, loop=True)


class DepthTest(WindowTest):
    sample = staticmethod(empty)

    def card(self, x: float, y: float, z: float | None = None) -> str:
        """Add a rectangle by the menu, drag it to a place, and let it stand in depth."""
        shapes = self.editor.add_strip.shape.menu()
        next(action for action in shapes.actions() if action.text() == "Rectangle").trigger()
        self.settle()
        card = self.session.selected[0]
        self.enter_number(self.editor.details.editors["size"].fields[0], "120")
        self.enter_number(self.editor.details.editors["size"].fields[1], "160")
        at = self.value(card, "position")
        self.drag(self.editor.canvas, self.on_canvas(at[0] + 30, at[1] + 50), self.on_canvas(x + 30, y + 50))
        self.act("Stand in depth, or lie flat")
        self.settle()
        if z is not None:
            self.enter_number(self.editor.details.editors["position_z"].field, str(z))
        return card

    def handle(self, name: str) -> QPointF:
        frame = frame_of(self.session, self.editor.canvas.viewport.to_widget)
        assert frame is not None
        return QPointF(*space_handles(frame)[name])

    def test_three_cards_fly_in(self) -> None:
        cards = [self.card(x, 240, z) for x, z in ((180, 0), (320, 300), (460, 600))]
        for place, card in enumerate(cards):
            self.session.select([card])
            self.session.go_to(24 + 4 * place)
            self.settle()
            self.click(self.editor.details.beads["position_z"])
            self.session.go_to(0)
            self.settle()
            self.enter_number(self.editor.details.editors["position_z"].field, "-820")
            self.assertEqual([key.frame for key in self.layer(card).track("position_z").keys], [0, 24 + 4 * place])
        def seen(at: int) -> int:
            return int((render_rgba8(self.session.project, self.session.composition_id, at, 0.5)[..., 3] > 60).sum())

        # Ever nearer than the frame's plane in the beginning, three cards of their own size and less in the end.
        self.assertGreater(seen(0), seen(32))
        self.assertGreater(seen(32), 3000)
        for _ in range(3):
            self.session.select([])
        self.assertEqual(self.said, [])

    def test_the_handles_change_z_and_turns(self) -> None:
        card = self.card(320, 240)
        start = self.handle("deep")
        self.drag(self.editor.canvas, start, start + QPointF(0, -60))
        self.assertAlmostEqual(self.value(card, "position_z"), 120, delta=6)
        start = self.handle("swing")
        self.drag(self.editor.canvas, start, start + QPointF(-80, 0))
        self.assertAlmostEqual(self.value(card, "turn_y"), 40, delta=3)
        start = self.handle("tip")
        self.drag(self.editor.canvas, start, start + QPointF(0, -52), SHIFT)
        self.assertEqual(self.value(card, "turn_x") % 15, 0)
        self.assertNotEqual(self.value(card, "turn_x"), 0)
        self.assertIsInstance(sight(self.session, self.layer(card)), Projection)
        self.session.undo()
        self.assertEqual(self.value(card, "turn_x"), 0)

    def test_the_handle_for_depth_snaps_to_what_stands_beside(self) -> None:
        self.card(160, 240, 200)
        card = self.card(420, 240)
        start = self.handle("deep")
        for pixels, keys, wanted in ((95, NONE, 200), (95, CONTROL, 190), (3, NONE, 0), (60, NONE, 120)):
            self.session.set_property("position_z", 0.0, [card])
            self.settle()
            self.drag(self.editor.canvas, start, start + QPointF(0, -pixels), keys)
            self.assertAlmostEqual(self.value(card, "position_z"), wanted, delta=6 if wanted in (190, 120) else 0.01)

    def test_a_card_that_is_dragged_stays_under_the_pointer(self) -> None:
        card = self.card(320, 240, 700)
        self.session.set_property("turn_y", 50.0, [card])
        self.settle()
        self.session.view.toggle("snap")
        self.drag(self.editor.canvas, self.on_canvas(320, 240), self.on_canvas(400, 200))
        map_ = sight(self.session, self.layer(card))
        middle = map_.apply(60.0, 80.0)
        self.assertAlmostEqual(middle[0], 400, delta=4)
        self.assertAlmostEqual(middle[1], 200, delta=4)
        self.assertEqual(self.value(card, "position_z"), 700)

    def test_the_way_is_drawn_and_bent_where_it_is_seen(self) -> None:
        card = self.card(320, 240, 400)
        way_ = Track((220.0, 200.0), (Key(0, (220.0, 200.0)), Key(20, (420.0, 300.0))))
        self.session.edit_layers("keys", lambda y: y.with_track("position", way_), [card])
        self.session.go_to(20)
        self.settle()
        layer = self.layer(card)
        way = way_in_space(self.session, layer)
        self.assertEqual(len(way), 21)
        # The pivot at the last frame lies on the end of the way.
        np.testing.assert_allclose(way[-1], sight(self.session, layer).apply(60.0, 80.0), atol=0.01)
        share = 640 * 50 / 36 / (640 * 50 / 36 + 400)
        np.testing.assert_allclose(way[0], (320 - 100 * share, 240 - 40 * share), atol=0.01)
        self.session.view.toggle("snap")
        start = self.on_canvas(*way[0])
        self.drag(self.editor.canvas, start, start + QPointF(-30, 12))
        self.assertLess(self.layer(card).track("position").keys[0].value[0], 200)
        np.testing.assert_allclose(
            way_in_space(self.session, self.layer(card))[0],
            self.editor.canvas.viewport.to_composition(start + QPointF(-30, 12)), atol=1.5,
        )  # fmt: skip

    def test_clicks_find_the_nearest_and_only_what_is_seen_there(self) -> None:
        near = self.card(320, 240, -100)
        far = self.card(330, 250, 500)
        self.assertEqual(layer_at(self.session, (322.0, 242.0), 2.0).id, near)
        self.session.set_property("turn_y", 85.0, [near])
        self.assertEqual(layer_at(self.session, (345.0, 242.0), 2.0).id, far)

    def test_from_behind_a_click_means_what_is_nearest_there(self) -> None:
        near, far = self.card(320, 240, -100), self.card(320, 240, 500)
        self.session.viewpoint.turn = (0.0, 180.0)
        for view, meant in (("front", near), ("free", far)):
            self.click(self.editor.canvas.viewpoints.buttons[view])
            self.settle(0.2)
            self.session.select([])
            self.assertEqual(layer_at(self.session, (320.0, 240.0), 2.0).id, meant)

    def test_a_card_is_moved_in_depth_from_above(self) -> None:
        card = self.card(320, 240)
        bar = self.editor.canvas.viewpoints
        self.assertTrue(bar.isVisible())
        self.click(bar.buttons["top"])
        self.settle(0.2)
        x, y = sight(self.session, self.layer(card)).apply(60.0, 80.0) if self.value(card, "turn_x") else (320.0, 240.0)
        self.session.set_property("turn_x", 60.0, [card])
        self.settle()
        x, y = sight(self.session, self.layer(card)).apply(60.0, 80.0)
        self.drag(self.editor.canvas, self.on_canvas(x, y), self.on_canvas(x + 30, y - 60))
        place = self.value(card, "position")
        # From above a px of the view is 1 / 0.6 px; up is away, and what is above the plane does not change.
        self.assertAlmostEqual(place[0], 320 + 30 / 0.6, delta=6)
        self.assertAlmostEqual(place[1], 240, delta=0.01)
        self.assertAlmostEqual(self.value(card, "position_z"), 60 / 0.6, delta=8)
        self.click(bar.buttons["camera"])
        self.assertEqual(self.session.viewpoint.name, "camera")

    def test_from_the_side_a_drag_moves_along_z_and_y(self) -> None:
        card = self.card(320, 240)
        self.session.set_property("turn_y", 60.0, [card])
        self.click(self.editor.canvas.viewpoints.buttons["side"])
        self.settle(0.2)
        x, y = sight(self.session, self.layer(card)).apply(60.0, 80.0)
        self.drag(self.editor.canvas, self.on_canvas(x, y), self.on_canvas(x + 60, y - 30))
        self.assertAlmostEqual(self.value(card, "position_z"), 60 / 0.6, delta=8)
        self.assertAlmostEqual(self.value(card, "position")[1], 240 - 30 / 0.6, delta=6)
        self.assertAlmostEqual(self.value(card, "position")[0], 320, delta=0.01)

    def test_a_view_shows_what_was_edited_and_nothing_flat(self) -> None:
        self.click(self.editor.add_strip.backdrop)
        card = self.card(320, 240)
        self.click(self.editor.canvas.viewpoints.buttons["front"])

        def shown() -> np.ndarray:
            self.until(lambda: self.window.player.latest_picture() is not None)
            self.settle(0.5)
            return self.window.player.latest_picture()[..., 3].copy()

        before = shown()
        self.assertEqual(before[2, 2], 0)
        self.assertGreater((before > 60).sum(), 100)
        self.session.set_property("position", (480.0, 240.0), [card])
        after = shown()
        self.assertGreater(after.any(axis=0).nonzero()[0].mean(), before.any(axis=0).nonzero()[0].mean() + 10)

    def test_a_second_view_shows_the_other_side_and_changes_places(self) -> None:
        card = self.card(320, 240, 200)
        self.session.set_property("turn_y", 50.0, [card])
        canvas = self.editor.canvas
        self.assertFalse(canvas.second.isVisible())
        self.click(canvas.viewpoints.two)
        self.until(lambda: canvas.second._image is not None)
        self.assertEqual((self.session.viewpoint.name, canvas.second.name), ("camera", "top"))

        def pictured() -> int:
            pixels = canvas.second._pixels
            return int((pixels[..., 3] > 60).sum()) if pixels is not None else 0

        above = pictured()
        self.assertGreater(above, 20)
        self.session.set_property("position", (200.0, 240.0), [card])
        before = canvas.second._pixels
        self.until(lambda: canvas.second._pixels is not before)
        # A click in it: now one works from above, and sees through the camera beside it.
        self.click(canvas.second, QPointF(20, 60))
        self.assertEqual((self.session.viewpoint.name, canvas.second.name), ("top", "camera"))
        self.until(lambda: pictured() > 3 * above)
        x, y = sight(self.session, self.layer(card)).apply(60.0, 80.0)
        self.drag(canvas, self.on_canvas(x, y), self.on_canvas(x, y - 60))
        self.assertGreater(self.value(card, "position_z"), 250)
        # Never twice the same, and away for what is flat.
        self.click(canvas.viewpoints.buttons["camera"])
        self.assertEqual((self.session.viewpoint.name, canvas.second.name), ("camera", "top"))
        self.session.edit_layers("Flat", lambda y: evolve(y, properties={}), [card])
        self.settle()
        self.assertFalse(canvas.second.isVisible())

    def test_views_change_no_project_and_no_frame_that_is_written(self) -> None:
        card = self.card(320, 240, 200)
        before, version = self.session.project, self.session.version
        written = render_rgba8(before, self.session.composition_id, 0, 0.5).copy()
        shown = {}
        for name in ("camera", "front", "side", "top", "free"):
            self.click(self.editor.canvas.viewpoints.buttons[name])
            self.until(lambda: self.window.player.latest_picture() is not None)
            self.settle(0.3)
            shown[name] = self.window.player.latest_picture().copy()
        self.assertIs(self.session.project, before)
        self.assertEqual(self.session.version, version)
        self.assertFalse(np.array_equal(shown["camera"], shown["side"]))
        self.assertFalse(np.array_equal(shown["front"], shown["free"]))
        np.testing.assert_array_equal(render_rgba8(self.session.project, self.session.composition_id, 0, 0.5), written)
        pad = self.editor.canvas.viewpoints.pad
        self.assertTrue(pad.isVisible())
        turn = self.session.viewpoint.turn
        self.drag(pad, QPointF(8, 8), QPointF(22, 8))
        self.assertNotEqual(self.session.viewpoint.turn, turn)
        QTest.keyClick(pad, Qt.Key.Key_Up, NONE)
        self.assertAlmostEqual(self.session.viewpoint.turn[0], turn[0] + 5, delta=0.01)
        self.assertIsNotNone(card)

    def test_a_camera_is_added_moved_from_above_and_seen_through(self) -> None:
        card = self.card(320, 240, 200)
        shapes = self.editor.add_strip.shape.menu()
        before = render_rgba8(self.session.project, self.session.composition_id, 0, 0.5).astype(int)
        next(action for action in shapes.actions() if action.text() == "Camera").trigger()
        self.settle()
        camera = self.session.selected[0]
        after = render_rgba8(self.session.project, self.session.composition_id, 0, 0.5).astype(int)
        self.assertLessEqual(np.abs(after - before).max(), 1)
        self.enter_number(self.editor.details.editors["position_z"].field, "-400")
        nearer = render_rgba8(self.session.project, self.session.composition_id, 0, 0.5)
        self.assertGreater((nearer[..., 3] > 60).sum(), 1.3 * (before[..., 3] > 60).sum())
        self.click(self.editor.canvas.viewpoints.buttons["top"])
        self.settle(0.2)
        x, y = sight(self.session, self.layer(camera)).apply(0.0, 0.0)
        self.drag(self.editor.canvas, self.on_canvas(x, y), self.on_canvas(x, y + 60))
        self.assertAlmostEqual(self.value(camera, "position_z"), -500, delta=12)
        self.assertIsNotNone(card)

    def test_a_camera_goes_round_by_a_move_that_flat_layers_are_not_offered(self) -> None:
        card = self.card(320, 240, 200)
        for kind, offered in (("camera", True), ("flat", False)):
            if kind == "camera":
                shapes = self.editor.add_strip.shape.menu()
                next(action for action in shapes.actions() if action.text() == "Camera").trigger()
            else:
                self.session.select([card])
                self.act("Stand in depth, or lie flat")
            self.settle()
            self.window.windows.choose_move()
            chooser = next(w for w in QApplication.topLevelWidgets() if isinstance(w, MovesChooser) and w.isVisible())
            self.click(next(b for b in chooser.families.buttons() if b.text() == "Loops"))
            self.assertEqual("go-round" in chooser.tiles, offered)
            if offered:
                self.assertFalse(chooser.tiles["go-round"].picture.isNull())
                self.click(chooser.tiles["go-round"])
                self.settle()
                chooser.accept()
            else:
                chooser.reject()
            self.settle()
        camera = next(y for y in self.session.composition.layers if y.kind == "camera")
        self.assertEqual(camera.animated(), ["position", "position_z", "turn_y"])
        self.assertEqual([use.name for use in camera.moves], ["go-round"])

    def test_depth_off_again_lies_flat_and_keeps_the_numbers(self) -> None:
        card = self.card(320, 240, 300)
        self.act("Stand in depth, or lie flat")
        self.assertFalse(self.value(card, "depth"))
        self.assertEqual(self.value(card, "position_z"), 300)
        self.assertNotIsInstance(sight(self.session, self.layer(card)), Projection)
