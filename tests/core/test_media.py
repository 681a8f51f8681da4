"""Pictures, fonts and text: reading them, and what bad files are answered with."""

import io
import struct
import tempfile
import unittest
from pathlib import Path
from unittest import mock

import cv2
import numpy as np
import uharfbuzz as hb
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from spiralis.core.errors import ExportError, FileError, FontError, PictureError
from spiralis.core.media import png_file
from spiralis.core.media.dithering import indexed
from spiralis.core.media.palette import build
from spiralis.core.media.pictures import decode_picture, picture_source
from spiralis.core.media.pixels import premultiplied
from spiralis.core.media.sources import read_source
from spiralis.core.model import Layer, Project
from spiralis.core.raster.fonts import FONT_FOLDER, families, find_face, read_face, shipped_faces
from spiralis.core.raster.pyramid import build_pyramid
from spiralis.core.raster.shaping import lay_out, outline
from spiralis.core.render.frame import render_frame
from tests.core.samples import png_bytes, project


class PngTest(unittest.TestCase):
    def test_what_is_written_reads_back_in_whole_pixels_that_are_square(self) -> None:
        noise = np.random.default_rng(3)
        for height, width in ((1, 1), (3, 7), (70, 33)):
            for depth, whole in ((np.uint8, 255), (np.uint16, 65535)):
                for opaque in (False, True):
                    with self.subTest(size=(width, height), depth=depth, opaque=opaque):
                        pixels = noise.integers(0, whole + 1, (height, width, 4)).astype(depth)
                        if opaque:
                            pixels[..., 3] = whole
                        data = png_file.png_bytes(pixels)
                        read = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)
                        np.testing.assert_array_equal(pixels[..., [2, 1, 0] if opaque else [2, 1, 0, 3]], read)
                        ratio = data.index(b"pHYs") + 4
                        self.assertEqual(struct.pack(">IIB", 1, 1, 0), data[ratio : ratio + 9])

    def test_what_cannot_be_packed_is_said(self) -> None:
        for wrong in (MemoryError(), png_file.av.FFmpegError(22, "no"), ValueError()):
            packer = mock.Mock(FFmpegError=png_file.av.FFmpegError)
            packer.VideoCodecContext.create.side_effect = wrong
            with (
                mock.patch.object(png_file, "av", packer),
                self.assertRaisesRegex(ExportError, "A picture of 5 × 4 px could not be packed as PNG; make"),
            ):
                png_file.png_bytes(np.zeros((4, 5, 4), np.uint8))


def gradient(height: int = 30, width: int = 40) -> np.ndarray:
    y, x = np.mgrid[0:height, 0:width]
    return np.dstack([x * 6, y * 8, x + y, np.full_like(x, 255)]).astype(np.uint8)


def swapped_profile() -> bytes:
    """Return a colour profile (ICC.1:2010) whose red is sRGB's blue and the other way round."""

    def number(value: float) -> bytes:
        return struct.pack(">i", round(value * 65536))

    def xyz(*values: float) -> bytes:
        return b"XYZ " + bytes(4) + b"".join(map(number, values))

    curve = b"curv" + bytes(4) + struct.pack(">IH", 1, round(2.2 * 256)) + bytes(2)
    text = b"desc" + bytes(4) + struct.pack(">I", 8) + b"Swapped\0" + bytes(78)
    red, green, blue = (0.4361, 0.2225, 0.0139), (0.3851, 0.7169, 0.0971), (0.1431, 0.0606, 0.7141)
    tags = {b"desc": text, b"wtpt": xyz(0.9642, 1.0, 0.8249), b"rXYZ": xyz(*blue), b"gXYZ": xyz(*green),
            b"bXYZ": xyz(*red), b"rTRC": curve, b"gTRC": curve, b"bTRC": curve, b"cprt": text}  # fmt: skip
    table, body, place = struct.pack(">I", len(tags)), b"", 128 + 4 + 12 * len(tags)
    for name, data in tags.items():
        data += bytes(-len(data) % 4)
        table += name + struct.pack(">II", place + len(body), len(data))
        body += data
    size = place + len(body)
    head = struct.pack(">I4sI4s4s4s", size, bytes(4), 0x02400000, b"mntr", b"RGB ", b"XYZ ") + bytes(12) + b"acsp"
    head += bytes(28) + number(0.9642) + number(1.0) + number(0.8249)
    return head.ljust(128, b"\0") + table + body


