"""Every blend mode against the W3C formulas in float64, written here a second time."""

import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp

from spiralis.core.compositing import blend
from spiralis.core.errors import ModelError, UnknownName
from spiralis.core.model import BLEND_MODES


def lum(c: np.ndarray) -> float:
    return 0.3 * c[0] + 0.59 * c[1] + 0.11 * c[2]


def clip_color(c: np.ndarray) -> np.ndarray:
    level, low, high = lum(c), c.min(), c.max()
    if low < 0:
        c = level + (c - level) * level / (level - low)
    if high > 1:
        c = level + (c - level) * (1 - level) / (high - level)
    return c


def set_lum(c: np.ndarray, level: float) -> np.ndarray:
    return clip_color(c + (level - lum(c)))


def set_sat(c: np.ndarray, s: float) -> np.ndarray:
    result, order = np.zeros(3), np.argsort(c, kind="stable")
    low, middle, high = order
    if c[high] > c[low]:
        result[middle] = (c[middle] - c[low]) * s / (c[high] - c[low])
        result[high] = s
    return result


def hard_light(cb: float, cs: float) -> float:
    return cb * 2 * cs if cs <= 0.5 else cb + (2 * cs - 1) - cb * (2 * cs - 1)


def soft_light(cb: float, cs: float) -> float:
    if cs <= 0.5:
        return cb - (1 - 2 * cs) * cb * (1 - cb)
    d = ((16 * cb - 12) * cb + 4) * cb if cb <= 0.25 else np.sqrt(cb)
    return cb + (2 * cs - 1) * (d - cb)


SEPARABLE = {
    "normal": lambda cb, cs: cs,
    "multiply": lambda cb, cs: cb * cs,
    "screen": lambda cb, cs: cb + cs - cb * cs,
    "overlay": lambda cb, cs: hard_light(cs, cb),
    "darken": min,
    "lighten": max,
    "color-dodge": lambda cb, cs: 0 if cb == 0 else 1 if cs >= 1 else min(1, cb / (1 - cs)),
    "color-burn": lambda cb, cs: 1 if cb >= 1 else 0 if cs <= 0 else 1 - min(1, (1 - cb) / cs),
    "hard-light": hard_light,
    "soft-light": soft_light,
    "difference": lambda cb, cs: abs(cb - cs),
    "exclusion": lambda cb, cs: cb + cs - 2 * cb * cs,
}
NON_SEPARABLE = {
    "hue": lambda cb, cs: set_lum(set_sat(cs, np.ptp(cb)), lum(cb)),
    "saturation": lambda cb, cs: set_lum(set_sat(cb, np.ptp(cs)), lum(cb)),
    "color": lambda cb, cs: set_lum(cs, lum(cb)),
    "luminosity": lambda cb, cs: set_lum(cb, lum(cs)),
}

# What is left of the source and of the backdrop (W3C Compositing, section 9.1), by their alphas.
PORTER_DUFF = {
    "cut-through": lambda a_s, a_b: (0, 1 - a_s),
    "cling": lambda a_s, a_b: (a_b, 1 - a_s),
    "keep-within": lambda a_s, a_b: (0, a_s),
    "slip-under": lambda a_s, a_b: (1 - a_b, a_s),
}


def reference(mode: str, source: np.ndarray, backdrop: np.ndarray) -> np.ndarray:
    """Return the W3C result for one premultiplied pixel in float64."""
    a_s, a_b = source[3], backdrop[3]
    if mode == "plus-lighter":
        # W3C cuts the colours at 1 as well; here that is left to the output.
        return np.append(source[:3] + backdrop[:3], min(1, source[3] + backdrop[3]))
    if mode in PORTER_DUFF:
        share_s, share_b = PORTER_DUFF[mode](a_s, a_b)
        return source * share_s + backdrop * share_b
    cs = source[:3] / a_s if a_s else np.zeros(3)
    cb = backdrop[:3] / a_b if a_b else np.zeros(3)
    if mode in SEPARABLE:
        mixed = np.array([SEPARABLE[mode](b, s) for b, s in zip(cb, cs, strict=True)])
    else:
        mixed = NON_SEPARABLE[mode](cb, cs)
    cs = (1 - a_b) * cs + a_b * mixed
    return np.append(a_s * cs + (1 - a_s) * backdrop[:3], a_s + a_b * (1 - a_s))


