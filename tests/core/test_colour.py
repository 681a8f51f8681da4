"""Colour notations against the numbers of the standards, and palettes of pictures."""

from __future__ import annotations

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from spiralis.core.colour import contrast_ratio, from_hsl, from_oklch, parse_hex, to_hex, to_hsl, to_oklch
from spiralis.core.media.swatches import palette_of

channel = st.floats(0.0, 1.0)


class NotationTest(unittest.TestCase):
    def test_oklch_of_known_colours(self) -> None:
        for text, wanted in (("#ff0000", (0.62796, 0.25768, 29.234)), ("#00ff00", (0.86644, 0.29483, 142.495)),
                             ("#0000ff", (0.45201, 0.31321, 264.052)), ("#ffffff", (1.0, 0.0, 0.0))):  # fmt: skip
            np.testing.assert_allclose(to_oklch(parse_hex(text)), wanted, atol=2e-3, rtol=1e-4)

    def test_hsl_of_known_colours(self) -> None:
        known = (("#bf4040", (0, 0.497, 0.5)), ("#408000", (90, 1, 0.251)), ("#8040bf", (270.2, 0.498, 0.5)))
        for text, wanted in known:
            np.testing.assert_allclose(to_hsl(parse_hex(text)), wanted, atol=0.4, rtol=2e-2)

    @given(channel, channel, channel)
    def test_every_notation_leads_back(self, r: float, g: float, b: float) -> None:
        colour = (r, g, b, 1.0)
        np.testing.assert_allclose(from_hsl(*to_hsl(colour)), colour, atol=1e-6)
        np.testing.assert_allclose(from_oklch(*to_oklch(colour)), colour, atol=2e-3)

    @given(channel, st.floats(0.0, 0.5), st.floats(0.0, 360.0))
    def test_what_a_screen_cannot_show_loses_chroma_only(self, lightness: float, chroma: float, hue: float) -> None:
        colour = from_oklch(lightness, chroma, hue)
        self.assertTrue(all(0.0 <= v <= 1.0 for v in colour))
        back = to_oklch(colour)
        self.assertAlmostEqual(back[0], lightness, delta=0.02)
        self.assertLessEqual(back[1], chroma + 0.01)

    def test_contrast_of_known_pairs(self) -> None:
        white, black = parse_hex("#fff"), parse_hex("#000")
        self.assertAlmostEqual(contrast_ratio(white, black), 21.0, 6)
        self.assertAlmostEqual(contrast_ratio(parse_hex("#767676"), white), 4.54, 2)
        self.assertEqual(contrast_ratio(white, white), 1.0)


class PaletteTest(unittest.TestCase):
    def test_the_colours_of_a_flat_logo_come_back(self) -> None:
        pixels = np.zeros((60, 90, 4), np.uint8)
        pixels[:, :40] = (240, 180, 60, 255)
        pixels[:, 40:70] = (40, 30, 90, 255)
        pixels[:, 70:80] = (255, 0, 0, 90)
        self.assertEqual([to_hex(c) for c in palette_of(pixels, 4)], ["#281e5a", "#f0b43c"])
        self.assertEqual(palette_of(np.zeros((4, 4, 4), np.uint8)), ())


if __name__ == "__main__":
    unittest.main()
