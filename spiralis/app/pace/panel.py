"""The Pace panel: title, CSS text and extend rule on top, curves beside tiles and softness."""

from __future__ import annotations

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QLabel, QLineEdit, QSizePolicy, QVBoxLayout, QWidget

from spiralis.app.fields import NumberField
from spiralis.app.pace.curves import Curves
from spiralis.app.pace.segment import main_thread, set_easing, set_extend, shown_segment
from spiralis.app.pace.tiles import Tiles
from spiralis.app.session import Session
from spiralis.app.style import font
from spiralis.core.animation.ease_tiles import EaseTile
from spiralis.core.animation.easing import Easing, from_softness
from spiralis.core.editing.shaping import softness
from spiralis.core.errors import ModelError
from spiralis.core.model import Rule

RULES = {
    Rule.ONCE: "Once", Rule.REPEAT: "Repeat", Rule.PING_PONG: "Ping-pong", Rule.ACCUMULATE: "Accumulate",
    Rule.CARRY_ON: "Carry on",
}  # fmt: skip


class PacePanel(QWidget):
    """Shapes how the chosen segments move."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("Panel")
        self.curves = Curves(session)
        self.tiles = Tiles()
        self.tiles.chosen.connect(self._take_tile)
        self.title = QLabel("Pace")
        self.title.setObjectName("Title")
        self.subject = QLabel()
        self.subject.setObjectName("Quiet")
        # A long name must not widen the panel and push the canvas aside.
        self.subject.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.css = QLineEdit()
        self.css.setFont(font(12))
        self.css.setStyleSheet("font-size: 12px; padding: 4px 4px;")
        self.css.setAccessibleName("Easing as CSS")
        self.css.setToolTip("The segment's easing as CSS: copy it, or paste another and press Enter")
        self.css.setPlaceholderText("CSS easing")
        self.css.editingFinished.connect(self._take_css)
        self.rules = {side: self._rule_box(side) for side in ("before", "after")}
        self.start = NumberField("Start softness", unit="%", minimum=0, maximum=100)
        self.stop = NumberField("Stop softness", unit="%", minimum=0, maximum=100)
        for field in (self.start, self.stop):
            field.changed.connect(self._take_softness)
            field.finished.connect(session.close_step)
        self._build()
        for signal in (
            session.projectChanged, session.compositionChanged, session.selectionChanged, session.keysChanged,
            session.frameChanged,
        ):  # fmt: skip
            signal.connect(self.refresh)
        self.refresh()

    def _rule_box(self, side: str) -> QComboBox:
        box = QComboBox()
        for rule, label in RULES.items():
            box.addItem(label, rule)
        box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        box.setFixedWidth(98)
        box.setAccessibleName(f"{side.capitalize()} the keys")
        box.setToolTip(f"What the thread does {side} its keys")
        box.activated.connect(lambda index: set_extend(self.session, box.itemData(index), side == "before"))
        return box

    def _build(self) -> None:
        top = QHBoxLayout()
        top.setSpacing(8)
        top.addWidget(self.title)
        top.addWidget(self.subject, 1)
        for side in ("before", "after"):
            label = QLabel(side.capitalize())
            label.setObjectName("Quiet")
            top.addWidget(label)
            top.addWidget(self.rules[side])
        right = QVBoxLayout()
        right.setSpacing(5)
        right.addWidget(self.css)
        right.addWidget(self.tiles, 1)
        numbers = QGridLayout()
        numbers.setSpacing(4)
        for row, field in enumerate((self.start, self.stop)):
            label = QLabel(field.label)
            label.setObjectName("Quiet")
            numbers.addWidget(label, row, 0)
            numbers.addWidget(field, row, 1, Qt.AlignmentFlag.AlignRight)
            field.setFixedWidth(72)
        right.addLayout(numbers)
        body = QHBoxLayout()
        body.setSpacing(8)
        body.addWidget(self.curves, 1)
        body.addLayout(right)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(12, 8, 12, 10)
        layout.setSpacing(8)
        layout.addLayout(top)
        layout.addLayout(body, 1)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        QTimer.singleShot(0, self.refresh)

    def refresh(self) -> None:
        """Show the segment as it is now."""
        segment = shown_segment(self.session)
        thread = main_thread(self.session)
        for side, box in self.rules.items():
            box.setEnabled(thread is not None)
            rule = getattr(thread[0].track(thread[1]), side).rule if thread else Rule.ONCE
            box.setCurrentIndex(list(RULES).index(rule))
        easing = segment.left.easing if segment is not None else None
        subject = segment.title if segment is not None else ""
        room = self.subject.width()
        shown = self.subject.fontMetrics().elidedText(subject, Qt.TextElideMode.ElideRight, room) if room >= 80 else ""
        self.subject.setText(shown)
        self.subject.setToolTip(subject)
        self.tiles.show_easing(easing)
        self.css.setEnabled(easing is not None)
        if not self.css.hasFocus():
            self.css.setText(easing.css() if easing is not None else "")
            self.css.setCursorPosition(0)
            self._mark(False)
        soft = softness(easing) if easing is not None else None
        for field, value in zip((self.start, self.stop), soft or (None, None), strict=True):
            field.setEnabled(easing is not None)
            field.show_value(value)

    def _take_tile(self, tile: EaseTile) -> None:
        set_easing(self.session, tile.easing, tile.label)
        self.refresh()

    def _take_css(self) -> None:
        segment = shown_segment(self.session)
        text = self.css.text()
        if segment is None or text == segment.left.easing.css():
            return
        try:
            easing = Easing.from_css(text)
        except ModelError as error:
            self._mark(True)
            self.session.failed.emit(str(error))
            return
        self._mark(False)
        set_easing(self.session, easing, "CSS")
        self.css.setText(easing.css())

    def _mark(self, wrong: bool) -> None:
        self.css.setProperty("wrong", wrong)
        self.css.style().unpolish(self.css)
        self.css.style().polish(self.css)

    def _take_softness(self) -> None:
        values = [field.value if field.value is not None else 33.0 for field in (self.start, self.stop)]
        set_easing(self.session, from_softness(values[0], values[1]), "softness", merge="softness")
