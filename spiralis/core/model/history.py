"""Undo and redo over whole project versions, each step with a name."""

from __future__ import annotations

from itertools import count

from attrs import define, field, frozen

from spiralis.core.model.project import Project

_SERIALS = count()


@frozen
class Version:
    """A project as it was after a step.

    ``serial`` is unique among all versions of all histories, so caches can use it as a key also after
    another project, or the same file again, was opened.
    """

    project: Project
    name: str
    serial: int
    merge: str | None = None


@define
class History:
    """A line of versions and where we stand on it. Not thread-safe; versions are."""

    first: Project
    _versions: list[Version] = field(init=False)
    _index: int = field(init=False, default=0)
    _saved: int = field(init=False)

    def __attrs_post_init__(self) -> None:
        self._versions = [Version(self.first, "Open", next(_SERIALS))]
        self._saved = self.current.serial

    @property
    def current(self) -> Version:
        """The version we stand on."""
        return self._versions[self._index]

    def commit(self, name: str, project: Project, merge: str | None = None) -> Version:
        """Add a step after the current one; what was undone is dropped.

        A step with the same ``merge`` text as the current one takes its place: a drag is one step.
        """
        version = Version(project, name, next(_SERIALS), merge)
        if merge is not None and self.current.merge == merge and self._index > 0:
            self._versions[self._index :] = [version]
        else:
            self._versions[self._index + 1 :] = [version]
            self._index += 1
        return version

    def close_step(self) -> None:
        """End merging: the next commit is a step of its own whatever its merge text."""
        version = self.current
        self._versions[self._index] = Version(version.project, version.name, version.serial)

    @property
    def undo_name(self) -> str | None:
        """The name of the step that undo would take back."""
        return self.current.name if self._index else None

    def steps_to(self, serial: int) -> int | None:
        """Return how many steps undo takes to a version; None where it does not lead there."""
        behind = self._versions[: self._index + 1][::-1]
        return next((steps for steps, version in enumerate(behind) if version.serial == serial), None)

    @property
    def redo_name(self) -> str | None:
        """The name of the step that redo would bring back."""
        following = self._index + 1
        return self._versions[following].name if following < len(self._versions) else None

    def undo(self) -> Version:
        """Step back; stays where it is at the first version."""
        self._index = max(0, self._index - 1)
        return self.current

    def redo(self) -> Version:
        """Step forward; stays where it is at the last version."""
        self._index = min(len(self._versions) - 1, self._index + 1)
        return self.current

    def mark_saved(self, serial: int | None = None) -> None:
        """Remember a version, the current one by default, as the one on disk."""
        self._saved = self.current.serial if serial is None else serial

    @property
    def saved(self) -> int:
        """The serial number of the version on disk."""
        return self._saved

    @property
    def unsaved(self) -> bool:
        """Whether the current version differs from the one on disk."""
        return self.current.serial != self._saved
