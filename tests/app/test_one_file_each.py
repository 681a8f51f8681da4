"""Adding an effect, a layer or source kind, a move, an exporter or a still format takes one file, nothing else."""

from __future__ import annotations

import importlib.util
import unittest
from pathlib import Path

import numpy as np
from click.testing import CliRunner
from PyQt6.QtCore import QPointF
from PyQt6.QtWidgets import QToolButton

from spiralis.app.moves.chooser import MovesChooser
from spiralis.app.sources.entries import entries_of
from spiralis.app.strips.add_strip import add_entries
from spiralis.cli import cli
from spiralis.core.media.exporters.base import _EXPORTERS
from spiralis.core.media.stills.base import _STILLS
from spiralis.core.model.blocks import _KINDS as _EFFECTS
from spiralis.core.model.kinds import _KINDS
from spiralis.core.model.source import _KINDS as _SOURCES
from spiralis.core.moves import MOVES
from spiralis.core.render.frame import render_frame
from spiralis.core.storage import load
from tests.app.harness import WindowTest

EFFECT = '''
import numpy as np
from spiralis.core.effects.job import nothing_around
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter
from spiralis.core.raster.raster import Raster

def run(job):
    pixels = job.source.as_float.copy()
    pixels[..., :3] = pixels[..., 3:] * np.float32(job.values["grey"] / 100)
    return Raster(pixels, job.source.space, job.source.corner)

register_effect(EffectKind(
    "fog", "Fog", "One grey all over", "Colour", EFFECT,
    (Parameter("grey", "Grey", Kind.NUMBER, 50.0, "How bright", "%", 0, 100),), run, nothing_around, nothing_around,
    neutral=lambda values: False))
'''
LAYER = '''
import numpy as np
from spiralis.core.geometry import Affine
from spiralis.core.model.adding import AddEntry
from spiralis.core.model.kinds import LayerKind, register_kind
from spiralis.core.model.parameter import Kind, Parameter
from spiralis.core.raster.raster import Raster

def draw(values, scene, matrix, clip):
    data = np.zeros((22, 22, 4), dtype=np.uint8)
    data[1:-1, 1:-1] = 255
    return Raster(data, Affine.shift(-1, -1))

register_kind(LayerKind(
    "patch", "Patch", "A white patch", (Parameter("note", "Note", Kind.TEXT, "", "Anything"),),
    lambda values, scene: (0.0, 0.0, 20.0, 20.0), draw, adds=(AddEntry("Patch", 150),)))
'''
MOVE = '''
from spiralis.core.moves.base import Point, loop

loop("wink", "Wink", "Shuts and opens again", lambda how: (Point(0.0), Point(0.5, scale=(1.0, 0.1)), Point(1.0)))
'''
EXPORTER = '''
import numpy as np
from spiralis.core.media.exporters.base import Exporter, register_exporter
from spiralis.core.render.frame import render_straight8

def render(job, moment):
    return render_straight8(job.project, job.composition_id, moment, job.scale)

def write(job, path):
    frames = list(job.frames(render))
    with path.open("wb") as file:
        np.save(file, np.stack(frames))
    return ()

def check(job, path):
    frames = np.load(path)
    return len(frames), float(len(frames) / job.composition.rate), frames.shape[2], frames.shape[1]

register_exporter(Exporter("numbers", "Numbers", ".npy", "Pixels: for reckoning", (), write, check,
                           read=lambda path, index: np.load(path)[index], order=900))
'''
STILL = '''
from spiralis.core.media.stills.base import Still, register_still

def write(project, composition, frame, path):
    path.write_text(f"{composition.name} {frame}")
    return ()

register_still(Still("note", "Note", ".note", "Which frame it was", write))
'''
SOURCE = '''
from spiralis.core.media.files import digest_of, read_bytes
from spiralis.core.model.source import Source, SourceKind, register_source_kind

def read(path, suffix):
    data = read_bytes(path)
    return Source(path.name, digest_of(data), suffix, 0, 0, kind="script", file=str(path), data=data)

register_source_kind(SourceKind("script", "Scripts", (".script",), read, brought="{} is there to be spoken.",
                                use="Somebody reads it aloud"))
'''


