"""The first steps walked as a person would, and the guide inside the window."""

import re
import tomllib
from pathlib import Path

from PyQt6.QtCore import Qt, QUrl
from PyQt6.QtTest import QTest

from spiralis.app.help.guide import FOLDER, GuideWindow, guide_pages, page_title
from spiralis.app.help.steps import STEPS
from spiralis.core.editing.keys import KeyRef
from tests.app.harness import NONE, WindowTest


class GuideTest(WindowTest):
    def shown(self) -> GuideWindow:
        self.act("Guide")
        guide = self.window.windows.guide
        assert guide is not None
        return guide

    def test_every_page_of_the_guide_is_there_and_shows(self) -> None:
        pages = guide_pages()
        written = {path.name for path in (FOLDER / "guide").glob("*.md")}
        self.assertLessEqual(written, {path.name for path in pages})
        guide = self.shown()
        self.assertEqual(guide.pages.count(), len(pages))
        for path in pages:
            self.assertTrue(guide.show_page(path))
            self.assertIn(page_title(path), guide.text.toPlainText())

    def test_links_lead_to_pages(self) -> None:
        guide = self.shown()
        for path in guide_pages()[:-1]:
            guide.show_page(path)
            for link in re.findall(r"\]\(([^)]+\.md)\)", path.read_text(encoding="utf-8")):
                guide.show_page(path)
                guide.text.anchorClicked.emit(QUrl(link))
                self.assertEqual(guide.page.name, Path(link).name, path.name)

    def test_search_leaves_pages_that_hold_the_words_and_marks_them(self) -> None:
        guide = self.shown()
        self.type_(guide.search, "settle")
        left = [i for i in range(guide.pages.count()) if not guide.pages.item(i).isHidden()]
        self.assertTrue(0 < len(left) < guide.pages.count())
        self.assertEqual(guide.page.name, "animate.md")
        self.assertTrue(guide.text.extraSelections())
        self.assertEqual(guide.text.textCursor().selectedText().lower(), "settle")
        guide.search.clear()
        self.assertFalse(guide.text.extraSelections())

    def test_the_pages_travel_with_the_package(self) -> None:
        data = tomllib.loads((FOLDER.parents[2] / "pyproject.toml").read_text())
        patterns = data["tool"]["setuptools"]["package-data"]["spiralis"]
        root = FOLDER.parents[1]
        shipped = {path.resolve() for pattern in patterns for path in root.glob(pattern)}
        for path in guide_pages():
            self.assertIn(path.resolve(), shipped)


class FirstStepsTest(WindowTest):
    def steps_done(self, count: int) -> None:
        self.until(lambda: self.strip.place == count, 8)

    def test_each_step_sees_by_itself_that_it_is_done(self) -> None:
        self.act("First steps")
        self.strip = self.window.first_steps
        self.until(lambda: self.window.player.picture() is not None)
        self.assertTrue(self.strip.isVisible())
        self.settle(0.4)
        self.assertEqual(self.strip.place, 0)
        self.assertTrue(self.strip.frame_.isVisible())

        kite = next(y for y in self.session.composition.layers if y.name == "Kite")
        x, y = self.session.evaluated().matrix(kite).apply(*self.middle(kite))
        self.click(self.editor.canvas, self.on_canvas(x, y))
        self.steps_done(1)
        ring = self.editor.transport.ring
        self.session.go_to(20)
        self.assertTrue(ring.isVisible())
        self.steps_done(2)
        self.settle(0.1)
        self.click(self.editor.details.page.beads["opacity"])
        self.steps_done(3)
        QTest.keyClick(self.editor.canvas, Qt.Key.Key_Home, NONE)
        self.settle(0.1)
        self.act("First frame")
        self.enter_number(self.editor.details.editors["opacity"].field, "0")
        self.steps_done(4)
        self.act("Play or stop")
        self.steps_done(5)
        self.act("Play or stop")
        chosen = self.session.layers[0].id
        self.session.select([chosen], {KeyRef(chosen, "opacity", 0)})
        self.settle(0.3)
        self.click(self.editor.pace.tiles.tiles["snap"])
        self.steps_done(6)
        self.act("Undo")
        self.steps_done(7)
        self.act("Export…")
        self.steps_done(len(STEPS))
        self.assertFalse(self.strip.frame_.isVisible())
        self.assertIn("whole way", self.strip.text.text())
        self.click(self.strip.end)
        self.assertFalse(self.strip.isVisible())

    def middle(self, layer):  # type: ignore[no-untyped-def]
        left, top, right, bottom = self.session.evaluated().box(layer)
        return (left + right) / 2, (top + bottom) / 2

    def test_skip_goes_on_and_the_start_page_ends_it(self) -> None:
        self.window.show_start()
        self.window.start.stepsAsked.emit()
        strip = self.window.first_steps
        self.assertTrue(strip.isVisible())
        self.assertTrue(self.window.editing)
        self.click(strip.skip)
        self.assertEqual(strip.place, 1)
        self.window.show_start()
        self.until(lambda: not strip.isVisible())


