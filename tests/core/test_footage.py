"""Footage: every codec, every frame, in any order; and which frame shows when."""

from __future__ import annotations

import io
import random
import struct
import tempfile
import unittest
import zipfile
from concurrent.futures import ThreadPoolExecutor
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from hypothesis import example, given, settings
from hypothesis import strategies as st

from spiralis.core.animation.source_time import Clock, Span, even_clock, shown
from spiralis.core.errors import FileError, PictureError
from spiralis.core.media.exporters import ExportJob, export, exporters
from spiralis.core.media.footage import clip_of, open_clip
from spiralis.core.media.footage import video as video_module
from spiralis.core.media.footage.sequence import find_sequences
from spiralis.core.media.source_kinds.footage import footage_source, sequence_source
from spiralis.core.media.sources import read_source
from spiralis.core.model import Layer, layer_kind
from spiralis.core.render import render_frame
from tests.core.clips import animated, encode, number_of, numbered
from tests.core.samples import backdrop, png_bytes, project, square_source

_TIMES = [40 * i + 9 * (i % 3) for i in range(40)]
#: codec, container, pixel format, ending, more of ``encode``.
CLIPS = {
    "H.264 with B-frames": ("libx264", "mp4", "yuv420p", ".mp4", {"options": {"bf": "3", "g": "12"}}),
    "H.264, uneven rate": ("libx264", "mp4", "yuv420p", ".mp4", {"times": _TIMES, "options": {"bf": "2", "g": "10"}}),
    "H.264, odd size": ("libx264", "matroska", "yuv444p", ".mkv", {"size": (163, 99)}),
    "H.265": ("libx265", "mp4", "yuv420p", ".mp4", {"options": {"x265-params": "log-level=none:keyint=15"}}),
    "H.265, 10 bit": ("libx265", "mp4", "yuv420p10le", ".mp4", {"options": {"x265-params": "log-level=none"}}),
    "VP9": ("libvpx-vp9", "webm", "yuv420p", ".webm", {"rate": Fraction(30000, 1001), "options": {"cpu-used": "8"}}),
    "VP9 with alpha": ("libvpx-vp9", "webm", "yuva420p", ".webm", {"alpha": 128, "options": {"auto-alt-ref": "0"}}),
    "AV1": ("libsvtav1", "mp4", "yuv420p", ".mp4", {"options": {"preset": "12"}}),
    "ProRes 4444": ("prores_ks", "mov", "yuva444p10le", ".mov", {"alpha": 128}),
    "MPEG-TS": ("libx264", "mpegts", "yuv420p", ".ts", {"options": {"bf": "2", "g": "10"}}),
    "MPEG-TS of a camera": ("libx264", "mpegts", "yuv420p", ".mts", {"options": {"bf": "2", "g": "10"}}),
    "Motion JPEG": ("mjpeg", "avi", "yuvj420p", ".avi", {}),
    "H.264, its times start elsewhere": (
        "libx264", "mp4", "yuv420p", ".mp4", {"times": [4000 + 40 * i for i in range(40)], "options": {"bf": "2"}},
    ),
    "GIF": ("gif", "gif", "rgb8", ".gif", {}),
    "APNG": ("apng", "apng", "rgba", ".apng", {"alpha": 200}),
}  # fmt: skip


