"""Which part of a composition the canvas shows, and how large."""

from __future__ import annotations

from PyQt6.QtCore import QObject, QPointF, pyqtSignal
from PyQt6.QtWidgets import QWidget

from spiralis.app.session import Session
from spiralis.core.geometry import Affine

#: Room around a piece that is shown whole, in px.
MARGIN = 6.0
_SMALLEST, _LARGEST = 0.02, 32.0


class Viewport(QObject):
    """The map between the composition's pixels and a widget's; ``zoomed`` tells the zoom in percent."""

    zoomed = pyqtSignal(float)

    def __init__(self, session: Session, widget: QWidget) -> None:
        super().__init__()
        self.session, self.widget = session, widget
        self.zoom, self.fits = 1.0, True
        self.centre = (0.0, 0.0)
        self._fitted = (0, 0)

    @property
    def to_widget(self) -> Affine:
        """The map from composition pixels to widget pixels."""
        x = self.widget.width() / 2 - self.centre[0] * self.zoom
        y = self.widget.height() / 2 - self.centre[1] * self.zoom
        return Affine(self.zoom, 0, 0, self.zoom, x, y)

    def to_composition(self, point: QPointF) -> tuple[float, float]:
        """Return a widget point in composition pixels."""
        inverse = self.to_widget.inverse() or Affine()
        return inverse.apply(point.x(), point.y())

    def fit(self) -> None:
        """Show the whole piece."""
        piece = self.session.composition
        self.fits, self._fitted = True, (piece.width, piece.height)
        room = (max(self.widget.width() - 2 * MARGIN, 40), max(self.widget.height() - 2 * MARGIN, 40))
        self._show(min(room[0] / piece.width, room[1] / piece.height), (piece.width / 2, piece.height / 2))

    def fit_again(self) -> None:
        """Show the whole piece where that is what was asked for and its size has changed."""
        piece = self.session.composition
        if self.fits and (piece.width, piece.height) != self._fitted:
            self.fit()

    def zoom_to(self, zoom: float, around: QPointF | None = None) -> None:
        """Zoom to a factor, keeping a widget point where it is."""
        width, height = self.widget.width(), self.widget.height()
        around = around if around is not None else QPointF(width / 2, height / 2)
        held = self.to_composition(around)
        zoom = min(max(zoom, _SMALLEST), _LARGEST)
        self.fits = False
        self._show(zoom, (held[0] - (around.x() - width / 2) / zoom, held[1] - (around.y() - height / 2) / zoom))

    def zoom_by(self, factor: float) -> None:
        """Zoom by a factor about the middle."""
        self.zoom_to(self.zoom * factor)

    def pan(self, centre: tuple[float, float], moved: QPointF) -> None:
        """Show what was about ``centre`` moved by so many widget pixels."""
        self.fits = False
        self._show(self.zoom, (centre[0] - moved.x() / self.zoom, centre[1] - moved.y() / self.zoom))

    def show_at(self, centre: tuple[float, float]) -> None:
        """Show another part, as large as it is."""
        self.fits = False
        self._show(self.zoom, centre)

    def _show(self, zoom: float, centre: tuple[float, float]) -> None:
        self.zoom, self.centre = zoom, centre
        self.zoomed.emit(100 * zoom)
