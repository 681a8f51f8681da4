"""Font files: what is read of them beside another reader, and files that are none."""

from __future__ import annotations

import tempfile
import unittest
from io import BytesIO
from pathlib import Path

from fontTools.ttLib import TTFont

from spiralis.core.errors import FontError
from spiralis.core.raster.fonts import FONT_FOLDER, read_face, shipped_faces
from spiralis.core.raster.system_fonts import system_families


def changed(family: str | None = None, sub: str | None = None, without: tuple[str, ...] = ()) -> bytes:
    """Return a shipped font under other names (family, typographic family) and without some tables."""
    font = TTFont(next(path for path in sorted(FONT_FOLDER.iterdir()) if path.suffix == ".ttf"))
    names = font["name"]
    names.names = []
    if family is not None:
        names.setName(family, 1, 3, 1, 0x409)
    if sub is not None:
        names.setName(sub, 16, 3, 1, 0x407)
    for table in without:
        del font[table]
    out = BytesIO()
    font.save(out)
    return out.getvalue()


class FontsTest(unittest.TestCase):
    def test_shipped_fonts_are_read_as_another_reader_does(self) -> None:
        self.assertGreater(len(shipped_faces()), 20)
        for face in shipped_faces():
            with self.subTest(face.family, weight=face.weight), TTFont(BytesIO(face.data), lazy=True) as font:
                names = font["name"]
                self.assertEqual(names.getDebugName(16) or names.getDebugName(1), face.family)
                self.assertEqual(float(font["OS/2"].usWeightClass), face.weight)
                axes = font["fvar"].axes if "fvar" in font else ()
                self.assertEqual(tuple((a.axisTag, a.minValue, a.maxValue) for a in axes), face.axes)
                self.assertEqual(set(font.getBestCmap()), set(face.letters))
                self.assertEqual(any(table in font for table in ("COLR", "CBDT", "sbix")), face.coloured)

    def test_the_typographic_family_counts_in_whatever_language_it_is(self) -> None:
        self.assertEqual("Kite", read_face(changed("Kite"), "a").family)
        self.assertEqual("Drachen", read_face(changed("Kite Bold", "Drachen"), "a").family)
        self.assertEqual("Drachen", read_face(changed(None, "Drachen"), "a").family)

    def test_without_a_weight_it_is_regular(self) -> None:
        self.assertEqual(400.0, read_face(changed("Kite", without=("OS/2",)), "a").weight)

    def test_what_is_no_font_is_said(self) -> None:
        for data, words in (
            (b"", "not a font file"), (b"no font at all", "not a font file"), (changed(), "without a name or letters"),
            (changed("Kite", without=("cmap",)), "without a name or letters"),
            (changed("Kite")[:600], "font"),
        ):  # fmt: skip
            with self.subTest(words, size=len(data)), self.assertRaisesRegex(FontError, words):
                read_face(data, "a.ttf")

    def test_installed_fonts_are_found_by_family_and_broken_ones_left_out(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            (folder / "deep").mkdir()
            (folder / "deep" / "kite.ttf").write_bytes(changed("Kite"))
            (folder / "bold.otf").write_bytes(changed("Kite Bold", "Kite"))
            (folder / "broken.ttf").write_bytes(b"no font at all")
            (folder / "notes.txt").write_text("Kite")
            self.assertEqual({"Kite": ("bold.otf", "kite.ttf")},
                             {f: tuple(p.name for p in paths) for f, paths in system_families((folder,)).items()})


if __name__ == "__main__":
    unittest.main()
