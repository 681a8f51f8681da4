"""What was cut out of a picture, or is that picture filled, made anew once the picture is another one."""

from __future__ import annotations

from PyQt6.QtCore import QObject

from spiralis.app.session import Session
from spiralis.app.work.background import Background
from spiralis.core.editing.sources import replaced
from spiralis.core.editing.touching import made_of, remade
from spiralis.core.model import Source


class Remaking(QObject):
    """Works beside the window; each picture that is there again is a step to undo, and none that changed meanwhile."""

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__(parent)
        self.session = session
        self.background = Background(self, change=True)

    def after(self, old: Source | None, source_id: str) -> None:
        """Make anew what was made of a source that took the place of ``old``."""
        project = self.session.project
        new, made = project.source(source_id), made_of(project, source_id)
        if old is None or new is None or not new.sort.still or old.digest == new.digest or not made:
            return
        names = ", ".join(f"“{each.name}”" for each in made)
        self.session.said.emit(f"{names} {'was' if len(made) == 1 else 'were'} made of that picture: made anew now.")
        for each in made:
            self._begin(each, new, (old.width, old.height))

    def _begin(self, made: Source, of: Source, before: tuple[int, int]) -> None:
        def done(found: object) -> None:
            project = self.session.project
            if project.source(made.id) != made or project.source(of.id) != of:
                return  # It was changed, or taken back, meanwhile.
            if isinstance(found, Source):
                self.session.edit_project(f"{made.name} anew", replaced(project, made.id, found, "anew"))
                self.after(made, made.id)
            else:
                self.session.failed.emit(f"“{made.name}” stays as it is, for it could not be made anew: {found}")

        self.background.run(lambda: remade(made, of, before), done)
