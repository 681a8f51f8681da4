"""Every editor of Details, for every kind of layer and of effect: two chosen layers get what one does there and keep
all else, each its own; one step to undo brings both back."""

import unittest
from collections.abc import Iterator
from unittest import mock

from attrs import evolve
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtTest import QTest

from spiralis.app.colours import ColourPanel
from spiralis.app.details.curve import CurveEditor
from spiralis.app.details.editor import Editor
from spiralis.app.details.editors import (
    ChoiceEditor,
    ColourEditor,
    NumberEditor,
    PairEditor,
    StopsEditor,
    SwitchEditor,
    WordsEditor,
)
from spiralis.app.details.page import Page
from spiralis.app.main import application
from spiralis.app.session import Session
from spiralis.core.editing.effecting import with_effect
from spiralis.core.model import Composition, Kind, Layer, Parameter, Project, Value, layer_kind, layer_kinds
from spiralis.core.model.blocks import effect_kinds
from tests.core.test_every_value import OWN, SOUND, SOURCE

LEFT = Qt.MouseButton.LeftButton
#: Switches and choices that others go along with, so that the layer looks as before.
_TAKE_ALONG = ("separate", "flow", "retime", "source")


def other_value(parameter: Parameter, value: Value) -> Value:
    """Return another value than a layer has, but for what decides which rows there are."""
    if parameter.kind is Kind.NUMBER:
        return min(max(0.7 * value + 1.3, parameter.minimum), parameter.maximum)
    if parameter.kind is Kind.PAIR:
        return tuple(min(max(0.7 * part + 1.3 + at, parameter.minimum), parameter.maximum)
                     for at, part in enumerate(value))  # fmt: skip
    if parameter.kind is Kind.COLOUR:
        return (0.25, 0.5, 0.75, 1.0)
    if parameter.kind is Kind.STOPS:
        return ((0.0, 0.1, 0.2, 0.3, 1.0), (0.3, 0.9, 0.2, 0.3, 1.0), (1.0, 0.1, 0.8, 0.3, 1.0))
    if parameter.kind is Kind.CURVE:
        return ((0.0, 0.1), (0.3, 0.6), (1.0, 0.9))
    return "Other\nwords" if parameter.kind is Kind.TEXT else value


def varied(layer: Layer) -> Layer:
    values = {p.name: other_value(p, layer.track(p.name).value) for p in layer.parameters}
    return evolve(layer.with_values(**values), id="second", name="Second")


