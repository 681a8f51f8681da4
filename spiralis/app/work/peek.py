"""A look at the piece as it would be, without an edit."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal

from spiralis.core.model import Composition, Project


class Peek(QObject):
    """What pictures show instead of the project while somebody holds a button; ``changed`` tells of it.

    The serial numbers of such projects are below zero, so that their frames are never taken for those of a version.
    """

    changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.shown: tuple[Project, int] | None = None
        self._count = 0

    def show(self, project: Project, composition: Composition, change: Callable[[Composition], Composition]) -> None:
        """Show a composition of a project as it would be changed."""
        self.show_project(project.with_composition(change(composition)))

    def show_project(self, project: Project) -> None:
        """Show another project in place of the one that is open."""
        self._count += 1
        self.shown = (project, -self._count)
        self.changed.emit()

    def end(self) -> None:
        """Show the project as it is."""
        if self.shown is not None:
            self.shown = None
            self.changed.emit()