class OneFileTest(WindowTest):
    def bring(self, name: str, text: str) -> None:
        """Load a file from a temporary folder, as the program loads those in its own."""
        path = self.folder / f"{name}.py"
        path.write_text(text, encoding="utf-8")
        spec = importlib.util.spec_from_file_location(f"brought_{name}", path)
        assert spec is not None and spec.loader is not None
        spec.loader.exec_module(importlib.util.module_from_spec(spec))

    def forget(self, registry, name: str) -> None:  # type: ignore[no-untyped-def]
        # Once the windows are gone, which may still look at what is on show.
        self.addClassCleanup(lambda: registry._things.pop(name, None))

    def test_an_effect(self) -> None:
        self.bring("fog", EFFECT)
        self.forget(_EFFECTS, "fog")
        self.session.select(["words"])
        self.settle()
        button = next(
            t for t in self.editor.details.findChildren(QToolButton) if t.accessibleName() == "Add to effects"
        )
        part = next(a.menu() for a in button.menu().actions() if a.text() == "Colour")
        next(a for a in part.actions() if a.text() == "Fog").trigger()
        self.settle()
        block = self.layer("words").blocks[0]
        self.assertIn(block.named("grey"), self.editor.details.editors)
        path = self.saved(self.session.project)
        again = load(path)
        self.assertEqual(self.layer("words").blocks, again.compositions[0].layer("words").blocks)
        out = self.folder / "fog.png"
        made = CliRunner().invoke(cli, ["frame", str(path), "-c", "Piece", "--at", "0", "-o", str(out)])
        self.assertEqual(0, made.exit_code, made.output)
        self.assertTrue(out.exists())

    def test_a_layer_kind(self) -> None:
        self.bring("patch", LAYER)
        self.forget(_KINDS, "patch")
        self.assertIn("Patch", [entry.label for _, entry in add_entries()])
        from spiralis.app.strips.add_strip import AddStrip

        strip = AddStrip(self.session)
        next(a for a in strip.shape.menu().actions() if a.text() == "Patch").trigger()
        self.settle()
        self.assertIn("note", self.editor.details.editors)
        again = load(self.saved(self.session.project))
        self.assertEqual("patch", again.compositions[0].layers[0].kind)
        picture = render_frame(again, "Piece", 0)
        np.testing.assert_allclose(picture[240, 320, :3], 1.0)

    def test_a_move(self) -> None:
        self.bring("wink", MOVE)
        self.forget(MOVES, "wink")
        self.session.select(["words"])
        chooser = MovesChooser(self.window, self.session, self.window.player, None)
        self.addCleanup(chooser.close)
        chooser._show_family("loop")
        self.assertIn("wink", chooser.tiles)

    def test_an_exporter(self) -> None:
        self.bring("numbers", EXPORTER)
        self.forget(_EXPORTERS, "numbers")
        self.window.windows.show_export()
        window = self.window.windows.export
        assert window is not None
        self.assertIn("numbers", window.cards)
        self.click(window.cards["numbers"])
        window.start(self.folder / "piece.npy")
        self.until(lambda: window.running is None, 60)
        self.until(lambda: len(window.preview.images) == 2)
        path = self.saved(self.session.project)
        out = self.folder / "cli.npy"
        made = CliRunner().invoke(cli, ["render", str(path), "-c", "Piece", "--frames", "0:3", "-o", str(out)])
        self.assertEqual(0, made.exit_code, made.output)
        self.assertEqual((3, 480, 640, 4), np.load(out).shape)

    def test_a_kind_of_source(self) -> None:
        self.bring("script", SOURCE)
        self.forget(_SOURCES, "script")
        lines = self.folder / "Lines.script"
        lines.write_text("Up it goes.")
        said: list[str] = []
        self.session.said.connect(said.append)
        before = len(self.session.composition.layers)
        self.drop([lines], QPointF(900, 300))
        self.assertIn("Lines.script is there to be spoken.", "".join(said))
        self.assertEqual(before, len(self.session.composition.layers))
        self.assertIn("Scripts", [entry.group for entry in entries_of(self.session.project)])
        again = load(self.saved(self.session.project))
        self.assertEqual(b"Up it goes.", again.sources[-1].data)

    def test_a_still_format(self) -> None:
        self.bring("note", STILL)
        self.forget(_STILLS, "note")
        path, out = self.saved(self.session.project), self.folder / "a.note"
        made = CliRunner().invoke(cli, ["frame", str(path), "-c", "Piece", "--at", "7", "-o", str(out)])
        self.assertEqual(0, made.exit_code, made.output)
        self.assertEqual("Piece 7", out.read_text())
        self.window.context.stills.write(Path(self.folder / "b.note"))
        self.until(lambda: (self.folder / "b.note").exists())


class PreferencesTest(WindowTest):
    def test_memory_is_shown_set_and_kept(self) -> None:
        from spiralis.app.project.preferences import Preferences
        from spiralis.app.widgets.preferences import apply_stored, stored
        from spiralis.core.cache import BUDGET

        before = BUDGET.limit
        self.addCleanup(BUDGET.set_limit, before)
        self.picture()
        self.act("Preferences…")
        dialog = next(d for d in self.window.findChildren(Preferences))
        self.assertIn("MB", dialog.amount.text())
        self.enter_number(dialog.memory, "300")
        self.assertEqual(300 << 20, BUDGET.limit)
        self.assertEqual(300, stored()["memory"])
        BUDGET.set_limit(before)
        apply_stored()
        self.assertEqual(300 << 20, BUDGET.limit)
        self.assertLessEqual(BUDGET.bytes, BUDGET.limit)
        dialog.close()


if __name__ == "__main__":
    unittest.main()
