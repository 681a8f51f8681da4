"""Colour lookups: reading .cube files, and colours by their tables against an independent interpolation."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path
from typing import Any

import numpy as np
from attrs import evolve
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.interpolate import RegularGridInterpolator

from spiralis.core.effects.job import EffectJob
from spiralis.core.errors import FileError
from spiralis.core.media.lookups import read_lookup
from spiralis.core.media.sources import read_source
from spiralis.core.model.blocks import effect_kind
from spiralis.core.raster.raster import Raster
from spiralis.core.render import render_frame
from spiralis.core.storage import load, save
from tests.core.samples import cube, lookup_source
from tests.core.test_effect_definitions import straight, values_of
from tests.core.test_effects import blob, effected, project


def looked_up(data: bytes, pixels: np.ndarray, **values: Any) -> np.ndarray:
    height, width = pixels.shape[:2]
    job = EffectJob(Raster(pixels), (0, 0, width, height), values_of("colour-lookup", lookup="look", **values),
                    files={"lookup": lookup_source(data)})  # fmt: skip
    return effect_kind("colour-lookup").run(job).data


class LookupTest(unittest.TestCase):
    @settings(max_examples=12, deadline=None)
    @given(st.integers(2, 9), st.floats(-0.5, 0.2), st.floats(0.7, 2))
    def test_colours_are_trilinear_in_the_cube(self, edge: int, low: float, high: float) -> None:
        data = cube(edge, DOMAIN_MIN=f"{low} 0 {low}", DOMAIN_MAX=f"{high} 1 1")
        made = straight(looked_up(data, blob()))
        # Red changes fastest.
        numbers = [line.split() for line in data.decode().splitlines() if line[:1].isdigit()]
        table = np.array(numbers, dtype=np.float64).reshape(edge, edge, edge, 3)
        axes = [np.linspace(a, b, edge) for a, b in ((low, 1.0), (0.0, 1.0), (low, high))]
        colour = straight(blob())[..., ::-1]
        inside = np.stack([np.clip(colour[..., k], axes[k][0], axes[k][-1]) for k in range(3)], axis=-1)
        wanted = RegularGridInterpolator(axes, table)(inside)
        wanted[blob()[..., 3] == 0] = 0
        np.testing.assert_allclose(made, wanted, atol=2e-4)

    def test_a_curve_a_channel(self) -> None:
        data = b"LUT_1D_SIZE 3\n0 0 1\n0.25 0.5 0.5\n1 1 0\n"
        made, colour = straight(looked_up(data, blob())), straight(blob())
        seen = blob()[..., 3] > 0
        red = np.interp(colour[seen][:, 0], [0, 0.5, 1], [0, 0.25, 1])
        np.testing.assert_allclose(made[seen][:, 0], red, atol=1e-3)
        np.testing.assert_allclose(made[seen][:, 1], colour[seen][:, 1], atol=1e-3)
        np.testing.assert_allclose(made[seen][:, 2], 1 - colour[seen][:, 2], atol=1e-3)

    def test_alpha_stays_and_amount_mixes(self) -> None:
        whole, half = looked_up(cube(), blob()), looked_up(cube(), blob(), amount=50.0)
        np.testing.assert_array_equal(whole[..., 3], blob()[..., 3])
        np.testing.assert_allclose(half, (whole + blob()) / 2, atol=1e-6)

    def test_what_is_wrong_with_a_file_is_said_with_its_name(self) -> None:
        wrong = {
            "no text": b"\xff\xfe\x00", "nothing": b"", "too few": b"LUT_3D_SIZE 3\n0 0 0\n",
            "huge": b"LUT_3D_SIZE 900\n",
            "two": b"LUT_3D_SIZE 2\nLUT_1D_SIZE 2\n", "words": b"LUT_1D_SIZE 2\n0 0 zero\n1 1 1\n",
            "no number": b"LUT_1D_SIZE 2\nnan 0 0\n1 1 1\n", "range": cube(2, DOMAIN_MIN="1 1 1"),
            "no size": b"LUT_3D_SIZE many\n",
        }  # fmt: skip
        for name, data in wrong.items():
            with self.assertRaises(FileError, msg=name) as caught:
                read_lookup(data, "evening.cube")
            self.assertIn("evening.cube", str(caught.exception))

    @settings(max_examples=60, deadline=None)
    @given(st.binary(max_size=200) | st.text(max_size=200).map(str.encode))
    def test_any_bytes_are_a_table_or_a_sentence(self, data: bytes) -> None:
        try:
            read_lookup(b"LUT_1D_SIZE 2\n" + data, "x.cube")
        except FileError as error:
            self.assertIn("x.cube", str(error))

    def test_it_is_brought_in_used_kept_and_told_apart_in_the_cache(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "evening.cube"
            path.write_bytes(cube())
            read = read_source(path)
            self.assertEqual((read.kind, read.suffix), ("lookup", ".cube"))
            start, kept = project(effected("colour-lookup", {"lookup": read.id})).with_source(read)
            layer = start.compositions[0].layers[0].with_values(**{"b1.lookup": kept.id})
            start = start.with_composition(start.compositions[0].with_layer(layer))
            drawn = render_frame(start, "piece", 0)
            saved = Path(folder) / "a.spiralis"
            save(start, saved)
            np.testing.assert_array_equal(render_frame(load(saved), "piece", 0), drawn)
        plain = render_frame(project(effected("colour-lookup", {})), "piece", 0)
        self.assertGreater(float(np.abs(drawn - plain).max()), 0.05)
        other = start.with_changed(evolve(kept, digest="other", data=cube(seed=9)))
        self.assertGreater(float(np.abs(render_frame(other, "piece", 0) - drawn).max()), 0.02)


if __name__ == "__main__":
    unittest.main()
