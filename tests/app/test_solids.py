"""A box that turns in the light and throws a shadow, made from nothing by mouse and keys."""

import numpy as np
from attrs import evolve
from PyQt6.QtCore import QPointF, Qt

from spiralis.app.canvas.handles import frame_of
from spiralis.app.canvas.picking import layer_at
from spiralis.app.canvas.sight import planes_in_sight
from spiralis.app.canvas.space_handles import space_handles
from spiralis.core.model import Composition, Project
from spiralis.core.render.frame import render_rgba8
from tests.app.harness import WindowTest
from tests.core.samples import backdrop, project


def empty() -> Project:
    return project(backdrop(640, 480, (0.9, 0.9, 0.9, 1.0)), width=640, height=480, length=40, loop=True)


def with_another(sample: Project) -> Project:
    green = backdrop(64, 64, (0.0, 1.0, 0.0, 1.0))
    other = Composition("Other", 64, 64, sample.compositions[0].rate, 40, layers=(green,), id="other")
    return evolve(sample, compositions=(*sample.compositions, other))


class SolidsTest(WindowTest):
    sample = staticmethod(empty)

    def added(self, label: str) -> str:
        menu = self.editor.add_strip.shape.menu()
        next(action for action in menu.actions() if action.text() == label).trigger()
        self.settle()
        return self.session.selected[0]

    def pixels(self, frame: int = 0) -> np.ndarray:
        return render_rgba8(self.session.project, self.session.composition_id, frame, 1.0).astype(int)

    def pixels_of_view(self) -> np.ndarray:
        project, _ = self.session.pictured
        return render_rgba8(project, self.session.composition_id, 0, 0.5).astype(int)

    def test_a_box_in_the_light(self) -> None:
        box = self.added("Box")
        self.assertTrue(self.value(box, "depth"))
        self.enter_number(self.editor.details.editors["size"].fields[0], "120")
        self.enter_number(self.editor.details.editors["size"].fields[1], "100")
        self.enter_number(self.editor.details.editors["deep"].field, "140")
        self.assertEqual(len(planes_in_sight(self.session, self.layer(box))), 6)
        before = self.pixels()
        # A new light goes beneath what stands in depth, over the backdrop.
        light = self.added("Light")
        self.assertEqual([y.kind for y in self.session.composition.layers], ["box", "light", "backdrop"])
        lit = self.pixels()
        self.assertGreater(np.abs(lit - before).max(), 30, "faces are as bright as they are turned")
        ground = self.editor.details.editors["ground"].box
        ground.setCurrentIndex(ground.findText("Floor"))
        ground.activated.emit(ground.currentIndex())
        self.settle()
        self.assertEqual(self.value(light, "ground"), "floor")
        self.enter_number(self.editor.details.editors["ground_y"].field, "330")
        shaded = self.pixels()
        fell = (lit - shaded).sum(axis=2) > 30
        self.assertGreater(fell.sum(), 1500, "its shadow lies on the floor")
        self.assertGreater(np.argwhere(fell)[:, 0].mean(), 280)
        # The arrow on the canvas turns the light, and the shadow goes round.
        grip = self.session.evaluated().values(self.layer(light))
        start = self.on_canvas(320 + 77.1 * np.cos(np.radians(grip["angle"])), 240 + 77.1 * np.sin(np.radians(60)))
        self.drag(self.editor.canvas, start, self.on_canvas(320 - 60, 240 + 60))
        self.assertAlmostEqual(self.value(light, "angle"), 135, delta=6)
        moved = (lit - self.pixels()).sum(axis=2) > 30
        self.assertLess(np.argwhere(moved)[:, 1].mean(), np.argwhere(fell)[:, 1].mean() - 20)
        # A click on a face that sticks out of the box's middle plane finds the box; one beside it the ground.
        self.session.select([])
        corner = max(
            (map_.apply(*point) for plane, map_ in planes_in_sight(self.session, self.layer(box))
             for point in ((5.0, 5.0), (95.0, 95.0))), key=lambda p: abs(p[0] - 320) + abs(p[1] - 240),
        )  # fmt: skip
        found = layer_at(self.session, corner, 2.0)
        self.assertEqual(found.id if found is not None else "", box)
        self.click(self.editor.canvas, self.on_canvas(*corner))
        self.settle()
        self.assertEqual(self.session.selected, (box,))
        # Turned by the handle of its upright, with a key, it shows its right face in the end.
        self.session.go_to(20)
        self.click(self.editor.details.beads["turn_y"])
        self.session.go_to(0)
        frame = frame_of(self.session, self.editor.canvas.viewport.to_widget)
        assert frame is not None
        swing = QPointF(*space_handles(frame)["swing"])
        self.drag(self.editor.canvas, swing, swing + QPointF(60, 0))
        keys = self.layer(box).track("turn_y").keys
        self.assertEqual([key.frame for key in keys], [0, 20])
        self.assertLess(keys[0].value, keys[1].value - 20)
        self.assertGreater(np.abs(self.pixels(0) - self.pixels(20)).max(), 60)

    def test_faces_of_their_own(self) -> None:
        box = self.added("Box")
        self.session.set_property("turn_x", 0.0, [box])
        self.session.set_property("turn_y", 0.0, [box])
        self.click(self.editor.details.editors["each"].box)
        self.settle()
        self.assertIn("front_fill", self.editor.details.editors)
        self.session.set_property("front_fill", (0.0, 0.0, 1.0, 1.0), [box])
        np.testing.assert_allclose(self.pixels()[240, 320, :3], (0, 0, 255), atol=3)
        # A composition, and nothing again, from the list of a face.
        self.session.edit_project("Another", with_another(self.session.project))
        shows = self.editor.details.editors["front_shows"].box
        for text, seen in (("Other", (0, 255, 0)), ("none", (0, 0, 255))):
            self.editor.details.editors["front_shows"].show_value(self.value(box, "front_shows"))
            shows.setCurrentIndex(shows.findText(text))
            shows.activated.emit(shows.currentIndex())
            self.settle()
            np.testing.assert_allclose(self.pixels()[240, 320, :3], seen, atol=3)
        self.act("Stand in depth, or lie flat")
        np.testing.assert_allclose(self.pixels()[240, 320, :3], (0, 0, 255), atol=3)
        self.assertEqual(planes_in_sight(self.session, self.layer(box)), [])

    def test_words_get_sides(self) -> None:
        self.click(self.editor.add_strip.text)
        self.settle()
        words = self.session.selected[0]
        self.press(self.editor.canvas, Qt.Key.Key_Escape)
        self.session.select([words])
        self.act("Stand in depth, or lie flat")
        self.session.set_property("turn_y", 35.0, [words])
        self.settle()
        before = self.pixels()
        self.enter_number(self.editor.details.editors["thickness"].field, "40")
        self.session.set_property("side_fill", (1.0, 0.0, 0.0, 1.0), [words])
        red = (self.pixels() - before).dot((0, -1, -1, 0)) > 200
        self.assertGreater(red.sum(), 1000)
        self.enter_number(self.editor.details.editors["bevel"].field, "4")
        self.assertEqual(self.value(words, "bevel"), 4)
        self.act("Stand in depth, or lie flat")
        self.settle()
        self.assertNotIn("thickness", self.editor.details.editors)
        self.assertEqual(self.value(words, "thickness"), 40, "the number stays")

    def test_a_nest_keeps_its_depth(self) -> None:
        for place, z in ((260, 0.0), (380, 250.0)):
            box = self.added("Box")
            self.session.set_property("position", (float(place), 240.0), [box])
            self.session.set_property("position_z", z, [box])
        self.session.select([y.id for y in self.session.composition.layers if y.kind == "box"])
        self.act("Nest at full size")
        self.settle()
        nest = self.session.selected[0]
        self.assertTrue(self.value(nest, "depth") and self.value(nest, "keeps_depth"))
        self.session.set_property("turn_y", 40.0, [nest])
        self.settle()
        deep = self.pixels()
        self.click(self.editor.details.editors["keeps_depth"].box)
        self.settle()
        self.assertFalse(self.value(nest, "keeps_depth"))
        self.assertGreater((np.abs(self.pixels() - deep).max(axis=2) > 40).sum(), 3000)

    def test_views_from_elsewhere_show_the_box_there(self) -> None:
        box = self.added("Box")
        through = [map_.apply(0.0, 0.0) for _, map_ in planes_in_sight(self.session, self.layer(box))]
        self.act("From the side")
        self.settle()
        box_at = self.pixels_of_view()
        self.added("Light")
        self.session.select([box])
        self.act("From the side")
        self.settle()
        self.assertGreater(np.abs(self.pixels_of_view() - box_at).max(), 20, "light falls there too")
        aside = [map_.apply(0.0, 0.0) for _, map_ in planes_in_sight(self.session, self.layer(box))]
        self.assertGreater(np.abs(np.array(aside) - np.array(through)).max(), 20)