class PictureTest(unittest.TestCase):
    def test_each_format_comes_back(self) -> None:
        pixels = gradient()
        for kind, options, tolerance in (
            ("PNG", {}, 0),
            ("WEBP", {"lossless": True}, 0),
            ("TIFF", {}, 0),
            ("JPEG", {"quality": 95}, 12),
        ):
            buffer = io.BytesIO()
            image = Image.fromarray(pixels) if kind != "JPEG" else Image.fromarray(pixels[..., :3])
            image.save(buffer, kind, **options)
            decoded = decode_picture(buffer.getvalue(), f"a.{kind}")
            self.assertEqual((decoded.shape, decoded.dtype), ((30, 40, 4), np.uint8))
            self.assertLessEqual(np.abs(decoded.astype(int) - pixels).max(), tolerance, kind)

    def test_alpha_palette_grey_and_sixteen_bits(self) -> None:
        clear = np.dstack([gradient()[..., :3], np.tile(np.arange(40, dtype=np.uint8) * 6, (30, 1))])
        np.testing.assert_array_equal(decode_picture(png_bytes(clear), "a"), clear)
        buffer = io.BytesIO()
        Image.fromarray(gradient()[..., :3]).quantize(16).save(buffer, "PNG")
        self.assertEqual(decode_picture(buffer.getvalue(), "a").shape, (30, 40, 4))
        deep = (np.arange(40, dtype=np.uint16) * 1638)[None, :].repeat(30, axis=0)
        buffer = io.BytesIO()
        Image.fromarray(deep).save(buffer, "PNG")
        grey = decode_picture(buffer.getvalue(), "a")
        np.testing.assert_allclose(grey[0, :, 0], deep[0] / 257, atol=1)

    def test_orientation_is_applied(self) -> None:
        pixels = np.zeros((10, 20, 3), np.uint8)
        pixels[:, :5] = 255
        exif = Image.Exif()
        exif[0x0112] = 6  # a quarter turn clockwise
        buffer = io.BytesIO()
        Image.fromarray(pixels).save(buffer, "JPEG", exif=exif.tobytes(), quality=95)
        upright = decode_picture(buffer.getvalue(), "a.jpg")
        self.assertEqual(upright.shape[:2], (20, 10))
        self.assertGreater(upright[2, 5, 0], 200)
        self.assertLess(upright[15, 5, 0], 50)

    def test_gif_and_avif_stills(self) -> None:
        pixels = np.full((24, 32, 4), (200, 60, 40, 255), np.uint8)
        for kind, close in (("GIF", 6), ("AVIF", 6)):
            buffer = io.BytesIO()
            Image.fromarray(pixels).convert("RGB").save(buffer, kind)
            source = picture_source(buffer.getvalue(), f"still.{kind.lower()}")
            self.assertEqual((source.width, source.height, source.suffix), (32, 24, f".{kind.lower()}"))
            np.testing.assert_allclose(decode_picture(buffer.getvalue(), kind)[5, 5, :3], [200, 60, 40], atol=close)

    def test_a_colour_profile_is_turned_to_srgb(self) -> None:
        pixels = np.full((8, 8, 4), (220, 30, 30, 128), np.uint8)
        plain = decode_picture(png_bytes(pixels), "a.png")
        turned = decode_picture(png_bytes(pixels, icc_profile=swapped_profile()), "a.png")
        np.testing.assert_array_equal(plain[3, 3], [220, 30, 30, 128])
        self.assertGreater(int(turned[3, 3, 2]), 180)
        self.assertLess(int(turned[3, 3, 0]), 80)
        self.assertEqual(int(turned[3, 3, 3]), 128)

    def refused(self, data: bytes, name: str = "poster.png") -> str:
        with self.assertRaises(PictureError) as caught:
            decode_picture(data, name)
        sentence = str(caught.exception)
        self.assertIn(name, sentence)
        self.assertTrue(sentence.endswith("."))
        return sentence

    def test_bad_files_are_one_sentence(self) -> None:
        self.assertIn("empty", self.refused(b""))
        self.assertIn("not a PNG", self.refused(b"just text"))
        buffer = io.BytesIO()
        Image.fromarray(gradient(400, 400)[..., :3]).save(buffer, "JPEG")
        self.assertIn("cut short", self.refused(buffer.getvalue()[: len(buffer.getvalue()) // 2], "photo.jpg"))

    def test_a_giant_is_refused_before_it_is_decoded(self) -> None:
        import struct
        import zlib

        def chunk(kind: bytes, data: bytes) -> bytes:
            return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

        header = struct.pack(">IIBBBBB", 30_000, 30_000, 8, 6, 0, 0, 0)
        giant = (
            b"\x89PNG\r\n\x1a\n"
            + chunk(b"IHDR", header)
            + chunk(b"IDAT", zlib.compress(b"\0" * 100))
            + chunk(b"IEND", b"")
        )
        self.assertIn("30000 × 30000", self.refused(giant))

    @settings(max_examples=80)
    @given(st.binary(max_size=60), st.integers(0, 5000))
    def test_any_damage_is_a_picture_or_a_sentence(self, noise: bytes, place: int) -> None:
        data = bytearray(png_bytes(gradient()))
        place %= len(data)
        data[place : place + len(noise)] = noise
        try:
            decode_picture(bytes(data), "a.png")
        except PictureError:
            pass

    def test_a_missing_or_foreign_file(self) -> None:
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        for path in (folder / "none.png", folder):
            with self.assertRaises(FileError):
                read_source(path)

    def test_premultiplying_is_exact(self) -> None:
        pixels = np.random.default_rng(3).integers(0, 256, (50, 50, 4), dtype=np.uint8)
        expected = np.rint(pixels[..., :3] / 255.0 * pixels[..., 3:])
        self.assertLessEqual(np.abs(premultiplied(pixels)[1:-1, 1:-1, :3] - expected).max(), 1)

    def test_the_pyramid_is_trimmed_ringed_and_keeps_its_light(self) -> None:
        pixels = np.zeros((64, 64, 4), np.uint8)
        pixels[20:52, 10:42] = (200, 100, 50, 255)
        pyramid = build_pyramid(pixels)
        assert pyramid is not None
        self.assertEqual((pyramid.offset, pyramid.levels[0].shape), ((10, 20), (34, 34, 4)))
        for level in pyramid.levels:
            self.assertEqual(int(level[0].max() + level[-1].max() + level[:, 0].max() + level[:, -1].max()), 0)
        sums = [int(level.sum()) * 4**index for index, level in enumerate(pyramid.levels)]
        self.assertLess(np.ptp(sums) / sums[0], 0.01)
        self.assertIsNone(build_pyramid(np.zeros((5, 5, 4), np.uint8)))


class FontTest(unittest.TestCase):
    def test_enough_families_are_shipped(self) -> None:
        names = {face.family for face in shipped_faces()}
        self.assertGreaterEqual(len(names), 7)
        self.assertTrue(any(face.has_axis("wght") for face in shipped_faces()))
        for name in names:
            faces = [face for face in shipped_faces() if face.family == name]
            varies = any(face.has_axis("wght") for face in faces)
            self.assertTrue(varies or len(faces) >= 2 or "Emoji" in name, f"{name} has an upright and a bold")

    def test_bad_fonts_are_one_sentence(self) -> None:
        data = (FONT_FOLDER / "LeagueSpartan-Bold.otf").read_bytes()
        for broken in (b"no font", b"", data[:900], b"OTTO" + b"\0" * 50):
            with self.assertRaises(FontError) as caught:
                read_face(broken, "logo.ttf")
            self.assertIn("logo.ttf", str(caught.exception))

    def test_an_imported_font_is_among_the_families_and_used(self) -> None:
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        path = folder / "own.otf"
        path.write_bytes((FONT_FOLDER / "LobsterTwo-Bold.otf").read_bytes())
        source = read_source(path)
        self.assertEqual(source.kind, "font")
        self.assertIn("Lobster Two", families(Project("p", (), (source,))))

    def test_weights_pick_a_file_or_set_the_axis(self) -> None:
        self.assertEqual(find_face(Project(), "League Spartan", 880).weight, 900)
        self.assertEqual(find_face(Project(), "Inter", 555).weight, 555)
        self.assertEqual(find_face(Project(), "No such family", 400).face.family, "Inter")


class TextTest(unittest.TestCase):
    def setUp(self) -> None:
        self.face = find_face(Project(), "Vollkorn", 400)

    def advance(self, text: str, **features: bool) -> float:
        """Shape with HarfBuzz directly."""
        font = hb.Font(hb.Face(self.face.face.data))
        buffer = hb.Buffer()
        buffer.add_str(text)
        buffer.guess_segment_properties()
        hb.shape(font, buffer, features)
        return sum(p.x_advance for p in buffer.glyph_positions) * 100 / font.face.upem

    def test_widths_agree_with_harfbuzz(self) -> None:
        for text in ("Tolvane", "AVATAR To", "office flight"):
            self.assertAlmostEqual(lay_out(text, self.face, 100, 0, 100, "left").width, self.advance(text), 6)

    def test_kerning_and_ligatures_are_there(self) -> None:
        self.assertLess(self.advance("AVA"), self.advance("AVA", kern=False))
        joined = lay_out("ffi", self.face, 100, 0, 100, "left")
        spaced = lay_out("ffi", self.face, 100, 50, 100, "left")
        self.assertLess(len(joined.lines[0]), 3)
        self.assertEqual(len(spaced.lines[0]), 3)

    def test_lines_alignment_and_leading(self) -> None:
        layout = lay_out("wide line\ni", self.face, 50, 0, 120, "right")
        self.assertAlmostEqual(layout.starts[1], layout.widths[0] - layout.widths[1])
        self.assertAlmostEqual(layout.height, layout.ascent + layout.descent + 60)
        self.assertEqual(lay_out("", self.face, 50, 0, 120, "left").width, 0)

    def test_outlines_fill_what_the_font_says(self) -> None:
        layout = lay_out("H", self.face, 100, 0, 100, "left")
        bounds = outline(layout, self.face, 100).getBounds()
        font = hb.Font(hb.Face(self.face.face.data))
        extents = font.get_glyph_extents(font.get_nominal_glyph(ord("H")))
        self.assertAlmostEqual(bounds.width(), extents.width * 100 / font.face.upem, 2)
        self.assertAlmostEqual(bounds.height(), -extents.height * 100 / font.face.upem, 2)

    def test_text_is_drawn_with_fill_and_stroke(self) -> None:
        layer = Layer("T", "text", 0, 9).with_values(
            text="■I", size=40.0, position=(32.0, 24.0), fill=(0.0, 1.0, 0.0, 1.0)
        )
        plain = render_frame(project(layer), "Piece", 0)
        outlined = render_frame(project(layer.with_values(stroke=4.0, stroke_colour=(1.0, 0.0, 0.0, 1.0))), "Piece", 0)
        self.assertGreater(float(plain[..., 1].max()), 0.99)
        self.assertEqual(float(plain[..., 0].max()), 0.0)
        self.assertGreater(float(outlined[..., 0].max()), 0.9)
        self.assertGreater(float(outlined[..., 3].sum()), float(plain[..., 3].sum()))


class PaletteTest(unittest.TestCase):
    def test_few_colours_stay_exact(self) -> None:
        frame = np.zeros((40, 40, 4), np.uint8)
        frame[...] = (13, 57, 201, 255)
        frame[10:20] = (250, 128, 7, 255)
        palette = build([frame], 16)
        indices = indexed(frame, palette, "ordered", 1.0)
        np.testing.assert_array_equal(palette.colours[indices], frame[..., :3])

    def test_many_colours_come_close_and_dither_keeps_the_mean(self) -> None:
        frame = gradient(120, 40)
        frame[..., 1] = np.linspace(0, 255, 120)[:, None]
        palette = build([frame], 32)
        self.assertLessEqual(len(palette.colours), 32)
        drawn = palette.colours[indexed(frame, palette, "ordered", 1.0)].astype(float)
        self.assertLess(np.abs(drawn.mean(axis=(0, 1)) - frame[..., :3].mean(axis=(0, 1))).max(), 6)

    def test_see_through_pixels_get_their_own_entry(self) -> None:
        frame = gradient()
        frame[:10, :, 3] = 0
        palette = build([frame], 8)
        indices = indexed(frame, palette)
        self.assertTrue(np.all(indices[:10] == palette.transparent))
        self.assertFalse(np.any(indices[10:] == palette.transparent))


class SourceTest(unittest.TestCase):
    def test_the_same_bytes_are_one_source(self) -> None:
        data = png_bytes(gradient())
        first, again = picture_source(data, "a.png"), picture_source(data, "b.png")
        held, used = Project("p").with_source(first)
        self.assertEqual(held.with_source(again), (held, used))
