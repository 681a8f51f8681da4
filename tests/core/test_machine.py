"""Cores and memory that a process may use, where it is held to a part of the machine."""

from __future__ import annotations

import os
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from spiralis.core import machine
from spiralis.core.cache import fair_share
from spiralis.core.render.sequence import default_workers

_GIB = 1 << 30


class MachineTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.groups, self.limits = self.folder / "cgroup", self.folder / "limits"
        self.enterContext(mock.patch.multiple(machine, _GROUPS=self.groups, _LIMITS=self.limits))
        self.enterContext(mock.patch.object(os, "sched_getaffinity", return_value=set(range(16))))
        pages = {"SC_PAGE_SIZE": 4096, "SC_PHYS_PAGES": 64 * _GIB // 4096}
        self.enterContext(mock.patch.object(os, "sysconf", side_effect=pages.__getitem__))

    def tell(self, groups: str, **files: str) -> None:
        self.groups.write_text(groups)
        for name, text in files.items():
            place = self.limits / name.replace("__", "/").replace("_of_", ".")
            place.parent.mkdir(parents=True, exist_ok=True)
            place.write_text(text)

    def found(self) -> tuple[int, int]:
        return machine.cores(), machine.memory()

    def test_without_limits_it_is_the_whole_machine(self) -> None:
        self.assertEqual(self.found(), (16, 64 * _GIB))
        self.tell("0::/user/me\n", user__me__memory_of_max="max\n", user__me__cpu_of_max="max 100000\n")
        self.assertEqual(self.found(), (16, 64 * _GIB))

    def test_the_least_of_all_groups_around_it_holds(self) -> None:
        self.tell("0::/user/me\n", user__me__memory_of_max=f"{8 * _GIB}\n", user__memory_of_max=f"{2 * _GIB}\n",
                  user__me__cpu_of_max="350000 100000\n")  # fmt: skip
        self.assertEqual(self.found(), (4, 2 * _GIB))
        self.assertEqual(fair_share(), _GIB // 2)
        self.assertEqual(default_workers(), 4)

    def test_a_container_that_is_told_the_path_outside_of_it_finds_its_own_limit(self) -> None:
        self.tell("0::/machine/box-17\n", memory_of_max=f"{_GIB}\n", cpu_of_max="50000 100000\n")
        self.assertEqual(self.found(), (1, _GIB))

    def test_trees_of_the_first_version(self) -> None:
        self.tell("9:name=systemd:/\n4:memory:/box\n1:cpu,cpuacct:/box\n",
                  memory__box__memory_of_limit_in_bytes=f"{3 * _GIB}\n",
                  memory__memory_of_limit_in_bytes="9223372036854771712\n")  # fmt: skip
        self.assertEqual(self.found(), (16, 3 * _GIB))

    def test_a_process_that_is_bound_to_cores_keeps_to_them(self) -> None:
        with mock.patch.object(os, "sched_getaffinity", return_value={3}):
            self.assertEqual(machine.cores(), 1)
        with mock.patch.object(os, "sched_getaffinity", side_effect=OSError), mock.patch.object(
            os, "cpu_count", return_value=None
        ):
            self.assertEqual(machine.cores(), 1)

    def test_what_cannot_be_read_or_understood_holds_nobody(self) -> None:
        self.tell("nonsense\n0::/\n", memory_of_max="much\n", cpu_of_max="1 2 3\n")
        self.assertEqual(self.found(), (16, 64 * _GIB))
        with mock.patch.object(os, "sysconf", side_effect=ValueError):
            self.assertEqual(machine.memory(), 4 * _GIB)


if __name__ == "__main__":
    unittest.main()
