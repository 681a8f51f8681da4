"""Stick to what lies beneath: what is to go along, and how far the search is."""

from __future__ import annotations

from PyQt6.QtWidgets import QDialog, QHBoxLayout, QLabel, QProgressBar, QPushButton, QVBoxLayout, QWidget

from spiralis.app.session import Session
from spiralis.app.widgets.fields import ListField
from spiralis.app.work.working import Working
from spiralis.core.editing.corner_pinning import pin_of
from spiralis.core.editing.sticking import CORNERS_TOO, PLACE, WAYS, Stuck, stuck
from spiralis.core.errors import SpiralisError

_HELP = (
    "What “{0}” covers on this frame is looked for in all others, and the layer stays on it. Let it cover what it is "
    "to stick to: something with edges or a texture, in footage or in other layers."
)


class StickWindow(QDialog):
    """Looks beside the window; the layer gets its keys in one step once all frames were looked at."""

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent)
        self.session, self.layer = session, session.layers[0]
        self.setWindowTitle("Stick to what lies beneath")
        note = QLabel(_HELP.format(self.layer.name))
        note.setObjectName("Quiet")
        note.setWordWrap(True)
        self.way = ListField()
        self.way.setAccessibleName("What goes along")
        for name, words in WAYS.items():
            self.way.addItem(words, name)
        usual = PLACE if pin_of(self.layer) is None else CORNERS_TOO
        self.way.setCurrentIndex(list(WAYS).index(usual))
        self.bar = QProgressBar()
        self.bar.setRange(0, 100)
        self.problem = QLabel()
        self.problem.setObjectName("Alarm")
        self.problem.setWordWrap(True)
        self.go, self.close_button = QPushButton("Stick"), QPushButton("Cancel")
        self.go.setObjectName("Primary")
        self.go.setDefault(True)
        self.go.clicked.connect(self.look)
        self.close_button.clicked.connect(self.reject)
        choice, row = QHBoxLayout(), QHBoxLayout()
        choice.addWidget(QLabel("Goes along"))
        choice.addWidget(self.way, 1)
        row.addStretch(1)
        row.addWidget(self.go)
        row.addWidget(self.close_button)
        column = self._column = QVBoxLayout(self)
        column.setSpacing(10)
        column.addWidget(note)
        column.addLayout(choice)
        column.addWidget(self.bar)
        column.addWidget(self.problem)
        column.addLayout(row)
        self.setMinimumWidth(420)
        self.resize(440, 100)
        self._working = Working(self)
        self._working.progressed.connect(lambda share: self.bar.setValue(round(100 * share)))
        self._show_looking(False)

    def look(self) -> None:
        """Look for it in all frames."""
        session, layer, way = self.session, self.layer, self.way.currentData()
        project, piece, frame = session.project, session.composition, session.frame
        self._show_looking(True)
        self._working.ask_long(lambda stops: stuck(project, piece, layer, frame, way, stops), self._take)

    def _take(self, found: object) -> None:
        self._show_looking(False)
        if not isinstance(found, Stuck):
            self.problem.setText(str(found) if isinstance(found, SpiralisError) else "It could not be worked out.")
            self.problem.show()
            self._fit()
            return
        self.session.edit_layers("Stick to what lies beneath", lambda _: found.layer, [self.layer.id])
        self.session.said.emit(_told(found))
        self.accept()

    def _show_looking(self, looking: bool) -> None:
        self.problem.hide()
        self.bar.setVisible(looking)
        self._fit()
        self.bar.setValue(0)
        self.go.setEnabled(not looking)
        self.way.setEnabled(not looking)
        self.close_button.setText("Stop" if looking else "Cancel")

    def _fit(self) -> None:
        """Be as high as the words need that are there now."""
        self._column.activate()
        self.resize(self.width(), max(self._column.totalHeightForWidth(self.width()), self.minimumHeight()))

    def done(self, result: int) -> None:
        self._working.end()
        super().done(result)


def _told(found: Stuck) -> str:
    """Return what is said of a layer that sticks."""
    layer = found.layer
    words = [f"“{layer.name}” sticks to what lies beneath it from frame {found.first} to {found.last}"]
    if found.first > max(layer.first, 0) or found.last < layer.last - 1:
        words.append("; beyond, that was not to be seen")
    if found.gone:
        words.append(f"; {'a key' if found.gone == 1 else f'{found.gone} keys'} gave way")
    return "".join(words) + "."
