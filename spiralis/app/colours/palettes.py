"""The menu of palettes that a person keeps, beside the swatches of the project."""

from __future__ import annotations

from PyQt6.QtCore import QSize
from PyQt6.QtGui import QIcon, QPainter, QPixmap
from PyQt6.QtWidgets import QMenu, QWidget

from spiralis.app.colours.converting import as_qcolor
from spiralis.app.colours.swatches import SwatchGrid
from spiralis.app.library.keeping import Keeper
from spiralis.app.library.palettes import OWN_PALETTES, Palette

_SIZE = QSize(60, 14)


class PaletteMenu(QMenu):
    """Adds the colours of a palette to the swatches, keeps the swatches as one, drops one."""

    def __init__(self, parent: QWidget, grid: SwatchGrid) -> None:
        super().__init__(parent)
        self.grid = grid
        self.keeper = Keeper(self, OWN_PALETTES, grid.session.failed.emit)
        self.aboutToShow.connect(self.fill)

    def fill(self) -> None:
        """List the palettes as they are kept now."""
        self.clear()
        swatches = self.grid.session.project.swatches
        keep = self.addAction("Keep the swatches as a palette…", self._ask)
        keep.setEnabled(bool(swatches))
        palettes = OWN_PALETTES.all()
        if palettes:
            self.addSeparator()
        for palette in palettes:
            self.addAction(_picture(palette), palette.name, lambda palette=palette: self.grid.add(*palette.colours))
        if palettes:
            drops = self.addMenu("Drop a palette")
            for palette in palettes:
                drops.addAction(palette.name, lambda name=palette.name: self.keeper.drop(name))

    def _ask(self) -> None:
        if name := self.keeper.ask_name("Keep a palette", "Name of the palette:"):
            self.keep(name)

    def keep(self, name: str) -> None:
        """Keep the project's swatches as a palette."""
        self.keeper.keep(lambda: Palette(name, self.grid.session.project.swatches))


def _picture(palette: Palette) -> QIcon:
    pixmap = QPixmap(_SIZE)
    painter = QPainter(pixmap)
    wide = _SIZE.width() / max(len(palette.colours), 1)
    for place, colour in enumerate(palette.colours):
        painter.fillRect(round(place * wide), 0, round(wide) + 1, _SIZE.height(), as_qcolor(colour))
    painter.end()
    return QIcon(pixmap)
