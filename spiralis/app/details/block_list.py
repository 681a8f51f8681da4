"""A column of blocks about the one chosen layer, made anew only where what they show has changed."""

from __future__ import annotations

from collections.abc import Iterator

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from spiralis.app.session import Session
from spiralis.core.model import Layer


class BlockList(QWidget):
    """``state`` says what the blocks depend on, ``blocks`` makes them."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._shown: object = None
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(0, 0, 0, 0)
        self.column.setSpacing(4)
        self.refresh()

    def state(self, layer: Layer) -> object:
        """Return what decides how the blocks look."""
        raise NotImplementedError

    def blocks(self, layer: Layer) -> Iterator[QWidget]:
        """Yield the blocks, top to bottom."""
        raise NotImplementedError

    def refresh(self) -> None:
        """Show the chosen layer as it stands; nothing changes where several are chosen, or none."""
        layers = self.session.layers
        if len(layers) != 1 or (layers[0].id, self.state(layers[0])) == self._shown:
            return
        self._shown = (layers[0].id, self.state(layers[0]))
        while (item := self.column.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        for block in self.blocks(layers[0]):
            self.column.addWidget(block)
