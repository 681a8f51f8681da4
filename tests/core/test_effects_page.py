"""The page of all effects says of each what its file declares, and its picture shows each of them."""

from __future__ import annotations

import unittest
from pathlib import Path

import numpy as np
from PIL import Image

from spiralis.core.model.blocks import effect_kinds
from spiralis.demo.effects_sheet import in_order, page, sheet

DOCS = Path(__file__).parents[2] / "docs"


class EffectsPageTest(unittest.TestCase):
    def test_the_page_is_the_one_that_the_declarations_give(self) -> None:
        self.assertEqual((DOCS / "effects.md").read_text(encoding="utf-8"), page())
        for kind in effect_kinds():
            self.assertIn(f"| {kind.label} | {kind.help} |", page())

    def test_each_changes_the_picture(self) -> None:
        made = sheet()
        tiles = [
            made[10 + row * 192 : 170 + row * 192, 10 + column * 210 : 210 + column * 210]
            for row in range(made.shape[0] // 192) for column in range(6)
        ]  # fmt: skip
        for index, kind in enumerate(in_order(), 1):
            self.assertGreater(float(np.abs(tiles[index].astype(int) - tiles[0]).mean()), 0.3, kind.label)
        kept = np.asarray(Image.open(DOCS / "effects.png").convert("RGB")).astype(int)
        self.assertEqual(kept.shape, (*made.shape[:2], 3))
        self.assertLess(float(np.abs(kept - made[..., :3]).mean()), 1.0)
