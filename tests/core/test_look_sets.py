"""Look sets: those that come along, keeping a layer's effects as one, and their files."""

from __future__ import annotations

import json
import tempfile
import unittest
from pathlib import Path

import numpy as np

from spiralis.core.editing.look_sets import look_of, with_look
from spiralis.core.errors import FileError, ModelError, SpiralisError
from spiralis.core.looks import shipped_looks
from spiralis.core.model import Key, Track
from spiralis.core.model.blocks import effect_kind
from spiralis.core.render import render_frame
from spiralis.core.storage.look_file import read_looks, write_looks
from tests.core.test_effects import project, star, with_effect


class LookSetsTest(unittest.TestCase):
    def test_twenty_come_along_and_each_changes_the_picture(self) -> None:
        looks = shipped_looks()
        self.assertGreaterEqual(len(looks), 20)
        self.assertEqual(len({look.name for look in looks}), len(looks))
        way = Track((30.0, 40.0), (Key(0, (30.0, 40.0)), Key(20, (70.0, 40.0))))
        layer = star(size=(40.0, 34.0)).with_track("position", way)
        plain = render_frame(project(layer), "Piece", 6)
        drawn = [render_frame(project(with_look(layer, look)), "Piece", 6) for look in looks]
        for look, picture in zip(looks, drawn, strict=True):
            self.assertGreater(float(np.abs(picture - plain).max()), 0.01, look.name)
            self.assertTrue(look.help and len(look.name) <= 24, look.name)
        for index, picture in enumerate(drawn):
            self.assertFalse(any(np.array_equal(picture, other) for other in drawn[:index]), looks[index].name)

    def test_every_part_of_each_does_something(self) -> None:
        for look in shipped_looks():
            for block in look.carrier.blocks:
                kind = effect_kind(block.kind)
                values = {p.name: look.carrier.track(block.named(p.name)).value for p in kind.parameters}
                self.assertFalse(kind.neutral(values), (look.name, block.kind))

    def test_a_layers_effects_are_kept_with_keys_and_without_ties(self) -> None:
        layer = with_effect(star(), "twirl", {"angle": 40.0})
        layer = layer.with_track("b1.angle", Track(0.0, (Key(0, 0.0), Key(9, 90.0))))
        layer = with_effect(layer, "displace", {"map": "map", "across": 9.0}, "b2")
        look = look_of(layer, "  Mine  ")
        self.assertEqual((look.name, [b.kind for b in look.carrier.blocks]), ("Mine", ["twirl", "displace"]))
        used = with_look(star(), look)
        self.assertEqual([key.value for key in used.track(used.blocks[0].named("angle")).keys], [0.0, 90.0])
        self.assertEqual(used.track(used.blocks[1].named("map")).value, "")
        self.assertNotIn(used.blocks[0].id, {"b1", "b2"})
        with self.assertRaises(ModelError):
            look_of(star(), "Nothing")

    def test_files_give_back_what_was_written(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "deep" / "mine.looks.json"
            write_looks(path, shipped_looks())
            read = read_looks(path)
        for look, again in zip(shipped_looks(), read, strict=True):
            a, b = (render_frame(project(with_look(star(), each)), "Piece", 3) for each in (look, again))
            np.testing.assert_array_equal(a, b, err_msg=look.name)
            self.assertEqual(look.name, again.name)

    def test_what_is_no_such_file_is_said_with_its_name(self) -> None:
        good = Path(tempfile.mkdtemp()) / "good.looks.json"
        write_looks(good, shipped_looks()[:1])
        data = json.loads(good.read_text())
        newer = {**data, "looks": {**data["looks"], "version": 999}}
        wrong = {**data, "looks": {**data["looks"], "compositions": [{"layers": 3}]}}
        for text in ("", "[]", "{}", '{"format": "spiralis-looks"}', json.dumps(newer), json.dumps(wrong)):
            path = good.with_name("bad.looks.json")
            path.write_text(text)
            with self.assertRaises(SpiralisError) as caught:
                read_looks(path)
            self.assertIn("bad.looks.json", str(caught.exception), text)
        with self.assertRaises(FileError):
            read_looks(good.with_name("none.looks.json"))


if __name__ == "__main__":
    unittest.main()
