"""The field over a layer's name in the timeline."""

from __future__ import annotations

from attrs import evolve
from PyQt6.QtWidgets import QWidget

from spiralis.app.session import Session
from spiralis.app.timeline.layout import Row
from spiralis.app.timeline.marks import EYE_X
from spiralis.app.widgets.text_fields import TextField


class NameField(TextField):
    """Takes the name when it is entered or left, once."""

    def __init__(self, parent: QWidget, session: Session, row: Row) -> None:
        super().__init__(row.layer.name, parent)
        self.session, self._layer = session, row.layer.id
        self._done = False
        self.setAccessibleName("Name of the layer")
        self.setGeometry(34, int(row.top) + 3, EYE_X - 38, int(row.height) - 6)
        self.selectAll()
        self.show()
        self.setFocus()
        self.editingFinished.connect(self._finish)

    def _finish(self) -> None:
        if self._done:
            return
        self._done = True
        name = self.text().strip()
        self.deleteLater()
        if name and self.session.composition.find(self._layer) is not None:
            self.session.edit_layers(f"Rename to {name}", lambda layer: evolve(layer, name=name), [self._layer])
