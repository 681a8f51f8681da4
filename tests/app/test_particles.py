"""Particles by mouse and keys: words gather out of a cloud, from an empty piece; a grip says which way they fly."""

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtWidgets import QMenu

from spiralis.core.model import Project
from spiralis.core.render.frame import render_rgba8
from tests.app.harness import WindowTest
from tests.core.samples import project


def empty() -> Project:
    return project(width=540, height=540, length=60, loop=True)


class ParticlesTest(WindowTest):
    sample = staticmethod(empty)

    def add(self, label: str) -> str:
        """Choose a set in the Shape menu, by mouse."""
        menu = self.editor.add_strip.shape.menu()
        part = next(child for child in menu.findChildren(QMenu) if child.title() == "Particles")
        entry = next(action for action in part.actions() if action.text() == label)
        part.popup(self.window.mapToGlobal(self.window.rect().center()))
        self.settle()
        self.click(part, QPointF(part.actionGeometry(entry).center()))
        self.settle(0.2)
        return next(layer.id for layer in self.session.composition.layers if layer.kind == "particles")

    def editor_of(self, name: str):  # type: ignore[no-untyped-def]
        return self.editor.details.editors[name]

    def test_words_gather_out_of_a_cloud_that_is_made_from_nothing(self) -> None:
        self.click(self.editor.add_strip.text)
        self.type_(self.editor.canvas, "kite")
        self.press(self.editor.canvas, Qt.Key.Key_Escape)
        words = self.session.composition.layers[0]
        cloud = self.add("Gather into a shape")
        self.assertEqual(self.value(cloud, "of"), words.id)
        self.assertEqual([key.frame for key in self.layer(cloud).track("gather").keys], [0, 21, 42, 60])
        self.enter_number(self.editor_of("count").field, "2500")
        self.enter_number(self.editor_of("near_share").field, "0")
        self.enter_number(self.editor_of("far_share").field, "0")
        self.enter_number(self.editor_of("size").field, "6")
        self.assertEqual(self.value(cloud, "count"), 2500)
        self.session.set_property("visible", False, [words.id])
        sample, piece = self.session.project, self.session.composition_id
        shown = [render_rgba8(sample, piece, at, 1.0)[..., 3] > 40 for at in (0, 30)]
        self.assertGreater(shown[1].sum(), 2000)
        high = [int(np.ptp(picture.any(axis=1).nonzero()[0])) for picture in shown]
        self.assertLess(high[1], 160)
        self.assertGreater(high[0], high[1] + 40)
        for _ in range(12):
            self.session.undo()
        self.assertEqual(self.session.composition.layers, ())

    def test_the_grip_says_which_way_and_how_fast(self) -> None:
        cloud = self.add("Bursts on a beat")
        self.session.select([cloud])
        self.settle()
        x, y = self.value(cloud, "position")
        before = self.value(cloud, "speed")
        # At rest 60 px from the middle, a px further for 4 px/s: upwards at first.
        at = self.on_canvas(x, y - 60 - before / 4)
        self.drag(self.editor.canvas, at, self.on_canvas(x + 110, y))
        self.assertAlmostEqual(self.value(cloud, "direction"), 0.0, delta=2.0)
        self.assertAlmostEqual(self.value(cloud, "speed"), 200.0, delta=12.0)
        self.session.undo()
        self.assertEqual(self.value(cloud, "speed"), before)

    def test_what_needs_a_shape_says_so_where_nothing_is_chosen(self) -> None:
        told: list[str] = []
        self.session.said.connect(told.append)
        self.add("Dissolve a shape")
        self.assertTrue(any("Shape of" in text for text in told), told)
