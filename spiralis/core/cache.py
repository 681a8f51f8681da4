"""Thread-safe caches: sections that share one budget of bytes, and what lives beside the objects it belongs to."""

from __future__ import annotations

import threading
import time
import weakref
from collections import OrderedDict
from collections.abc import Callable, Hashable
from itertools import chain, islice
from typing import Any, Generic, TypeVar

from attrs import define

from spiralis.core.machine import memory

T = TypeVar("T")


class Beside(Generic[T]):
    """What was worked out for objects, kept by their identity for as long as they live and no longer."""

    def __init__(self, make: Callable[[], T]) -> None:
        self._make = make
        self._held: dict[int, tuple[weakref.ref[Any], T]] = {}

    def of(self, thing: object) -> T:
        """Return what is kept beside a thing; made where there is nothing yet."""
        place = id(thing)
        held = self._held.get(place)
        if held is not None and held[0]() is thing:
            return held[1]
        made = self._make()
        self._held[place] = (weakref.ref(thing, lambda ref: self._forget(place, ref)), made)
        return made

    def _forget(self, place: int, ref: weakref.ref[Any]) -> None:
        held = self._held.get(place)
        if held is not None and held[0] is ref:
            del self._held[place]

    def __len__(self) -> int:
        return len(self._held)


def fair_share() -> int:
    """Return a quarter of the memory that there is for this process, at most 2 GiB and at least 256 MiB."""
    return max(min(memory() // 4, 2 << 30), 256 << 20)


@define(eq=False)
class _Entry:
    """A kept value and where it lies, with what it weighs, and what it cost to make."""

    section: CacheSection[Any]
    key: Hashable
    value: Any
    bytes: int
    seconds: float
    #: How many bytes had come on trial when it did.
    since: int = 0

    @property
    def trace(self) -> int:
        """A number by which it is known again when it is made anew; others have another one, as good as always."""
        return hash((id(self.section), self.key))

    @property
    def worth(self) -> float:
        """The seconds a byte that the value cost."""
        return self.seconds / max(self.bytes, 1)


class Budget:
    """One limit in bytes for many caches. What was not used for long and is cheap to make again goes first.

    What is large and new is on trial in a small part of the limit, the oldest of which goes first: of a film most
    pictures are asked for once, and would push out what is asked for again, and have the system find fresh memory
    for each. Who is asked for again after a while stays, and so does who is made again soon after it went (the 2Q
    algorithm: Johnson and Shasha, *A Low Overhead High Performance Buffer Management Replacement Algorithm*, 1994).
    """

    #: Among how many of those that were not used for longest the cheapest a byte is dropped.
    _CHOICE = 12
    #: What part of the limit is for trial, and how many of those that went are known again.
    _TRIAL, _TRACES = 8, 4096
    #: Less than so many bytes, or what took more than so many seconds, need no trial.
    _SMALL, _COSTLY = 1 << 16, 0.1

    def __init__(self, limit: int) -> None:
        self._limit = limit
        self._bytes = 0
        #: By their identity, as keys may be long to hash and to compare.
        self._used: OrderedDict[int, _Entry] = OrderedDict()
        self._tried: OrderedDict[int, _Entry] = OrderedDict()
        self._tried_bytes = self._came = 0
        self._traces: OrderedDict[int, None] = OrderedDict()
        self.lock = threading.RLock()

    @property
    def limit(self) -> int:
        """How many bytes everything may weigh together."""
        return self._limit

    @property
    def bytes(self) -> int:
        """What everything weighs now."""
        return self._bytes

    def set_limit(self, limit: int) -> None:
        """Set another limit; what is over it goes at once."""
        with self.lock:
            self._limit = max(limit, 1 << 20)
            self._make_room()

    def used(self, entry: _Entry) -> None:
        """Note that a value was used; the lock is held."""
        if id(entry) not in self._tried:
            self._used.move_to_end(id(entry))
        elif self._came - entry.since > self._limit // self._TRIAL // 2:
            # Not by what asked for it first, but later on.
            self._leave_trial(entry)
            self._used[id(entry)] = entry

    def added(self, entry: _Entry) -> None:
        """Note a new value, and make room for it; the lock is held."""
        self._bytes += entry.bytes
        tried = entry.bytes >= self._SMALL and entry.seconds <= self._COSTLY and not entry.section.stays
        if tried and entry.trace not in self._traces:
            self._tried[id(entry)] = entry
            self._tried_bytes += entry.bytes
            self._came += entry.bytes
            entry.since = self._came
        else:
            self._used[id(entry)] = entry
        self._make_room(entry)

    def removed(self, entry: _Entry) -> None:
        """Note that a value went; the lock is held."""
        self._leave_trial(entry)
        self._used.pop(id(entry), None)
        self._bytes -= entry.bytes

    def _leave_trial(self, entry: _Entry) -> None:
        if self._tried.pop(id(entry), None) is not None:
            self._tried_bytes -= entry.bytes

    def _make_room(self, newest: _Entry | None = None) -> None:
        """Drop what is too much, but for the newest: somebody is about to use it."""
        while self._tried_bytes > self._limit // self._TRIAL:
            oldest = next(iter(self._tried.values()))
            if oldest is newest:
                break
            self._end_trial(oldest)
        while self._bytes > self._limit:
            every = (entry for entry in chain(self._used.values(), self._tried.values()) if entry is not newest)
            cheapest = min(islice(every, self._CHOICE), key=lambda entry: entry.worth, default=None)
            if cheapest is None:
                return
            cheapest.section.drop(cheapest.key)

    def _end_trial(self, entry: _Entry) -> None:
        self._traces[entry.trace] = None
        if len(self._traces) > self._TRACES:
            self._traces.popitem(last=False)
        entry.section.drop(entry.key)

    def clear(self) -> None:
        """Drop everything."""
        with self.lock:
            self._traces.clear()
            for entry in (*self._used.values(), *self._tried.values()):
                entry.section.drop(entry.key)


#: What all caches of the program share.
BUDGET = Budget(fair_share())


class CacheSection(Generic[T]):
    """One cache of the program: values by key, whose bytes ``measure`` tells. Thread-safe."""

    def __init__(self, measure: Callable[[T], int], budget: Budget = BUDGET, stays: bool = False) -> None:
        """``stays`` says that values are wanted later though nobody asks for them again soon."""
        self._measure = measure
        self.budget, self.stays = budget, stays
        self._held: dict[Hashable, _Entry] = {}
        #: What is being made, with what those wait for who want it meanwhile; mostly nobody does.
        self._making: dict[Hashable, threading.Event | None] = {}
        self._bytes = 0

    def get(self, key: Hashable, make: Callable[[], T]) -> T:
        """Return the value of a key, made by ``make()`` where it is not there; two threads never make the same one."""
        while True:
            with self.budget.lock:
                entry = self._held.get(key)
                if entry is not None:
                    self.budget.used(entry)
                    return entry.value
                waiting = None
                if key in self._making:
                    waiting = self._making[key] = self._making[key] or threading.Event()
                else:
                    self._making[key] = None
            if waiting is not None:
                waiting.wait()
                continue
            started = time.perf_counter()
            try:
                value = make()
                self.put(key, value, time.perf_counter() - started)
            finally:
                with self.budget.lock:
                    waiting = self._making.pop(key)
                if waiting is not None:
                    waiting.set()
            return value

    def put(self, key: Hashable, value: T, seconds: float = 0.0) -> None:
        """Keep a value in place of an older one; ``seconds`` is what it cost to make."""
        with self.budget.lock:
            self.drop(key)
            entry = self._held[key] = _Entry(self, key, value, self._measure(value), seconds)
            self._bytes += entry.bytes
            self.budget.added(entry)

    def peek(self, key: Hashable) -> T | None:
        """Return the value of a key if it is there."""
        with self.budget.lock:
            entry = self._held.get(key)
            if entry is None:
                return None
            self.budget.used(entry)
            return entry.value

    def drop(self, key: Hashable) -> None:
        """Let go of a value, if it is there."""
        with self.budget.lock:
            entry = self._held.pop(key, None)
            if entry is not None:
                self._bytes -= entry.bytes
                self.budget.removed(entry)

    def __contains__(self, key: Hashable) -> bool:
        return key in self._held

    def keys(self) -> list[Hashable]:
        """Return the keys of what is there."""
        with self.budget.lock:
            return list(self._held)

    def __len__(self) -> int:
        return len(self._held)

    @property
    def bytes(self) -> int:
        """What the held values weigh."""
        return self._bytes
