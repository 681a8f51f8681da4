"""Modules that are loaded at their first use."""

import marshal
import signal
import subprocess
import sys
import tempfile
import unittest
from fractions import Fraction
from pathlib import Path

from spiralis.core import later
from spiralis.core.model import Composition, Layer, Project, Track
from spiralis.core.storage.project_file import save

HEAVY = ("skia", "cv2", "numba", "av", "lxml.etree", "resvg_py")


def run(code: str, *arguments: str) -> str:
    """Run code in a Python of its own and return what it printed."""
    done = subprocess.run([sys.executable, "-c", code, *arguments], capture_output=True, text=True, timeout=120)
    if done.returncode:
        raise AssertionError(done.stderr)
    return done.stdout


class LaterTests(unittest.TestCase):
    def test_reading_a_project_loads_nothing_that_draws(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "a.spiralis"
            words = Layer("words", "text", 0, 10, properties={"text": Track("Hello")})
            save(Project("A", (Composition("Piece", 64, 64, Fraction(25), 10, layers=(words,)),)), path)
            code = (
                "import sys; from types import ModuleType\n"
                "from spiralis.core.storage import load\n"
                "load(sys.argv[1])\n"
                f"print('loaded', [n for n in {HEAVY} if type(sys.modules.get(n)) is ModuleType])"
            )
            self.assertIn("loaded []", run(code, str(path)))

    def test_all_of_the_program_is_imported_without_what_draws(self) -> None:
        code = (
            "import sys; from types import ModuleType; import spiralis.app.main, spiralis.cli\n"
            f"print('loaded', [n for n in {(*HEAVY, 'scipy')} if type(sys.modules.get(n)) is ModuleType])"
        )
        self.assertIn("loaded []", run(code))

    def test_a_place_holder_becomes_the_module(self) -> None:
        code = (
            "from spiralis.core import later\n"
            "import cv2, sys\n"
            "before = 'cv2' in later.waiting()\n"
            "shape = cv2.getGaussianKernel(3, 1).shape\n"
            "print(before, shape, 'cv2' in later.waiting(), type(cv2).__name__, cv2.getNumThreads())\n"
            "import cv2 as again\n"
            "print(again.sepFilter2D is cv2.sepFilter2D)\n"
        )
        self.assertEqual(run(code).split("\n")[:2], ["True (3, 1) False module 1", "True"])

    def test_distances_do_not_go_by_where_in_memory_a_picture_lies(self) -> None:
        code = (
            "import spiralis.core.effects.edges as edges, numpy as np; from threading import Thread\n"
            "y, x = np.mgrid[:120, :117]; mask = (np.hypot(x - 58, y - 60) > 17).astype(np.uint8); found = set()\n"
            "def look():\n"
            "    for at in range(0, 64, 4):\n"
            "        held = np.empty(mask.size * 4 + 128, np.uint8); at += -held.ctypes.data % 64\n"
            "        out = held[at : at + mask.size * 4].view(np.float32).reshape(mask.shape)\n"
            "        found.add(edges.cv2.distanceTransform(mask, edges.cv2.DIST_L2, 0, dst=out).tobytes())\n"
            "for _ in range(2): thread = Thread(target=look); thread.start(); thread.join()\n"
            "print(len(found))\n"
        )
        done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True, timeout=120)
        self.assertEqual((done.stdout, done.stderr), ("1\n", ""))

    def test_machine_code_comes_without_what_only_compiling_needs(self) -> None:
        code = (
            "import sys; from fractions import Fraction; from spiralis.core.model import *\n"
            "from spiralis.core.render.frame import render_rgba8\n"
            "words = Layer('Words', 'text', 0, 9).with_values(text='Hi', position=(32.0, 32.0))\n"
            "piece = Composition('Piece', 64, 64, Fraction(25), 9, layers=(words,))\n"
            "assert render_rgba8(Project('A', (piece,)), 'Piece', 0).max() > 0\n"
            "print(*(name in sys.modules for name in ('numba', 'numba.np.arrayobj', 'numba.np.linalg')))\n"
        )
        self.assertEqual("True False False\n", run(code))

    def test_what_is_not_compiled_yet_is_compiled_and_kept(self) -> None:
        kernel = (
            "import numpy as np\nfrom numba import njit\n\n"
            "@njit(cache=True, nogil=True)\ndef places(values, wanted):\n"
            "    if wanted.size > 9:\n        raise ValueError('too many', wanted.size)\n"
            "    return np.searchsorted(values, wanted), np.linalg.norm(wanted)\n"
        )
        code = (
            "import numpy as np; from spiralis.core.machine_code import load_compiler; load_compiler()\n"
            "import kernel; values = np.arange(9.0)\n"
            "found, length = kernel.places(values, np.array([3.0, 4.0]))\n"
            "print(found.tolist(), length, sum(kernel.places.stats.cache_hits.values()))\n"
            "try: kernel.places(values, np.zeros(10))\n"
            "except ValueError as error: print(error.args)\n"
        )
        with tempfile.TemporaryDirectory() as folder:
            Path(folder, "kernel.py").write_text(kernel)
            code = f"import sys; sys.path.insert(0, {folder!r})\n" + code
            said = "[3, 4] 5.0 {}\n('too many', 10)\n"
            self.assertEqual([said.format(0), said.format(1)], [run(code), run(code)])

    def test_what_is_written_for_classes_is_compiled_once(self) -> None:
        code = (
            "import sys; from pathlib import Path\n"
            "import spiralis.core.generated_code as g; g.place = lambda: Path(sys.argv[1]); compiled = []\n"
            "g.compile = lambda *given: compiled.append(given) or compile(*given)\n"
            "sys.dont_write_bytecode = len(sys.argv) > 2\n"
            "from fractions import Fraction; from spiralis.core.model import *; from spiralis.core.storage import *\n"
            "from spiralis.core.storage.conversion import from_json, to_json\n"
            "made = Project('A', (Composition('B', 8, 8, Fraction(25), 2, layers=(Layer('C', 'text', 0, 2),)),))\n"
            "print(from_json(to_json(made), '') == made, len(compiled) > 40, len(compiled) > 0)\n"
        )
        with tempfile.TemporaryDirectory() as folder:
            kept = Path(folder, "kept.bin")
            self.assertEqual("True True True\n", run(code, str(kept), "nothing is to be written"))
            self.assertFalse(kept.exists())
            self.assertEqual("True True True\n", run(code, str(kept)))
            self.assertEqual("True False False\n", run(code, str(kept)))
            whole = kept.read_bytes()
            # Of another version of Python, cut short, empty, something else.
            for odd in (b"\0\0" + whole[2:], whole[:3000], b"", whole[:4] + marshal.dumps([3])):
                kept.write_bytes(odd)
                self.assertEqual("True True True\n", run(code, str(kept)))
                self.assertEqual("True False False\n", run(code, str(kept)))

    def test_what_was_written_for_classes_that_are_no_more_goes_when_it_is_much(self) -> None:
        code = (
            "import marshal, sys; from pathlib import Path; import spiralis.core.generated_code as g\n"
            "g.place = lambda: Path(sys.argv[1]); g._MOST = 300; sys.dont_write_bytecode = False\n"
            "import spiralis.core.model; sys.modules['attr._make'].compile('x = ' + sys.argv[2], 'x', 'exec')\n"
            "g.keep(); print(len(g._read()))\n"
        )
        with tempfile.TemporaryDirectory() as folder:
            kept = Path(folder, "kept.bin")
            first = int(run(code, str(kept), "1"))
            self.assertTrue(20 < first < 200, first)
            self.assertEqual(run(code, str(kept), "2"), f"{first + 1}\n")
            magic, held = kept.read_bytes()[:4], marshal.loads(kept.read_bytes()[4:])
            old = {str(place).encode(): compile("0", "", "exec") for place in range(300 - len(held))}
            kept.write_bytes(magic + marshal.dumps(held | old))
            self.assertEqual(run(code, str(kept), "2"), "300\n")
            self.assertEqual(run(code, str(kept), "3"), f"{first}\n")

    def test_processes_that_compile_side_by_side_keep_what_each_of_them_made(self) -> None:
        # As many writers as threads with files of their own: locks go by open file, not by process.
        code = (
            "import sys; from threading import Barrier, Thread\n"
            "from spiralis.core.machine_code import load_compiler; load_compiler()\n"
            "from numba.core.caching import IndexDataCacheFile\n"
            "sys.setswitchinterval(1e-6); gate, folder = Barrier(8), sys.argv[1]\n"
            "def keep(name):\n"
            "    gate.wait()\n"
            "    for place in range(5): IndexDataCacheFile(folder, 'one', 1).save((name, place), (name, place))\n"
            "threads = [Thread(target=keep, args=(name,)) for name in range(8)]\n"
            "[t.start() for t in threads]; [t.join() for t in threads]\n"
            "kept = IndexDataCacheFile(folder, 'one', 1)\n"
            "print(all(kept.load((n, p)) == (n, p) for n in range(8) for p in range(5)))\n"
            "print(IndexDataCacheFile(folder, 'one', 2).load((0, 0)))\n"
        )
        with tempfile.TemporaryDirectory() as folder:
            self.assertEqual("True\nNone\n", run(code, folder))

    def test_compiling_goes_backwards_too_and_ends_with_who_asked_for_it(self) -> None:
        code = (
            "from spiralis.core.warm import warm; told = []\n"
            "warm(lambda done, of: told.append((done, of)), backwards=True)\n"
            "print(told == sorted(told), told[0][0], told[-1][0] == told[-1][1] > 50)"
        )
        self.assertEqual("True 0 True\n", run(code))
        command = [sys.executable, "-m", "spiralis.core.warm", "backwards"]
        with subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, stderr=subprocess.PIPE) as made:
            assert made.stdin is not None and made.stderr is not None
            made.stdin.close()
            self.assertEqual((made.wait(60), made.stderr.read()), (1, b""))

    def test_ctrl_c_while_it_compiles_ends_it_without_a_trace(self) -> None:
        command = [sys.executable, "-m", "spiralis.core.warm"]
        with subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE) as made:
            assert made.stdout is not None and made.stderr is not None
            self.assertIn(b"0 of ", made.stdout.readline())
            made.send_signal(signal.SIGINT)
            self.assertEqual((made.wait(60), made.stderr.read()), (-signal.SIGINT, b""))

    def test_what_others_are_compiled_with_is_read_when_one_is(self) -> None:
        head = "from numba import njit\n\n@njit(cache=True)\n"
        inner = head + "def inner(x):\n    return 3 * x + 1\n"
        outer = "from inner import inner\n" + head + "def outer(x):\n    return inner(x) + inner(x + 1)\n"
        begin = (
            "import llvmlite.binding as ll; from spiralis.core.machine_code import load_compiler; load_compiler()\n"
            "read, asked = ll.parse_bitcode, []\n"
            "ll.parse_bitcode = lambda *given: asked.append(1) or read(*given)\n"
        )
        ask_inner = "from inner import inner; print(inner(2), sum(inner.stats.cache_hits.values()), len(asked))\n"
        ask_outer = "from outer import outer; print(outer(2), sum(outer.stats.cache_hits.values()), bool(asked))\n"
        with tempfile.TemporaryDirectory() as folder:
            Path(folder, "inner.py").write_text(inner)
            Path(folder, "outer.py").write_text(outer)
            path = f"import sys; sys.path.insert(0, {folder!r})\n"
            for ask, said in (
                (ask_inner, "7 0 0\n"), (ask_inner, "7 1 0\n"), (ask_outer, "17 0 True\n"),
                (ask_outer, "17 1 False\n"), (ask_inner + ask_outer, "7 1 0\n17 1 False\n"),
            ):  # fmt: skip
                with self.subTest(said=said):
                    self.assertEqual(said, run(path + begin + ask))

    def test_a_process_that_draws_gets_ready_without_what_takes_pictures_apart(self) -> None:
        code = (
            "import sys; from spiralis.core.warm import warm; told = []\n"
            "warm(lambda done, of: told.append((done, of)), drawing_alone=True)\n"
            "print('scipy.sparse' in sys.modules, told[-1][0] == told[-1][1] > 50)\n"
            "warm(); print('scipy.sparse' in sys.modules)"
        )
        self.assertEqual("False True\nTrue\n", run(code))

    def test_a_name_that_a_module_lacks_is_an_error_as_ever(self) -> None:
        code = "import spiralis.core, cv2\ntry: cv2.nothing_of_that_name\nexcept AttributeError: print('right')"
        self.assertEqual(run(code), "right\n")

    def test_two_threads_get_the_whole_module(self) -> None:
        code = (
            "import spiralis.core, sys, av\n"
            "from threading import Barrier, Thread\n"
            "sys.setswitchinterval(1e-6)\n"
            "gate, got = Barrier(8), []\n"
            "def ask():\n"
            "    gate.wait(); got.append(av.FFmpegError.__name__)\n"
            "threads = [Thread(target=ask) for _ in range(8)]\n"
            "[t.start() for t in threads]; [t.join() for t in threads]\n"
            "print(got == ['FFmpegError'] * 8)"
        )
        self.assertEqual(run(code), "True\n")

    def test_everything_can_be_loaded_ahead(self) -> None:
        code = (
            "from spiralis.core import later\n"
            "import spiralis.core.warm, spiralis.core.render, spiralis.core.raster.blurring\n"
            "print(len(later.waiting()) > 3); later.load_all(); print(later.waiting())"
        )
        self.assertEqual(run(code), "True\n[]\n")

    def test_what_is_not_installed_is_missing_as_ever(self) -> None:
        patterns = later.LATER
        later.LATER = (*patterns, "no_such_package_at_all")
        try:
            with self.assertRaises(ModuleNotFoundError):
                __import__("no_such_package_at_all")
        finally:
            later.LATER = patterns


if __name__ == "__main__":
    unittest.main()
