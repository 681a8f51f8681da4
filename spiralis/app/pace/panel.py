"""The Pace panel: title, CSS text and extend rules on top, curves beside tiles and numbers."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import (
    QButtonGroup,
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QSizePolicy,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from spiralis.app.pace.curves import Curves
from spiralis.app.pace.segment import main_thread, set_easing, set_extend, shown_segment
from spiralis.app.pace.tiles import Tiles
from spiralis.app.pace.tracks import Compare, TrackCurves
from spiralis.app.session import Session
from spiralis.app.style import font
from spiralis.app.timeline.layout import TimeAxis
from spiralis.app.widgets.fields import ListField, NumberField
from spiralis.app.widgets.text_fields import TextField
from spiralis.core.animation.ease_tiles import EaseTile, bounce, spring
from spiralis.core.animation.easing import Easing, from_softness
from spiralis.core.editing.shaping import softness
from spiralis.core.errors import ModelError
from spiralis.core.model import Extend, Rule

RULES = {
    Rule.ONCE: "Once", Rule.REPEAT: "Repeat", Rule.PING_PONG: "Ping-pong", Rule.ACCUMULATE: "Accumulate",
    Rule.CARRY_ON: "Carry on",
}  # fmt: skip
#: Rules that may last a number of times.
COUNTED = (Rule.REPEAT, Rule.PING_PONG, Rule.ACCUMULATE)
#: What the two numbers mean for a tile: their labels, units, ranges, first values, and the easing they make.
_NUMBERS: dict[str, tuple[tuple[str, str, float, float, float], tuple[str, str, float, float, float],
                          Callable[[float, float], Easing]]] = {
    "soft": (("Start softness", "%", 0, 100, 33), ("Stop softness", "%", 0, 100, 33), from_softness),
    "bounce": (("Bounces", "", 1, 9, 3), ("Height", "%", 1, 90, 28), lambda a, b: bounce(int(a), b / 100)),
    "spring": (("Swings", "", 0.5, 12, 3), ("Damping", "", 0.5, 20, 5), lambda a, b: spring(a, b)),
}  # fmt: skip


class PacePanel(QWidget):
    """Shapes how the chosen segments move. ``hovered`` tells the ease under the pointer among the tiles, or None."""

    hovered = pyqtSignal(object)

    def __init__(self, session: Session, axis: Callable[[], TimeAxis], width: Callable[[], int]) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("Panel")
        self.curves = Curves(session)
        self.threads = TrackCurves(session, axis, width)
        self.compare = Compare(session)
        self.pages = QStackedWidget()
        for page in (self.curves, self.threads, self.compare):
            self.pages.addWidget(page)
        self.tiles = Tiles(session)
        self.tiles.chosen.connect(self._take_tile)
        self.tiles.hovered.connect(self.hovered)
        self.title = QLabel("Pace")
        self.title.setObjectName("Title")
        self.subject = QLabel()
        self.subject.setObjectName("Quiet")
        # A long name must not widen the panel and push the canvas aside.
        self.subject.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.css = TextField()
        self.css.setFont(font(12))
        self.css.setStyleSheet("font-size: 12px; padding: 4px 4px;")
        self.css.setAccessibleName("Easing as CSS")
        self.css.setToolTip("The segment's easing as CSS: copy it, or paste another and press Enter")
        self.css.setPlaceholderText("CSS easing")
        self.css.editingFinished.connect(self._take_css)
        self.rules = {side: self._rule_box(side) for side in ("before", "after")}
        self.counts = {side: self._count_field(side) for side in ("before", "after")}
        self.start, self.stop = NumberField("Start softness"), NumberField("Stop softness")
        self.labels = [QLabel(), QLabel()]
        self._meaning = ""
        for field in (self.start, self.stop):
            field.changed.connect(self._take_numbers)
            field.finished.connect(session.close_step)
            field.refused.connect(session.failed)
        self._mean("soft")
        self._build()
        for signal in (
            session.projectChanged, session.compositionChanged, session.selectionChanged, session.keysChanged,
            session.frameChanged,
        ):  # fmt: skip
            signal.connect(self.refresh)
        self.refresh()

    def _rule_box(self, side: str) -> QComboBox:
        box = ListField()
        for rule, label in RULES.items():
            box.addItem(label, rule)
        box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        box.setFixedWidth(112)
        box.setAccessibleName(f"{side.capitalize()} the keys")
        box.setToolTip(f"What the thread does {side} its keys")
        box.activated.connect(lambda index: set_extend(self.session, box.itemData(index), side == "before"))
        return box

    def _count_field(self, side: str) -> NumberField:
        session = self.session
        field = NumberField(f"Times {side} the keys", "×", 0, 10_000, decimals=0)
        field.setToolTip(f"How many times {side} the keys; 0 is for ever")
        field.words = {0: "ever"}
        field.setFixedWidth(46)
        rules, merge = self.rules[side], f"count-{side}"
        field.changed.connect(lambda n: set_extend(session, rules.currentData(), side == "before", int(n), merge))
        field.finished.connect(self.session.close_step)
        field.refused.connect(self.session.failed)
        return field

    def _modes(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(3)
        self.modes = QButtonGroup(self)
        for index, (text, help) in enumerate((
            ("Segment", "One segment from key to key: value, speed, spacing"),
            ("Threads", "The chosen threads over time, with handles on every segment"),
            ("Compare", "The chosen segments' eases over one another"),
        )):  # fmt: skip
            button = self._small(text, help)
            button.setChecked(index == 0)
            self.modes.addButton(button, index)
            row.addWidget(button)
        self.modes.idClicked.connect(self.show_mode)
        self.common = self._small("One scale", "Threads of one unit share a scale, or each fills the height")
        self.common.toggled.connect(self._set_common)
        self.common.hide()
        row.addWidget(self.common)
        row.addStretch(1)
        return row

    def _small(self, text: str, help: str) -> QToolButton:
        button = QToolButton()
        button.setText(text)
        button.setToolTip(help)
        button.setCheckable(True)
        button.setStyleSheet("padding: 1px 4px; font-size: 11px; min-height: 20px;")
        return button

    def _build(self) -> None:
        top = QHBoxLayout()
        top.setSpacing(6)
        top.addWidget(self.title)
        top.addWidget(self.subject, 1)
        for side in ("before", "after"):
            label = QLabel(side.capitalize())
            label.setObjectName("Quiet")
            top.addWidget(label)
            top.addWidget(self.rules[side])
            top.addWidget(self.counts[side])
        right = QVBoxLayout()
        right.setSpacing(5)
        right.addWidget(self.css)
        right.addWidget(self.tiles, 1)
        numbers = QGridLayout()
        numbers.setSpacing(4)
        for row, (label, field) in enumerate(zip(self.labels, (self.start, self.stop), strict=True)):
            label.setObjectName("Quiet")
            numbers.addWidget(label, row, 0)
            numbers.addWidget(field, row, 1, Qt.AlignmentFlag.AlignRight)
            field.setFixedWidth(72)
        right.addLayout(numbers)
        left = QVBoxLayout()
        left.setSpacing(4)
        left.addLayout(self._modes())
        left.addWidget(self.pages, 1)
        body = QHBoxLayout()
        body.setSpacing(8)
        body.addLayout(left, 1)
        body.addLayout(right)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(12, 4, 12, 6)
        layout.setSpacing(4)
        layout.addLayout(top)
        layout.addLayout(body, 1)

    def show_mode(self, index: int) -> None:
        """Show one segment (0), threads over time (1), or segments compared (2)."""
        self.pages.setCurrentIndex(index)
        self.modes.button(index).setChecked(True)
        self.common.setVisible(index == 1)

    def _set_common(self, on: bool) -> None:
        self.threads.common = on
        self.threads.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        QTimer.singleShot(0, self.refresh)

    def refresh(self) -> None:
        """Show the segment as it is now."""
        segment = shown_segment(self.session)
        thread = main_thread(self.session)
        for side, box in self.rules.items():
            box.setEnabled(thread is not None)
            extend = getattr(thread[0].track(thread[1]), side) if thread else Extend()
            box.setCurrentIndex(list(RULES).index(extend.rule))
            self.counts[side].show_value(extend.count)
            self.counts[side].setVisible(extend.rule in COUNTED)
        easing = segment.left.easing if segment is not None and segment.parameter.numeric else None
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
        self._show_numbers(easing)

    # -- numbers -----------------------------------------------------------------------------------------

    def _mean(self, meaning: str) -> None:
        """Let the two numbers mean softness, or a bounce's or a spring's own."""
        if meaning == self._meaning:
            return
        self._meaning = meaning
        for label, field, (text, unit, low, high, first) in zip(
            self.labels, (self.start, self.stop), _NUMBERS[meaning][:2], strict=True
        ):
            label.setText(text)
            field.label, field.unit, field.minimum, field.maximum = text, unit, low, high
            field.setAccessibleName(text)
            field.value = None
            field.show_value(first)

    def _show_numbers(self, easing: Easing | None) -> None:
        if self._meaning != "soft" and easing is not None:
            make = _NUMBERS[self._meaning][2]
            if make(self.start.value or 1, self.stop.value or 1) != easing:
                self._mean("soft")
        if self._meaning == "soft":
            soft = softness(easing) if easing is not None else None
            for field, value in zip((self.start, self.stop), soft or (None, None), strict=True):
                field.show_value(value)
        for field in (self.start, self.stop):
            field.setEnabled(easing is not None)

    def _take_numbers(self) -> None:
        low, high = (spec[4] for spec in _NUMBERS[self._meaning][:2])
        a = self.start.value if self.start.value is not None else low
        b = self.stop.value if self.stop.value is not None else high
        name = {"soft": "softness"}.get(self._meaning, self._meaning)
        set_easing(self.session, _NUMBERS[self._meaning][2](a, b), name, merge=f"numbers-{name}")

    # -- taking ------------------------------------------------------------------------------------------

    def _take_tile(self, tile: EaseTile) -> None:
        self._mean(tile.name if tile.name in _NUMBERS else "soft")
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
        if bool(self.css.property("wrong")) == wrong:
            return
        self.css.setProperty("wrong", wrong)
        self.css.style().unpolish(self.css)
        self.css.style().polish(self.css)
