"""Cycles of objects are collected when somebody says so."""

from __future__ import annotations

import gc
import unittest
import weakref
from unittest import mock

from spiralis.core.collecting import Collections


class _Ring:
    def __init__(self) -> None:
        self.self = self


def _left_behind(count: int) -> list[weakref.ref[_Ring]]:
    """Return references to rings that nobody else holds."""
    return [weakref.ref(_Ring()) for _ in range(count)]


class CollectionsTest(unittest.TestCase):
    def setUp(self) -> None:
        self.addCleanup(gc.enable)
        self.addCleanup(gc.unfreeze)
        self.now = self.enterContext(mock.patch("spiralis.core.collecting.time.monotonic", return_value=100.0))
        self.old = _Ring()
        self.collections = Collections()

    def test_nothing_goes_by_itself_and_all_of_it_when_told(self) -> None:
        rings = _left_behind(3000)
        self.assertEqual(sum(ring() is not None for ring in rings), 3000)
        self.collections.look()
        self.assertEqual(sum(ring() is not None for ring in rings), 0)

    def test_a_few_are_not_worth_the_while(self) -> None:
        gc.collect()
        few = _left_behind(20)
        self.collections.look()
        self.assertTrue(all(ring() is not None for ring in few))

    def grown_old(self) -> weakref.ref[_Ring]:
        """Return a reference to a ring that only a collection of everything finds."""
        ring = _Ring()
        gc.collect()
        return weakref.ref(ring)

    def test_everything_is_looked_through_after_a_while_where_it_may_take_long(self) -> None:
        old = self.grown_old()
        for later, may, gone in ((1.0, True, False), (61.0, False, False), (62.0, True, True)):
            with self.subTest(later=later, may=may):
                self.now.return_value = 100.0 + later
                rings = _left_behind(1000)
                self.collections.look(may)
                self.assertEqual(old() is None, gone)
                self.assertFalse(any(ring() for ring in rings))
        again = self.grown_old()
        _left_behind(1000)
        self.now.return_value = 200.0
        self.collections.look()
        self.assertIsNotNone(again(), "too soon after the last time")

    def test_what_was_there_at_first_is_left_alone(self) -> None:
        first = weakref.ref(self.old)
        del self.old
        gc.collect()
        self.assertIsNotNone(first())
        gc.unfreeze()
        gc.collect()
        self.assertIsNone(first())