class EveryCodecTest(unittest.TestCase):
    def check(self, data: bytes, suffix: str, count: int) -> None:
        clip = open_clip(data, suffix, f"numbers{suffix}")
        self.addCleanup(clip.close)
        self.assertEqual(clip.facts.clock.count, count)
        order = list(range(count))
        random.Random(3).shuffle(order)
        for frames in (range(count), reversed(range(count)), order):
            for frame in frames:
                self.assertEqual(number_of(clip.frame(frame)), frame)

    def test_the_right_frame_forwards_backwards_and_at_random(self) -> None:
        for name, (codec, container, pixels, suffix, more) in CLIPS.items():
            with self.subTest(name):
                self.check(encode(codec, container, pixels, **more), suffix, 40)  # type: ignore[arg-type]

    def test_a_cut_inside_a_group_of_pictures_is_right_also_when_jumping_back(self) -> None:
        # An edit list lets the clip begin at frame 17, which needs the key frame 12 before it.
        whole = encode("libx264", "mp4", "yuv420p", 60, options={"g": "12", "bf": "2"})
        out = io.BytesIO()
        with av.open(io.BytesIO(whole)) as held, av.open(out, "w", format="mp4") as output:
            own = held.streams.video[0]
            stream = output.add_stream_from_template(own)
            packets = [packet for packet in held.demux(own) if packet.size]
            step = packets[1].duration
            first = next(k for k, p in enumerate(packets) if p.is_keyframe and (p.pts or 0) >= 12 * step)
            for packet in packets[first:]:
                packet.pts, packet.dts = (packet.pts or 0) - 17 * step, (packet.dts or 0) - 17 * step
                packet.stream = stream
                output.mux(packet)
        clip = open_clip(out.getvalue(), ".mp4", "cut.mp4")
        self.addCleanup(clip.close)
        self.assertEqual(clip.facts.clock.count, 43)
        for index in (0, 5, 40, 3, 0, 20, 1, 42, 2):
            self.assertEqual(number_of(clip.frame(index)), 17 + index)

    def test_pictures_that_move_as_another_library_writes_them(self) -> None:
        for kind, suffix in (("GIF", ".gif"), ("PNG", ".apng"), ("WEBP", ".webp")):
            with self.subTest(kind):
                self.check(animated(kind), suffix, 12)
                facts = open_clip(animated(kind), suffix, kind).facts
                self.assertEqual(facts.rate, Fraction(25, 2))

    def test_rates_are_exact_and_uneven_ones_keep_their_times(self) -> None:
        codec, container, pixels, suffix, more = CLIPS["VP9"]
        facts = open_clip(encode(codec, container, pixels, **more), suffix, "a").facts  # type: ignore[arg-type]
        self.assertEqual((facts.rate, facts.clock.tick), (Fraction(30000, 1001), Fraction(1001, 30000)))
        codec, container, pixels, suffix, more = CLIPS["H.264, uneven rate"]
        clock = open_clip(encode(codec, container, pixels, **more), suffix, "a").facts.clock  # type: ignore[arg-type]
        for index in (0, 1, 2, 17, 39):
            self.assertAlmostEqual(float(clock.ticks[index] * clock.tick), _TIMES[index] / 1000, places=4)

    def test_alpha_is_kept(self) -> None:
        for name, wanted in (("VP9 with alpha", 128), ("ProRes 4444", 128), ("APNG", 200)):
            codec, container, pixels, suffix, more = CLIPS[name]
            clip = open_clip(encode(codec, container, pixels, count=3, **more), suffix, "a")  # type: ignore[arg-type]
            self.assertTrue(clip.facts.alpha)
            self.assertAlmostEqual(int(clip.frame(1)[5, 5, 3]), wanted, delta=2, msg=name)

    def test_a_turned_clip_stands_upright(self) -> None:
        data = bytearray(encode("libx264", "mp4", "yuv420p", count=4))
        place = data.index(b"tkhd") + 4 + 40
        # ISO 14496-12, section 8.3.2: the matrix of a quarter turn clockwise.
        data[place : place + 36] = struct.pack(">9i", 0, 65536, 0, -65536, 0, 0, 0, 0, 1 << 30)
        clip = open_clip(bytes(data), ".mp4", "turned.mp4")
        self.assertEqual((clip.facts.width, clip.facts.height), (96, 160))
        upright = np.rot90(clip.frame(2), 1)
        self.assertEqual(number_of(np.ascontiguousarray(upright)), 2)

    def test_what_we_write_reads_back_in_its_own_colours(self) -> None:
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        colour = (0.8, 0.35, 0.1, 1.0)
        sample = project(backdrop(64, 48, colour), length=6)
        kind = next(kind for kind in exporters() if kind.suffix == ".mp4")
        export(kind, ExportJob(sample, "Piece", folder / "a.mp4", 0, 6))
        frame = open_clip((folder / "a.mp4").read_bytes(), ".mp4", "a.mp4").frame(3)
        np.testing.assert_allclose(frame[24, 32, :3], np.array(colour[:3]) * 255, atol=3)


