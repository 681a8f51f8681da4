"""Memory that was freed serves what is wanted next, in the processes that draw."""

import subprocess
import sys
import unittest

_PROGRAM = """
import resource, sys
import numpy as np
from spiralis.core.allocation import keep_freed_memory
kept = keep_freed_memory() if sys.argv[1] == "kept" else False

def work():
    for _ in range(10):
        blocks = [np.empty(3_000_000, np.uint8) for _ in range(20)]  # a frame's pictures
        for block in blocks:
            block[::1024] = 1

work()
before = resource.getrusage(resource.RUSAGE_SELF).ru_minflt
work()
print(kept, resource.getrusage(resource.RUSAGE_SELF).ru_minflt - before)
"""


def visits(how: str) -> tuple[bool, int]:
    """Return whether freed memory is kept, and how often the kernel had to give a page."""
    run = subprocess.run([sys.executable, "-c", _PROGRAM, how], capture_output=True, text=True, check=True)
    kept, count = run.stdout.split()
    return kept == "True", int(count)


class AllocationTest(unittest.TestCase):
    def test_blocks_of_megabytes_come_from_what_was_freed(self) -> None:
        kept, few = visits("kept")
        if not kept:
            self.skipTest("The system's library has no mallopt.")
        _, many = visits("given back")
        self.assertLess(few, 800)
        self.assertGreater(many, 10 * max(few, 1))


if __name__ == "__main__":
    unittest.main()
