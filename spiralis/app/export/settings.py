"""What an export is asked for: size and how it is filled, frames, rate, rounds, and the kind of file's own settings."""

from __future__ import annotations

from fractions import Fraction

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QComboBox, QFormLayout, QHBoxLayout, QLabel, QScrollArea, QToolButton, QWidget

from spiralis.app.colours.field import ColourField
from spiralis.app.library.targets import Target
from spiralis.app.session import Session
from spiralis.app.style import icon
from spiralis.app.widgets.fields import CheckBox, ListField, NumberField
from spiralis.core.media.exporters import Exporter
from spiralis.core.media.exporters.video import SOUND
from spiralis.core.media.framing import HOWS, Framing
from spiralis.core.model import Composition, Kind, Parameter
from spiralis.core.sound.mixing import sounds

Field = NumberField | QComboBox | QCheckBox


class ExportSettings(QScrollArea):
    """The fields for one kind of file. ``changed`` tells of every change, ``refused`` why a number is not taken."""

    changed = pyqtSignal()
    refused = pyqtSignal(str)

    def __init__(self, session: Session, kind: Exporter) -> None:
        super().__init__()
        self.session, self.piece, self.kind = session, session.composition, kind
        self._playhead = session.frame
        self.see_through = False
        self._sounds = sounds(session.project, self.piece)
        #: What was set for each kind of file, so that looking at another one loses nothing.
        self.kept: dict[str, dict[str, object]] = {}
        self.fields: dict[str, Field] = {}
        self.labels: dict[str, QLabel] = {}
        piece, (first, last) = self.piece, self.piece.span
        self.width_field = self._number("Width", "px", 1, 20_000, piece.width, whole=piece.width)
        self.height_field = self._number("Height", "px", 1, 20_000, piece.height, whole=piece.height)
        self.chain = QToolButton()
        self.chain.setCheckable(True)
        self.chain.setChecked(True)
        self.chain.setIcon(icon("chain"))
        self.chain.setAccessibleName("Keep the shape")
        self.chain.setToolTip("Width and height change together, as the piece is")
        self.how = ListField()
        self.how.setAccessibleName("How it takes the size")
        self.how.addItems(["Cut to fill it", "Stretched", "Whole, with bars"])
        self.across = self._number("Cut across", "%", -100, 100, 0)
        self.down = self._number("Cut down", "%", -100, 100, 0)
        self.ground = ColourField("Ground")
        self.ground.show_value((0.0, 0.0, 0.0, 1.0))
        self.over = CheckBox("Over a ground")
        self.over.setToolTip("See-through parts get a colour behind them, though this kind of file could keep them")
        self.over.clicked.connect(self._refresh)
        self.first = self._number("First frame", "", 0, piece.length - 1, first)
        self.last = self._number("Last frame", "", 0, piece.length - 1, last - 1)
        self.rate = self._number("Frame rate", "fps", 0, 240, 0, decimals=3)
        self.rate.words = {0.0: f"{float(piece.rate):.4g} fps"}
        self.rate.setToolTip("Frames a second of the file; 0 takes the piece's own")
        self.repeat = self._number("Rounds", "×", 1, 1000, 1)
        self.single = CheckBox("Only the frame under the playhead")
        self.single.setChecked(True)
        self.chain.toggled.connect(self._tie)
        self.width_field.changed.connect(self._tie)
        self.height_field.changed.connect(self._tie_back)
        self.how.activated.connect(self._refresh)
        self.ground.changed.connect(self._refresh)
        self.single.clicked.connect(self._refresh)
        self.about = QLabel()
        stage = QWidget()
        self.setWidgetResizable(True)
        self.setWidget(stage)
        self.setFixedWidth(290)
        self.form = QFormLayout(stage)
        self.form.setContentsMargins(4, 0, 8, 0)
        self.form.setHorizontalSpacing(12)
        self.form.setVerticalSpacing(8)

    def _number(
        self, label: str, unit: str, low: float, high: float, value: float, whole: float = 100.0, decimals: int = 0
    ) -> NumberField:
        field = NumberField(label, unit, low, high, decimals=decimals, whole=whole)
        field.show_value(value)
        field.changed.connect(self._refresh)
        field.refused.connect(self.refused)
        return field

    # -- showing -----------------------------------------------------------------------------------------

    def follow(self, piece: Composition) -> None:
        """Take the piece as it is now: what was its own size and frames stays so, what was set otherwise stays."""
        old, self.piece = self.piece, piece
        self._sounds = sounds(self.session.project, piece)
        own = self.size == (old.width, old.height)
        self._follow_end(self.first, old.span[0], piece.span[0])
        self._follow_end(self.last, old.span[1] - 1, piece.span[1] - 1)
        self.width_field.whole, self.height_field.whole = piece.width, piece.height
        self.rate.words = {0.0: f"{float(piece.rate):.4g} fps"}
        self.rate.show_value(self.rate.value)
        if own:
            self.show_size(piece.width, piece.height)
        else:
            self._refresh()

    def _follow_end(self, field: NumberField, was: int, now: int) -> None:
        field.maximum = self.piece.length - 1
        field.show_value(now if field.value == was else min(field.value or 0.0, field.maximum))

    def show_kind(self, kind: Exporter) -> None:
        """Show the fields of a kind of file; what is common to all keeps its values."""
        if self.fields:
            self.kept[self.kind.name] = self.values
        self.kind = kind
        while self.form.rowCount():
            row = self.form.takeRow(0)
            for item in (row.labelItem, row.fieldItem):
                widget = item.widget() if item is not None else None
                if widget is not None:
                    widget.setParent(None)
                elif item is not None and item.layout() is not None:
                    while (part := item.layout().takeAt(0)) is not None:
                        part.widget().setParent(None)
        self.labels = {}
        title = QLabel(kind.label)
        title.setObjectName("Title")
        self.form.addRow(title)
        self._size_rows()
        if kind.many_files:
            self.form.addRow(self.single)
        self._row("First frame", self.first)
        self._row("Last frame", self.last)
        self._row("Frame rate", self.rate)
        if kind.plays_once:
            self._row("Rounds", self.repeat)
        held = self.kept.get(kind.name, {})
        self.fields = {p.name: self._field(p, held.get(p.name, p.default)) for p in kind.settings}
        for parameter in kind.settings:
            self._row(parameter.label, self.fields[parameter.name], parameter.name)
        self.about = QLabel()
        self.about.setObjectName("Quiet")
        self.about.setWordWrap(True)
        self.form.addRow(self.about)
        self._refresh()

    def _row(self, text: str, field: QWidget, name: str = "") -> None:
        label = QLabel(text)
        self.labels[name or text] = label
        self.form.addRow(label, field)
        self._come(field)

    def _come(self, field: QWidget) -> None:
        """Show a field that was put in again; before anybody sees the window it comes along with that."""
        if self.isVisible():
            field.show()

    def _size_rows(self) -> None:
        row = QHBoxLayout()
        row.setSpacing(4)
        for part in (self.width_field, self.chain, self.height_field):
            row.addWidget(part)
            self._come(part)
        self.labels["Size"] = QLabel("Size")
        self.form.addRow(self.labels["Size"], row)
        self._row("It is", self.how)
        self._row("Cut across", self.across)
        self._row("Cut down", self.down)
        self._row("See-through", self.over)
        self._row("Ground", self.ground)

    def _field(self, parameter: Parameter, value: object) -> Field:
        if parameter.kind is Kind.CHOICE:
            box = ListField()
            box.setAccessibleName(parameter.label)
            for choice in parameter.choices:
                box.addItem(choice if choice[:1].isupper() else choice.capitalize(), choice)
            box.setCurrentIndex(box.findData(value))
            box.setToolTip(parameter.help)
            box.activated.connect(self._refresh)
            return box
        if parameter.kind is Kind.SWITCH:
            switch = CheckBox("")
            switch.setMinimumSize(28, 26)
            switch.setAccessibleName(parameter.label)
            switch.setToolTip(parameter.help)
            switch.setChecked(bool(value))
            switch.clicked.connect(self._refresh)
            return switch
        field = self._number(
            parameter.label, parameter.unit, parameter.minimum, parameter.maximum, float(str(value)),
            decimals=0 if parameter.step >= 1 else 2,
        )  # fmt: skip
        field.setToolTip(parameter.help)
        return field

    # -- reading -----------------------------------------------------------------------------------------

    @property
    def size(self) -> tuple[int, int]:
        """Width and height of the file."""
        return int(self.width_field.value or 1), int(self.height_field.value or 1)

    @property
    def keeps_shape(self) -> bool:
        """Whether the size has the piece's own shape."""
        width, height = self.size
        return round(self.piece.height * width / self.piece.width) == height

    @property
    def framing(self) -> Framing:
        """How the piece takes the size."""
        how = HOWS[self.how.currentIndex()]
        # What keeps no see-through parts lies over the ground that was asked for; and bars are of it.
        behind = self.see_through and (not self.kind.alpha or self.over.isChecked())
        needs = behind or (not self.keeps_shape and how == HOWS[2])
        ground = self.ground.value if needs else None
        return Framing(*self.size, how, self.across.value or 0.0, self.down.value or 0.0, ground)

    @property
    def one_frame(self) -> bool:
        """Whether only the frame under the playhead is written."""
        return self.kind.many_files and self.single.isChecked()

    @property
    def playhead(self) -> int:
        """The frame under the playhead, or where it was when another piece came onto the canvas."""
        if self.session.composition_id == self.piece.id:
            self._playhead = self.session.frame
        return min(self._playhead, self.piece.length - 1)

    @property
    def span(self) -> tuple[int, int]:
        """The frames to write, half open; empty where the last comes before the first."""
        if self.one_frame:
            frame = self.playhead
            return frame, frame + 1
        return int(self.first.value or 0), int(self.last.value or 0) + 1

    @property
    def own_rate(self) -> Fraction | None:
        """Frames a second of the file, where that is not the piece's own."""
        rate = self.rate.value or 0.0
        if rate <= 0 or self.one_frame:
            return None
        known = next((Fraction(n, 1001) for n in (24_000, 30_000, 60_000) if abs(rate - n / 1001) < 0.005), None)
        return known or Fraction(rate).limit_denominator(1000)

    @property
    def values(self) -> dict[str, object]:
        """The kind of file's own settings."""
        found: dict[str, object] = {}
        for name, field in self.fields.items():
            if isinstance(field, QComboBox):
                found[name] = field.currentData()
            else:
                found[name] = field.isChecked() if isinstance(field, QCheckBox) else field.value
        return found

    def put(self, settings: dict[str, object]) -> None:
        """Show some of the kind's own settings."""
        for name, value in settings.items():
            field = self.fields.get(name)
            if isinstance(field, QComboBox):
                field.setCurrentIndex(field.findData(value))
            elif isinstance(field, QCheckBox):
                field.setChecked(bool(value))
            elif field is not None:
                field.show_value(float(str(value)))
        self._refresh()

    def as_target(self, name: str) -> Target:
        """Return what is asked for now as a target; sizes and rates that are the piece's own stay so."""
        own = self.size == (self.piece.width, self.piece.height)
        width, height = (0, 0) if own else self.size
        rate = float(self.own_rate) if self.own_rate is not None else 0.0
        how, repeat = self.how.currentIndex(), int(self.repeat.value or 1)
        return Target(name, self.kind.name, self.values, width, height, how, rate, repeat)

    def show_target(self, target: Target) -> None:
        """Ask for what a target of this kind of file has."""
        self.put(dict(target.settings))
        self.show_size(target.width or self.piece.width, target.height or self.piece.height)
        self.how.setCurrentIndex(target.how)
        self.rate.show_value(target.rate)
        self.repeat.show_value(target.repeat)

    # -- together ----------------------------------------------------------------------------------------

    def _tie(self) -> None:
        if self.chain.isChecked():
            self.height_field.show_value(max(round(self.piece.height * self.size[0] / self.piece.width), 1))
        self._refresh()

    def _tie_back(self) -> None:
        if self.chain.isChecked() and not self.keeps_shape:
            self.width_field.show_value(max(round(self.piece.width * self.size[1] / self.piece.height), 1))
        self._refresh()

    def show_size(self, width: int, height: int) -> None:
        """Show a size as it is."""
        self.width_field.show_value(width)
        self.height_field.show_value(height)
        self._refresh()

    def show_see_through(self, on: bool) -> None:
        """Offer a ground for kinds of files that keep no see-through parts."""
        self.see_through = on
        self._refresh()

    def _show_row(self, name: str, field: QWidget, shown: bool) -> None:
        if name in self.labels:
            self.labels[name].setVisible(shown)
            field.setVisible(shown)

    def _refresh(self) -> None:
        for field in (self.first, self.last, self.rate):
            field.setEnabled(not self.one_frame)
        other = not self.keeps_shape
        fills = other and self.how.currentIndex() == 0
        self._show_row("It is", self.how, other)
        self._show_row("Cut across", self.across, fills)
        self._show_row("Cut down", self.down, fills)
        self._show_row("See-through", self.over, self.see_through and self.kind.alpha)
        self._show_row("Ground", self.ground, self.framing.ground is not None)
        values = self.values
        for parameter in self.kind.settings:
            wanted = parameter.needs is None or values.get(parameter.needs[0]) in parameter.needs[1]
            wanted = wanted and (parameter != SOUND or self._sounds)
            if parameter.name in self.fields:
                self._show_row(parameter.name, self.fields[parameter.name], wanted)
        first, last = self.span
        if self.one_frame:
            text = f"Frame {first}, with its transparency."
        elif last > first:
            rounds = int(self.repeat.value or 1) if self.kind.plays_once else 1
            rate = self.own_rate or self.piece.rate
            count = max(round((last - first) / self.piece.rate * rate), 1) * rounds
            text = f"{count} frames, {float(count / rate):.2f} s."
        else:
            text = "The last frame comes before the first."
        silent = "" if self.kind.sound or self.one_frame or not self._sounds else f"{self.kind.label} keeps no sound."
        self.about.setText(" ".join(filter(None, (text, self.kind.remark(*self.size), silent))))
        self.changed.emit()
