"""Notices when files that a project came from change outside."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QFileSystemWatcher, QObject, pyqtSignal

from spiralis.app.session import Session
from spiralis.app.work.background import Background
from spiralis.app.work.soon import Soon
from spiralis.core.media.files import digest_of
from spiralis.core.model import Project


def watched_files(project: Project) -> dict[str, str]:
    """Return the digests that a project knows of its files, by path."""
    files = {c.artwork.file: c.artwork.digest for c in project.compositions if c.artwork is not None}
    for source in project.sources:
        if source.file and source.shows and source.suffix != ".frames":
            files.setdefault(source.file, source.digest)
    return files


class FileWatch(QObject):
    """``changed`` carries the paths of files that now hold something else than the project knows."""

    changed = pyqtSignal(list)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.session = session
        self._watcher = QFileSystemWatcher(self)
        self._background = Background(self)
        self._touched: set[str] = set()
        self._offered: set[tuple[str, str]] = set()
        self._follow = Soon(self, self.follow, wait=400, rests=True)
        # A program that saves writes several times; the file is looked at when it has come to rest.
        self._look = Soon(self, self._check, wait=500, rests=True)
        self._watcher.fileChanged.connect(self._touch)
        session.projectChanged.connect(self._follow.ask)
        self._follow.ask()

    def follow(self) -> None:
        """Watch just the files of the present project."""
        wanted = {file for file in watched_files(self.session.project) if _is_there(file)}
        now = set(self._watcher.files())
        if now - wanted:
            self._watcher.removePaths(list(now - wanted))
        if wanted - now:
            self._watcher.addPaths(list(wanted - now))

    def _touch(self, file: str) -> None:
        self._touched.add(file)
        self._look.ask()

    def _check(self) -> None:
        known = watched_files(self.session.project)
        files = [file for file in self._touched if file in known]
        self._touched.clear()
        # Saving by renaming takes the file out of the watch; it is put back in.
        self._follow.ask()
        self._background.run(lambda: [(f, digest_of(Path(f))) for f in files if _is_there(f)], self._compare)

    def _compare(self, found: list[tuple[str, str]] | Exception) -> None:
        if isinstance(found, Exception):
            return
        known = watched_files(self.session.project)
        fresh = [(f, d) for f, d in found if known.get(f) not in (None, d) and (f, d) not in self._offered]
        self._offered.update(fresh)
        if fresh:
            self.changed.emit([file for file, _ in fresh])


def _is_there(file: str) -> bool:
    try:
        return Path(file).is_file()
    except (OSError, ValueError):
        return False
