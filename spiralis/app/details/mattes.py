"""The Details section of a layer's mattes: by what each works, how they are put together, inverted, shown."""

from __future__ import annotations

from collections.abc import Iterator

from attrs import evolve
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QLabel, QToolButton, QVBoxLayout, QWidget

from spiralis.app.details.block_list import BlockList
from spiralis.app.style import icon
from spiralis.app.widgets.fields import CheckBox, ListField, LongList
from spiralis.core.editing.matting import may_be_matte, with_matte, without_matte
from spiralis.core.model import Layer, Matte
from spiralis.core.model.layer import MATTE_BY, MATTE_MODES

_MODES = {"intersect": "Shows inside", "add": "Adds", "subtract": "Takes away"}


class MattesEditor(BlockList):
    """One block a matte, and a list to add another."""

    def state(self, layer: Layer) -> object:
        find = self.session.composition.find
        return layer.id, layer.mattes, tuple(getattr(find(matte.layer), "name", "") for matte in layer.mattes)

    def blocks(self, layer: Layer) -> Iterator[QWidget]:
        for matte in layer.mattes:
            yield self._block(layer.id, matte)
        yield self._adder(layer.id)

    def _block(self, layer_id: str, matte: Matte) -> QWidget:
        block = QWidget()
        rows = QVBoxLayout(block)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(2)
        source = self.session.composition.find(matte.layer)
        head = QHBoxLayout()
        name = QLabel(source.name if source is not None else "A layer that is gone")
        head.addWidget(name, 1)
        remove = QToolButton()
        remove.setObjectName("Flat")
        remove.setIcon(icon("close"))
        remove.setAccessibleName(f"Remove the matte {name.text()}")
        remove.clicked.connect(lambda: self._edit("Remove matte", lambda p: without_matte(p, layer_id, matte.layer)))
        head.addWidget(remove)
        rows.addLayout(head)
        choices = QHBoxLayout()
        mode = self._box([(_MODES[m], m) for m in MATTE_MODES], matte.mode, "How it joins the others")
        mode.activated.connect(lambda i: self._change(layer_id, evolve(matte, mode=mode.itemData(i))))
        by = self._box([(f"by {b}", b) for b in MATTE_BY], matte.by, "What of it counts")
        by.activated.connect(lambda i: self._change(layer_id, evolve(matte, by=by.itemData(i))))
        choices.addWidget(mode)
        choices.addWidget(by)
        rows.addLayout(choices)
        switches = QHBoxLayout()
        for label, field in (("Inverted", "inverted"), ("Show it too", "shown")):
            box = CheckBox(label)
            box.setChecked(getattr(matte, field))
            box.clicked.connect(lambda on, f=field: self._change(layer_id, evolve(matte, **{f: on})))
            switches.addWidget(box)
        rows.addLayout(switches)
        return block

    def _box(self, items: list[tuple[str, str]], chosen: str, name: str) -> QComboBox:
        box = ListField()
        box.setAccessibleName(name)
        box.setToolTip(name)
        for label, data in items:
            box.addItem(label, data)
        box.setCurrentIndex(box.findData(chosen))
        return box

    def _adder(self, layer_id: str) -> QComboBox:
        def offered() -> list[tuple[str, object]]:
            piece = self.session.composition
            taken = {layer_id, *(matte.layer for matte in piece.layer(layer_id).mattes)}
            others = ((y.name, y.id) for y in piece.layers if y.id not in taken and may_be_matte(y))
            return [("Add a matte …", ""), *others]

        box = LongList(offered)
        box.setAccessibleName("Which layer decides where this one shows")
        box.setToolTip(box.accessibleName())
        box.show_one("Add a matte …", "")
        box.activated.connect(lambda index: self._add(layer_id, box.itemData(index)))
        return box

    def _add(self, layer_id: str, source_id: str) -> None:
        if source_id:
            self._edit("Add matte", lambda piece: with_matte(piece, layer_id, source_id))

    def _change(self, layer_id: str, matte: Matte) -> None:
        def change(piece):  # type: ignore[no-untyped-def]
            layer = piece.layer(layer_id)
            mattes = tuple(matte if old.layer == matte.layer else old for old in layer.mattes)
            return piece.with_layer(evolve(layer, mattes=mattes))

        self._edit("Matte", change)

    def _edit(self, name: str, change) -> None:  # type: ignore[no-untyped-def]
        self.session.edit(name, change)
