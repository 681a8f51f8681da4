"""Fields for values: lists, switches, sliders, and numbers that drag, type and take arithmetic."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QEvent, QObject, QPoint, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPaintEvent, QResizeEvent, QShowEvent, QWheelEvent
from PyQt6.QtWidgets import (
    QApplication,
    QCheckBox,
    QComboBox,
    QSlider,
    QStyle,
    QStyleOptionComboBox,
    QStylePainter,
    QWidget,
)

from spiralis.app.style import font
from spiralis.app.widgets.preferences import shown_decimal
from spiralis.app.widgets.text_fields import TextField
from spiralis.app.work.gesture import TakesBack, gesture_of
from spiralis.app.work.paced import Paced
from spiralis.core.arithmetic import calculate, with_unit
from spiralis.core.errors import ModelError

#: What frame and padding take of a field's width, in px.
_INSET = 14
#: Keys that begin typing with an empty field. They must not fall through to a command that deletes a layer.
_CLEARS = (Qt.Key.Key_Delete, Qt.Key.Key_Backspace)


class ListField(QComboBox):
    """A list to choose from that no wheel changes: scrolling past it must not edit anything.

    ``opening`` comes before its entries show.
    """

    opening = pyqtSignal()

    def showPopup(self) -> None:
        self.opening.emit()
        super().showPopup()

    def wheelEvent(self, event: QWheelEvent) -> None:
        event.ignore()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paint the chosen entry, with dots where there is no room for all of it."""
        painter, option = QStylePainter(self), QStyleOptionComboBox()
        self.initStyleOption(option)
        field = QStyle.SubControl.SC_ComboBoxEditField
        room = self.style().subControlRect(QStyle.ComplexControl.CC_ComboBox, option, field, self).width()
        if not option.currentIcon.isNull():
            room -= option.iconSize.width() + 4
        if self.currentIndex() < 0 and self.placeholderText():
            option.currentText = self.placeholderText()
        option.currentText = self.fontMetrics().elidedText(option.currentText, Qt.TextElideMode.ElideRight, room)
        painter.drawComplexControl(QStyle.ComplexControl.CC_ComboBox, option)
        if not self.isEditable():
            painter.drawControl(QStyle.ControlElement.CE_ComboBoxLabel, option)


class LongList(ListField):
    """A list whose entries are asked for when it opens, or when a key walks in it: until then it holds the chosen one.

    ``entries`` gives all of them: what is shown, and what it stands for.
    """

    def __init__(self, entries: Callable[[], Sequence[tuple[str, object]]]) -> None:
        super().__init__()
        self._entries = entries
        self.opening.connect(self.fill)

    def show_one(self, label: str, data: object) -> None:
        """Show what is chosen, without asking for the others."""
        if self.currentText() != label or self.currentData() != data:
            self.clear()
            self.addItem(label, data)

    def fill(self) -> None:
        """Hold all entries as they are now; what is chosen stays chosen."""
        chosen, items = self.currentData(), list(self._entries())
        if [(self.itemText(place), self.itemData(place)) for place in range(self.count())] != items:
            self.clear()
            for label, data in items:
                self.addItem(label, data)
        self.setCurrentIndex(max(self.findData(chosen), 0))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        self.fill()
        super().keyPressEvent(event)


class CheckBox(QCheckBox):
    """A switch all of whose area can be pressed: the box alone is too small for many hands."""

    def hitButton(self, pos: QPoint) -> bool:
        return self.rect().contains(pos)


class Slider(QSlider):
    """A slider that no wheel changes."""

    def __init__(self, orientation: Qt.Orientation) -> None:
        super().__init__(orientation)
        Paced(self)
        TakesBack(self)

    def wheelEvent(self, event: QWheelEvent) -> None:
        event.ignore()


