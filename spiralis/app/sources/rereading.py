"""Read files of the project again; what that changes of layered ones is reported first."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtWidgets import QWidget

from spiralis.app.sources.refresh_dialog import RefreshDialog
from spiralis.core.editing.refreshing import RefreshReport, apply_refresh, laid_out_from, refresh_report
from spiralis.core.media.layered import LayeredFile
from spiralis.core.media.layered_files import read_layers

if TYPE_CHECKING:
    from spiralis.app.sources.acting import SourceActions

#: The report with what is to be done, whether new layers are added, and whether missing ones are kept.
Answer = tuple[RefreshReport, bool, bool]


class Rereading:
    """Does it as one undo step a file, by what else can be done to sources."""

    def __init__(self, actions: SourceActions, window: QWidget) -> None:
        self.actions, self.session, self.window = actions, actions.session, window
        self.ask: Callable[[RefreshReport], Answer | None] = self._ask

    def refresh(self, files: list[str]) -> None:
        """Read files again; of layered ones a report is shown before anything changes."""
        for file in files:
            if any(True for _ in laid_out_from(self.session.project, file)):
                self._read(file)
            for source in self.session.project.sources:
                if source.file == file and source.shows:
                    self.actions.replace(source.id, Path(file), "anew")

    def _read(self, file: str) -> None:
        project = self.session.project
        self.actions.background.run(
            lambda: read_layers(Path(file), project), lambda found: self._report(file, found)
        )

    def _report(self, file: str, layered: LayeredFile | Exception) -> None:
        if isinstance(layered, Exception):
            self.session.failed.emit(str(layered))
        else:
            answer = self.ask(refresh_report(self.session.project, layered, file))
            if answer is not None:
                report, add_new, keep_missing = answer
                name = f"Refresh {Path(file).name}"
                self.actions.edit(name, lambda project: apply_refresh(project, report, add_new, keep_missing))
        self.actions.finished.emit()

    def _ask(self, report: RefreshReport) -> Answer | None:
        dialog = RefreshDialog(self.window, self.session.project, report)
        return dialog.answer() if dialog.exec() else None
