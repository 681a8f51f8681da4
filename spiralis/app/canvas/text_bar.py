"""The bar over the canvas while words are typed: font, weight, size and colour of the chosen letters."""

from __future__ import annotations

from PyQt6.QtCore import QSize
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from spiralis.app.canvas.view import CanvasView
from spiralis.app.colours import ColourField
from spiralis.app.details.font_list import FontField
from spiralis.app.session import Session
from spiralis.app.widgets.fields import NumberField


class TextBar(QWidget):
    """Takes the place of the Add strip while words are typed."""

    def __init__(self, session: Session, canvas: CanvasView) -> None:
        super().__init__()
        self.session, self.canvas = session, canvas
        self.setObjectName("Panel")
        self.setFixedHeight(40)
        self.label = QLabel("Letters")
        self.label.setObjectName("Quiet")
        self.font_field = FontField(session, "Font of the letters")
        self.font_field.chosen.connect(lambda family: self._set_at_once(family=family))
        self.weight = NumberField("Weight of the letters", "", 100, 1000, 100, decimals=0)
        self.weight.changed.connect(lambda value: self._set(weight=value))
        self.share = NumberField("Size of the letters", "%", 1, 1000)
        self.share.changed.connect(lambda value: self._set(size=value))
        self.colour = ColourField("Colour of the letters")
        self.colour.changed.connect(lambda value: self._set(colour=value))
        self.plain = QPushButton("Plain")
        self.plain.setToolTip("The chosen letters look like the rest of the layer again")
        self.plain.clicked.connect(lambda: self._set_at_once(family="", weight=0.0, size=100.0, colour=None))
        row = QHBoxLayout(self)
        row.setContentsMargins(10, 4, 10, 4)
        row.setSpacing(5)
        for widget in (self.label, self.font_field, self.weight, self.share, self.colour, self.plain):
            row.addWidget(widget)
        row.setStretch(1, 1)
        self.weight.setFixedWidth(48)
        self.share.setFixedWidth(58)
        self.colour.setMinimumWidth(84)
        #: What one drag in a field or in the colour panel does is one step.
        self._gesture = 0
        for field in (self.weight, self.share, self.colour):
            field.finished.connect(self._finish)
        self.hide()
        canvas.typing.moved.connect(self.refresh)
        session.projectChanged.connect(self.refresh)

    def minimumSizeHint(self) -> QSize:
        """Without the count of letters, which a narrow bar leaves out."""
        return QSize(320, self.height())

    def resizeEvent(self, event: QResizeEvent) -> None:
        self.label.setVisible(self.width() >= 400)
        super().resizeEvent(event)

    def refresh(self) -> None:
        """Show the look of the letters at the caret; hide where nothing is typed."""
        editing = self.canvas.typing.editing
        self.setVisible(editing is not None)
        if editing is None or not editing.alive:
            return
        run = editing.look()
        values = self.session.evaluated().values(self.session.composition.layer(editing.layer_id))
        self.font_field.show_value(run[2] or values["font"])
        self.weight.show_value(run[3] or values["weight"])
        self.share.show_value(run[4])
        self.colour.show_value(run[5] or values["fill"])
        first, last = editing.span
        self.label.setText(f"{last - first} letters" if last > first else "All letters")

    def _set(self, **changes: object) -> None:
        if self.canvas.typing.editing is not None:
            self.canvas.typing.editing.set_look(f"letters-{self._gesture}-{next(iter(changes))}", **changes)
            self.canvas.setFocus()

    def _set_at_once(self, **changes: object) -> None:
        self._set(**changes)
        self._finish()

    def _finish(self) -> None:
        self._gesture += 1
        self.session.close_step()
