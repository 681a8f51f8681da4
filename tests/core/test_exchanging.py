"""Another picture in a layer's place: what is seen of all else, and of its size, stays."""

from __future__ import annotations

import tempfile
import unittest
from fractions import Fraction
from pathlib import Path

import numpy as np
from attrs import evolve

from spiralis.core.editing.arranging import seen_box
from spiralis.core.editing.effecting import with_effect
from spiralis.core.editing.exchanging import fitting
from spiralis.core.editing.slots import filled, with_slot
from spiralis.core.editing.sources import keys_gone, linked, replaced
from spiralis.core.editing.switching import switched
from spiralis.core.model import Composition, EdgePin, Key, Kind, Layer, Project, Source, Track
from spiralis.core.model.drivers import DialJoin, Wobble
from spiralis.core.model.slots import Slot
from spiralis.core.render.layers import Evaluated
from spiralis.core.storage import load, save
from tests.core.samples import png_bytes

LENGTH = 20


def blank(width: int, height: int) -> bytes:
    return png_bytes(np.full((height, width, 4), 255, np.uint8))


def source(name: str, width: int, height: int) -> Source:
    digest = f"{width * 1000 + height:064x}"
    return Source(f"{name}.png", digest, ".png", width, height, id=name, data=blank(width, height))


def sample() -> Project:
    """A turned picture with a shadow and a moving scale, a badge that moves on it, a mask in two axes, a dot further
    on, and a label that stays at the frame's edge."""
    grows = Track((50.0, 50.0), (Key(0, (50.0, 50.0)), Key(10, (80.0, 80.0))))
    kite = Layer("Kite", "picture", 0, LENGTH, id="kite").with_values(
        source="small", position=(300.0, 200.0), pivot=(20.0, 90.0), rotation=30.0
    )
    kite = with_effect(kite.with_track("scale", grows), "drop-shadow")
    badge = Layer("Badge", "shape", 0, LENGTH, id="badge", parent="kite").with_values(
        form="rectangle", size=(30.0, 30.0))  # fmt: skip
    badge = badge.with_track("position", Track((10.0, 20.0), (Key(0, (10.0, 20.0)), Key(9, (70.0, 30.0)))))
    badge = badge.with_track("scale", Track((100.0, 100.0), wobble=Wobble(12.0, 2.0)))
    mask = Layer("Mask", "shape", 0, LENGTH, id="mask", parent="kite").with_values(
        form="rectangle", separate=True, size=(40.0, 10.0))  # fmt: skip
    stops = ((0.0, 5.0), (100.0, 90.0))
    mask = mask.with_track("position_x", Track(5.0, driver=DialJoin("dial", stops)))
    mask = mask.with_track("position_y", Track(30.0))
    dot = Layer("Dot", "shape", 0, LENGTH, id="dot", parent="badge").with_values(
        form="rectangle", size=(4.0, 4.0), position=(3.0, 3.0))  # fmt: skip
    dial = Layer("Dial", "dial", 0, LENGTH, id="dial").with_track("value", Track(0.0, (Key(0, 0.0), Key(15, 100.0))))
    label = Layer("Label", "shape", 0, LENGTH, id="label", edge_pins=(EdgePin("left", "left", gap=12.0),)).with_values(
        form="rectangle", size=(9.0, 9.0)
    )
    layers = (dot, mask, badge, evolve(kite, edge_pins=(EdgePin("top", "top", gap=7.0),)), dial, label)
    piece = Composition("piece", 600, 400, Fraction(25), LENGTH, layers=layers, id="piece")
    return Project(sources=(source("small", 100, 60), source("large", 250, 150)), compositions=(piece,))


