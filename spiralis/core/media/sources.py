"""Files that become a project's sources, whatever kind they are of."""

from __future__ import annotations

from pathlib import Path

from spiralis.core.errors import FileError, ModelError
from spiralis.core.model.kinds import layer_kind
from spiralis.core.model.parameter import Parameter
from spiralis.core.model.source import Source, SourceKind, source_kinds


def source_suffixes() -> tuple[str, ...]:
    """Return the suffixes of all files that can be sources, each once."""
    return tuple(dict.fromkeys(suffix for kind in source_kinds() for suffix in kind.suffixes))


def read_source(path: Path, suffix: str | None = None) -> Source:
    """Read a file as a source that remembers where it came from.

    What no kind takes for its suffix is tried as a still picture, whatever it is called.

    Raises:
        PictureError, FontError, FileError: one sentence on what is wrong with the file.
    """
    path = Path(path)
    suffix = (suffix or path.suffix).lower()
    kinds = source_kinds()
    for kind in (*(k for k in kinds if suffix in k.suffixes), *(k for k in kinds if k.still)):
        found = kind.read(path, suffix)
        if found is not None:
            return found
    raise FileError(f"“{path.name}” is no file that Spiralis can show or use; choose another.")


def kinds_taken(parameter: Parameter) -> list[SourceKind]:
    """Return the kinds of files that a property takes: those it names, else whatever shows something."""
    if parameter.choices:
        return [kind for kind in source_kinds() if kind.name in parameter.choices]
    return [kind for kind in source_kinds() if kind.layer and not layer_kind(kind.layer).unseen]


def check_taken(source: Source, parameter: Parameter) -> Source:
    """Return the source; raises ModelError where a property takes no such file."""
    kinds = kinds_taken(parameter)
    if source.sort not in kinds:
        wanted = " or ".join(kind.name for kind in kinds)
        raise ModelError(f"“{source.name}” is a {source.kind}, and a {wanted} is wanted.")
    return source


def sets_words(path: Path) -> bool:
    """Whether a file is, by its name, a font."""
    return any(kind.sets_words and path.suffix.lower() in kind.suffixes for kind in source_kinds())
