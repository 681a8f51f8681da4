"""Whether two versions look the same: what is seen counts, what sampling leaves does not."""

from __future__ import annotations

import unittest

from attrs import evolve

from spiralis.core.editing.nesting import nest
from spiralis.core.model import Layer, Project
from spiralis.core.model.blocks import Block
from spiralis.core.render.alike import look_alike
from tests.core.samples import backdrop, project


def sample(**values: object) -> Project:
    word = Layer("Word", "text", 0, 20, id="word").with_values(
        **{"text": "Kite", "size": 90.0, "position": (200.3, 150.7), "rotation": 13.0, **values}
    )
    return project(word, backdrop(400, 300, (0.2, 0.4, 0.3, 1.0)), width=400, height=300)


class AlikeTest(unittest.TestCase):
    def same(self, first: Project, second: Project) -> bool:
        return look_alike(first, second, "Piece", 3.0)

    def test_the_same_drawn_in_another_way(self) -> None:
        start = sample()
        piece = start.compositions[0].id
        self.assertTrue(self.same(start, start))
        self.assertTrue(self.same(start, nest(start, piece, ["word"], "Nest")[0]))
        self.assertTrue(self.same(start, sample(position=(200.35, 150.7))))

    def test_what_is_seen(self) -> None:
        start = sample()
        self.assertFalse(self.same(start, sample(position=(206.0, 150.7))))
        self.assertFalse(self.same(start, sample(opacity=85.0)))
        piece = start.compositions[0]
        larger = evolve(start, compositions=(evolve(piece, width=404),))
        self.assertFalse(self.same(start, larger))

    def test_a_glow_that_no_longer_lights_what_lies_beneath(self) -> None:
        start = sample()
        piece = start.compositions[0]
        glowing = start.with_composition(piece.with_layer(piece.layer("word").with_block(Block("halo"))))
        self.assertFalse(self.same(glowing, nest(glowing, piece.id, ["word"], "Nest")[0]))

    def test_a_frame_of_a_few_pixels(self) -> None:
        tiny = project(backdrop(3, 2, (1.0, 0.0, 0.0, 1.0)), width=3, height=2)
        other = project(backdrop(3, 2, (0.0, 0.0, 1.0, 1.0)), width=3, height=2)
        other = evolve(other, compositions=(evolve(other.compositions[0], id=tiny.compositions[0].id),))
        self.assertTrue(self.same(tiny, tiny))
        self.assertFalse(self.same(tiny, other))


if __name__ == "__main__":
    unittest.main()
