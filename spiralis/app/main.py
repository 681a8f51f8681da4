"""Start the window."""

from __future__ import annotations

import locale
import sys
from contextlib import suppress
from functools import cache
from pathlib import Path
from threading import Thread

from PyQt6.QtCore import QLoggingCategory, QMessageLogContext, QObject, Qt, QTimer, QtMsgType, qInstallMessageHandler
from PyQt6.QtGui import QIcon
from PyQt6.QtWidgets import QApplication

from spiralis.app.project.files import empty_project
from spiralis.app.project.getting_ready import when_ready
from spiralis.app.project.recent import recent_projects
from spiralis.app.session import Session
from spiralis.app.style import HERE, apply_style
from spiralis.app.widgets.preferences import apply_stored
from spiralis.app.window import Window
from spiralis.app.work.collecting import Collector
from spiralis.app.work.doorbell import Doorbell, ring
from spiralis.app.work.memory import few_pools
from spiralis.app.work.renderers import RENDERERS
from spiralis.app.work.told_to_end import end_at_once, when_told_to_end
from spiralis.app.work.unforeseen import install
from spiralis.core.later import load_all
from spiralis.core.media.placing import sweep
from spiralis.core.storage.parts import sweep_parts
from spiralis.core.storage.project_file import SUFFIX
from spiralis.core.storage.recovery import recovery_folder
from spiralis.core.storage.versions import versions_root


@cache
def application() -> QApplication:
    """Return the dressed application, made at the first call and kept for good."""
    # Rendering threads hold the interpreter only briefly; a short switch keeps the window quick beside them.
    sys.setswitchinterval(0.001)
    few_pools()
    qInstallMessageHandler(_message)
    # What plays sound looks for libraries of video, too, and says which it does not find.
    QLoggingCategory.setFilterRules("qt.multimedia.*=false")
    install()
    apply_stored()
    made = QApplication(sys.argv[:1])
    # Qt takes over how the user's language writes numbers, for C as well: encoders would take 24.5 for 24, or nothing.
    locale.setlocale(locale.LC_NUMERIC, "C")
    made.setApplicationName("Spiralis")
    made.setDesktopFileName("spiralis")
    made.setWindowIcon(QIcon(str(HERE / "icons" / "spiralis.svg")))
    apply_style(made)
    Collector(made)
    return made


#: How Qt begins to say what a platform without a screen or a loudspeaker cannot do anyway.
_LACKS = ("This plugin does not support", "PulseAudioService")


def is_trouble(kind: QtMsgType, text: str | None) -> bool:
    """Whether a message of Qt's own is worth passing on."""
    return kind is not QtMsgType.QtDebugMsg and not (text or "").startswith(_LACKS)


def _message(kind: QtMsgType, context: QMessageLogContext, text: str | None) -> None:
    if is_trouble(kind, text):
        print(text, file=sys.stderr)


def new_window() -> Window:
    """Return a window on its start page."""
    application()
    return Window(Session(empty_project()))


def run(file: Path | None, with_demo: bool = False, apart: bool = False) -> int:
    """Show the window and return the exit code; where one is open already that one takes the file, unless ``apart``."""
    app = application()
    end_at_once()
    if not apart and ring(file, with_demo):
        return 0
    when_ready(lambda: open_window(app, file, with_demo, apart))
    return app.exec()


def _take_apart(*parts: QObject) -> None:
    """Delete what the program holds as its event loop ends: later Python takes things apart in any order, and what
    Qt still calls by then is gone."""
    for part in parts:
        with suppress(RuntimeError):  # It was closed, and deleted then.
            part.deleteLater()


def open_window(app: QApplication, file: Path | None, with_demo: bool, apart: bool) -> None:
    """Show the window, and let it take what the program was started with."""
    window = new_window()
    window.show()

    def begin() -> None:
        window.files.offer_recovery()
        take(window, file, with_demo and not window.editing)

    QTimer.singleShot(0, begin)
    # What the start page does without is loaded while somebody looks at it, a demo or file loads it as it comes.
    QTimer.singleShot(3000, Thread(target=sweep_away, name="sweeping", daemon=True).start)
    QTimer.singleShot(100, Thread(target=load_all, name="loading", daemon=True).start)
    # Not at once: they would take the processor from the window that is about to show.
    QTimer.singleShot(1500, RENDERERS.start)
    app.aboutToQuit.connect(RENDERERS.end)
    when_told_to_end(window.leave)
    doorbell = Doorbell(app)
    if not apart and doorbell.listen():
        doorbell.rung.connect(lambda path, demo: come_forward(window, Path(path) if path else None, demo))
    # Nothing else holds it while the program runs.
    app.aboutToQuit.connect(lambda: _take_apart(window, doorbell))


def sweep_away() -> None:
    """Remove what killed processes left half written: beside the projects of late, among copies and versions."""
    sweep([recovery_folder(), *versions_root().glob("*"), *(path.parent for path in recent_projects())])
    sweep_parts()


def take(window: Window, file: Path | None, demo: bool) -> None:
    """Open the demo, a project or artwork in a window."""
    if demo:
        window.files.open_demo()
    elif file is not None and file.suffix.lower() == SUFFIX:
        window.files.open(file)
    elif file is not None:
        window.show_editor()
        window.dropping.take_files([file])


def come_forward(window: Window, file: Path | None, demo: bool) -> None:
    """Bring a window to the front, with what a second start was to open."""
    window.setWindowState(window.windowState() & ~Qt.WindowState.WindowMinimized)
    window.show()
    window.raise_()
    window.activateWindow()
    take(window, file, demo)
