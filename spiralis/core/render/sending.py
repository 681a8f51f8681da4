"""Projects from one process to another: whole once, then only what an edit changed.

Frozen values are shared between versions of a project, so that what was sent before is known by its identity: layers,
compositions and sources travel once, and later messages only name them. A message is bytes; it is read by a process
that this one started, never from a file.
"""

from __future__ import annotations

import io
import operator
import pickle
import weakref
from types import MappingProxyType
from typing import Any

import attrs

from spiralis.core.model import Composition, Layer, Project, Source

_SHARED = (Layer, Composition, Source)
#: Bytes of so many and more go beside the message as they are: copying them would hold the interpreter's lock.
_LARGE = 1 << 16
#: What makes a project known to the receiver: bytes for itself, and large ones that they name by their place.
Message = tuple[bytes, list[bytes]]


def _rebuilt(kind: type, names: tuple[str, ...], values: tuple[Any, ...]) -> Any:
    return kind(**dict(zip(names, values, strict=True)))


def _read_only(mapping: dict[str, Any]) -> MappingProxyType[str, Any]:
    return MappingProxyType(mapping)


class _Pickler(pickle.Pickler):
    def __init__(self, sender: Sender, file: io.BytesIO, top: object) -> None:
        super().__init__(file, protocol=5)
        self._sender, self._top = sender, top

    def persistent_id(self, thing: Any) -> int | tuple[int] | None:
        if type(thing) is bytes and len(thing) >= _LARGE:
            return (self._sender.place_of(thing),)
        if not isinstance(thing, _SHARED) or thing is self._top:
            return None
        return self._sender.number_of(thing)

    def reducer_override(self, thing: Any) -> Any:
        if isinstance(thing, MappingProxyType):
            return _read_only, (dict(thing),)
        # By its fields alone: what was worked out and kept beside them stays here.
        if not isinstance(thing, type) and attrs.has(type(thing)):
            fields = [field for field in attrs.fields(type(thing)) if field.init]
            names = tuple(str(field.alias) for field in fields)
            return _rebuilt, (type(thing), names, tuple(getattr(thing, field.name) for field in fields))
        return NotImplemented


class Sender:
    """Turns projects into messages for one receiver."""

    def __init__(self) -> None:
        self._numbers: dict[int, tuple[weakref.ref[Any], int]] = {}
        self._count = 0
        self._fresh: list[tuple[int, bytes]] = []
        self._gone: list[int] = []
        self._large: list[bytes] = []
        self._last: Project | None = None

    def place_of(self, large: bytes) -> int:
        """Return the place at which many bytes go along beside the message."""
        self._large.append(large)
        return len(self._large) - 1

    def number_of(self, thing: object) -> int:
        """Return the number that a thing is known by; one that is new is sent along first."""
        known = self._numbers.get(id(thing))
        if known is not None and known[0]() is thing:
            return known[1]
        self._count += 1
        number = self._count
        place, gone = id(thing), self._gone
        self._numbers[place] = (weakref.ref(thing, lambda _: gone.append(number)), number)
        self._fresh.append((number, self._packed(thing)))
        return number

    def _packed(self, thing: object) -> bytes:
        file = io.BytesIO()
        _Pickler(self, file, thing).dump(thing)
        return file.getvalue()

    def message(self, project: Project) -> Message:
        """Return what makes the project known to the receiver; nothing for the last one once more."""
        if project is self._last:
            return b"", []
        self._last, self._fresh, self._large = project, [], []
        whole = self._packed(project)
        # Nested things are numbered before those that hold them are done, and so come first.
        gone: list[int] = []
        while self._gone:
            gone.append(self._gone.pop())
        if gone:
            numbers = set(gone)
            self._numbers = {place: known for place, known in self._numbers.items() if known[1] not in numbers}
        fresh, self._fresh, large, self._large = self._fresh, [], self._large, []
        return pickle.dumps((fresh, whole, gone), protocol=5), large


class _Unpickler(pickle.Unpickler):
    def __init__(self, data: bytes, known: dict[int, Any], large: list[bytes]) -> None:
        super().__init__(io.BytesIO(data))
        self._known, self._large = known, large

    def persistent_load(self, named: int | tuple[int]) -> Any:
        return self._large[named[0]] if isinstance(named, tuple) else self._known[named]


class Receiver:
    """Reads the messages of one sender in their order."""

    def __init__(self) -> None:
        self._known: dict[int, Any] = {}
        self._sources: tuple[Source, ...] = ()
        self._last: Project | None = None

    def project(self, message: Message) -> Project:
        """Return the project that a message stands for."""
        head, large = message
        if not head and self._last is not None:
            return self._last
        fresh, whole, gone = pickle.loads(head)
        for number, packed in fresh:
            self._known[number] = _Unpickler(packed, self._known, large).load()
        project: Project = _Unpickler(whole, self._known, large).load()
        for number in gone:
            self._known.pop(number, None)
        # What is kept counts the sources as one thing.
        if all(map(operator.is_, project.sources, self._sources)) and len(project.sources) == len(self._sources):
            project = attrs.evolve(project, sources=self._sources)
        self._sources, self._last = project.sources, project
        return project