class BoundsTest(unittest.TestCase):
    def test_decoded_frames_stay_within_their_limit(self) -> None:
        data = encode(
            "libx264", "mp4", "yuv420p", count=60, size=(640, 480), options={"g": "60", "preset": "ultrafast"}
        )
        clip = open_clip(data, ".mp4", "long.mp4")
        for frame in (59, 58, 3, 40):
            self.assertEqual(number_of(clip.frame(frame)), frame)
        self.assertLessEqual(video_module._decoded.bytes, 320 << 20)

    def test_several_clips_at_once(self) -> None:
        clips = [open_clip(encode("libx264", "mp4", "yuv420p", count=n), ".mp4", "a") for n in range(8, 14)]
        for frame in (7, 0, 5):
            self.assertEqual([number_of(clip.frame(frame)) for clip in clips], [frame] * 6)

    def refused(self, data: bytes, suffix: str) -> None:
        with self.assertRaises((PictureError, FileError)) as caught:
            footage_source(data, f"bad{suffix}", suffix)
        self.assertIn("bad", str(caught.exception))
        self.assertNotIn("\n", str(caught.exception))

    def test_broken_clips_are_one_sentence(self) -> None:
        good = encode("libx264", "mp4", "yuv420p", count=5)
        bad = ((b"", ".mp4"), (b"nonsense" * 40, ".mov"), (good[:200], ".mp4"), (b"RIFFxxxxWEBP", ".webp"))
        for data, suffix in (*bad, (b"PK\x03\x04", ".frames")):
            with self.subTest(suffix):
                self.refused(data, suffix)

    def test_a_clip_that_ends_early_shows_its_last_frame(self) -> None:
        whole = encode("libx264", "matroska", "yuv420p", count=40, options={"g": "5", "bf": "0"})
        clip = open_clip(whole[: len(whole) * 3 // 4], ".mkv", "cut.mkv")
        count = clip.facts.clock.count
        self.assertTrue(10 < count <= 40)
        self.assertEqual(number_of(clip.frame(10)), 10)
        self.assertEqual(clip.frame(count - 1).shape, (96, 160, 4))

    @settings(max_examples=40, deadline=None)
    @given(st.integers(0, 100_000), st.binary(min_size=1, max_size=30))
    @example(1891, b"\x00")  # no codec of that name
    def test_any_damage_is_footage_or_a_sentence(self, place: int, noise: bytes) -> None:
        data = bytearray(_GOOD)
        place %= len(data)
        data[place : place + len(noise)] = noise
        try:
            footage_source(bytes(data), "bad.mp4", ".mp4")
        except FileError as error:
            self.assertNotIn("\n", str(error))


_GOOD = encode("libx264", "mp4", "yuv420p", count=8)


class SequenceTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))

    def test_numbered_pictures_are_one_clip(self) -> None:
        paths = []
        for number in range(8, 12):
            path = self.folder / f"ink_{number}.png"
            path.write_bytes(png_bytes(numbered(number)))
            paths.append(path)
        lone = self.folder / "logo.png"
        gap = [self.folder / f"gap_{n}.png" for n in (1, 2, 4)]
        runs, others = find_sequences([lone, *reversed(paths), *gap])
        self.assertEqual(runs, [paths])
        self.assertEqual(set(others), {lone, *gap})
        source = sequence_source(paths)
        self.assertEqual((source.kind, source.frames, source.name), ("footage", 4, "ink_8–11.png"))
        clip = clip_of(source)
        assert clip is not None
        self.assertEqual([number_of(clip.frame(i)) for i in (3, 0, 2)], [11, 8, 10])

    def test_still_or_moving_is_seen_from_the_bytes(self) -> None:
        still, moving = self.folder / "a.gif", self.folder / "b.gif"
        still.write_bytes(animated("GIF", count=1))
        moving.write_bytes(animated("GIF", count=5))
        self.assertEqual((read_source(still).kind, read_source(moving).kind), ("picture", "footage"))

    def test_a_packed_sequence_with_other_things_is_refused(self) -> None:
        buffer = io.BytesIO()
        with zipfile.ZipFile(buffer, "w") as archive:
            archive.writestr("a.txt", "no picture")
        with self.assertRaises(FileError):
            footage_source(buffer.getvalue(), "x.frames", ".frames")


def indices(clock: Clock, frames: range, **values: object) -> list[int | None]:
    defaults = {p.name: p.default for p in layer_kind("footage").parameters}
    span = (frames.start, frames.stop)
    return [shown(clock, {**defaults, **values}, Span(Fraction(f), Fraction(10), *span)) for f in frames]


