"""Ready frames, byte caches, the stored demo, spacing of the demo's artwork."""

import tempfile
import threading
import time
import unittest
from pathlib import Path
from unittest import mock

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from spiralis.core.cache import BUDGET, Budget, CacheSection
from spiralis.core.render.store import FrameKey, FrameStore
from spiralis.demo import stored
from spiralis.demo.artwork import pictures
from spiralis.demo.project import demo_project


def key(frame: int, version: int = 0) -> FrameKey:
    return FrameKey(version, "piece", frame, 1.0)


def frame(size: int = 10) -> np.ndarray:
    return np.zeros((size, size, 4), np.uint8)


class FrameStoreTest(unittest.TestCase):
    def test_the_least_recently_used_go_first(self) -> None:
        store = FrameStore(Budget(3 * 400))
        for number in range(3):
            store.put(key(number), frame())
        store.get(key(0))
        store.put(key(3), frame())
        self.assertEqual(store.ready(0, "piece", 1.0), {0, 2, 3})

    @given(st.lists(st.tuples(st.integers(0, 9), st.integers(1, 12)), max_size=40))
    def test_it_never_weighs_more_than_its_limit(self, puts: list[tuple[int, int]]) -> None:
        store = FrameStore(Budget(1000))
        for number, size in puts:
            store.put(key(number), frame(size))
            self.assertLessEqual(store.bytes, 1000)
            self.assertTrue(store.holds(key(number)))
        held = [store.get(key(n)) for n in store.ready(0, "piece", 1.0)]
        self.assertEqual(sum(f.nbytes for f in held if f is not None), store.bytes)

    def test_versions_are_kept_apart(self) -> None:
        store = FrameStore()
        store.put(key(4, version=1), frame())
        self.assertEqual((store.ready(1, "piece", 1.0), store.ready(2, "piece", 1.0)), ({4}, set()))
        self.assertIsNone(store.get(key(4, version=2)))


