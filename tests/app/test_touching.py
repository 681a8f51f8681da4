"""Cut a subject out and fill what is behind it: by mouse, in the window."""

from __future__ import annotations

import time
import unittest
from collections.abc import Callable
from unittest import mock

import numpy as np
from attrs import evolve
from PyQt6.QtCore import QObject, QPointF, Qt
from PyQt6.QtTest import QTest

from spiralis.app.main import application
from spiralis.app.sources.entries import entries_of
from spiralis.app.touching.cutting import CutOutWindow
from spiralis.app.touching.filling import FillWindow
from spiralis.app.touching.view import BOX
from spiralis.app.touching.window import TouchWindow
from spiralis.app.work.working import Working
from spiralis.core.editing.touching import pixels_of
from spiralis.core.media.matting import within
from spiralis.core.media.pictures import picture_source
from spiralis.core.media.steps import Stops
from spiralis.core.model import Layer, Project, Source
from spiralis.core.model.touching import COPY, DROP, INSIDE, KEEP, Touched
from spiralis.core.render import render_frame
from tests.app.harness import LEFT, WindowTest
from tests.core.flat_pictures import N, subject
from tests.core.samples import backdrop, png_bytes, project


def poster() -> Project:
    """A flat poster: a warm body before a cool ground, shown by one layer."""
    source = picture_source(png_bytes(subject("hard")[0]), "poster.png")
    layer = Layer("Poster", "picture", 0, 50, id="poster").with_values(source=source.id, position=(180.0, 180.0))
    ground = backdrop(N, N, (0.0, 0.0, 0.0, 1.0))
    return project(layer, ground, sources=(source,), width=N, height=N, length=50)


