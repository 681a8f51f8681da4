"""Layers of every kind tied to each other in every way: there is a picture, of numbers, and what shows nothing by
itself decides nothing."""

from __future__ import annotations

import random
import unittest

import numpy as np
from attrs import evolve

from spiralis.core.editing.effecting import with_effect
from spiralis.core.editing.matting import may_be_matte, with_matte
from spiralis.core.errors import ModelError
from spiralis.core.model import Composition, Key, Kind, Layer, Matte, Project, Track, layer_kind, layer_kinds
from spiralis.core.model.layer import MATTE_BY
from spiralis.core.render import render_frame
from tests.core.samples import backdrop, project
from tests.core.zoo import LENGTH, zoo

#: So many pieces are drawn.
PIECES = 60


def tied(seed: int) -> Project:
    """Return a piece of the zoo whose layers refer to each other at random, blurred by everything that changes."""
    rng, made = random.Random(seed + 1000), zoo(seed)
    piece = evolve(made.compositions[0], blur_of=rng.choice(("movement", "everything")), blur_samples=8)
    ids = [layer.id for layer in piece.layers]
    for layer_id in ids:
        layer = piece.layer(layer_id)
        values: dict[str, object] = {p.name: rng.choice(ids) for p in layer.parameters if p.kind is Kind.LAYER}
        values |= {name: rng.random() < 0.4 for name in ("motion_blur", "depth") if layer.has(name)}
        tie = Matte(rng.choice([other for other in ids if other != layer_id]), rng.choice(MATTE_BY))
        for change in ({"mattes": (tie,)}, *({name: value} for name, value in values.items())):
            layer = piece.layer(layer_id)
            try:
                piece = piece.with_layer(evolve(layer, **change) if "mattes" in change else layer.with_values(**change))
            except ModelError:
                continue  # In a circle: that is refused.
    return made.with_composition(piece)


class EveryTieTest(unittest.TestCase):
    def test_there_is_a_picture_of_numbers(self) -> None:
        for seed in range(PIECES):
            made = tied(seed)
            for frame in (0, 33):
                with self.subTest(seed=seed, frame=frame, kinds=[layer.kind for layer in made.compositions[0].layers]):
                    seen = render_frame(made, "zoo", frame, 0.25)
                    self.assertEqual((120, 160, 4), seen.shape)
                    self.assertTrue(np.isfinite(seen).all())


class WhatShowsNothingTest(unittest.TestCase):
    def piece(self, kind: str) -> tuple[Project, Composition]:
        source = with_effect(Layer("Source", kind, 0, LENGTH, id="source"), "invert") if kind == "effect" else (
            Layer("Source", kind, 0, LENGTH, id="source")
        )
        shown = Layer("Shown", "shape", 0, LENGTH, id="shown").with_values(
            form="rectangle", size=(20.0, 20.0), position=(20.0, 20.0), fill=(1.0, 0.0, 0.0, 1.0))  # fmt: skip
        made = project(source, shown, backdrop(40, 40, (0.0, 0.0, 1.0, 1.0)), width=40, height=40)
        return made, made.compositions[0]

    def test_it_is_refused_as_a_matte_and_hides_all_where_a_file_has_it(self) -> None:
        for kind in (kind.name for kind in layer_kinds()):
            made, piece = self.piece(kind)
            source = piece.layer("source")
            nothing = layer_kind(kind).unseen or layer_kind(kind).beneath is not None
            with self.subTest(kind):
                self.assertEqual(not nothing, may_be_matte(source))
                if not nothing:
                    self.assertEqual(1, len(with_matte(piece, "shown", "source").layer("shown").mattes))
                    continue
                with self.assertRaisesRegex(ModelError, "“Source” shows nothing by itself"):
                    with_matte(piece, "shown", "source")
                so_read = piece.with_layer(evolve(piece.layer("shown"), mattes=(Matte("source"),)))
                seen = render_frame(made.with_composition(so_read), piece.id, 0)
                np.testing.assert_allclose(seen[20, 20], (0, 0, 1, 1), atol=1e-5)

    def test_an_effect_layer_has_no_blur_of_its_own(self) -> None:
        made, piece = self.piece("effect")
        layer = piece.layer("source")
        name = f"{layer.blocks[0].id}.on"
        moving = with_effect(layer.without_block(layer.blocks[0].id), "exposure")
        name = next(p.name for p in moving.parameters if p.block and p.plotted and p.kind is Kind.NUMBER)
        moving = moving.with_track(name, Track(0.0, (Key(0, 0.0), Key(10, 2.0))))
        seen = []
        for blurred in (False, True):
            changed = evolve(piece.with_layer(moving.with_values(motion_blur=blurred)), blur_of="everything")
            seen.append(render_frame(made.with_composition(changed), piece.id, 5))
        np.testing.assert_array_equal(*seen)


if __name__ == "__main__":
    unittest.main()