class CacheTest(unittest.TestCase):
    def test_values_are_made_once_and_bounded(self) -> None:
        made: list[int] = []
        cache: CacheSection[bytes] = CacheSection(len, Budget(100))

        def make(number: int) -> bytes:
            made.append(number)
            return bytes(30)

        for number in (1, 2, 1, 3, 1, 4, 2):
            cache.get(number, lambda number=number: make(number))
        self.assertEqual(made[:4], [1, 2, 3, 4])
        self.assertLessEqual(cache.bytes, 100)

    def test_many_threads_may_ask_at_once(self) -> None:
        cache: CacheSection[bytes] = CacheSection(len, Budget(5000))
        wrong: list[int] = []

        def ask() -> None:
            for number in range(300):
                if cache.get(number % 17, lambda number=number: bytes([number % 17]) * 100)[0] != number % 17:
                    wrong.append(number)

        threads = [threading.Thread(target=ask) for _ in range(6)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(wrong, [])
        self.assertEqual(cache.bytes, 1700)


class BudgetTest(unittest.TestCase):
    def test_sections_share_one_limit_and_what_is_cheap_to_make_goes_first(self) -> None:
        budget = Budget(100)
        dear: CacheSection[bytes] = CacheSection(len, budget)
        cheap: CacheSection[bytes] = CacheSection(len, budget)
        dear.put("old", bytes(40), seconds=2.0)
        for number in range(9):
            cheap.put(number, bytes(20), seconds=0.001)
        self.assertIn("old", dear)
        self.assertEqual((budget.bytes, cheap.bytes), (100, 60))
        self.assertEqual({6, 7, 8}, set(cheap.keys()))

    def film(self, budget: Budget) -> tuple[CacheSection[np.ndarray], list[str]]:
        """A cache of large values whose makers note what they make."""
        made: list[str] = []
        cache: CacheSection[np.ndarray] = CacheSection(lambda value: value.nbytes, budget)
        self.ask = lambda name: cache.get(name, lambda: made.append(name) or np.zeros(100_000, np.uint8))
        return cache, made

    def test_what_is_asked_for_once_does_not_push_out_what_is_asked_for_again(self) -> None:
        budget = Budget(3_200_000)  # 32 values, 4 of them on trial
        _, made = self.film(budget)
        self.ask("ground")
        for number in range(200):
            self.ask(f"frame {number}")
            self.ask("ground")
        self.assertEqual(1, made.count("ground"))
        self.assertEqual(201, len(made))
        self.assertLessEqual(budget.bytes, 600_000)

    def test_what_is_asked_for_twice_at_once_is_still_on_trial(self) -> None:
        budget = Budget(3_200_000)
        cache, _ = self.film(budget)
        for number in range(50):
            self.ask(f"frame {number}")
            self.ask(f"frame {number}")
        self.assertEqual({f"frame {number}" for number in range(46, 50)}, set(cache.keys()))

    def test_what_is_made_again_soon_after_it_went_stays(self) -> None:
        budget = Budget(3_200_000)
        cache, made = self.film(budget)
        for _ in range(6):
            # More than is on trial at once, less than the limit: as the pictures of one heavy frame that is edited.
            for number in range(20):
                self.ask(f"layer {number}")
        # Once each, and once more all but the four that were still on trial.
        self.assertEqual(36, len(made))
        self.assertEqual((2_000_000, 20), (budget.bytes, len(cache)))

    def test_what_is_small_or_took_long_or_is_wanted_later_needs_no_trial(self) -> None:
        budget = Budget(3_200_000)
        cache, _ = self.film(budget)
        frames: CacheSection[np.ndarray] = CacheSection(lambda value: value.nbytes, budget, stays=True)
        cache.put("took long", np.zeros(100_000, np.uint8), seconds=1.0)
        cache.put("small", np.zeros(1000, np.uint8))
        for number in range(20):
            frames.put(number, np.zeros(100_000, np.uint8))
            self.ask(f"frame {number}")
        self.assertEqual(20, len(frames))
        self.assertIn("took long", cache)
        self.assertIn("small", cache)

    def test_a_limit_holds_from_when_it_is_set_and_clearing_forgets_all(self) -> None:
        budget = Budget(3_200_000)
        cache, _ = self.film(budget)
        for number in (*range(20), *range(20)):
            self.ask(f"layer {number}")
        budget.set_limit(1 << 20)
        self.assertLessEqual(budget.bytes, 1 << 20)
        self.assertGreater(budget.bytes, (1 << 20) - 100_001)
        budget.clear()
        self.assertEqual((0, 0), (budget.bytes, len(cache)))
        # What went with all the rest is as good as new.
        self.ask("layer 3")
        self.assertEqual({"layer 3"}, set(cache.keys()))
        for number in range(20):
            self.ask(f"frame {number}")
        self.assertNotIn("layer 3", cache)

    @given(st.lists(st.tuples(st.integers(0, 30), st.integers(1, 300), st.sampled_from((0.0, 0.05, 0.2))), max_size=60))
    def test_bytes_are_those_of_what_is_there_and_the_newest_is(self, puts: list[tuple[int, int, float]]) -> None:
        budget = Budget(1 << 20)
        cache: CacheSection[np.ndarray] = CacheSection(lambda value: value.nbytes, budget)
        for number, size, seconds in puts:
            cache.put(number, np.zeros(size << 10, np.uint8), seconds)
            self.assertIsNotNone(cache.peek(number))
            held = [value.nbytes for key in cache.keys() if (value := cache.peek(key)) is not None]  # noqa: SIM118
            self.assertEqual((sum(held), sum(held)), (budget.bytes, cache.bytes))
            self.assertLessEqual(budget.bytes, 1 << 20)

    def test_one_thread_makes_and_the_others_wait(self) -> None:
        cache: CacheSection[int] = CacheSection(lambda _: 1, Budget(100))
        made: list[int] = []

        def make() -> int:
            time.sleep(0.02)
            made.append(1)
            return 7

        threads = [threading.Thread(target=lambda: self.assertEqual(7, cache.get("a", make))) for _ in range(5)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(1, len(made))

    def test_a_maker_that_fails_lets_the_next_one_try(self) -> None:
        cache: CacheSection[int] = CacheSection(lambda _: 1, Budget(100))
        with self.assertRaises(ZeroDivisionError):
            cache.get("a", lambda: 1 // 0)
        self.assertEqual(3, cache.get("a", lambda: 3))

    def test_the_default_is_a_quarter_of_memory_and_at_most_two_gibibytes(self) -> None:
        self.assertLessEqual(BUDGET.limit, 2 << 30)
        self.assertGreaterEqual(BUDGET.limit, 256 << 20)


class DemoTest(unittest.TestCase):
    def test_it_is_the_same_value_every_time(self) -> None:
        self.assertEqual(demo_project(), demo_project())

    def test_it_holds_what_the_pieces_need(self) -> None:
        demo = demo_project()
        kite_day, pulse = demo.composition("Kite day"), demo.composition("Button pulse")
        self.assertEqual(
            (kite_day.width, kite_day.height, kite_day.rate, float(kite_day.seconds)), (1080, 1350, 25, 6.0)
        )
        self.assertEqual((pulse.width, pulse.height), (1080, 1080))
        self.assertEqual({layer.kind for layer in kite_day.layers}, {"picture", "text", "backdrop"})
        self.assertTrue(any(k.handle_out for k in kite_day.layer("kite").track("position").keys))
        kites = [source for name, source in pictures().items() if name.startswith("kite-")]
        self.assertGreaterEqual(len(kites), 4)
        self.assertFalse(any(source.missing for source in demo.sources))

    def test_the_stored_copy_is_equal_and_a_damaged_one_is_drawn_again(self) -> None:
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        with mock.patch.object(stored, "user_cache_path", return_value=folder / "cache"):
            self.assertEqual(stored.stored_demo(), demo_project())
            path = stored.stored_path()
            self.assertTrue(path.exists())
            path.write_bytes(path.read_bytes()[:1000])
            self.assertEqual(stored.stored_demo(), demo_project())
            self.assertEqual(stored.stored_demo(), demo_project())
