"""How loud layers are, for the timeline; files are decoded in a background thread."""

from __future__ import annotations

from typing import Any

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from spiralis.app.session import Session
from spiralis.app.work.background import Background
from spiralis.core.model import Layer
from spiralis.core.sound.mixing import heard_of
from spiralis.core.sound.outline import peaks_of


class Outlines(QObject):
    """Hands out the outlines of layers' files; what is not there yet is announced by ``made``."""

    made = pyqtSignal()

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__(parent)
        self.session = session
        self._background = Background(self)
        #: By digest; None while it is being made.
        self._peaks: dict[str, np.ndarray | None] = {}

    def of(self, layer: Layer) -> np.ndarray | None:
        """Return the outline of what is heard of a layer by itself (see ``peaks_of``), None for nothing or not yet."""
        project = self.session.project
        heard = heard_of(project, self.session.composition, layer)
        source = project.source(heard.source) if heard is not None else None
        if source is None:
            return None
        if source.digest not in self._peaks:
            self._peaks[source.digest] = None
            self._background.run(lambda: peaks_of(source), lambda peaks: self._take(source.digest, peaks))
        return self._peaks[source.digest]

    def _take(self, digest: str, peaks: Any) -> None:
        if isinstance(peaks, np.ndarray):
            self._peaks[digest] = peaks
            self.made.emit()
