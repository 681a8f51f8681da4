"""The command line as people and scripts use it."""

import json
import os
import shlex
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

import numpy as np
from attrs import evolve
from PIL import Image

from spiralis.core.media.layered_files import read_layers
from spiralis.core.model import Layer, Project
from spiralis.core.render.frame import render_straight8
from spiralis.core.storage import save
from spiralis.demo.project import demo_project
from tests.core.drawings import DRAWINGS
from tests.core.samples import backdrop, project


class CommandLineTest(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.folder = Path(cls.enterClassContext(tempfile.TemporaryDirectory()))
        cls.demo = cls.folder / "demo.spiralis"
        save(demo_project(), cls.demo)
        cls.small = cls.folder / "small.spiralis"
        save(project(backdrop(64, 48, (0.2, 0.6, 0.4, 1.0)), length=10), cls.small)

    def run_(self, *words: object, display: bool = True) -> subprocess.CompletedProcess[str]:
        kept = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")}
        if display:
            kept["QT_QPA_PLATFORM"] = "offscreen"
        command = [sys.executable, "-m", "spiralis", *map(str, words)]
        return subprocess.run(command, capture_output=True, text=True, env=kept, cwd=Path.cwd(), check=False)

    def refused(self, code: int, *words: object) -> str:
        done = self.run_(*words)
        self.assertEqual(done.returncode, code, done.stderr)
        self.assertNotIn("Traceback", done.stderr)
        if code == 1:
            self.assertEqual(done.stderr.strip().count("\n"), 0, done.stderr)
        return done.stderr

    def test_a_command_ends_without_taking_itself_apart_and_says_all_it_has_to_say(self) -> None:
        code = (
            "import atexit, os, sys, threading, time; from spiralis.cli import base\n"
            "class Held:\n    def __del__(self, write=os.write): write(1, b'taken apart')\n"
            "base.held = Held()\n"
            "@base.cli.command()\n@base.click.argument('status', type=int)\n"
            "def slowly(status):\n"
            "    atexit.register(print, 'registered')\n"
            "    threading.Thread(target=lambda: time.sleep(0.3) or print('thread')).start()\n"
            "    print('command')\n"
            "    sys.exit(status)\n"
            "base.main()\n"
        )
        for status in (0, 3):
            command = [sys.executable, "-c", code, "slowly", str(status)]
            done = subprocess.run(command, capture_output=True, text=True, check=False)
            said = (done.returncode, done.stdout, done.stderr)
            self.assertEqual(said, (status, "command\nthread\nregistered\n", ""))

    @unittest.skipUnless(Path("/dev/full").exists(), "there is no full device here")
    def test_what_cannot_be_printed_is_a_sentence_and_a_closed_output_none(self) -> None:
        for words in (["info", self.small], ["info", self.small, "--json"], ["targets"]):
            with open("/dev/full", "w") as full:
                done = subprocess.run([sys.executable, "-m", "spiralis", *map(str, words)], stdout=full, text=True,
                                      stderr=subprocess.PIPE, check=False)  # fmt: skip
            self.assertEqual(done.returncode, 1)
            self.assertRegex(done.stderr, r"\AWhat this command says cannot be written where it goes: [^\n]+\.\n\Z")
        closed = f"{shlex.quote(sys.executable)} -m spiralis targets >&-"
        done = subprocess.run(["sh", "-c", closed], text=True, stderr=subprocess.PIPE, check=False)
        self.assertEqual((done.returncode, done.stderr), (0, ""))

    def test_an_icon_is_drawn_as_large_as_memory_allows(self) -> None:
        icon = self.folder / "icon.spiralis"
        save(project(backdrop(24, 24, (0.2, 0.6, 0.4, 1.0)), width=24, height=24, length=2), icon)
        out = self.folder / "icon.png"
        done = self.run_("frame", icon, "-c", "Piece", "--at", 0, "--scale", 512 / 24, "-o", out)
        self.assertEqual(done.returncode, 0, done.stderr)
        with Image.open(out) as picture:
            self.assertEqual(picture.size, (512, 512))
        for scale, words in ((450, "million pixels"), (1000, "over 20000 px")):
            self.assertIn(words, self.refused(1, "frame", icon, "-c", "Piece", "--at", 0, "--scale", scale, "-o", out))

    def test_artwork_becomes_a_project_and_a_frame_becomes_artwork(self) -> None:
        drawing, project_file, out = (self.folder / name for name in ("logo.svg", "logo.spiralis", "logo.ora"))
        drawing.write_bytes(DRAWINGS["transforms"])
        done = self.run_("import", drawing, "-o", project_file, "--rate", "30000/1001", "--length", 60)
        self.assertEqual(done.returncode, 0, done.stderr)
        piece = json.loads(self.run_("info", project_file, "--json").stdout)["compositions"][0]
        self.assertEqual(
            (piece["name"], piece["width"], piece["rate"], piece["length"]), ("logo", 200, "30000/1001", 60)
        )
        done = self.run_("frame", project_file, "--composition", "logo", "--at", 0, "-o", out)
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertEqual(len(read_layers(out).parts), len(piece["layers"]))
        broken = self.folder / "broken.svg"
        broken.write_text("<svg")
        self.assertIn("broken.svg", self.refused(1, "import", broken, "-o", self.folder / "x.spiralis"))
        self.refused(2, "import", drawing, "-o", self.folder / "x.zip")
        self.assertFalse((self.folder / "x.spiralis").exists())

    def test_info_as_json(self) -> None:
        data = json.loads(self.run_("info", self.demo, "--json").stdout)
        kite = data["compositions"][0]
        self.assertEqual((kite["name"], kite["width"], kite["height"], kite["rate"], kite["length"], kite["loop"]),
                         ("Kite day", 1080, 1350, "25/1", 150, True))  # fmt: skip
        self.assertEqual(kite["layers"][0]["name"], "Price tag")
        self.assertEqual(kite["layers"][-1]["kind"], "backdrop")
        self.assertTrue(all({"name", "kind", "first", "last", "keys"} <= set(layer) for layer in kite["layers"]))
        self.assertTrue(all(not s["missing"] and s["path"].startswith("media/") for s in data["sources"]))

    def test_info_for_people(self) -> None:
        text = self.run_("info", self.demo).stdout
        self.assertIn("Button pulse: 1080 × 1080", text)
        self.assertIn("kite-swift.png", text)

    def test_a_terminal_of_an_older_encoding_gets_what_it_can_show(self) -> None:
        named = self.folder / "named.spiralis"
        piece = evolve(project(backdrop(64, 48, (0.2, 0.6, 0.4, 1.0)), length=10).compositions[0], name="Frühling 凧")
        save(Project("“Drachen”", (piece,)), named)

        def told(*words: object) -> tuple[int, str, str]:
            command = [sys.executable, "-m", "spiralis", *map(str, words)]
            env = {**os.environ, "PYTHONIOENCODING": "latin-1"}
            done = subprocess.run(command, capture_output=True, env=env, cwd=Path.cwd(), check=False)
            return done.returncode, done.stdout.decode("latin-1"), done.stderr.decode("latin-1")

        code, out, _ = told("info", named)
        self.assertEqual((0, True, True), (code, '"Drachen"' in out, "Frühling ?: 64 × 48" in out), out)
        code, out, _ = told("info", named, "--json")
        self.assertEqual((0, "Frühling 凧"), (code, json.loads(out)["compositions"][0]["name"]))
        code, _, said = told("frame", named, "-c", "Nope", "--at", 0, "-o", self.folder / "a.png")
        self.assertEqual((1, True), (code, 'There is no composition "Nope" in ' in said), said)

    def test_frame(self) -> None:
        target = self.folder / "frame.png"
        done = self.run_("frame", self.demo, "--composition", "Kite day", "--at", 40, "--scale", 0.25, "-o", target)
        self.assertEqual(done.returncode, 0, done.stderr)
        with Image.open(target) as image:
            expected = render_straight8(demo_project(), "Kite day", 40, 0.25)
            np.testing.assert_array_equal(np.array(image.convert("RGBA")), expected)

    def test_render_reports_in_plain_lines_and_writes(self) -> None:
        for name in ("a.mp4", "a.gif"):
            done = self.run_(
                "render", self.small, "-c", "Piece", "--frames", "2:9", "--workers", 2, "-o", self.folder / name
            )
            self.assertEqual(done.returncode, 0, done.stderr)
            self.assertIn("7/7 frames", done.stderr)
            self.assertNotIn("\x1b", done.stderr)
            self.assertTrue((self.folder / name).stat().st_size > 100)

    def test_the_name_of_the_only_piece_can_be_left_out(self) -> None:
        small = project(backdrop(64, 48, (0.2, 0.6, 0.4, 1.0)), length=10)
        inner = small.compositions[0]
        nest = Layer("Nest", "nested", 0, 10).with_values(composition=inner.id)
        whole = self.folder / "whole.spiralis"
        save(evolve(small, compositions=(inner, evolve(inner, id="outer", name="Outer", layers=(nest,)))), whole)
        for asked, name in (("frame --at 0", "only.png"), ("render --frames 0:2", "only.gif")):
            done = self.run_(*asked.split(), whole, "-o", self.folder / name)
            self.assertEqual(done.returncode, 0, done.stderr)
            self.assertTrue((self.folder / name).exists())
        several = self.refused(1, "render", self.demo, "-o", self.folder / "c.mp4")
        self.assertRegex(several, r"holds \d+ pieces; name one of them: “.*” and \d+ more\.")

    def test_demo_is_written(self) -> None:
        done = self.run_("demo", "--save", self.folder / "again.spiralis")
        self.assertEqual(done.returncode, 0, done.stderr)
        self.assertEqual(
            json.loads(self.run_("info", self.folder / "again.spiralis", "--json").stdout)["name"], "Tolvane Kites"
        )

    def test_wrong_usage_is_two(self) -> None:
        self.refused(2, "render", self.small, "-c", "Piece")
        self.refused(2, "render", self.small, "-c", "Piece", "-o", "a.docx")
        self.refused(2, "render", self.small, "-c", "Piece", "--frames", "3-4", "-o", "a.mp4")
        self.refused(2, "frame", self.small, "-c", "Piece", "--at", 0, "--scale", 0, "-o", "a.png")

    def test_what_cannot_be_done_is_one_and_one_sentence(self) -> None:
        text = self.folder / "text.spiralis"
        text.write_text("no")
        self.assertIn("text.spiralis", self.refused(1, "info", text))
        self.assertIn("not there", self.refused(1, "info", self.folder / "none.spiralis"))
        self.assertIn(
            "Piece", self.refused(1, "frame", self.small, "-c", "Nope", "--at", 0, "-o", self.folder / "a.png")
        )
        self.refused(1, "frame", self.small, "-c", "Piece", "--at", 99, "-o", self.folder / "a.png")
        self.refused(1, "render", self.small, "-c", "Piece", "-o", self.folder / "none" / "a.gif")
        self.assertFalse((self.folder / "a.png").exists())

    def test_too_little_memory_is_a_sentence(self) -> None:
        program = (
            "from unittest import mock\nfrom spiralis.cli import base\n"
            "with mock.patch.object(base, 'cli', side_effect=MemoryError):\n    base.main()"
        )
        done = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True, check=False)
        self.assertEqual(done.returncode, 1)
        self.assertRegex(done.stderr, r"\AThere is too little memory for that; [^\n]*\.\n\Z")

    def test_a_file_of_another_kind_or_none_at_all_opens_no_window(self) -> None:
        notes = self.folder / "notes.txt"
        notes.write_text("wind from the west")
        self.assertIn("notes.txt", told := self.refused(1, notes))
        self.assertIn(".spiralis", told)
        self.assertIn(".svg", told)
        self.assertIn("gone.png", self.refused(1, self.folder / "gone.png"))

    def test_without_a_display_it_says_so_and_exits_three(self) -> None:
        for words in ((), ("demo",), (self.small,)):
            done = self.run_(*words, display=False)
            self.assertEqual(done.returncode, 3)
            self.assertEqual(done.stderr.strip().count("\n"), 0)
            self.assertIn("display", done.stderr)
