"""The bar over the canvas while words are typed: how the chosen letters depart from the rest."""

from __future__ import annotations

from PyQt6.QtCore import QSize
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QToolButton, QWidget

from spiralis.app.canvas.view import CanvasView
from spiralis.app.colours import ColourField
from spiralis.app.details.font_list import FontField
from spiralis.app.session import Session
from spiralis.app.style import icon
from spiralis.app.widgets.fields import NumberField
from spiralis.core.editing.text_runs import PLAIN


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
        self.tracking = NumberField("Tracking of the letters beyond the layer's", "", -500, 5000, 5, decimals=0)
        self.tracking.changed.connect(lambda value: self._set(tracking=value))
        self.rise = NumberField("Baseline of the letters: how far it is lifted", "%", -500, 500)
        self.rise.changed.connect(lambda value: self._set(rise=value))
        self.colour = ColourField("Colour of the letters")
        self.colour.changed.connect(lambda value: self._set(colour=value))
        self.mark = QToolButton()
        self.mark.setCheckable(True)
        self.mark.setIcon(icon("mark"))
        self.mark.setAccessibleName("Mark the letters")
        self.mark.setToolTip("Mark the letters: a plate, or a line, can be behind marked words alone")
        self.mark.clicked.connect(lambda on: self._set_at_once(marked=on))
        self.plain = QPushButton("Plain")
        self.plain.setToolTip("The chosen letters look like the rest of the layer again")
        looks = {name: value for name, value in PLAIN._asdict().items() if name not in ("first", "last")}
        self.plain.clicked.connect(lambda: self._set_at_once(**looks))
        row = QHBoxLayout(self)
        row.setContentsMargins(10, 4, 10, 4)
        row.setSpacing(5)
        numbers = (self.weight, self.share, self.tracking, self.rise)
        for widget in (self.label, self.font_field, *numbers, self.colour, self.mark, self.plain):
            row.addWidget(widget)
        row.setStretch(1, 1)
        for field, width in zip(numbers, (44, 56, 44, 48), strict=True):
            field.setFixedWidth(width)
        #: What one drag in a field or in the colour panel does is one step.
        self._gesture = 0
        for each in (*numbers, self.colour):
            each.finished.connect(self._finish)
        self.hide()
        canvas.typing.moved.connect(self.refresh)
        session.projectChanged.connect(self.refresh)

    def minimumSizeHint(self) -> QSize:
        """Without the count of letters and the name of the colour, which a narrow bar leaves out."""
        return QSize(320, self.height())

    def resizeEvent(self, event: QResizeEvent) -> None:
        self.label.setVisible(self.width() >= 560)
        self.colour.setFixedWidth(84 if self.width() >= 480 else 42)
        super().resizeEvent(event)

    def refresh(self) -> None:
        """Show the look of the letters at the caret; hide where nothing is typed."""
        editing = self.canvas.typing.editing
        self.setVisible(editing is not None)
        if editing is None or not editing.alive:
            return
        run = editing.look()
        values = self.session.evaluated().values(self.session.composition.layer(editing.layer_id))
        self.font_field.show_value(run.family or values["font"])
        self.weight.show_value(run.weight or values["weight"])
        self.share.show_value(run.size)
        self.tracking.show_value(run.tracking)
        self.rise.show_value(run.rise)
        self.colour.show_value(run.colour or values["fill"])
        self.mark.setChecked(run.marked)
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