class ExchangeTest(unittest.TestCase):
    def setUp(self) -> None:
        self.start = sample()

    def boxes(self, project: Project) -> np.ndarray:
        """Where all layers but the dial are seen, (frames, layers, 4)."""
        piece = project.composition("piece")
        shown = [layer for layer in piece.layers if layer.id != "dial"]
        return np.array([
            [seen_box(Evaluated(project, piece, float(frame)), layer) for layer in shown] for frame in range(LENGTH)
        ])  # fmt: skip

    def assert_seen_as_before(self, project: Project) -> None:
        np.testing.assert_allclose(self.boxes(self.start), self.boxes(project), atol=1e-6)
        old, new = (each.composition("piece").layer("kite") for each in (self.start, project))
        scale = new.track("scale").value[0] / old.track("scale").value[0]
        lengths = [p.name for p in old.parameters if p.block and p.unit == "px" and p.kind is Kind.NUMBER]
        self.assertGreater(len(lengths), 1)
        for name in lengths:
            self.assertAlmostEqual(old.track(name).value, new.track(name).value * scale)
        self.assertEqual(old.edge_pins, new.edge_pins)

    def test_a_source_replaced_everywhere(self) -> None:
        self.assert_seen_as_before(replaced(self.start, "small", source("new", 300, 180)))
        self.assert_seen_as_before(replaced(self.start, "small", source("new", 50, 30), "anew"))
        kept = replaced(self.start, "small", source("new", 100, 60), "keep")
        self.assertEqual(self.start.compositions, kept.compositions)

    def test_another_source_chosen_for_a_layer(self) -> None:
        piece = self.start.composition("piece")
        changed, said = switched(Evaluated(self.start, piece, 4.0), ["kite"], "source", "large")
        self.assertEqual(("", "large"), (said, changed.layer("kite").track("source").value))
        self.assert_seen_as_before(self.start.with_composition(changed))
        back, _ = switched(Evaluated(self.start, changed, 4.0), ["kite"], "source", "small")
        self.assert_seen_as_before(self.start.with_composition(back))

    def test_another_composition_chosen_for_a_layer(self) -> None:
        inner = [Composition(name, *size, Fraction(25), LENGTH, id=name)
                 for name, size in (("near", (100, 60)), ("far", (250, 150)))]  # fmt: skip
        piece = self.start.composition("piece")
        kite = piece.layer("kite")
        properties = {name: track for name, track in kite.properties.items() if name != "source"}
        nested = evolve(kite, kind="nested", properties=properties).with_values(composition="near")
        piece = piece.with_layer(nested)
        self.start = evolve(self.start, compositions=(piece, *inner))
        for chosen in ("far", "near"):
            piece, said = switched(Evaluated(self.start, piece, 4.0), ["kite"], "composition", chosen)
            self.assertEqual(("", chosen), (said, piece.layer("kite").track("composition").value))
            self.assert_seen_as_before(self.start.with_composition(piece))

    def test_layers_of_another_kind_come_to_show_it_too(self) -> None:
        clip = evolve(source("clip", 64, 36), kind="footage", frames=9, rate=Fraction(25))
        start = evolve(self.start, sources=(*self.start.sources, clip))
        piece = start.composition("piece")
        film = Layer("Film", "footage", 0, LENGTH, id="film").with_values(source="clip", reverse=True)
        piece = evolve(piece, layers=(film, *piece.layers))
        start = start.with_composition(piece)
        for chosen, kind in (("clip", "footage"), ("large", "picture")):
            changed, _ = switched(Evaluated(start, piece, 0.0), ["film", "kite"], "source", chosen)
            for name in ("film", "kite"):
                self.assertEqual((kind, chosen), (changed.layer(name).kind, changed.layer(name).track("source").value))
            self.assertEqual(30.0, changed.layer("kite").track("rotation").value)

    def test_keys_that_have_no_place_any_more_are_told(self) -> None:
        clip = evolve(source("clip", 64, 36), kind="footage", frames=9, rate=Fraction(25))
        film = Layer("Film", "footage", 0, LENGTH, id="film").with_values(source="clip", retime=True, opacity=50.0)
        film = film.with_track("own_frame", Track(0.0, (Key(0, 0.0), Key(9, 8.0))))
        film = film.with_track("opacity", Track(50.0, (Key(0, 0.0), Key(9, 50.0))))
        piece = evolve(self.start.composition("piece"), layers=(film,))
        start = evolve(self.start, sources=(*self.start.sources, clip), compositions=(piece,))
        changed, said = switched(Evaluated(start, piece, 0.0), ["film"], "source", "large")
        self.assertEqual(film.track("opacity"), changed.layer("film").track("opacity"))
        self.assertIn(f"{film.parameter('own_frame').label} of “Film”", said)
        self.assertNotIn("Opacity", said)
        still = replaced(start, "clip", source("new", 64, 36))
        self.assertEqual(said, keys_gone(piece.layers, still.composition("piece").layers))
        self.assertEqual("", keys_gone(piece.layers, piece.layers))

    def test_a_slot_filled(self) -> None:
        still = self.start.composition("piece").layer("kite").with_track("scale", Track((50.0, 50.0)))
        self.start = self.start.with_composition(self.start.composition("piece").with_layer(still))
        slotted = with_slot(self.start, self.start.composition("piece"), "kite", Slot("Kite", "source", fit="contain"))
        made = filled(slotted, "piece", {"Kite": source("filled", 200, 120)})
        self.assert_seen_as_before(made)

    def test_a_linked_file_that_has_more_pixels_when_it_is_opened_again(self) -> None:
        with tempfile.TemporaryDirectory() as place:
            folder = Path(place)
            outside = linked(self.start, folder / "art")
            save(outside, folder / "kite.spiralis")
            path = next((folder / "art").glob("small*"))
            path.write_bytes(blank(400, 240))
            opened = load(folder / "kite.spiralis")
            self.assertEqual(400, opened.source("small").width)  # type: ignore[union-attr]
            self.assert_seen_as_before(opened)
            # Of other proportions, there is more or less on it: what was drawn stays as large.
            path.write_bytes(blank(100, 90))
            wider = load(folder / "kite.spiralis").composition("piece").layer("kite")
            self.assertEqual(self.start.composition("piece").layer("kite").track("scale"), wider.track("scale"))

    def test_how_it_fits(self) -> None:
        self.assertEqual(0.5, fitting((100, 60), (200, 60), "fit"))
        self.assertEqual(1.0, fitting((100, 60), (200, 60), "fill"))
        self.assertEqual(1.0, fitting((100, 60), (200, 120), "keep"))
        self.assertEqual(1.0, fitting((100, 60), (200, 60), "anew"))
        self.assertEqual(1.0, fitting((0, 0), (200, 60), "fit"))
