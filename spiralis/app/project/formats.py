"""Formats to start from, and the dialog that changes a composition's format."""

from __future__ import annotations

from fractions import Fraction

from attrs import frozen
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QDialog, QDialogButtonBox, QFormLayout, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from spiralis.app.widgets.fields import ListField, NumberField
from spiralis.core.editing.keys import fewer_keys_note
from spiralis.core.editing.reformat import reformatted
from spiralis.core.errors import ModelError
from spiralis.core.model import Composition, check_format

RATES: dict[str, Fraction] = {
    "24": Fraction(24), "25": Fraction(25), "29.97": Fraction(30000, 1001), "30": Fraction(30),
    "50": Fraction(50), "60": Fraction(60),
}  # fmt: skip


@frozen
class Format:
    """A named size."""

    name: str
    width: int
    height: int
    use: str


#: Width, height, frames per second, length in frames, what layers do, what keys do.
Values = tuple[int, int, Fraction, int, str, str]
_SCALES = {"keep": "keep their size", "fit": "scale together to fit in", "cover": "scale together to cover"}
_TIMES = {
    "frames": "stay on their frames", "seconds": "keep their seconds", "stretch": "stretch with the length",
}  # fmt: skip
FORMATS = (
    Format("Square", 1080, 1080, "posts, stickers"),
    Format("Portrait", 1080, 1350, "feed, 4:5"),
    Format("Upright", 1080, 1920, "stories, 9:16"),
    Format("Wide", 1920, 1080, "pages, 16:9"),
)


class FormatFields(QWidget):
    """Width, height, frame rate and length."""

    changed = pyqtSignal()

    def show_format(self, width: int, height: int, rate: Fraction, seconds: float) -> None:
        """Show a size, a rate and a length."""
        self.across.show_value(width)
        self.down.show_value(height)
        self.length.show_value(seconds)
        self.rate.setCurrentText(next((text for text, known in RATES.items() if known == rate), str(rate)))

    def __init__(self, width: int = 1080, height: int = 1350, rate: str = "25", seconds: float = 4.0) -> None:
        super().__init__()
        self.across = NumberField("Width", "px", decimals=0)
        self.down = NumberField("Height", "px", decimals=0)
        self.length = NumberField("Length", "s", step=0.1)
        self.across.show_value(width)
        self.down.show_value(height)
        self.length.show_value(seconds)
        self.rate = ListField()
        self.rate.setEditable(True)
        self.rate.addItems(list(RATES))
        self.rate.setCurrentText(rate)
        self.rate.setAccessibleName("Frame rate")
        self.rate.setToolTip("Frames per second: choose, or type a number or a fraction such as 24000/1001")
        form = self.form = QFormLayout(self)
        form.setContentsMargins(0, 0, 0, 0)
        form.setHorizontalSpacing(12)
        form.setVerticalSpacing(7)
        size = QHBoxLayout()
        size.setSpacing(6)
        size.addWidget(self.across)
        size.addWidget(QLabel("×"))
        size.addWidget(self.down)
        form.addRow("Size", size)
        form.addRow("Frame rate", self.rate)
        form.addRow("Length", self.length)
        for field in (self.across, self.down, self.length):
            field.changed.connect(self.changed)
        self.rate.currentTextChanged.connect(self.changed)

    def values(self) -> tuple[int, int, Fraction, int]:
        """Return width, height, rate and length in frames; raises ModelError with one sentence."""
        text = self.rate.currentText().strip().replace(",", ".")
        try:
            rate = RATES[text] if text in RATES else Fraction(text).limit_denominator(100_000)
        except (ValueError, ZeroDivisionError):
            raise ModelError(f"“{text}” is not a frame rate; write for example 25 or 30000/1001.") from None
        width, height = round(self.across.value or 0), round(self.down.value or 0)
        check_format(width, height, rate, 1)
        length = max(1, round((self.length.value or 0) * rate))
        check_format(width, height, rate, length)
        return width, height, rate, length


class FormatDialog(QDialog):
    """Change the format of a composition, and say what layers and keys do."""

    def __init__(self, parent: QWidget, piece: Composition) -> None:
        super().__init__(parent)
        self.setWindowTitle("Format")
        rate = next((n for n, v in RATES.items() if v == piece.rate), str(piece.rate))
        self._piece = piece
        self.fields = FormatFields(piece.width, piece.height, rate, round(float(piece.seconds), 3))
        self.problem = QLabel()
        self.problem.setObjectName("Alarm")
        self.problem.setWordWrap(True)
        self.result_values: Values | None = None
        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        buttons.accepted.connect(self._accept)
        buttons.rejected.connect(self.reject)
        self.scales, self.times = ListField(), ListField()
        for box, label, choices in (
            (self.scales, "Layers", _SCALES), (self.times, "Keys", _TIMES),
        ):  # fmt: skip
            box.setAccessibleName(label)
            for name, text in choices.items():
                box.addItem(text, name)
        self.fields.form.addRow("Layers", self.scales)
        self.fields.form.addRow("Keys", self.times)
        note = QLabel("Layers stand where they stood about the middle; those that fill the frame fill the new one.")
        note.setObjectName("Quiet")
        note.setWordWrap(True)
        column = QVBoxLayout(self)
        column.setSpacing(10)
        column.addWidget(self.fields)
        for widget in (note, self.problem, buttons):
            column.addWidget(widget)
        self.setMinimumWidth(380)
        for signal in (
            self.fields.changed, self.scales.currentIndexChanged, self.times.currentIndexChanged,
        ):  # fmt: skip
            signal.connect(self._say_what_goes)
        self._say_what_goes()

    def _values(self) -> Values:
        return (*self.fields.values(), self.scales.currentData(), self.times.currentData())

    def _say_what_goes(self) -> None:
        """Say before it happens which keys would be lost; while a number is half typed there is nothing to say."""
        try:
            note = fewer_keys_note(self._piece, reformatted(self._piece, *self._values()))
        except ModelError:
            note = ""
        self.problem.setText(f"With these, {note}." if note else "")

    def _accept(self) -> None:
        try:
            self.result_values = self._values()
        except ModelError as error:
            self.problem.setText(str(error))
            return
        self.accept()
