"""For every eye and hand: names, sizes, letters and contrast of all that can be used, in every window and dialog."""

import os
import shutil
import subprocess
import sys
import tempfile
import unittest
from collections.abc import Callable, Iterator
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QAbstractSlider,
    QComboBox,
    QLabel,
    QLineEdit,
    QPlainTextEdit,
    QScrollBar,
    QWidget,
)

from spiralis.app import style
from spiralis.app.checks.window import ChecksWindow
from spiralis.app.colours import ColourPanel
from spiralis.app.commands.find import Find
from spiralis.app.commands.shortcuts import ShortcutsWindow
from spiralis.app.details.font_list import MissingFontsDialog
from spiralis.app.effects import EffectsChooser
from spiralis.app.export import ExportWindow
from spiralis.app.fillin.slot_dialog import SlotDialog
from spiralis.app.frames import FramesWindow
from spiralis.app.help.guide import GuideWindow
from spiralis.app.library.window import LibraryWindow
from spiralis.app.moves import MovesChooser
from spiralis.app.moves.keeping import KeepMotion
from spiralis.app.project.formats import FormatDialog
from spiralis.app.project.preferences import Preferences
from spiralis.app.project.versions import VersionsWindow
from spiralis.app.seam.window import SeamWindow
from spiralis.app.strips.poses import PosesWindow
from spiralis.app.touching.cutting import CutOutWindow
from spiralis.app.touching.filling import FillWindow
from spiralis.core.editing.reframing import add_format
from spiralis.core.editing.slots import with_slot
from spiralis.core.model.slots import Slot
from tests.app.harness import WindowTest

_USED = (QAbstractButton, QLineEdit, QComboBox, QAbstractSlider, QAbstractItemView, QPlainTextEdit)
LEAST_TARGET, LEAST_LETTER = 24, 11