class SourceTimeTest(unittest.TestCase):
    clock = even_clock(4, Fraction(10))

    def test_loops_are_half_open_and_ping_pong_doubles_nothing(self) -> None:
        self.assertEqual(indices(self.clock, range(10)), [0, 1, 2, 3, 0, 1, 2, 3, 0, 1])
        self.assertEqual(indices(self.clock, range(10), ends="ping-pong"), [0, 1, 2, 3, 2, 1, 0, 1, 2, 3])
        self.assertEqual(indices(self.clock, range(6), ends="hold"), [0, 1, 2, 3, 3, 3])
        self.assertEqual(indices(self.clock, range(6), ends="once"), [0, 1, 2, 3, None, None])

    def test_start_in_out_speed_and_reverse(self) -> None:
        self.assertEqual(indices(self.clock, range(6), start=2.0, ends="hold"), [0, 0, 0, 1, 2, 3])
        self.assertEqual(indices(self.clock, range(5), **{"in": 1.0, "out": 3.0}), [1, 2, 1, 2, 1])
        self.assertEqual(indices(self.clock, range(4), speed=200.0), [0, 2, 0, 2])
        self.assertEqual(indices(self.clock, range(5), reverse=True), [3, 2, 1, 0, 3])
        self.assertEqual(indices(self.clock, range(5), own_rate=5.0), [0, 0, 1, 1, 2])

    def test_fit_runs_once_over_the_span(self) -> None:
        self.assertEqual(indices(self.clock, range(8), fit=True), [0, 0, 1, 1, 2, 2, 3, 3])

    def test_uneven_pictures_backwards_stay_as_long_as_forwards(self) -> None:
        clock = Clock((0, 3, 4, 6), Fraction(1, 10))
        self.assertEqual(indices(clock, range(6)), [0, 0, 0, 1, 2, 2])
        self.assertEqual(indices(clock, range(6), reverse=True), [2, 2, 1, 0, 0, 0])

    @given(st.integers(1, 12), st.sampled_from([24, 25, 30, 60]), st.integers(0, 5000))
    def test_a_frame_at_its_own_rate_is_itself(self, count: int, rate: int, frame: int) -> None:
        ntsc = Fraction(rate * 1000, 1001)
        defaults = {p.name: p.default for p in layer_kind("footage").parameters}
        got = shown(even_clock(count, ntsc), defaults, Span(Fraction(frame), ntsc, 0, 1))
        self.assertEqual(got, frame % count)


class LayersTest(unittest.TestCase):
    def test_a_flipbook_shows_each_drawing_for_its_exposure(self) -> None:
        red, blue = square_source(20, (255, 0, 0, 255)), square_source(20, (0, 0, 255, 255))
        drawings = ((red.id, 2), (blue.id, 1), (red.id, 1))
        made = Layer("Book", "flipbook", 0, 20).with_values(drawings=drawings, own_rate=25.0, position=(32.0, 24.0))
        sample = project(made, sources=(red, blue))
        colours = ["red" if render_frame(sample, "Piece", f)[24, 32, 0] > 0.5 else "blue" for f in range(8)]
        self.assertEqual(colours, ["red", "red", "blue", "red"] * 2)

    def test_footage_in_a_composition_of_another_rate(self) -> None:
        source = footage_source(encode("libx264", "mp4", "yuv420p", count=10, rate=Fraction(10)), "a.mp4", ".mp4")
        made = Layer("Clip", "footage", 0, 50).with_values(source=source.id, position=(80.0, 48.0))
        sample = project(made, sources=(source,), width=160, height=96, length=50)
        for frame in (0, 2, 3, 24, 25, 49):
            pixels = np.clip(render_frame(sample, "Piece", frame) * 255, 0, 255)
            self.assertEqual(number_of(pixels), frame * 10 // 25 % 10)


class BlendTest(unittest.TestCase):
    def test_what_lies_between_two_frames_mixes_both(self) -> None:
        shades = [png_bytes(np.full((8, 8, 4), (level, level, level, 255), dtype=np.uint8)) for level in (0, 100, 200)]
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        for number, data in enumerate(shades):
            (folder / f"s{number}.png").write_bytes(data)
        source = sequence_source(sorted(folder.iterdir()))
        layer = Layer("Clip", "footage", 0, 20, id="clip").with_values(
            source=source.id, position=(32.0, 24.0), retime=True, blend_frames=True, ends="loop"
        )
        for own, wanted in ((0.0, 0), (0.5, 50), (1.25, 125), (2.5, 100), (2.0, 200)):
            made = project(layer.with_values(own_frame=own), sources=(source,))
            seen = render_frame(made, made.compositions[0].id, 0)[24, 32]
            np.testing.assert_allclose(seen * 255, (wanted, wanted, wanted, 255), atol=1.0, err_msg=str(own))
        plain = project(layer.with_values(own_frame=1.25, blend_frames=False), sources=(source,))
        self.assertAlmostEqual(render_frame(plain, plain.compositions[0].id, 0)[24, 32, 0] * 255, 100, delta=1)


class ThreadsTest(unittest.TestCase):
    def test_many_threads_may_ask_for_the_same_frames(self) -> None:
        clip = open_clip(encode("libx264", "mp4", "yuv420p", count=6, size=(640, 480)), ".mp4", "shared.mp4")
        with ThreadPoolExecutor(6) as pool:
            shown = list(pool.map(lambda turn: number_of(clip.frame(turn % 6)), range(240)))
        self.assertEqual(shown, [turn % 6 for turn in range(240)])
