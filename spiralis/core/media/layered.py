"""A layered file as it was read: named parts in place, front to back, and what could not be kept."""

from __future__ import annotations

from collections.abc import Iterator

from attrs import field, frozen

from spiralis.core.geometry import IDENTITY, Affine
from spiralis.core.model.art import Bundle


@frozen
class LayeredPart:
    """One part: ``shape`` art, a ``picture`` (encoded bytes) or a ``group`` of parts.

    ``matrix`` maps the part's own units to the document's; ``key`` tells it from all other parts of the file
    and stays the same when the file is changed elsewhere.
    """

    key: str
    name: str
    kind: str
    matrix: Affine = IDENTITY
    art: Bundle | None = None
    data: bytes | None = field(default=None, repr=False)
    width: int = 0
    height: int = 0
    opacity: float = 1.0
    visible: bool = True
    blend: str = "normal"
    locked: bool = False
    parts: tuple[LayeredPart, ...] = ()
    #: Whether the parts of a group mix straight with what lies beneath it.
    passes: bool = False
    #: The key of the group whose layer this part's layer hangs on.
    within: str = ""


@frozen
class LayeredFile:
    """A whole layered file; ``notes`` are sentences on what is not quite as it was."""

    name: str
    width: int
    height: int
    parts: tuple[LayeredPart, ...]
    digest: str
    notes: tuple[str, ...] = ()

    def all_parts(self) -> Iterator[LayeredPart]:
        """Yield every part, groups before what is in them."""

        def walk(parts: tuple[LayeredPart, ...]) -> Iterator[LayeredPart]:
            for part in parts:
                yield part
                yield from walk(part.parts)

        yield from walk(self.parts)