def random_pixels(seed: int, count: int) -> np.ndarray:
    """Return premultiplied float32 pixels, some clear and some solid, none within rounding of a jump."""
    random = np.random.default_rng(seed)
    pixels = random.uniform(0.02, 0.98, (count, 4))
    pixels[: count // 8, 3] = 1.0
    pixels[count // 8 : count // 6, 3] = 0.0
    pixels[:, :3] *= pixels[:, 3:]
    return pixels.astype(np.float32)


class BlendTest(unittest.TestCase):
    def test_there_are_the_sixteen_modes_plus_lighter_and_four_of_porter_and_duff(self) -> None:
        self.assertEqual(set(BLEND_MODES), {*SEPARABLE, *NON_SEPARABLE, "plus-lighter", *PORTER_DUFF})
        self.assertEqual(len(BLEND_MODES), 21)

    def test_every_mode_agrees_with_the_formula(self) -> None:
        source, backdrop = random_pixels(1, 600), np.roll(random_pixels(2, 600), 300, axis=0)
        for mode in BLEND_MODES:
            with self.subTest(mode):
                expected = [reference(mode, *p) for p in zip(source.astype(float), backdrop.astype(float), strict=True)]
                np.testing.assert_allclose(blend(mode, source, backdrop), expected, atol=1e-5)

    @given(
        st.sampled_from(BLEND_MODES),
        hnp.arrays(np.float32, (6, 4), elements=st.floats(0, 1, width=32)),
        hnp.arrays(np.float32, (6, 4), elements=st.floats(0, 1, width=32)),
    )
    def test_results_stay_colours_and_inputs_stay_as_they_are(
        self, mode: str, source: np.ndarray, backdrop: np.ndarray
    ) -> None:
        for pixels in (source, backdrop):
            pixels[:, :3] *= pixels[:, 3:]
        kept = source.copy(), backdrop.copy()
        result = blend(mode, source, backdrop)
        np.testing.assert_array_equal(source, kept[0])
        np.testing.assert_array_equal(backdrop, kept[1])
        self.assertTrue(np.all(np.isfinite(result)))
        self.assertGreaterEqual(result.min(), -2e-3)
        self.assertLessEqual(result.max(), (2 if mode == "plus-lighter" else 1) + 2e-3)
        self.assertLessEqual(result[:, 3].max(), 1 + 2e-3)

    def test_corners_of_dodge_and_burn(self) -> None:
        def one(mode: str, cs: float, cb: float) -> float:
            solid = [np.array([[v, v, v, 1.0]], dtype=np.float32) for v in (cs, cb)]
            return float(blend(mode, *solid)[0, 0])

        self.assertEqual(one("color-dodge", 1.0, 0.0), 0.0)
        self.assertEqual(one("color-dodge", 1.0, 0.5), 1.0)
        self.assertEqual(one("color-burn", 0.0, 1.0), 1.0)
        self.assertEqual(one("color-burn", 0.0, 0.5), 0.0)

    def test_greys_that_rounding_puts_outside_divide_by_nothing(self) -> None:
        greys = np.repeat(np.linspace(0, 1, 4001, dtype=np.float32)[:, None], 4, axis=1)
        greys[:, 3] = 1.0
        for ground in (0.0, 1.0):
            backdrop = np.full_like(greys, ground)
            backdrop[:, 3] = 1.0
            for mode in NON_SEPARABLE:
                result = blend(mode, greys, backdrop)
                self.assertTrue(np.all(np.isfinite(result)) and result.min() >= -1e-5 and result.max() <= 1 + 1e-5)

    def test_refuses_unknown_modes_and_shapes(self) -> None:
        pixel = np.zeros((1, 4), np.float32)
        with self.assertRaisesRegex(UnknownName, "multiply"):
            blend("sparkle", pixel, pixel)
        with self.assertRaises(ModelError):
            blend("normal", pixel, np.zeros((2, 4), np.float32))
