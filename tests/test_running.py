"""The runner of the tests: what fails beside another module gets one more try alone; what fails twice has failed."""

from __future__ import annotations

import io
import sys
import tempfile
import unittest
from contextlib import redirect_stderr
from pathlib import Path
from unittest import mock

from tests import running

_PASSES = "import unittest\nclass T(unittest.TestCase):\n    def test(self):\n        pass\n"
_FAILS = _PASSES.replace("pass\n", "self.fail('always')\n")
_FIRST = _PASSES.replace(
    "pass\n",
    "from pathlib import Path\n        been = Path(__file__).with_suffix('.been')\n"
    "        first = not been.exists()\n        been.touch()\n        self.assertFalse(first)\n",
)


class RunningTest(unittest.TestCase):
    def counted(self, **modules: str) -> tuple[running.Counts, str]:
        folder = self.enterContext(tempfile.TemporaryDirectory())
        for name, text in modules.items():
            Path(folder, f"{name}.py").write_text(text)
        said = io.StringIO()
        # Processes that are started take the path along.
        self.enterContext(mock.patch.object(sys, "path", [folder, *sys.path]))
        self.enterContext(mock.patch.object(running, "_modules", return_value=list(modules)))
        with redirect_stderr(said):
            return running._in_parallel(folder), said.getvalue()

    def test_one_more_try_alone(self) -> None:
        counts, said = self.counted(made_up_passes=_PASSES, made_up_first=_FIRST, made_up_fails=_FAILS)
        self.assertEqual((2, 1, 0), counts)
        self.assertIn("made_up_first: 1 passed", said)
        self.assertIn("alone, after failing beside another module", said)
        self.assertEqual(2, said.count("AssertionError: always"))
        self.assertNotIn("made_up_passes failed", said)

    def test_many_failures_are_no_accident(self) -> None:
        counts, said = self.counted(**{f"made_up_{i}": _FIRST for i in range(running._MOST_AGAIN + 1)})
        self.assertEqual((0, running._MOST_AGAIN + 1, 0), counts)
        self.assertNotIn("alone", said)
