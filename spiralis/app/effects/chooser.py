"""Choose an effect, a finish or a look set: sorted by purpose, searched by words, each shown on what is chosen."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, Qt, QTimer
from PyQt6.QtGui import QKeyEvent, QPixmap
from PyQt6.QtWidgets import (
    QDialog,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QMenu,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from spiralis.app.effects.offers import Offer, Section, favourites, sections, set_favourite
from spiralis.app.effects.own_looks import OwnLooks
from spiralis.app.effects.tiles import STAGE, EffectTile, picture_with
from spiralis.app.session import Session
from spiralis.app.widgets.matching import score
from spiralis.app.widgets.passing_menu import PassingMenu
from spiralis.app.widgets.text_fields import TextField
from spiralis.app.work.background import SmallPictures
from spiralis.core.geometry import Box, box_around, intersect
from spiralis.core.model import layer_kind

_COLUMNS = 5
#: How much of the piece is shown around what is chosen, beside its size.
_AROUND = 0.25
#: A tile that one points at plays so many pictures of the loop, each for so long, in ms.
MOVING, _EACH = 16, 90


class EffectsChooser(QDialog):
    """Adds what is clicked to all chosen layers. What an effect layer cannot have is not offered for one.

    Enter in the search adds the tile that fits best, which is lit; the arrow keys walk over the tiles.
    """

    def __init__(self, parent: QWidget, session: Session, role: str = "") -> None:
        super().__init__(parent)
        self.setWindowTitle("Effects, finishes and look sets")
        self.session, self.role = session, role
        self.tiles: dict[str, EffectTile] = {}
        self._sections: list[tuple[QLabel, QGridLayout, list[EffectTile]]] = []
        self._pictures = SmallPictures(self)
        self._pictures.made.connect(self._show_pictures)
        self._box = self._part()
        self._pointed: EffectTile | None = None
        #: What fits the typed words best; None where nothing is typed, or fits.
        self.best: EffectTile | None = None
        self._turn = 0
        self._playing = QTimer(self)
        self._playing.setInterval(_EACH)
        self._playing.timeout.connect(self._play)
        self._build()
        self._fill()
        self.search.setFocus()

    def _part(self) -> Box:
        """Return the part of the frame that the tiles show: around the chosen layers, in the shape of a tile."""
        at, piece = self.session.evaluated(), self.session.composition
        frame = (0.0, 0.0, float(piece.width), float(piece.height))
        boxes = [at.matrix(layer).box(at.box(layer)) for layer in self.session.layers]
        left, top, right, bottom = intersect(box_around(boxes), frame) or frame
        size = max((right - left) / STAGE[0], (bottom - top) / STAGE[1], 0.2) * (1 + 2 * _AROUND)
        # Never more than the frame has, so that pictures fill their tiles.
        size = min(size, piece.width / STAGE[0], piece.height / STAGE[1])
        width, height = size * STAGE[0], size * STAGE[1]
        x = min(max((left + right - width) / 2, 0.0), piece.width - width)
        y = min(max((top + bottom - height) / 2, 0.0), piece.height - height)
        return x, y, x + width, y + height

    # -- building --------------------------------------------------------------------------------------

    def _build(self) -> None:
        names = ", ".join(layer.name for layer in self.session.layers[:3])
        more = f" and {len(self.session.layers) - 3} more" if len(self.session.layers) > 3 else ""
        about = QLabel(f"on {names}{more}")
        about.setObjectName("Quiet")
        self.search = TextField()
        self.search.setPlaceholderText("Search: a name, or what it is to do; Enter adds the best")
        self.search.setAccessibleName("Search effects")
        self.search.textChanged.connect(self._sort)
        looks = QPushButton("Look sets")
        looks.setAutoDefault(False)
        looks.setToolTip("Keep the layer's effects as a look set of your own, share yours, take others along")
        self.looks_menu = QMenu(looks)
        self.own_looks = OwnLooks(self, self.session, self._fill)
        self.own_looks.fill(self.looks_menu)
        looks.setMenu(self.looks_menu)
        top = QHBoxLayout()
        for widget, stretch in ((self.search, 1), (about, 0), (looks, 0)):
            top.addWidget(widget, stretch)
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self.area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.area.verticalScrollBar().valueChanged.connect(self._show_pictures)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(14, 12, 14, 12)
        whole.setSpacing(10)
        whole.addLayout(top)
        whole.addWidget(self.area, 1)
        self.resize(_COLUMNS * (STAGE[0] + 14) + 60, 640)

    def _fill(self) -> None:
        """Make the tiles of all sections anew."""
        self._point(None)
        self.tiles, self._sections, self.best = {}, [], None
        body = QWidget()
        column = QVBoxLayout(body)
        column.setContentsMargins(0, 0, 8, 0)
        column.setSpacing(6)
        beneath = any(layer_kind(layer.kind).beneath is not None for layer in self.session.layers)
        starred = set(favourites())
        for section in sections(self.role, beneath):
            self._add_section(column, section, starred)
        self.none = QLabel("No effect is called like that, or does that.")
        self.none.setObjectName("Quiet")
        column.addWidget(self.none)
        column.addStretch(1)
        self.area.setWidget(body)
        self._sort(self.search.text())
        self._show_pictures()

    def _add_section(self, column: QVBoxLayout, section: Section, starred: set[str]) -> None:
        name, offers = section
        title = QLabel(name.upper())
        title.setProperty("part", "heading")
        grid = QGridLayout()
        grid.setSpacing(6)
        grid.setColumnStretch(_COLUMNS, 1)
        column.addWidget(title)
        column.addLayout(grid)
        made = []
        for offer in offers:
            tile = EffectTile(offer, offer.key in starred)
            # A favourite has two tiles; the one of its own section is found by its key.
            self.tiles[offer.key] = tile
            tile.clicked.connect(lambda _=False, offer=offer: self._take(offer))
            tile.walked.connect(lambda across, down, tile=tile: self._walk(tile, across, down))
            tile.pointed.connect(lambda on, tile=tile: self._point(tile if on else None))
            tile.starred.connect(lambda on, key=offer.key: self._star(key, on))
            tile.menuAsked.connect(lambda place, offer=offer: self._show_menu(offer, place))
            made.append(tile)
        self._sections.append((title, grid, made))

    def _sort(self, text: str) -> None:
        """Show those whose name, help or purpose holds all the words."""
        words = text.casefold().split()
        ranks: dict[EffectTile, int] = {}
        for title, grid, tiles in self._sections:
            scored = {tile: score(words, tile.offer.label, tile.offer.words) for tile in tiles}
            fitting = {tile: rank for tile, rank in scored.items() if rank is not None}
            for tile in tiles:
                grid.removeWidget(tile)
                tile.setVisible(tile in fitting)
            for place, tile in enumerate(fitting):
                grid.addWidget(tile, place // _COLUMNS, place % _COLUMNS)
            title.setVisible(bool(fitting))
            ranks |= fitting
        self.none.setVisible(not ranks)
        self._mark_best(ranks if words else {})

    def _shown(self) -> list[EffectTile]:
        return [tile for _, _, tiles in self._sections for tile in tiles if not tile.isHidden()]

    def _mark_best(self, ranks: dict[EffectTile, int]) -> None:
        self.best = min(ranks, key=lambda tile: (ranks[tile], len(tile.offer.label)), default=None)
        for tile in (tile for _, _, tiles in self._sections for tile in tiles):
            tile.show_best(tile is self.best)
        if self.best is not None:
            QTimer.singleShot(0, self._show_best)

    def _show_best(self) -> None:
        if self.best is not None:
            self.area.ensureWidgetVisible(self.best)

    # -- pictures --------------------------------------------------------------------------------------

    def _show_pictures(self) -> None:
        """Show the pictures that are there; those in sight are asked for first."""
        for tile in self._shown():
            if tile is not self._pointed or not self._turn:
                seen = not tile.visibleRegion().isEmpty()
                tile.show_picture(self._picture(tile.offer, self.session.frame, seen))

    def _picture(self, offer: Offer, frame: int, first: bool = True) -> QPixmap | None:
        session, box = self.session, self._box
        project, piece, ids = session.project, session.composition, session.selected
        return self._pictures.of(
            (offer.key, frame), lambda: picture_with(project, piece, ids, offer.change, frame, box), first
        )

    def _point(self, tile: EffectTile | None) -> None:
        """Play the tile that one points at; what was pointed at before stands still again."""
        if tile is self._pointed:
            return
        before, self._pointed, self._turn = self._pointed, tile, 0
        if before is not None:
            before.show_picture(self._picture(before.offer, self.session.frame))
        self._playing.stop()
        if tile is not None:
            self._playing.start()

    def frames(self) -> list[int]:
        """Return the frames that a moving tile shows in turn, from the playhead on."""
        first, last = self.session.composition.span
        length = last - first
        count = min(MOVING, length)
        start = min(max(self.session.frame, first), last - 1) - first
        return [first + (start + round(turn * length / count)) % length for turn in range(count)]

    def _play(self) -> None:
        tile, frames = self._pointed, self.frames()
        if tile is None or len(frames) < 2:
            return
        picture = self._picture(tile.offer, frames[(self._turn + 1) % len(frames)])
        # It waits for a picture that is not there yet rather than leave it out.
        if picture is not None:
            self._turn += 1
            tile.show_picture(picture)

    # -- by keyboard -----------------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent) -> None:
        at = self.focusWidget()
        tile = at if isinstance(at, EffectTile) else None
        taken = tile or (self.best if at is self.search else None)
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and taken is not None:
            taken.click()
        elif event.key() == Qt.Key.Key_Down and at is self.search:
            self._go(self.best or next(iter(self._shown()), None))
        else:
            super().keyPressEvent(event)

    def _walk(self, tile: EffectTile, across: int, down: int) -> None:
        """Go to the tile next to one in a direction; above the first row is the search."""
        shown, here = self._shown(), self._place(tile)
        if across:
            self._go(shown[min(max(shown.index(tile) + across, 0), len(shown) - 1)])
            return

        def far(other: EffectTile) -> tuple[int, int]:
            way = self._place(other) - here
            return abs(way.y()), abs(way.x())

        there = [other for other in shown if (self._place(other).y() - here.y()) * down > 0]
        self._go(min(there, key=far, default=self.search if down < 0 else tile))

    def _go(self, goal: QWidget | None) -> None:
        if goal is not None:
            goal.setFocus(Qt.FocusReason.TabFocusReason)
            if goal is not self.search:
                self.area.ensureWidgetVisible(goal)

    def _place(self, tile: EffectTile) -> QPoint:
        return tile.mapTo(self.area.widget(), QPoint())

    # -- acting ----------------------------------------------------------------------------------------

    def _take(self, offer: Offer) -> None:
        self.session.edit_layers(f"Add {offer.label}", offer.change)
        self.accept()

    def _star(self, key: str, on: bool) -> None:
        try:
            set_favourite(key, on)
        except OSError:
            self.session.failed.emit("Favourites cannot be kept: your folder for settings may not be written to.")
            return
        place = self.area.verticalScrollBar().value()
        self._fill()
        QTimer.singleShot(0, lambda: self.area.verticalScrollBar().setValue(place))

    def _show_menu(self, offer: Offer, place: QPoint) -> None:
        menu = PassingMenu(self)
        menu.addAction(f"Add {offer.label}", lambda: self._take(offer))
        favourite = offer.key in favourites()
        menu.addAction("No favourite any more" if favourite else "Make it a favourite",
                       lambda: self._star(offer.key, not favourite))  # fmt: skip
        if offer.own:
            menu.addAction("Drop this look set", lambda: self.own_looks.drop(offer.label))
        menu.popup(place)
