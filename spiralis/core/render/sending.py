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
from collections.abc import Callable, Iterator
from functools import cache
from types import MappingProxyType
from typing import Any

import attrs

from spiralis.core.model import Composition, Layer, Project, Source

_SHARED = (Layer, Composition, Source)
#: Bytes of so many and more go beside the message as they are: copying them would hold the interpreter's lock.
_LARGE = 1 << 16
#: What makes a project known to the receiver: bytes for itself, and large ones in the order in which it takes them.
Message = tuple[bytes, list[bytes]]


@cache
def _names(kind: type) -> tuple[str, ...]:
    """Return the names of a frozen class's fields; none where it is no such class."""
    return tuple(field.name for field in attrs.fields(kind)) if attrs.has(kind) else ()


@cache
def _values(kind: type) -> Callable[[Any], tuple[Any, ...]]:
    """Return what reads all fields of one of a class."""
    names = _names(kind)
    get = operator.attrgetter(*names)
    return get if len(names) > 1 else lambda thing: (get(thing),)


def _rebuilt(kind: Any, *values: Any) -> Any:
    """Return one of a frozen class, of fields that were checked where it was made first."""
    made = kind.__new__(kind)
    made.__setstate__(dict(zip(_names(kind), values, strict=True)))
    return made


def _read_only(mapping: dict[str, Any]) -> MappingProxyType[str, Any]:
    return MappingProxyType(mapping)


def _sent_before(number: int) -> Any:
    """Stand in messages for a thing that has a number; the receiver reads its own lookup in its place."""
    raise LookupError(f"Only the receiver knows what was sent as number {number}.")


class _Pickler(pickle.Pickler):
    def __init__(self, sender: Sender, file: io.BytesIO, top: object, large: list[pickle.PickleBuffer]) -> None:
        super().__init__(file, protocol=5, buffer_callback=large.append)
        self._sender, self._top = sender, top

    def reducer_override(self, thing: Any) -> Any:
        if isinstance(thing, _SHARED) and thing is not self._top:
            return _sent_before, (self._sender.number_of(thing),)
        if isinstance(thing, MappingProxyType):
            return _read_only, (dict(thing),)
        # By its fields alone: what was worked out and kept beside them stays here.
        kind: Any = type(thing)
        if kind is not type and _names(kind):
            values = _values(kind)(thing)
            if kind is Source:
                values = tuple(_beside(value) for value in values)
            return _rebuilt, (kind, *values)
        return NotImplemented


def _beside(value: Any) -> Any:
    """Return what lets many bytes go beside the message; anything else as it is."""
    return pickle.PickleBuffer(value) if isinstance(value, bytes) and len(value) >= _LARGE else value


class Sender:
    """Turns projects into messages for one receiver."""

    def __init__(self) -> None:
        self._numbers: dict[int, tuple[weakref.ref[Any], int]] = {}
        self._count = 0
        self._fresh: list[tuple[int, bytes]] = []
        #: Where things lay that nobody holds any more, and their numbers.
        self._gone: list[tuple[int, int]] = []
        self._large: list[bytes] = []
        self._last: Project | None = None

    def number_of(self, thing: object) -> int:
        """Return the number that a thing is known by; one that is new is sent along first."""
        known = self._numbers.get(id(thing))
        if known is not None and known[0]() is thing:
            return known[1]
        self._count += 1
        number = self._count
        place, gone = id(thing), self._gone
        self._numbers[place] = (weakref.ref(thing, lambda _: gone.append((place, number))), number)
        self._fresh.append((number, self._packed(thing)))
        return number

    def _packed(self, thing: object) -> bytes:
        file, large = io.BytesIO(), list[pickle.PickleBuffer]()
        _Pickler(self, file, thing, large).dump(thing)
        self._large += [bytes_ for buffer in large if isinstance(bytes_ := buffer.raw().obj, bytes)]
        return file.getvalue()

    def message(self, project: Project) -> Message:
        """Return what makes the project known to the receiver; nothing for the last one once more."""
        if project is self._last:
            return b"", []
        self._last, self._fresh, self._large = project, [], []
        whole = self._packed(project)
        # Nested things are numbered before those that hold them are done, and so come first.
        gone = []
        while self._gone:
            place, number = self._gone.pop()
            gone.append(number)
            # Another thing may lie in its place by now.
            if self._numbers.get(place, (None, 0))[1] == number:
                del self._numbers[place]
        fresh, self._fresh, large, self._large = self._fresh, [], self._large, []
        return pickle.dumps((fresh, whole, gone), protocol=5), large


class _Unpickler(pickle.Unpickler):
    def __init__(self, data: bytes, known: dict[int, Any], large: Iterator[bytes]) -> None:
        super().__init__(io.BytesIO(data), buffers=large)
        self._known = known

    def find_class(self, module: str, name: str) -> Any:
        return self._known.__getitem__ if name == _sent_before.__name__ else super().find_class(module, name)


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
        # Each takes its own, in the order in which they were laid beside the message.
        beside = iter(large)
        for number, packed in fresh:
            self._known[number] = _Unpickler(packed, self._known, beside).load()
        project: Project = _Unpickler(whole, self._known, beside).load()
        for number in gone:
            self._known.pop(number, None)
        # What is kept counts the sources as one thing.
        if all(map(operator.is_, project.sources, self._sources)) and len(project.sources) == len(self._sources):
            project = attrs.evolve(project, sources=self._sources)
        self._sources, self._last = project.sources, project
        return project
