"""The menu of recent projects, filled each time it opens."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtWidgets import QMenu

from spiralis.app.project.recent import recent_projects


class RecentMenu(QMenu):
    """Lists the projects that were open before; choosing one opens it."""

    def __init__(self, open_project: Callable[[Path], object]) -> None:
        super().__init__("Open recent")
        self._open = open_project
        self.aboutToShow.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """List the projects that are still there."""
        self.clear()
        paths = recent_projects()
        for path in paths:
            action = self.addAction(f"{path.stem}  ({path.parent.name})")
            action.triggered.connect(lambda _=False, picked=path: self._open(picked))
        if not paths:
            self.addAction("Projects you save or open appear here").setEnabled(False)
