"""Two studies laid out from nothing, by mouse and keys."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, Qt

from spiralis.core.editing.arranging import seen_box
from spiralis.core.model import Layer, Project
from spiralis.core.render import render_frame
from tests.app.harness import WindowTest
from tests.core.samples import project


def empty_square() -> Project:
    return project(width=1080, height=1080, length=100)


def empty_portrait() -> Project:
    return project(width=1080, height=1350, length=100)


class StudyTest(WindowTest):
    sample = staticmethod(empty_square)

    def menu(self, label: str) -> Layer:
        entries = {action.text(): action for action in self.editor.add_strip.shape.menu().actions()}
        entries[label].trigger()
        self.settle()
        return self.session.layers[0]

    def number(self, name: str, text: str, component: int | None = None) -> None:
        editor = self.editor.details.editors[name]
        field = editor.field if component is None else editor.fields[component]
        self.enter_number(field, text)

    def write(self, text: str) -> Layer:
        """Add words by the strip's button and type them."""
        self.click(self.editor.add_strip)
        self.act("Add text")
        self.type_(self.editor.canvas, text)
        self.press(self.editor.canvas, Qt.Key.Key_Escape)
        return self.session.layers[0]

    def key_bead(self, name: str) -> None:
        self.click(self.editor.details.beads[name])

    def go(self, frame: int) -> None:
        """Scrub along the ruler."""
        ruler = self.editor.timeline.ruler
        self.click(ruler, QPointF(self.editor.timeline.axis().x(frame), 24))
        self.assertEqual(self.session.frame, frame)


class SplitHeadlineTest(StudyTest):
    def half(self, text: str, start: str, end: str) -> Layer:
        """Make a half: words in a nest of their own that come out of its edge."""
        words = self.write(text)
        self.number("size", "200")
        self.go(13)
        self.number("position", end, 1)
        self.key_bead("position")
        self.go(0)
        self.number("position", start, 1)
        self.assertEqual(len(self.layer(words.id).track("position").keys), 2)
        self.act("Nest at full size")
        return self.session.layers[0]

    def test_two_halves_rise_and_drop_out_of_a_line(self) -> None:
        self.menu("Line")
        self.number("size", "860", 0)
        self.act("Align middles")
        upper = self.half("SEWN BY", "700", "430")
        self.act("Mask with a rectangle")
        # The mask's lower edge is the line: it shows the upper half of the nest only.
        self.number("size", "1080", 0)
        self.number("size", "540", 1)
        self.number("position", "540", 0)
        self.number("position", "270", 1)
        self.session.select([upper.id])
        self.act("Duplicate")
        self.act("Make own copy")
        pieces = self.session.project.compositions
        self.assertEqual(len(pieces), 3)
        lower = self.session.layers[0]
        self.assertNotEqual(lower.track("composition").value, self.layer(upper.id).track("composition").value)
        self.act("Go into the chosen nested composition")
        words = self.session.composition.layers[0]
        self.session.select([words.id])
        self.editor.canvas.edit_text(words.id)
        self.type_(self.editor.canvas, "HAND")
        self.press(self.editor.canvas, Qt.Key.Key_Escape)
        self.act("Go back up")
        first = render_frame(self.session.project, self.session.composition_id, 0, 0.25)
        later = render_frame(self.session.project, self.session.composition_id, 20, 0.25)
        self.assertEqual(float(first[40:120, :, 3].max()), 0.0)
        self.assertGreater(float(later[90:125, :, 3].max()), 0.9)
        names = {layer.track("text").value for p in self.session.project.compositions for layer in p.layers
                 if layer.kind == "text"}  # fmt: skip
        self.assertEqual(names, {"SEWN BY", "HAND"})
        while self.session.history.undo_name:
            self.act("Undo")
        self.assertEqual(self.session.composition.layers, ())


class CatalogueTest(StudyTest):
    sample = staticmethod(empty_portrait)

    def rectangle(self, width: str, height: str, x: str, y: str) -> Layer:
        layer = self.menu("Rectangle")
        for index, text in enumerate((width, height)):
            self.number("size", text, index)
        for index, text in enumerate((x, y)):
            self.number("position", text, index)
        return self.layer(layer.id)

    def test_cards_scroll_behind_a_kiosks_window(self) -> None:
        body = self.rectangle("880", "1040", "540", "640")
        self.number("corners", "96")
        card = self.rectangle("640", "300", "540", "400")
        words = self.write("Swift")
        self.number("size", "64")
        self.session.select([card.id, words.id])
        self.act("Align middles")
        self.act("Align centres")
        self.act("Nest cropped to its content")
        nested = [self.session.layers[0].id]
        for _ in range(3):
            self.act("Duplicate")
            self.act("Make own copy")
            self.number("position", f"{400 + 330 * len(nested)}", 1)
            nested.append(self.session.layers[0].id)
        self.session.select(nested)
        self.act("Equal gaps down")
        boxes = sorted(seen_box(self.session.evaluated(), self.layer(n)) for n in nested)
        gaps = {round(b[1] - a[3], 3) for a, b in zip(boxes, boxes[1:], strict=False)}
        self.assertEqual(len(gaps), 1)
        self.act("Nest cropped to its content")
        page = self.session.layers[0]
        self.act("Window that stays while the content moves")
        self.number("size", "760", 0)
        self.number("size", "900", 1)
        self.number("position", "540", 0)
        self.number("position", "640", 1)
        self.session.select([page.id])
        self.go(0)
        self.key_bead("position")
        before = self.value(page.id, "position")
        self.go(40)
        self.number("position", f"{before[1] - 500}", 1)
        pixels = {f: render_frame(self.session.project, self.session.composition_id, f, 0.25) for f in (0, 40)}
        self.assertGreater(float(np.abs(pixels[0] - pixels[40])[60:260, 50:220].mean()), 0.01)
        # Outside the window nothing of the page is ever seen.
        np.testing.assert_allclose(pixels[0][:44], pixels[40][:44], atol=1e-5)
        self.session.select([body.id])
        self.act("Send backward")
        shared = [layer for layer in self.session.composition.layers if layer.kind == "nested"]
        self.assertEqual(len(shared), 1)
        self.assertEqual(len(self.session.project.compositions), 6)