class NumberField(TextField):
    """A number with its unit. Drag sideways to change it, click to type; Shift is coarse, Control fine.

    ``changed`` tells each new value while it changes, ``finished`` the end of a drag or of typing,
    ``refused`` a sentence where what was typed is no number or outside the range.
    """

    changed = pyqtSignal(float)
    #: What was there already was typed: it may stand for several layers that are not alike.
    same = pyqtSignal(float)
    finished = pyqtSignal()
    refused = pyqtSignal(str)

    def __init__(
        self, label: str, unit: str = "", minimum: float = -1e7, maximum: float = 1e7, step: float = 1.0,
        whole: float = 100.0, decimals: int = 2,
    ) -> None:  # fmt: skip
        super().__init__()
        Paced(self)
        self.label, self.unit = label, unit
        self.minimum, self.maximum, self.step, self.whole, self.decimals = minimum, maximum, step, whole, decimals
        #: Words that stand in place of some values: “as suits” for 0, say.
        self.words: dict[float, str] = {}
        self.value: float | None = None
        self._drag: tuple[float, float] | None = None
        self._moved = False
        #: What the field offered when the typing began.
        self._offered = ""
        self.setReadOnly(True)
        self.setFont(font(13, 500, tabular=True))
        self.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.setAccessibleName(label)
        self.setCursor(Qt.CursorShape.SizeHorCursor)
        self.setMinimumWidth(48)
        limits = f" ({minimum:g} to {with_unit(f'{maximum:g}', unit)})" if maximum < 1e6 else ""
        self.setToolTip(f"{label}{limits}: drag sideways, or click and type a number or a calculation")
        self.editingFinished.connect(self._typed)

    def show_value(self, value: float | None) -> None:
        """Show a value from outside; None shows a dash."""
        if value == self.value and self.text():
            return
        self.value = value
        if self.isReadOnly():
            self.setText(self._text())

    def _text(self) -> str:
        if self.value is None:
            return "—"
        if self.value in self.words:
            return self.words[self.value]
        # Fields are narrow: from ten on, a tenth is enough to see. The value keeps its own precision.
        decimals = min(self.decimals, 1) if abs(self.value) >= 10 else self.decimals
        number = f"{self.value:.{decimals}f}".rstrip("0").rstrip(".") if decimals else f"{self.value:.0f}"
        number = "0" if number in ("-0", "") else number
        number = shown_decimal(number)
        whole = with_unit(number, self.unit)
        if not self.isVisible():
            return whole
        # Rather without the space than without the unit, and rather no unit than half a number.
        room, wide = self.width() - _INSET, self.fontMetrics().horizontalAdvance
        return next((text for text in (whole, whole.replace(" ", "")) if wide(text) <= room), number)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if self.isReadOnly():
            self.setText(self._text())

    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        if self.isReadOnly():
            # What was set while it was hidden knew of no room.
            self.setText(self._text())

    def _set(self, value: float) -> None:
        value = min(max(value, self.minimum), self.maximum)
        value = round(value, self.decimals)
        if value != self.value:
            self.value = value
            self.setText(self._text())
            self.changed.emit(value)

    def begin_typing(self) -> None:
        """Let the person type, until another place of the window is pressed: not all of them take the focus."""
        QApplication.instance().installEventFilter(self)
        self.setReadOnly(False)
        self.setCursor(Qt.CursorShape.IBeamCursor)
        typed = f"{self.value:.{self.decimals}f}" if self.value is not None else ""
        self._offered = shown_decimal(typed.rstrip("0").rstrip(".") if "." in typed else typed)
        self.setText(self._offered)
        self.selectAll()

    def _typed(self) -> None:
        if self.isReadOnly():
            return
        text = self.text()
        self._stop_typing()
        try:
            # What is only left as it was offered is rounded, and may stand for several layers that are not alike.
            left = not text.strip() or (text == self._offered and not self.isModified())
            value = self.value if left else calculate(text, self.unit, self.whole)
            if value is not None and not left and not self.minimum <= value <= self.maximum:
                raise ModelError(
                    f"{self.label} takes {self.minimum:g} to {with_unit(f'{self.maximum:g}', self.unit)}, "
                    f"and {value:g} is outside that."
                )
        except ModelError as error:
            self.refused.emit(str(error))
            value = None
        if value is not None and not left:
            before = self.value
            self._set(value)
            if self.value == before:
                self.same.emit(value)
        self.setText(self._text())
        self.finished.emit()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if not self.isReadOnly() or event.button() != Qt.MouseButton.LeftButton or not self.isEnabled():
            super().mousePressEvent(event)
            return
        self.setFocus()
        self._drag, self._moved = (event.globalPosition().x(), self.value if self.value is not None else 0.0), False
        if (gesture := gesture_of(self)) is not None:
            gesture.begin(self._let_go)

    def _let_go(self) -> None:
        """Show the value as it was before the drag that is called off; whoever calls it off takes back what it did."""
        if self._drag is not None:
            self.value, self._drag = self._drag[1], None
            self.setText(self._text())
            self.finished.emit()

    def _call_off(self) -> None:
        gesture = gesture_of(self)
        if gesture is None or not gesture.take_back():
            # Nobody else knows how it was.
            self._let_go()
            self.changed.emit(self.value)
            self.finished.emit()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag is None:
            super().mouseMoveEvent(event)
            return
        way = event.globalPosition().x() - self._drag[0]
        if abs(way) > 3 or self._moved:
            self._moved = True
            keys = event.modifiers()
            speed = (
                10
                if keys & Qt.KeyboardModifier.ShiftModifier
                else 0.1
                if keys & Qt.KeyboardModifier.ControlModifier
                else 1
            )
            self._set(self._drag[1] + round(way) * self.step * speed)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._drag is None:
            super().mouseReleaseEvent(event)
            return
        self._drag = None
        if (gesture := gesture_of(self)) is not None:
            gesture.end()
        if self._moved:
            self.finished.emit()
        else:
            self.begin_typing()

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ShortcutOverride and self.isReadOnly():
            # At rest only what begins the typing belongs to the field; undo, copy, play and the like are the window's.
            event.setAccepted(isinstance(event, QKeyEvent) and (event.key() in _CLEARS or self._begins(event)))
            return True
        return super().event(event)

    def _begins(self, event: QKeyEvent) -> bool:
        plain = event.modifiers() & ~(Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.KeypadModifier)
        steps = event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Return, Qt.Key.Key_Enter)
        typed = bool(event.text()) and event.text() in "0123456789-.,("
        return plain == Qt.KeyboardModifier.NoModifier and (steps or typed)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if self._drag is not None and event.key() == Qt.Key.Key_Escape:
            self._call_off()
            return
        if self.isReadOnly():
            if event.key() in _CLEARS:
                self.begin_typing()
                self.clear()
                return
            if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down) and self.value is not None:
                self._set(self.value + (self.step if event.key() == Qt.Key.Key_Up else -self.step))
                self.finished.emit()
                return
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) or (
                event.text() and event.text() in "0123456789-.,("
            ):
                self.begin_typing()
                if event.key() not in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                    super().keyPressEvent(event)
                return
        elif event.key() == Qt.Key.Key_Escape:
            self.rest()
            return
        super().keyPressEvent(event)

    def rest(self) -> None:
        """End the typing and show the value as it was."""
        self._stop_typing()
        self.setText(self._text())

    def _stop_typing(self) -> None:
        QApplication.instance().removeEventFilter(self)
        self.setReadOnly(True)
        self.setCursor(Qt.CursorShape.SizeHorCursor)

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        pressed = event is not None and event.type() == QEvent.Type.MouseButtonPress
        # A menu over the field may paste into it.
        if pressed and isinstance(watched, QWidget) and watched is not self and not _pops_up(watched.window()):
            self._typed()
        return super().eventFilter(watched, event)

    def wheelEvent(self, event: QWheelEvent) -> None:
        event.ignore()  # A wheel over a field scrolls the panel and never changes a value.


def _pops_up(window: QWidget) -> bool:
    return window.windowType() == Qt.WindowType.Popup
