"""The list of compositions in the piece bar: pieces first, then their parts, with pictures while it is open."""

from __future__ import annotations

from PyQt6.QtCore import QSize, Qt

from spiralis.app.session import Session
from spiralis.app.widgets.fields import ListField
from spiralis.app.widgets.images import true_icon
from spiralis.app.work.background import SmallPictures
from spiralis.app.work.renderers import RENDERERS
from spiralis.core.model import Composition
from spiralis.core.model.pieces import whole_pieces

_PICTURE = 32


class PieceList(ListField):
    """Chooses the composition on the canvas."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setAccessibleName("Composition")
        self.setToolTip("The composition on the canvas: pieces first, below the line what is nested in them")
        self.setMinimumWidth(120)
        self.setMaximumWidth(220)
        self.setMaxVisibleItems(16)
        self._shown: list[tuple[str, str]] = []
        self._pictures = SmallPictures(self)
        self._pictures.made.connect(self._show_pictures)
        self.activated.connect(self._choose)
        self.opening.connect(self._show_pictures)

    def refresh(self) -> None:
        """List the compositions as they are now, and show which one is on the canvas."""
        project = self.session.project
        whole = whole_pieces(project)
        held = {piece.id for piece in whole}
        parts = [piece for piece in project.compositions if piece.id not in held]
        items = [(piece.name, piece.id) for piece in whole]
        items += [("", "")] * bool(whole and parts) + [(piece.name, piece.id) for piece in parts]
        if items != self._shown:
            self._shown = items
            self.clear()
            for name, piece_id in items:
                if piece_id:
                    self.addItem(name, piece_id)
                else:
                    self.insertSeparator(self.count())
        self.setCurrentIndex(self.findData(self.session.composition_id))

    def _choose(self, index: int) -> None:
        if self.itemData(index):
            self.session.show_composition(self.itemData(index))

    def _show_pictures(self) -> None:
        """Put a picture beside each name, as they come."""
        project = self.session.project
        self.setIconSize(QSize(_PICTURE, _PICTURE))
        for index in range(self.count()):
            piece = project.find(self.itemData(index) or "")
            if piece is None:
                continue
            picture = self._pictures.of((piece.id, id(piece)), lambda piece=piece: self._drawn(piece))
            if picture is not None and not picture.isNull():
                self.setItemData(index, true_icon(picture), Qt.ItemDataRole.DecorationRole)

    def hidePopup(self) -> None:
        """Close; the closed list has no room for pictures."""
        super().hidePopup()
        for index in range(self.count()):
            self.setItemData(index, None, Qt.ItemDataRole.DecorationRole)

    def _drawn(self, piece: Composition):  # type: ignore[no-untyped-def]
        scale = 2 * _PICTURE / max(piece.width, piece.height)
        return RENDERERS.picture(self.session.project, piece.id, piece.length // 3, scale)
