"""Layers at rest: what is kept of them beside what is worked out anew."""

from __future__ import annotations

import unittest

from attrs import evolve

from spiralis.core.animation.tracks import value_at
from spiralis.core.geometry import Affine
from spiralis.core.model import Composition, Key, Layer, Project, Track
from spiralis.core.model.drivers import Wobble
from spiralis.core.render.layers import Evaluated
from spiralis.demo.stored import stored_demo
from tests.core.samples import backdrop, project, square_source


def matrix(of: Project, layer: str, piece: Composition | None = None) -> Affine:
    """Return a layer's map at the first frame."""
    at = Evaluated(of, piece if piece is not None else of.compositions[0], 0.0)
    return at.matrix(at.composition.layer(layer))


def fresh(of: Project) -> Project:
    """Return the same project of new objects, beside which nothing is kept."""
    anew = tuple(evolve(piece, layers=tuple(evolve(layer) for layer in piece.layers)) for piece in of.compositions)
    return evolve(of, compositions=anew, sources=tuple(evolve(source) for source in of.sources))


class RestingTest(unittest.TestCase):
    def test_values_of_the_demos_layers_are_those_of_their_tracks(self) -> None:
        rest = 0
        for piece in stored_demo().compositions:
            for layer in piece.layers:
                moving = [name for name, track in layer.properties.items() if track.moving]
                if layer.resting is None:
                    self.assertTrue(moving or layer.track("along_path").value, layer.name)
                    continue
                rest += 1
                self.assertFalse(moving)
                for name in layer.defaults:
                    if name != "position":
                        found = value_at(layer.track(name), layer.parameter(name), 0.0)
                        self.assertEqual(found, layer.resting[name], name)
        self.assertGreater(rest, 50)

    def test_whatever_changes_over_time_does_not_rest(self) -> None:
        still = Layer("Words", "text", 0, 9)
        self.assertIsNotNone(still.resting)
        for track in (Track(0.0, (Key(0, 0.0), Key(5, 9.0))), Track(0.0, wobble=Wobble(5.0))):
            self.assertIsNone(still.with_track("rotation", track).resting)
        self.assertIsNone(still.with_values(along_path=True).resting)
        apart = still.with_values(separate=True, position_x=3.0, position_y=4.0)
        assert apart.resting is not None
        self.assertEqual((3.0, 4.0), apart.resting["position"])

    def test_a_kept_map_follows_files_frame_and_everything_that_a_box_hangs_on(self) -> None:
        source = square_source(20)
        picture = Layer("Square", "picture", 0, 9, id="square").with_values(source=source.id, rotation=30.0)
        inner = project(backdrop(64, 48, (1.0, 0.0, 0.0, 1.0)), width=64, height=48).compositions[0]
        nest = Layer("Nest", "nested", 0, 9, id="nest").with_values(composition=inner.id, rotation=30.0)
        around = Layer("Group", "group", 0, 9, id="group").with_values(rotation=30.0)
        member = evolve(picture, id="member", parent="group")
        ground = evolve(backdrop(100, 80, (0.0, 0.0, 1.0, 1.0), rotation=30.0), id="ground")
        first = project(picture, nest, around, member, ground, sources=(source,), width=100, height=80)
        first = first.with_composition(inner)
        larger = evolve(square_source(44), id=source.id)
        piece = first.compositions[0]
        wide = evolve(piece, width=300, height=200)
        other_inner = evolve(inner, width=20, height=90)
        moved = piece.with_layer(member.with_values(position=(70.0, 9.0)))
        changes = {
            "file": evolve(first, sources=(larger,)), "frame": first.with_composition(wide),
            "nested": first.with_composition(other_inner), "member": first.with_composition(moved),
            "nothing": first,
        }  # fmt: skip
        for name, changed in changes.items():
            for turn in range(2):  # Worked out, then kept.
                for layer in ("square", "nest", "group", "member", "ground"):
                    with self.subTest(name, turn=turn, layer=layer):
                        self.assertEqual(matrix(fresh(changed), layer), matrix(changed, layer))
        self.assertNotEqual(matrix(first, "square"), matrix(changes["file"], "square"))
        self.assertNotEqual(matrix(first, "nest"), matrix(changes["nested"], "nest"))

    def test_a_copy_that_has_other_values_has_another_map(self) -> None:
        first = project(evolve(backdrop(100, 80, (0.0, 0.0, 1.0, 1.0)), id="ground"), width=100, height=80)
        at = Evaluated(first, first.compositions[0], 0.0)
        layer = at.composition.layer("ground")
        kept = at.matrix(layer)
        other = Evaluated(first, first.compositions[0], 0.0)
        other.put(layer, {**at.values(layer), "rotation": 45.0})
        self.assertNotEqual(kept, other.matrix(layer))


if __name__ == "__main__":
    unittest.main()