class TouchingTest(WindowTest):
    sample = staticmethod(poster)

    def opened(self, label: str) -> TouchWindow:
        self.session.select(["poster"])
        self.act(label)
        window = self.window.windows.touching
        assert window is not None
        self.until(window.view.isEnabled)
        self.settle(0.1)
        return window

    def draw(self, window: TouchWindow, *points: tuple[float, float]) -> None:
        view = window.view
        places = [view.to_window(*point) for point in points]
        QTest.mousePress(view, LEFT, Qt.KeyboardModifier.NoModifier, places[0].toPoint())
        for before, place in zip(places, places[1:], strict=False):
            for share in (0.25, 0.5, 0.75, 1.0):
                self._move(view, before + (place - before) * share, Qt.KeyboardModifier.NoModifier)
        QTest.mouseRelease(view, LEFT, Qt.KeyboardModifier.NoModifier, places[-1].toPoint())
        self.settle(0.1)

    def finish(self, window: TouchWindow) -> None:
        self.click(window.finish)
        self.until(lambda: not window.isVisible(), 60)
        self.settle(0.1)

    def cut(self) -> CutOutWindow:
        window = self.opened("Cut out subject…")
        assert isinstance(window, CutOutWindow)
        self.draw(window, (70, 70), (290, 340))
        self.until(lambda: "of the picture" in window.state.text())
        return window

    def test_a_subject_is_cut_out_and_what_is_behind_it_filled(self) -> None:
        window = self.cut()
        self.assertEqual(window.view.tool, BOX)
        self.assertIsNotNone(window.view._shown, "the edge is shown as one draws")
        self.click(window.buttons[KEEP])
        self.draw(window, (180, 160), (180, 250))
        self.click(window.buttons[DROP])
        self.draw(window, (20, 20), (340, 20))
        self.until(lambda: "of the picture" in window.state.text())
        self.assertEqual([stroke.kind for stroke in window.touched.strokes], [KEEP, DROP])
        self.press(window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        self.assertEqual([stroke.kind for stroke in window.touched.strokes], [KEEP])
        self.finish(window)
        layers = self.session.composition.layers
        self.assertEqual([y.name for y in layers][:2], ["Poster cut out", "Poster"])
        self.assertEqual(self.session.selected, (layers[0].id,))
        cut = self.session.project.source(layers[0].track("source").value)
        assert cut is not None
        alpha = pixels_of(cut)[..., 3]
        self.assertEqual((alpha[205, 180], alpha[20, 20]), (255, 0))

        fill = self.opened("Fill behind…")
        assert isinstance(fill, FillWindow)
        self.assertTrue(fill.touched.strokes, "it begins with the area of the subject")
        self.until(lambda: fill.state.text().startswith("Filled"), 60)
        self.click(fill.buttons[COPY])
        self.draw(fill, (180, 200))
        self.assertRegex(fill.state.text(), "Alt-click first")
        view = fill.view
        QTest.mouseClick(view, LEFT, Qt.KeyboardModifier.AltModifier, view.to_window(40, 300).toPoint())
        count = len(fill.touched.strokes)
        self.draw(fill, (180, 200), (200, 210))
        self.assertEqual(len(fill.touched.strokes), count + 1)
        self.assertAlmostEqual(fill.touched.strokes[-1].away[0], -140, delta=3)
        self.until(lambda: fill.state.text().startswith("Filled"), 60)
        self.finish(fill)
        shown = self.session.project.source(self.layer("poster").track("source").value)
        assert shown is not None
        self.assertEqual(shown.name, "poster filled.png")
        middle = pixels_of(shown)[170:240, 150:210].astype(int)
        self.assertLess((middle[..., 0] - middle[..., 2]).max(), 60, "the subject is gone from the picture behind")
        self.act("Undo")
        self.act("Undo")
        self.assertEqual([y.name for y in self.session.composition.layers], ["Poster", "Ground"])

    def test_a_cut_out_opens_again_with_its_strokes(self) -> None:
        self.finish(self.cut())
        first = self.session.composition.layers[0]
        self.session.select([first.id])
        self.act("Cut out subject…")
        window = self.window.windows.touching
        assert isinstance(window, CutOutWindow)
        self.until(window.view.isEnabled)
        self.assertIsNotNone(window.touched.box)
        self.assertEqual(window.source.name, "poster.png")
        self.enter_number(window.shift, "6")
        self.finish(window)
        layers = self.session.composition.layers
        self.assertEqual((len(layers), layers[0].id), (3, first.id))
        cut = self.session.project.source(layers[0].track("source").value)
        assert cut is not None and cut.made is not None
        self.assertEqual(cut.made.shift, 6.0)

    def test_a_cut_out_is_made_anew_with_its_picture(self) -> None:
        self.finish(self.cut())
        cut_id = self.session.composition.layers[0].track("source").value
        poster = self.layer("poster").track("source").value
        sources = self.window.context.sources
        self.session.select(["poster"])
        self.act("Delete")
        sources.act("Remove", next(entry for entry in entries_of(self.session.project) if entry.id == poster))
        self.assertIn("made of", self.said[-1])
        sources.remove_unused()
        self.assertIsNotNone(self.session.project.source(poster))
        path = self.folder / "mirrored.png"
        path.write_bytes(png_bytes(np.ascontiguousarray(subject("hard")[0][:, ::-1])))
        before = self.session.project.source(cut_id)
        sources.replace(poster, path, "anew")
        self.until(lambda: self.session.project.source(cut_id) != before, 60)
        self.assertIn("made anew", self.window.notice.label.text())
        after = self.session.project.source(cut_id)
        assert before is not None and after is not None
        self.assertEqual(before.name, after.name)
        self.assertFalse((pixels_of(before) == pixels_of(after)).all())
        self.act("Undo")
        self.assertEqual(before, self.session.project.source(cut_id))
        # What is undone while it is being made stays undone.
        self.act("Undo")
        sources.replace(poster, path, "anew")
        self.until(lambda: self.session.history.undo_name == "Replace by mirrored.png", 60)
        self.act("Undo")
        self.until(lambda: not sources.remaking.background.busy, 60)
        self.assertEqual(before, self.session.project.source(cut_id))

    def test_a_subject_becomes_a_mask_or_a_shape(self) -> None:
        inside = subject("hard")[1] > 0.5
        for button, kind in (("as_mask", "mask"), ("as_shape", "outline")):
            window = self.cut()
            self.click(getattr(window, button))
            self.until(lambda w=window: not w.isVisible(), 60)
            self.settle(0.1)
            shape = self.session.layers[0]
            self.assertEqual((shape.kind, shape.name), ("shape", f"Poster {kind}"))
            if kind == "mask":
                self.assertEqual([matte.layer for matte in self.layer("poster").mattes], [shape.id])
                alone = self.session.project.with_composition(
                    evolve(self.session.composition, layers=self.session.composition.layers[:-1])
                )
                seen = render_frame(alone, self.session.composition_id, 0)[..., 3] > 0.5
            else:
                alone = self.session.project.with_composition(evolve(self.session.composition, layers=(shape,)))
                seen = render_frame(alone, self.session.composition_id, 0)[..., 3] > 0.5
            self.assertGreater((seen & inside).sum() / (seen | inside).sum(), 0.98)
            self.session.undo()
            self.assertEqual(self.layer("poster").mattes, ())

    def test_an_outline_by_hand_and_one_of_a_shape_are_the_subject(self) -> None:
        inside = subject("hard")[1] > 0.5
        window = self.opened("Cut out subject…")
        self.click(window.buttons[INSIDE])
        self.draw(window, (100, 100), (102, 100))
        self.assertEqual(window.touched.strokes, ())
        ys, xs = np.nonzero(inside)
        around = [(xs.min() - 3, ys.min() - 3), (xs.max() + 3, ys.min() - 3), (xs.max() + 3, ys.max() + 3),
                  (xs.min() - 3, ys.max() + 3), (xs.min() - 3, ys.min() - 3)]  # fmt: skip
        self.draw(window, *around)
        self.assertEqual([stroke.kind for stroke in window.touched.strokes], [INSIDE])
        self.until(lambda: "of the picture" in window.state.text())
        with mock.patch("spiralis.app.touching.window.sure", return_value=True):
            window.reject()
        # A shape that lies over the subject, turned with the picture.
        circle = Layer("Ring", "shape", 0, 50, id="ring").with_values(
            form="ellipse", size=(120.0, 90.0), position=(200.0, 160.0), rotation=30.0
        )
        piece = self.session.composition
        self.session.edit("Shape", lambda old: evolve(old, layers=(circle, *piece.layers)))
        self.session.edit_layers("Turn", lambda y: y.with_values(rotation=20.0, scale=(80.0, 80.0)), ["poster"])
        window = self.opened("Cut out subject…")
        assert isinstance(window, CutOutWindow)
        window.shapes.menu().aboutToShow.emit()
        next(a for a in window.shapes.menu().actions() if a.text() == "Ring").trigger()
        drawn = within((N, N), window.touched.strokes)
        assert drawn is not None
        at = self.session.evaluated()
        to_ring = at.matrix(self.layer("ring")).inverse() @ at.matrix(self.layer("poster"))
        y, x = np.mgrid[0:N, 0:N] + 0.5
        u, v = to_ring.a * x + to_ring.c * y + to_ring.e, to_ring.b * x + to_ring.d * y + to_ring.f
        wanted = ((u - 60) / 60) ** 2 + ((v - 45) / 45) ** 2 <= 1
        self.assertGreater((drawn & wanted).sum() / (drawn | wanted).sum(), 0.985)
        window.take_outline("poster")
        self.assertIn("has no outlines", window.state.text())
        with mock.patch("spiralis.app.touching.window.sure", return_value=True):
            window.reject()

    def test_cancel_stops_the_making_and_drops_what_was_drawn_only_when_asked(self) -> None:
        window, told = self.cut(), []
        drawn = window.touched

        def goes_on(source: Source, touched: Touched, stops: Stops) -> Source:
            while not stops(0.1):
                time.sleep(0.002)
            told.append("stop")
            return source

        with mock.patch("spiralis.app.touching.cutting.cut_source", goes_on):
            self.click(window.finish)
            self.click(window.stop)
            self.until(lambda: told == ["stop"])
        self.settle(0.3)
        self.assertIn("Stopped", window.state.text())
        self.assertTrue(window.isVisible() and window.finish.isEnabled())
        with mock.patch("spiralis.app.touching.window.sure", return_value=False) as asked:
            self.click(window.stop)
            self.press(window, Qt.Key.Key_Escape)
            window.close()
            self.assertEqual(asked.call_count, 3)
        self.assertTrue(window.isVisible())
        self.assertIs(window.touched, drawn)
        with mock.patch("spiralis.app.touching.window.sure", return_value=True):
            self.press(window, Qt.Key.Key_Escape)
        self.assertFalse(window.isVisible())
        self.assertEqual([y.name for y in self.session.composition.layers], ["Poster", "Ground"])
        # Where nothing was drawn there is nothing to ask.
        window = self.opened("Cut out subject…")
        self.press(window, Qt.Key.Key_Escape)
        self.assertFalse(window.isVisible())

    def test_strokes_that_were_taken_back_come_again(self) -> None:
        window = self.cut()
        steps = [*window.steps.before, window.touched]
        self.assertGreater(len(steps), 1)
        for _ in range(len(steps) + 1):
            window.steps.undo()
        self.assertIs(window.touched, steps[0])
        for _ in range(len(steps) + 1):
            window.steps.redo()
        self.assertIs(window.touched, steps[-1])
        self.assertEqual([*window.steps.before, window.touched], steps)
        window.steps.undo()
        window.change(evolve(window.touched, feather=9.0))
        window.steps.redo()
        self.assertEqual(window.touched.feather, 9.0)
        with mock.patch("spiralis.app.touching.window.sure", return_value=True):
            window.reject()

    def test_without_a_picture_it_says_so(self) -> None:
        self.session.select([self.session.composition.layers[-1].id])
        self.act("Cut out subject…")
        self.assertRegex(self.said[-1], "shows no picture")
        window = self.opened("Cut out subject…")
        self.click(window.finish)
        self.until(lambda: window.finish.isEnabled())
        self.assertRegex(window.state.text(), "Draw a box")
        self.click(window.stop)

    def test_zoom_keeps_the_place_under_the_pointer(self) -> None:
        view = self.opened("Cut out subject…").view
        point = QPointF(200, 150)
        before = view.to_picture(point)
        view.zoom_by(3, point)
        np.testing.assert_allclose(view.to_picture(point), before, atol=1e-6)
        view.fit()
        self.assertIsNone(view.zoom)

class WorkingTest(unittest.TestCase):
    """What is asked for while one draws: only the last question counts."""

    def setUp(self) -> None:
        self.app = application()
        self.owner = QObject()
        self.working = Working(self.owner)
        self.answers: list[object] = []
        self.told: list[float] = []
        self.working.progressed.connect(self.told.append)

    def until(self, reached: Callable[[], bool]) -> None:
        ends = time.perf_counter() + 20
        while not reached():
            self.assertLess(time.perf_counter(), ends)
            self.app.processEvents()
            time.sleep(0.002)

    def stopped(self, went: list[str], name: str) -> Callable[[Stops], str]:
        """Return work that goes on until it is told to stop."""

        def work(stops: Stops) -> str:
            while not stops(0.5):
                time.sleep(0.002)
            went.append(name)
            return name

        return work

    def test_a_newer_question_stops_the_one_before_whose_answer_is_dropped(self) -> None:
        went: list[str] = []
        self.working.ask_long(self.stopped(went, "old"), self.answers.append)
        self.until(lambda: 0.5 in self.told)
        count = len(self.told)
        self.working.ask(lambda stops: time.sleep(0.5) or "new", self.answers.append)
        self.until(lambda: self.answers == ["new"])
        self.assertEqual(["old"], went)
        self.assertEqual(count, len(self.told), "nobody is told how far what was dropped is")

    def test_an_error_is_an_answer(self) -> None:
        def fails(stops: Stops) -> None:
            raise ZeroDivisionError("by nothing")

        self.working.ask(fails, self.answers.append)
        self.until(lambda: len(self.answers) == 1)
        self.assertIsInstance(self.answers[0], ZeroDivisionError)

    def test_what_is_forgotten_or_asked_of_a_closed_window_has_no_answer(self) -> None:
        went: list[str] = []
        self.working.ask(self.stopped(went, "forgotten"), self.answers.append)
        self.working.forget()
        self.until(lambda: went == ["forgotten"])
        self.working.ask(self.stopped(went, "closed"), self.answers.append)
        self.working.end()
        self.working.ask(lambda stops: went.append("late"), self.answers.append)
        self.until(lambda: went == ["forgotten", "closed", "late"])
        self.until(lambda ends=time.perf_counter() + 0.1: time.perf_counter() > ends)
        self.assertEqual([], self.answers)