class EveryEditorTest(unittest.TestCase):
    def setUp(self) -> None:
        self.app = application()
        self.ground = Layer("Ground", "backdrop", 0, 40, id="ground")
        self.dot = Layer("Dot", "shape", 0, 40, id="dot").with_values(form="ellipse", size=(6.0, 6.0))

    def show(self, first: Layer) -> None:
        """Choose a layer, and another one like it but of other values, in a piece of their own."""
        inner = Composition("Inner", 20, 16, 25, 40, id="inner", layers=(self.dot,))
        layers = (first, varied(first), self.dot, self.ground)
        piece = Composition("Piece", 320, 240, 25, 40, id="piece", layers=layers)
        self.session = Session(Project("P", (piece, inner), (SOURCE, SOUND)))
        self.said: list[str] = []
        self.session.failed.connect(self.said.append)
        self.session.select(["first", "second"])
        self.page = Page(self.session, self.session.layers)
        while not self.page.whole:
            self.page.build_next()
        self.page.resize(320, 600)
        self.page.show()

    def samples(self) -> Iterator[Layer]:
        for kind in layer_kinds():
            yield Layer("First", kind.name, 0, 40, id="first").with_values(**OWN.get(kind.name, {}))

    def work(self, editor: Editor) -> bool:
        """Do in an editor what a person does; False where it offers nothing else."""
        parameter = editor.parameter
        if isinstance(editor, NumberEditor | PairEditor):
            field = editor.field if isinstance(editor, NumberEditor) else editor.fields[1]
            low, high = max(parameter.minimum, -1000.0), min(parameter.maximum, 1000.0)
            number = round(low + 0.37 * (high - low), 0 if high - low > 6 else 2)
            QTest.mouseClick(field, LEFT)
            QTest.keyClicks(field, f"{number + (number == field.value)}")
            QTest.keyClick(field, Qt.Key.Key_Return)
        elif isinstance(editor, ColourEditor):

            def green(panel: ColourPanel) -> int:
                panel.hex.setText("#0a940b")
                panel.hex.editingFinished.emit()
                return 1

            with mock.patch.object(ColourPanel, "exec", green):
                editor.field.click()
        elif isinstance(editor, StopsEditor):
            QTest.mouseDClick(editor.field, LEFT, pos=QPointF(90, 10).toPoint())
        elif isinstance(editor, CurveEditor):
            QTest.mouseClick(editor.field, LEFT, pos=QPointF(0.6 * editor.field.width(), 20).toPoint())
        elif isinstance(editor, SwitchEditor):
            editor.box.click()
        elif isinstance(editor, WordsEditor):
            editor.text.setPlainText("Words for both")
            editor.finished.emit()
        elif isinstance(editor, ChoiceEditor) and editor.box.count() > 1:
            at = (editor.box.currentIndex() + 1) % editor.box.count()
            if editor.box.itemText(at).startswith("Bring"):
                return False
            editor.box.setCurrentIndex(at)
            editor.box.activated.emit(at)
        else:
            return False
        return True

    def check(self, parameter: Parameter, before: Project) -> None:
        name, was = parameter.name, [before.compositions[0].layer(held) for held in ("first", "second")]
        now = self.session.layers
        values = [[layer.track(name).value for layer in pair] for pair in (was, now)]
        self.assertEqual([], self.said)
        self.assertNotEqual(values[0][0], values[1][0], "nothing has changed")
        if parameter.kind is not Kind.PAIR:
            self.assertEqual(values[1][0], values[1][1])
        elif name == "scale":  # Linked: each keeps its own ratio.
            self.assertEqual(values[1][0][1], values[1][1][1])
            self.assertAlmostEqual(values[0][1][0] / values[0][1][1], values[1][1][0] / values[1][1][1], 3)
        else:
            self.assertEqual(values[1][0][1], values[1][1][1])
            self.assertEqual([pair[0] for pair in values[0]], [pair[0] for pair in values[1]])
        if name not in _TAKE_ALONG:
            for a, b in zip(was, now, strict=True):
                others = [p.name for p in a.parameters if p.name != name and a.track(p.name) != b.track(p.name)]
                self.assertEqual([], others, "these have changed as well")
        self.session.undo()
        self.assertTrue(self.session.project is before, "it is one step")

    def go_over(self, first: Layer, wanted: set[str]) -> int:
        """Work in each of the wanted rows that two such layers have; return in how many."""
        self.show(first)
        count = 0
        for name in wanted & set(self.page.editors):
            with self.subTest(first.kind, blocks=[block.kind for block in first.blocks], property=name):
                before = self.session.project
                self.page.refresh()
                if self.work(self.page.editors[name]):
                    self.check(self.session.layers[0].parameter(name), before)
                    count += 1
        self.page.close()
        self.page.deleteLater()
        return count

    def test_of_layers(self) -> None:
        shared: set[str] = set()
        count = 0
        for first in self.samples():
            # What all kinds have is gone over once.
            wanted = {parameter.name for parameter in first.parameters} - shared
            shared |= wanted - {parameter.name for parameter in layer_kind(first.kind).own_parameters}
            count += self.go_over(first, wanted)
        self.assertGreater(count, 180)

    def test_of_effects(self) -> None:
        plain = next(layer for layer in self.samples() if layer.kind == "shape")
        count = 0
        for kind in effect_kinds():
            layer = with_effect(plain, kind.name)
            count += self.go_over(layer, {p.name for p in layer.parameters if p.block})
        self.assertGreater(count, 200)


if __name__ == "__main__":
    unittest.main()
