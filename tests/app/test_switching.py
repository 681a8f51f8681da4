"""Switches and choices in Details that take other values along, in the real window."""

from __future__ import annotations

import numpy as np
from attrs import evolve

from spiralis.core.editing.arranging import seen_box
from spiralis.core.model import Key, Layer, Source, Track
from spiralis.core.render.frame import render_frame
from tests.app.harness import WindowTest


class SwitchingTest(WindowTest):
    def add(self, layer: Layer) -> None:
        """Put a layer in front and choose it, its rows in Details."""
        self.session.edit("Add", lambda piece: evolve(piece, layers=(layer, *piece.layers)))
        self.session.select([layer.id])
        self.settle(0.1)

    def shown(self) -> list[object]:
        at, layer = self.session.evaluated(), self.session.layers[0]
        return [at.at_frame(frame).own_frame(layer) for frame in range(layer.first, layer.last)]

    def drawn(self) -> np.ndarray:
        return render_frame(self.session.project, self.session.composition_id, self.session.frame)

    def test_retime_begins_with_keys_that_show_what_it_showed(self) -> None:
        drawings = tuple((f"drawing {n}", 2) for n in range(6))
        self.add(Layer("Book", "flipbook", 0, 25, id="book").with_values(drawings=drawings, own_rate=24.0))
        before, version = self.shown(), self.session.project
        self.click(self.editor.details.editors["retime"].box)
        self.assertGreater(len(self.layer("book").track("own_frame").keys), 1)
        self.assertEqual(before, self.shown())
        self.act("Undo")
        self.assertEqual(version, self.session.project)

    def test_another_source_is_as_large_and_carries_what_hung_on_the_first(self) -> None:
        small, large = (Source(f"{w}.png", f"{w:064x}", ".png", w, w // 2, id=f"of{w}", data=b"-") for w in (80, 320))
        project = self.session.project
        self.session.edit_project("Sources", evolve(project, sources=(*project.sources, small, large)))
        self.add(Layer("Kite", "picture", 0, 50, id="kite").with_values(source="of80", position=(200.0, 150.0)))
        badge = Layer("Badge", "shape", 0, 50, id="badge", parent="kite").with_values(form="star", position=(9.0, 9.0))
        self.add(badge)
        self.session.select(["kite"])
        self.settle(0.1)

        def seen() -> list[tuple[float, ...]]:
            at = self.session.evaluated()
            return [seen_box(at, self.layer(name)) for name in ("kite", "badge")]

        before = seen()
        box = self.editor.details.editors["source"].box
        box.setCurrentIndex(box.findData("of320"))
        box.activated.emit(box.currentIndex())
        self.assertEqual(("of320", (25.0, 25.0)), (self.value("kite", "source"), self.value("kite", "scale")))
        np.testing.assert_allclose(before, seen(), atol=1e-6)
        self.act("Undo")
        self.assertEqual(badge, self.layer("badge"))

    def test_a_rectangle_becomes_a_drawing_of_it_and_says_what_rests(self) -> None:
        grows = Track((90.0, 60.0), (Key(0, (90.0, 60.0)), Key(20, (180.0, 60.0))))
        self.add(Layer("Sign", "shape", 0, 50, id="sign").with_values(form="rectangle").with_track("size", grows))
        before = self.drawn()
        said: list[str] = []
        self.session.said.connect(said.append)
        box = self.editor.details.editors["form"].box
        box.setCurrentIndex(box.findData("drawing"))
        box.activated.emit(box.currentIndex())
        self.settle(0.1)
        self.assertIn("what moved that rests: Sign: Size.", said[-1])
        self.assertEqual("drawing", self.value("sign", "form"))
        self.assertLess(float(np.abs(self.drawn() - before).max()), 3 / 255)
