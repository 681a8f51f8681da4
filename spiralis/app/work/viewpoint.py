"""Where the canvas looks from: through the camera, or from elsewhere at what stands in depth."""

from __future__ import annotations

from PyQt6.QtCore import QObject, pyqtSignal

from spiralis.core.editing.viewpoints import VIEWS, viewed
from spiralis.core.model import Project

#: Serial numbers of what is seen from elsewhere lie far below those of peeks.
_FIRST = -1_000_000_000


class Viewpoint(QObject):
    """The view's name, and for the free one its turn in degrees; ``changed`` tells of both."""

    changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.name, self.turn = "camera", (-24.0, 32.0)
        self._count = _FIRST
        self._shown: tuple[object, tuple[Project, int]] | None = None

    def look_from(self, name: str) -> None:
        """Take another view; raises ValueError for one that there is not."""
        if name not in VIEWS:
            raise ValueError(f"There is no view “{name}”.")
        if name != self.name:
            self.name = name
            self.changed.emit()

    def orbit(self, about_x: float, about_y: float) -> None:
        """Turn the free view by so many degrees."""
        x, y = self.turn
        self.turn = (min(max(x + about_x, -90.0), 90.0), (y + about_y + 180.0) % 360.0 - 180.0)
        self.changed.emit()

    def shown(self, project: Project, composition_id: str, version: int) -> tuple[Project, int]:
        """Return the project as pictures show it from here, and a serial number of its own."""
        piece = project.composition(composition_id)
        if self.name == "camera" or not piece.has_depth:
            return project, version
        told = (version, composition_id, self.name, self.turn)
        if self._shown is None or self._shown[0] != told:
            self._count -= 1
            seen = project.with_composition(viewed(project, piece, self.name, self.turn))
            self._shown = (told, (seen, self._count))
        return self._shown[1]
