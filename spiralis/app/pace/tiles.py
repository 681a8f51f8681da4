"""Ease tiles: small drawings with names; a click eases the chosen segments, hovering plays the ease on the canvas."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QContextMenuEvent, QEnterEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PyQt6.QtWidgets import (
    QAbstractButton,
    QGridLayout,
    QHBoxLayout,
    QMenu,
    QScrollArea,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from spiralis.app.library.keeping import Keeper
from spiralis.app.library.tiles import OWN_TILES, own_tile
from spiralis.app.session import Session
from spiralis.app.style import CHOSEN, MARIGOLD, RAISED, TEXT, colour, font, icon
from spiralis.app.widgets.passing_menu import PassingMenu
from spiralis.app.widgets.strokes import Lines, stroke, through
from spiralis.core.animation.ease_tiles import EASE_TILES, STRENGTHS, EaseTile, soft
from spiralis.core.animation.easing import Easing


@lru_cache(200)
def _curve(easing: Easing, width: int, height: int) -> Lines:
    """Return an ease's curve as a tile shows it, in an area of such a size in px."""
    shares = np.linspace(0, 1, 81)
    values = easing.solve(shares)
    values[-1] = 1.0
    low, high = min(0.0, values.min()), max(1.0, values.max())
    x, y = 10 + shares * width, 7 + height - (values - low) / (high - low) * height
    return through(QPointF(*place) for place in zip(x.tolist(), y.tolist(), strict=True))


class Tile(QAbstractButton):
    """One ease, drawn as its curve."""

    entered = pyqtSignal(object)

    def __init__(self, tile: EaseTile) -> None:
        super().__init__()
        self.tile = tile
        self.setCheckable(True)
        self.setAccessibleName(tile.label)
        self.setToolTip(f"{tile.label}: {tile.help}")
        self.setMinimumSize(50, 44)

    def sizeHint(self) -> QSize:
        return QSize(58, 48)

    def enterEvent(self, event: QEnterEvent) -> None:
        self.entered.emit(self.tile.easing)
        super().enterEvent(event)

    def leaveEvent(self, event: QEvent) -> None:
        self.entered.emit(None)
        super().leaveEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        chosen = self.isChecked()
        edge = MARIGOLD if chosen or self.hasFocus() else ("#5a5169" if self.underMouse() else RAISED)
        painter.setPen(QPen(colour(edge), 1.2))
        painter.setBrush(colour(CHOSEN if chosen else RAISED))
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.6, 0.6, -0.6, -0.6), 6, 6)
        tint = colour(MARIGOLD if chosen else TEXT, 1.0 if self.isEnabled() else 0.3)
        stroke(painter, _curve(self.tile.easing, self.width() - 20, self.height() - 27), tint, 1.5)
        painter.setPen(tint)
        painter.setFont(font(10.5, 500))
        label = QRectF(0, self.height() - 18, self.width(), 14)
        painter.drawText(label, Qt.AlignmentFlag.AlignCenter, self.tile.label)
        painter.end()


class Tiles(QWidget):
    """All ease tiles in a grid that scrolls, a person's own ones last; above them how strong the soft ones are."""

    chosen = pyqtSignal(object)
    hovered = pyqtSignal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session, self.columns = session, 3
        self.tiles: dict[str, Tile] = {}
        self._easing: Easing | None = None
        self._strength = "medium"
        self.keeper = Keeper(self, OWN_TILES, session.failed.emit)
        OWN_TILES.when_changed(self._fill)
        self.strengths: dict[str, QToolButton] = {}
        strengths = QHBoxLayout()
        strengths.setSpacing(3)
        for name in STRENGTHS:
            button = QToolButton()
            button.setText(name.capitalize())
            button.setStyleSheet("padding: 1px 3px; font-size: 11px; min-height: 20px;")
            button.setCheckable(True)
            button.setChecked(name == "medium")
            button.setToolTip(f"{name.capitalize()} softness of Soft start, Soft stop and Soft both")
            button.clicked.connect(lambda _=False, name=name: self.set_strength(name))
            strengths.addWidget(button)
            self.strengths[name] = button
        self.more = QToolButton()
        self.more.setIcon(icon("more"))
        self.more.setProperty("part", "more")
        self.more.setFixedSize(24, 24)
        self.more.setAccessibleName("Own tiles")
        self.more.setToolTip("Keep the present ease as a tile of your own; write and read files of tiles")
        self.more.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu = QMenu(self.more)
        menu.addAction("Keep this ease…", self._ask_keep)
        menu.addAction("Write my tiles to a file…", lambda: self.keeper.ask_write("tiles"))
        menu.addAction("Read tiles from a file…", lambda: self.keeper.ask_take("tiles"))
        self.more.setMenu(menu)
        strengths.addStretch(1)
        strengths.addWidget(self.more)
        self.grid_widget = QWidget()
        self.grid = QGridLayout(self.grid_widget)
        self.grid.setContentsMargins(0, 0, 0, 0)
        self.grid.setSpacing(4)
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setWidget(self.grid_widget)
        area.setMinimumWidth(156)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addLayout(strengths)
        column.addWidget(area, 1)
        self._fill()

    def _fill(self) -> None:
        while (item := self.grid.takeAt(0)) is not None:
            item.widget().deleteLater()
        self.tiles = {}
        for tile in (*EASE_TILES, *OWN_TILES.all()):
            button = Tile(tile)
            button.clicked.connect(lambda _=False, held=button: self.chosen.emit(held.tile))
            button.entered.connect(self.hovered)
            self.tiles[tile.name] = button
        self._place()
        self.set_strength(self._strength)

    def _place(self) -> None:
        for index, button in enumerate(self.tiles.values()):
            self.grid.addWidget(button, index // self.columns, index % self.columns)
        for column in range(4):
            self.grid.setColumnStretch(column, 1 if column < self.columns else 0)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """As many tiles beside each other as have room."""
        super().resizeEvent(event)
        columns = 3 if self.width() >= 180 else 2
        if columns != self.columns:
            self.columns = columns
            self._place()

    def set_strength(self, strength: str) -> None:
        """Make the soft tiles light, medium or strong."""
        self._strength = strength
        for name, button in self.strengths.items():
            button.setChecked(name == strength)
        for name in ("soft-start", "soft-stop", "soft-both"):
            held = self.tiles[name].tile
            self.tiles[name].tile = EaseTile(name, held.label, soft(name, strength), held.help)
        self.show_easing(self._easing)
        self.update()

    def show_easing(self, easing: Easing | None) -> None:
        """Light up the tile of an easing, if it has one; without a segment all are off."""
        self._easing = easing
        for button in self.tiles.values():
            button.setEnabled(easing is not None)
            button.setChecked(easing is not None and button.tile.easing == easing)

    # -- own tiles ---------------------------------------------------------------------------------------

    def _ask_keep(self) -> None:
        if self._easing is None:
            self.session.failed.emit("Choose a segment first; its ease becomes your tile.")
            return
        if name := self.keeper.ask_name("Keep this ease", "Name of the tile:"):
            self.keep(name)

    def keep(self, name: str) -> None:
        """Keep the shown ease under a name."""
        easing = self._easing
        if easing is not None:
            self.keeper.keep(lambda: own_tile(name, easing))

    def read(self, path: Path) -> None:
        """Take the tiles of a file along."""
        self.keeper.take_from(path)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        under = self.childAt(event.pos())
        if isinstance(under, Tile) and under.tile.name.startswith("own-"):
            menu, name = PassingMenu(self), under.tile.label
            menu.addAction(f"Drop {name}", lambda: self.keeper.drop(name))
            menu.exec(event.globalPos())
