"""Files that layers show or use, and the registry of their kinds.

A kind is one file in ``spiralis/core/media/source_kinds`` that calls :func:`register_source_kind`; whoever handles
sources asks it what it must know, and names none.
"""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

from attrs import field, frozen

from spiralis.core.errors import legible
from spiralis.core.model.layer import new_id
from spiralis.core.model.touching import Touched
from spiralis.core.registry import Registry


@frozen
class Source:
    """A file that layers show or use: a picture, footage, a font, or a colour lookup.

    Its bytes travel in the project under ``media/<digest><suffix>``; where it is ``linked`` they stay in ``file``
    (relative to the project's folder, or absolute), and ``place`` says where that was found. Layers that show a
    missing source draw nothing. One ``made`` of another picture says how, so that it can be made anew.
    Footage tells its number of ``frames`` and its mean ``rate``.
    """

    name: str = field(converter=legible)
    digest: str
    suffix: str
    width: int
    height: int
    kind: str = "picture"
    id: str = field(factory=new_id)
    frames: int = 0
    rate: Fraction | None = None
    file: str | None = None
    linked: bool = False
    place: Path | None = field(default=None, eq=False)
    data: bytes | None = field(default=None, repr=False, eq=False)
    made: Touched | None = None

    @property
    def path(self) -> str:
        """Its place inside the project file."""
        return f"media/{self.digest}{self.suffix}"

    @property
    def sort(self) -> SourceKind:
        """What is known of its kind; raises UnknownName."""
        return _KINDS.get(self.kind)

    @property
    def shows(self) -> bool:
        """Whether a layer can show it; the others serve what is shown."""
        return bool(self.sort.layer)

    @property
    def missing(self) -> bool:
        """Whether the bytes are not there."""
        return self.data is None and self.place is None

    @property
    def seconds(self) -> Fraction:
        """How long footage lasts at its own rate; 0 for everything else."""
        return self.frames / self.rate if self.rate else Fraction(0)


@frozen
class SourceKind:
    """What the program must know of a kind of files.

    ``name`` says in sentences what it is, ``heading`` what Sources lists it under. ``read(path, suffix)`` makes a
    source of a file with one of the ``suffixes``, or answers None where it turns out to be of another kind.
    ``layer`` is the kind of layer that shows it, empty for what serves others; such say in ``brought`` what one is
    there for, {} standing for its name, and in ``use`` how one comes to use it. What is ``streamed`` is read where it
    lies, as it is needed, and never held whole where it is linked. ``measure(data, name)`` tells width and height anew
    where a linked file has changed. A ``still`` is one picture, of which drawings, cut-outs and swatches can be made;
    what ``sets_words`` is found by the names that words are set in, without a tie.
    """

    name: str
    heading: str
    suffixes: tuple[str, ...]
    read: Callable[[Path, str], Source | None]
    layer: str = ""
    brought: str = ""
    use: str = ""
    streamed: bool = False
    measure: Callable[[bytes, str], tuple[int, int]] | None = None
    still: bool = False
    sets_words: bool = False


_KINDS: Registry[SourceKind] = Registry("kind of source", "spiralis.core.media.source_kinds")


def register_source_kind(kind: SourceKind) -> None:
    """Make a kind known; raises ValueError where its name is taken."""
    _KINDS.register(kind.name, kind)


def source_kinds() -> tuple[SourceKind, ...]:
    """Return all kinds, in the order in which a file is offered to them."""
    return _KINDS.all()