def luminance(colour: str) -> float:
    """Return the relative luminance of a colour (WCAG 2.1)."""
    parts = [int(colour[place : place + 2], 16) / 255 for place in (1, 3, 5)]
    linear = [part / 12.92 if part <= 0.04045 else ((part + 0.055) / 1.055) ** 2.4 for part in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def contrast(one: str, other: str) -> float:
    """Return the contrast ratio of two colours (WCAG 2.1)."""
    dark, light = sorted((luminance(one), luminance(other)))
    return (light + 0.05) / (dark + 0.05)


class ColoursTest(unittest.TestCase):
    def test_words_stand_out_from_every_ground(self) -> None:
        grounds = (style.GROUND, style.PANEL, style.RAISED)
        for words in (style.TEXT, style.QUIET, style.FAINT, style.MARIGOLD, style.MINT, style.ALARM):
            for ground in grounds:
                self.assertGreaterEqual(contrast(words, ground), 4.49, (words, ground))
        self.assertGreaterEqual(contrast(style.MARIGOLD, style.CHOSEN), 4.5)
        self.assertGreaterEqual(contrast(style.GROUND, style.MARIGOLD), 4.5)

    def test_marks_and_focus_stand_out(self) -> None:
        for mark in (style.MARK, style.MARIGOLD, *style.FAMILY_COLOURS.values(), *style.TINT_COLOURS.values()):
            for ground in (style.GROUND, style.PANEL, style.RAISED):
                self.assertGreaterEqual(contrast(mark, ground), 3, (mark, ground))


class EveryWindowTest(WindowTest):
    def windows(self) -> Iterator[tuple[str, Callable[[], QWidget]]]:
        window, session = self.window, self.session
        yield "find", lambda: Find(window, window.commands)
        yield "shortcuts", lambda: ShortcutsWindow(window, window.commands)
        yield "preferences", lambda: Preferences(window, session)
        yield "format", lambda: FormatDialog(window, session.composition)
        yield "moves", lambda: MovesChooser(window, session, window.player, None)
        yield "effects", lambda: EffectsChooser(window, session, "")
        yield "frames", lambda: FramesWindow(window, session)
        yield "poses", lambda: PosesWindow(window, session)
        yield "export", lambda: ExportWindow(window, session)
        yield "colours", lambda: ColourPanel(window, "Fill", (1.0, 0.5, 0.2, 1.0), session)
        yield "seam", lambda: SeamWindow(window, session)
        yield "guide", lambda: GuideWindow(window)
        yield "versions", lambda: VersionsWindow(window, session, lambda path: None)
        yield "fonts", lambda: MissingFontsDialog(session, window)
        yield "library", lambda: LibraryWindow(window, session)
        yield "keep the motion", lambda: KeepMotion(window, session)
        yield "checks", lambda: ChecksWindow(window, session, self.editor.checks)
        square, words = self.layer("square"), self.layer("words")
        yield "slot", lambda: SlotDialog(window, session, words, words.parameter("text"))
        yield "slot of a picture", lambda: SlotDialog(window, session, square, square.parameter("source"))
        yield "cut out", lambda: CutOutWindow(window, session, square)
        yield "fill behind", lambda: FillWindow(window, session, square)

    def test_the_main_window(self) -> None:
        for chosen in ([], ["square"], ["words"], ["square", "words"]):
            self.session.select(chosen)
            self.settle(0.3)
            self.check(f"editor with {chosen}", self.window)
        self.editor.drawer.toggle()
        self.settle(0.5)
        self.check("drawer", self.editor.drawer)
        self.window.show_start()
        self.settle()
        self.check("start page", self.window)

    def test_fill_in_view(self) -> None:
        project = self.session.project
        for layer, name in (("square", "source"), ("words", "text"), ("words", "fill"), ("words", "font")):
            project = with_slot(project, project.compositions[0], layer, Slot(f"{layer} {name}", name))
        project, _ = add_format(project, project.compositions[0].id, 300, 300)
        self.session.edit_project("Slots", project)
        self.window.show_fill_in()
        for part in range(3):
            self.window.fill_in.show_part(part)
            self.settle(0.3)
            self.check(f"fill-in view {part}", self.window)
        self.session.show_composition(project.compositions[1].id)
        self.settle(0.3)
        self.check("how a format is held", self.window)

    def test_every_dialog(self) -> None:
        self.session.select(["words"])
        for name, make in self.windows():
            shown = make()
            shown.show()
            self.settle(0.2)
            self.check(name, shown)
            shown.close()
            shown.deleteLater()
            self.settle()

    def check(self, where: str, root: QWidget) -> None:
        count = 0
        for widget in root.findChildren(QWidget):
            if not widget.isVisible():
                continue
            if isinstance(widget, QLabel) and widget.text():
                self.assertGreaterEqual(widget.fontInfo().pixelSize(), LEAST_LETTER, (where, widget.text()))
            inner = isinstance(widget.parent(), QComboBox | QLineEdit) or widget.objectName().startswith("qt_")
            if isinstance(widget, _USED) and not inner and not isinstance(widget, QScrollBar):
                count += 1
                self._check_one(where, widget)
        self.assertGreater(count, 0, where)

    def _check_one(self, where: str, widget: QWidget) -> None:
        text = widget.text() if isinstance(widget, QAbstractButton) else ""
        name = widget.accessibleName() or text
        what = (where, type(widget).__name__, name, widget.toolTip())
        self.assertTrue(name, what)
        if min(widget.width(), widget.height()) < LEAST_TARGET:
            self.settle(1.0)  # On a busy machine a row may not be laid out yet.
        self.assertGreaterEqual(widget.width(), LEAST_TARGET, what)
        self.assertGreaterEqual(widget.height(), LEAST_TARGET, what)
        self.assertGreaterEqual(widget.fontInfo().pixelSize(), LEAST_LETTER, what)
        if isinstance(widget, QAbstractButton) and not text:
            self.assertTrue(widget.toolTip(), what)
        if isinstance(widget, QAbstractButton | QLineEdit | QComboBox) and widget.isEnabled():
            self.assertNotEqual(widget.focusPolicy(), Qt.FocusPolicy.NoFocus, what)


#: Writes a video whose quality is no whole number, in a program with a window, and says how numbers are written.
_IN_ANY_LANGUAGE = """
import locale, sys
from pathlib import Path
from spiralis.app.main import application
app = application()
from spiralis.core.media.exporters import ExportJob, export, exporter
from tests.app.harness import sample_project
kind = exporter("mp4")
values = kind.read_settings(("quality=by number", "number=37"))
export(kind, ExportJob(sample_project(), "Piece", Path(sys.argv[1]), 0, 3, settings=values, workers=1))
print(locale.setlocale(locale.LC_NUMERIC), locale.localeconv()["decimal_point"])
"""


class AnyLanguageTest(unittest.TestCase):
    def test_videos_are_the_same_where_numbers_have_a_comma(self) -> None:
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        here = {**os.environ, "LC_ALL": "C.UTF-8", "QT_QPA_PLATFORM": "offscreen"}
        # Where this machine has what languages are made of; where it has not, another name of C tells as much.
        made = subprocess.run(["localedef", "-i", "de_DE", "-f", "UTF-8", str(folder / "de_DE.UTF-8")],
                              capture_output=True, check=False) if shutil.which("localedef") else None  # fmt: skip
        comma = {"LOCPATH": str(folder), "LC_ALL": "de_DE.UTF-8"} if made is not None and not made.returncode else {}
        videos = []
        for place, language in enumerate(({}, comma)):
            out = folder / f"{place}.mp4"
            command = [sys.executable, "-c", _IN_ANY_LANGUAGE, str(out)]
            done = subprocess.run(command, env=here | language, capture_output=True, text=True, check=False)
            self.assertEqual("C .\n", done.stdout, done.stderr)
            videos.append(out.read_bytes())
        self.assertEqual(videos[0], videos[1])


if __name__ == "__main__":
    unittest.main()
