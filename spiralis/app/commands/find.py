"""Find: type words, and choose among commands, layers, compositions, effects and things to add."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from attrs import frozen
from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QKeyEvent, QKeySequence
from PyQt6.QtWidgets import QDialog, QLabel, QTreeWidget, QTreeWidgetItem, QVBoxLayout, QWidget

from spiralis.app.commands.menus import Menus, all_commands
from spiralis.app.commands.needs import missing
from spiralis.app.strips.add_strip import add_entries, add_kind
from spiralis.app.widgets.matching import score
from spiralis.app.widgets.text_fields import TextField
from spiralis.core.editing.effecting import with_effect
from spiralis.core.model.blocks import effect_kinds

_WIDTH, _HEIGHT, _MOST = 520, 420, 200


@frozen
class Finding:
    """Something that can be chosen: its name, what it is, its shortcut, what it lacks, and what choosing it does."""

    name: str
    sort: str
    run: Callable[[], object]
    keys: str = ""
    lacks: str = ""


def found(things: Sequence[Finding], typed: str) -> list[Finding]:
    """Return what fits the typed words, the best first; all there is where nothing is typed."""
    words = typed.casefold().split()
    fitting = []
    for place, thing in enumerate(things):
        rank = score(words, thing.name, thing.sort)
        if rank is not None:
            fitting.append((rank, len(thing.name) if words else 0, place))
    return [things[place] for _, _, place in sorted(fitting)[:_MOST]]


class Find(QDialog):
    """A field over a list; Enter does what is lit, the arrow keys move, Escape leaves."""

    def __init__(self, parent: QWidget, menus: Menus) -> None:
        super().__init__(parent)
        self.menus = menus
        self.session = menus.context.session
        self.setWindowTitle("Find")
        self.resize(_WIDTH, _HEIGHT)
        self.field = TextField()
        self.field.setPlaceholderText("A command, a layer, a composition, an effect…")
        self.field.setAccessibleName("Find")
        self.field.setClearButtonEnabled(True)
        self.list = QTreeWidget()
        self.list.setAccessibleName("What was found")
        self.list.setColumnCount(3)
        self.list.setHeaderHidden(True)
        self.list.setRootIsDecorated(False)
        self.list.setUniformRowHeights(True)
        self.list.setColumnWidth(0, 264)
        self.list.setColumnWidth(1, 110)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.itemActivated.connect(lambda item: self.take())
        self.list.itemClicked.connect(lambda item: self.take())
        self.nothing = QLabel("Nothing is called that.")
        self.nothing.setObjectName("Quiet")
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 12, 12, 12)
        column.addWidget(self.field)
        column.addWidget(self.list, 1)
        column.addWidget(self.nothing)
        self.field.textChanged.connect(self.show_found)
        self.field.installEventFilter(self)
        self._things = self._gather()
        self._shown: list[Finding] = []
        self.show_found("")
        self.field.setFocus()

    def _gather(self) -> list[Finding]:
        menus, context = self.menus, self.menus.context
        editing = context.editor.isVisible()
        things = [
            Finding(
                command.label.rstrip("…"), " › ".join(way), lambda label=command.label: menus.run(label),
                ", ".join(k.toString(QKeySequence.SequenceFormat.NativeText) for k in menus.own_keys.of(command)),
                missing(command.needs, context) if editing else "",
            )
            for way, command in all_commands() if editing or not command.needs_piece
        ]  # fmt: skip
        return things + (self._in_the_piece() if editing else [])

    def _in_the_piece(self) -> list[Finding]:
        session = self.session
        things = [
            Finding(layer.name, "Layer", lambda chosen=layer.id: session.select([chosen]))
            for layer in session.composition.layers
        ]
        things += [
            Finding(piece.name, "Composition", lambda chosen=piece.id: session.show_composition(chosen))
            for piece in session.project.compositions if piece.id != session.composition_id
        ]  # fmt: skip
        things += [
            Finding(entry.label, "Add", lambda kind=kind, entry=entry: add_kind(session, kind, entry))
            for kind, entry in add_entries()
        ]
        lacks = "" if session.layers else "Choose a layer first."
        things += [
            Finding(kind.label, kind.role.capitalize(), lambda name=kind.name, label=kind.label: self._add(name, label),
                    lacks=lacks)
            for kind in effect_kinds()
        ]  # fmt: skip
        return things

    def _add(self, name: str, label: str) -> None:
        self.session.edit_layers(f"Add {label}", lambda layer: with_effect(layer, name))

    def show_found(self, typed: str) -> None:
        """List what fits."""
        self._shown = found(self._things, typed)
        self.list.clear()
        for thing in self._shown:
            item = QTreeWidgetItem([thing.name, thing.sort, thing.keys])
            if thing.lacks:
                item.setForeground(0, self.palette().placeholderText())
                item.setToolTip(0, thing.lacks)
            item.setForeground(1, self.palette().placeholderText())
            self.list.addTopLevelItem(item)
        if self._shown:
            self.list.setCurrentItem(self.list.topLevelItem(0))
        self.nothing.setVisible(not self._shown)

    def take(self) -> None:
        """Do what is lit."""
        index = self.list.indexOfTopLevelItem(self.list.currentItem())
        if not 0 <= index < len(self._shown):
            return
        thing = self._shown[index]
        if thing.lacks:
            self.nothing.setText(thing.lacks)
            self.nothing.show()
            return
        self.accept()
        thing.run()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and event.type() is QEvent.Type.KeyPress:
            steps = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1, Qt.Key.Key_PageDown: 10, Qt.Key.Key_PageUp: -10}
            if event.key() in steps and self._shown:
                now = self.list.indexOfTopLevelItem(self.list.currentItem())
                goal = min(max(now + steps[Qt.Key(event.key())], 0), len(self._shown) - 1)
                self.list.setCurrentItem(self.list.topLevelItem(goal))
                return True
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self.take()
                return True
        return super().eventFilter(watched, event)
