"""The first start on a machine: drawing code is compiled for it, once, and a small window says how far that is."""

from __future__ import annotations

import sys
from collections.abc import Callable

from PyQt6.QtCore import QProcess, QProcessEnvironment, QTimer, pyqtSignal
from PyQt6.QtWidgets import QApplication, QHBoxLayout, QLabel, QProgressBar, QPushButton, QVBoxLayout, QWidget

from spiralis.core.warm import compiled

#: What holds the window while it is wanted.
_windows: list[GettingReady] = []


class GettingReady(QWidget):
    """Compiles in a process of its own; ``ready`` comes when it is through, whatever became of it."""

    ready = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setWindowTitle("Spiralis")
        self.setFixedWidth(440)
        about = QLabel("Getting ready for this machine")
        about.setObjectName("Title")
        why = QLabel("The code that draws is compiled for your processor. It takes about a minute, and only this once.")
        why.setWordWrap(True)
        self.bar = QProgressBar()
        self.bar.setAccessibleName("How far it is")
        leave = QPushButton("Leave")
        leave.clicked.connect(self.close)
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(leave)
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 18, 20, 16)
        column.setSpacing(10)
        for widget in (about, why, self.bar):
            column.addWidget(widget)
        column.addLayout(row)
        self._left = False
        self._process = QProcess(self)
        settings = QProcessEnvironment.systemEnvironment()
        settings.insert("PYTHONPATH", ":".join(part for part in sys.path if part))
        self._process.setProcessEnvironment(settings)
        self._process.readyReadStandardOutput.connect(self._read)
        self._process.finished.connect(self._end)
        self._process.errorOccurred.connect(self._end)

    def begin(self) -> None:
        """Show the window and start to compile."""
        self.show()
        self._process.start(sys.executable, ["-m", "spiralis.core.warm"])

    def closeEvent(self, event: object) -> None:
        self._left = True
        self._process.kill()
        self._process.waitForFinished(2000)
        QTimer.singleShot(0, QApplication.quit)

    def _read(self) -> None:
        lines = bytes(self._process.readAllStandardOutput().data()).decode().split("\n")
        for line in lines:
            done, _, of = line.partition(" of ")
            if done.isdigit() and of.isdigit():
                self.bar.setMaximum(int(of))
                self.bar.setValue(int(done))

    def _end(self, *_: object) -> None:
        # Where it failed the window opens all the same: kernels are compiled as they are asked for.
        if not self._left:
            self._left = True
            # First the next window, so that this one is not the last to go.
            self.ready.emit()
            self.hide()


def when_ready(then: Callable[[], None]) -> None:
    """Call ``then`` at once where the drawing code is compiled, else after it was."""
    if compiled():
        then()
        return
    window = GettingReady()
    window.ready.connect(then)
    _windows.append(window)
    window.begin()
