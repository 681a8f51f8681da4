"""GIF files of our own making, read by other libraries: every pixel, every delay; steady pixels, dithers, palettes."""

from __future__ import annotations

import io
import tempfile
import unittest
from pathlib import Path
from unittest import mock

import av
import numpy as np
from attrs import evolve
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image
from scipy.ndimage import uniform_filter

from spiralis.core.media.dithering import KINDS, blue_noise, indexed
from spiralis.core.media.exporters import ExportJob, export, exporter
from spiralis.core.media.exporters.gif import palettes, scenes
from spiralis.core.media.gif_file import GifWriter
from spiralis.core.media.kernels import gif_packing
from spiralis.core.media.leeway import AHEAD, leeway, masking, resting
from spiralis.core.media.palette import Palette, build
from spiralis.core.media.sampling import pictured
from spiralis.core.model import Key, Layer, Project, Track
from spiralis.core.render.frame import render_straight8
from tests.core.samples import moving, project


def palette_of(count: int, transparent: int = -1, seed: int = 1) -> Palette:
    colours = np.random.default_rng(seed).integers(0, 256, (count, 3), dtype=np.uint8)
    made = build([np.dstack([colours[None], np.full((1, count), 255, np.uint8)])], count)
    if transparent < 0:
        return made
    return Palette(made.colours, len(made.colours), made.lookup, made.spacing, made.beside)


def written(frames: list[np.ndarray], palette: Palette, see_through: bool = False, **more: float) -> bytes:
    buffer = io.BytesIO()
    height, width = frames[0].shape
    writer = GifWriter(buffer, (width, height), palette, see_through, **more)  # type: ignore[arg-type]
    for place, frame in enumerate(frames):
        writer.add(frame.astype(np.uint16), 3 + place % 2)
    writer.end()
    return buffer.getvalue()


def read_by_pillow(data: bytes) -> list[np.ndarray]:
    with Image.open(io.BytesIO(data)) as image:
        found = []
        for index in range(getattr(image, "n_frames", 1)):
            image.seek(index)
            found.append(np.array(image.convert("RGBA")))
    return found


def read_by_ffmpeg(data: bytes) -> list[np.ndarray]:
    with av.open(io.BytesIO(data), format="gif") as held:
        return [frame.to_ndarray(format="rgba") for frame in held.decode(video=0)]


class WriterTest(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(st.integers(1, 70), st.integers(1, 40), st.integers(2, 255), st.integers(1, 4), st.integers(0, 2**32 - 1),
           st.sampled_from(["noise", "runs", "flat", "part"]))  # fmt: skip
    def test_two_readers_see_every_pixel(
        self, width: int, height: int, colours: int, count: int, seed: int, sort: str
    ) -> None:
        random = np.random.default_rng(seed)
        palette = palette_of(colours)
        most = len(palette.colours)
        frames = []
        for _ in range(count):
            frame = random.integers(0, most, (height, width), dtype=np.uint16)
            if sort == "runs":
                frame = np.sort(frame, axis=1)
            elif sort == "flat":
                frame[:] = frame[0, 0]
            elif sort == "part" and frames:
                frame = np.where(random.random((height, width)) < 0.1, frame, frames[-1])
            frames.append(frame)
        data = written([frame.copy() for frame in frames], palette)
        for read in (read_by_pillow, read_by_ffmpeg):
            seen = read(data)
            self.assertEqual(len(seen), count)
            for got, frame in zip(seen, frames, strict=True):
                np.testing.assert_array_equal(got[..., :3], palette.colours[frame])

    def test_a_large_picture_fills_the_table_many_times(self) -> None:
        frame = np.random.default_rng(2).integers(0, 200, (300, 400), dtype=np.uint16)
        palette = palette_of(200)
        frame = np.minimum(frame, len(palette.colours) - 1)
        np.testing.assert_array_equal(read_by_pillow(written([frame], palette))[0][..., :3], palette.colours[frame])

    def test_what_is_clear_again_is_wiped(self) -> None:
        palette = palette_of(8, transparent=8)
        frames = [np.zeros((6, 8), np.uint16), np.full((6, 8), palette.transparent, np.uint16)]
        frames[1][2:4, 2:4] = 1
        seen = read_by_pillow(written(frames, palette, see_through=True))
        self.assertEqual(int(seen[0][..., 3].min()), 255)
        self.assertEqual(int((seen[1][..., 3] > 0).sum()), 4)

    def test_rounds_and_delays_are_written(self) -> None:
        palette = palette_of(4)
        frames = [np.full((4, 4), index % 4, np.uint16) for index in range(5)]
        for loops, expected in ((0, 0), (1, None), (4, 3)):
            with Image.open(io.BytesIO(written(frames, palette, loops=loops))) as image:
                self.assertEqual(image.info.get("loop"), expected)
                self.assertEqual(image.info["duration"], 30)

    def test_lossy_stays_within_its_levels_in_calm_areas_and_further_off_in_contrast(self) -> None:
        palette = palette_of(64)
        y, x = np.mgrid[0:60, 0:80]
        calm = np.dstack([x // 2 + 90, y // 3 + 100, 120 + x * 0, np.full_like(x, 255)]).astype(np.uint8)
        wild = np.random.default_rng(3).integers(0, 256, (60, 80, 4), dtype=np.uint8)
        for aim in (calm, wild):
            frame = indexed(aim, palette)
            may = masking(aim)
            sizes = []
            for lossy in (0.0, 20.0):
                buffer = io.BytesIO()
                writer = GifWriter(buffer, (80, 60), palette, False, lossy)
                writer.add(frame, 4, aim, may)
                writer.end()
                sizes.append(len(buffer.getvalue()))
            self.assertLess(sizes[1], sizes[0])
            seen = read_by_pillow(buffer.getvalue())[0][..., :3].astype(float)
            np.testing.assert_array_equal(seen, palette.colours[writer.shown])
            weights = np.array([0.3, 0.5, 0.2])
            own = palette.colours[frame].astype(float)
            far, least = (np.sqrt((aim[..., :3] - c) ** 2 @ weights) for c in (seen, own))
            self.assertGreater(float((far - least).max()), 0.0)
            # A third of what neighbours are off is not counted again.
            self.assertLess(float((far - least - 20.0 * may * 1.6).max()), 1e-3)

    def test_a_colour_that_stands_in_is_drawn_on_by_what_its_neighbours_are_off(self) -> None:
        colours = np.array([[100, 100, 100], [110, 104, 90]], dtype=np.float32)
        index = np.array([[1, 1], [0, 1]], dtype=np.uint16)
        aim = np.array([[[100, 100, 100], [104, 100, 100]], [[90, 100, 110], [50, 60, 70]]], dtype=np.uint8)
        # Above: (6, 4, -10) off; to the left: (10, 0, -10); 0.15 of each.
        found = gif_packing._wanted(index, aim, colours, 1, 1)
        np.testing.assert_allclose(found, (50 + 0.15 * 16, 60 + 0.15 * 4, 70 - 0.15 * 20), atol=1e-4)
        for y, x in ((0, 1), (1, 0)):
            np.testing.assert_allclose(gif_packing._wanted(index, aim, colours, y, x), aim[y, x], atol=1e-6)
        index[0, 1] = 65_535
        np.testing.assert_allclose(gif_packing._wanted(index, aim, colours, 1, 1), aim[1, 1], atol=1e-6)


class PaletteTest(unittest.TestCase):
    """Palettes of scenes, and colours that are kept."""

    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))

    def sample(self) -> Project:
        """Return two scenes of six frames: a ramp in blues, then one in reds, and a small disc that moves."""
        ramps = [
            Layer(name, "backdrop", start, start + 6).with_values(
                position=(48.0, 32.0), style="linear", stops=((0.0, *one), (1.0, *other)))
            for name, start, one, other in (
                ("Blue", 0, (0.0, 0.05, 0.3, 1.0), (0.6, 0.8, 1.0, 1.0)),
                ("Red", 6, (0.3, 0.0, 0.05, 1.0), (1.0, 0.8, 0.5, 1.0)),
            )
        ]  # fmt: skip
        disc = Layer("Disc", "shape", 0, 12).with_values(form="ellipse", size=(9.0, 9.0), fill=(0.2, 0.7, 0.3, 1.0))
        return project(moving(disc, (20.0, 32.0), (70.0, 32.0), 11), *ramps, width=96, height=64, length=12)

    def job(self, sample: Project, name: str, **values: object) -> ExportJob:
        return ExportJob(sample, sample.compositions[0].id, self.folder / name, 0, 12, settings=values)

    def off(self, job: ExportJob) -> float:
        """Return how far the written file is from the drawn frames, in levels."""
        kind = exporter("gif")
        result = export(kind, job)
        drawn = [render_straight8(job.project, job.composition_id, t, dither=False) for t in range(12)]
        seen = [kind.read(result.path, index) for index in range(12)]
        pairs = zip(drawn, seen, strict=True)
        return float(np.mean([np.abs(a[..., :3].astype(float) - b[..., :3]).mean() for a, b in pairs]))

    def test_leeway_looks_ahead_but_not_where_each_picture_is_written_whole(self) -> None:
        sky = Layer("Sky", "clouds", 0, 12).with_values(position=(48.0, 32.0), scale=(60.0, 60.0), scale_px=(9.0, 9.0))
        sky = sky.with_track("density", Track(50.0, (Key(0, 50.0), Key(11, 52.0))))
        clear = project(sky, width=96, height=64, length=12)
        for sample, opaque in ((self.sample(), True), (clear, False)):
            job = self.job(sample, "own.gif", steady=4.0, lossy=6.0)
            job.path.write_bytes(b"")
            exporter("gif").write(job, job.path)
            (_, palette), *_ = palettes(job)
            drawn = [render_straight8(sample, sample.compositions[0].id, t, dither=False) for t in range(12)]
            made = {}
            for ahead in (1, AHEAD):
                buffer = io.BytesIO()
                writer = GifWriter(buffer, job.size, palette, not opaque, 6.0, 0)
                for frame, rests in resting(drawn, ahead):
                    may = leeway(frame, rests)
                    held = may.steady * np.float32(4) if opaque else None
                    writer.add(indexed(frame, palette, "none", 0.0, held, writer.shown), 4, frame, may.lossy)
                writer.end()
                made[ahead] = buffer.getvalue()
            self.assertTrue(made[1] != made[AHEAD])
            self.assertTrue(job.path.read_bytes() == made[AHEAD if opaque else 1])

    def test_a_sample_looks_as_the_whole_file_does(self) -> None:
        ground = Layer("Sky", "clouds", 0, 30).with_values(position=(48.0, 32.0), scale_px=(9.0, 9.0), contrast=400.0)
        still = project(ground, width=96, height=64, length=30)
        job = evolve(self.job(still, "whole.gif", steady=0.0, lossy=30.0), last=30)
        kind = exporter("gif")
        result = export(kind, job)
        seen = pictured(kind, job, 0)
        assert seen is not None
        np.testing.assert_array_equal(seen, kind.read(result.path, 0))

    def test_each_scene_gets_colours_of_its_own(self) -> None:
        sample = self.sample()
        self.assertEqual(scenes(self.job(sample, "a.gif")), [0, 6])
        values = {"colours": 24.0, "steady": 0.0, "lossy": 0.0}
        one = self.off(self.job(sample, "one.gif", **values))
        two = self.off(self.job(sample, "two.gif", palette="each scene", **values))
        self.assertLess(two, 0.7 * one)
        for read in (read_by_pillow, read_by_ffmpeg):
            frames = read((self.folder / "two.gif").read_bytes())
            blue = render_straight8(sample, sample.compositions[0].id, 2, dither=False)
            self.assertLess(float(np.abs(frames[2][..., :3].astype(float) - blue[..., :3]).mean()), 8)

    def test_swatches_keep_their_exact_colours(self) -> None:
        own = (51 / 255, 178 / 255, 77 / 255, 1.0)
        sample = evolve(self.sample(), swatches=(own,))
        palettes_ = [
            palettes(self.job(sample, "a.gif", colours=8.0, keep=keep))[0][1].colours.tolist() for keep in (False, True)
        ]
        self.assertNotIn([51, 178, 77], palettes_[0])
        self.assertIn([51, 178, 77], palettes_[1])
        self.assertLessEqual(len(palettes_[1]), 8)

    def test_calm_areas_get_more_of_the_colours_than_contrast_does(self) -> None:
        rng = np.random.default_rng(5)
        ramp, noise = np.tile(np.linspace(30, 120, 160), (120, 1)), rng.integers(0, 256, (120, 160))
        levels = np.round(np.concatenate([ramp, noise]))
        frame = np.dstack([levels, levels, levels, np.full(levels.shape, 255)]).astype(np.uint8)

        def off_in_the_ramp(palette: Palette) -> float:
            colours = palette.colours.astype(float)
            squares = ((frame[:120, :, None, :3].astype(float) - colours) ** 2).sum(axis=3)
            return float(squares.min(axis=2).mean())

        with mock.patch("spiralis.core.media.palette.masking", lambda picture: np.ones(picture.shape[:2])):
            alike = off_in_the_ramp(build([frame], 16))
        self.assertLess(off_in_the_ramp(build([frame], 16)), 0.9 * alike)
        self.assertEqual(off_in_the_ramp(build([frame], 16)), off_in_the_ramp(build([frame, frame], 16)))


class LeewayTest(unittest.TestCase):
    """How far pixels may be off: for how long they rest, and what is around them."""

    @settings(max_examples=60, deadline=None)
    @given(st.integers(1, 20), st.integers(1, AHEAD), st.booleans(), st.integers(0, 2**32 - 1))
    def test_a_pixel_rests_until_the_picture_before_it_changes(
        self, count: int, ahead: int, goes_on: bool, seed: int
    ) -> None:
        random = np.random.default_rng(seed)
        steps = random.choice([0, 2, -3, 4, 60], (count + 1, 5, 6, 4), p=[0.5, 0.2, 0.1, 0.1, 0.1])
        frames = list((np.cumsum(steps, axis=0) % 256).astype(np.uint8))
        following = frames.pop()
        found = list(resting(frames, ahead, following if goes_on else None))
        self.assertEqual(len(found), count)
        known = [*frames, following] if goes_on else frames
        for place, (frame, rests) in enumerate(found):
            self.assertIs(frame, frames[place])
            for y, x in ((0, 0), (2, 3), (4, 5)):
                expected = 1
                while expected < ahead:
                    after = place + expected
                    if after == len(known):
                        expected = ahead if goes_on else expected
                        break
                    off = np.abs(known[after][y, x, :3].astype(int) - known[after - 1][y, x, :3]).max()
                    if off > 3:
                        break
                    expected += 1
                self.assertEqual(int(rests[y, x]), expected)

    def test_what_rests_may_be_off_less_and_what_is_in_contrast_more(self) -> None:
        flat = np.full((40, 40, 4), 120, np.uint8)
        wild = np.random.default_rng(1).integers(0, 256, (40, 40, 4), dtype=np.uint8)
        once = np.ones((40, 40), np.uint8)
        calm = leeway(flat, once)
        np.testing.assert_allclose((calm.steady, calm.lossy), 1, atol=1e-3)
        for rests in (2, AHEAD):
            longer = leeway(flat, once * np.uint8(rests))
            np.testing.assert_allclose(longer.lossy, 1 / rests, atol=1e-3)
            self.assertTrue(np.all((longer.steady < calm.steady) & (longer.steady > longer.lossy)))
        # By definition: the root of one and the variance in units of 5 levels, at most 8.
        soft = (120 + 6 * np.sin(np.arange(40) / 2)).round().astype(np.uint8)
        frame = np.broadcast_to(soft[None, :, None], (40, 40, 4)).copy()
        window = np.exp(-(np.arange(-5, 6) ** 2) / (2 * 1.5**2))
        window /= window.sum()
        part = soft[15:26].astype(float)
        variance = window @ part**2 - (window @ part) ** 2
        self.assertAlmostEqual(float(masking(frame)[20, 20]), float(np.sqrt(1 + variance / 25)), delta=0.01)
        self.assertLessEqual(float(masking(wild).max()), 8.0)

    def test_what_comes_to_rest_is_drawn_as_it_is_and_what_moves_on_costs_less(self) -> None:
        random = np.random.default_rng(2)
        noise = random.integers(90, 130, (12, 40, 60), dtype=np.uint8)
        frames = []
        for index in range(12):
            grey = np.concatenate([noise[min(index, 3)], noise[index]], axis=1)
            frames.append(np.dstack([grey, grey, grey, np.full_like(grey, 255)]))
        palette = build(frames, 64)
        buffer = io.BytesIO()
        writer = GifWriter(buffer, (120, 40), palette, False, 4.0)
        for frame, rests in resting(frames):
            may = leeway(frame, rests)
            index = indexed(frame, palette, "none", 0.0, may.steady * np.float32(4), writer.shown)
            writer.add(index, 4, frame, may.lossy)
        writer.end()
        seen = [frame[..., 0].astype(int) for frame in read_by_pillow(buffer.getvalue())]
        off = [np.abs(got - frame[..., 0]) for got, frame in zip(seen, frames, strict=True)]
        still, wild = (float(np.mean([each[:, half] for each in off[3:]])) for half in (slice(60), slice(60, None)))
        self.assertLess(still, 0.6 * wild)


class IndexTest(unittest.TestCase):
    def setUp(self) -> None:
        y, x = np.mgrid[0:64, 0:96]
        self.frame = np.dstack([x * 2, y * 3, 255 - x, np.full_like(x, 255)]).astype(np.uint8)
        self.palette = build([self.frame], 32)

    def test_without_a_dither_each_pixel_gets_the_nearest_colour(self) -> None:
        index = indexed(self.frame, self.palette)
        values = self.palette.colours.astype(float)
        far = ((self.frame[..., None, :3] - values) ** 2 @ np.array([0.3, 0.5, 0.2]))
        chosen = np.take_along_axis(far, index[..., None].astype(int), axis=2)[..., 0]
        self.assertLess(float(np.mean(chosen > far.min(axis=2) + 1e-6)), 0.01)

    def test_every_dither_keeps_the_mean_and_exact_colours(self) -> None:
        for kind in KINDS[1:]:
            drawn = self.palette.colours[indexed(self.frame, self.palette, kind, 1.0)].astype(float)
            self.assertLess(float(np.abs(drawn.mean((0, 1)) - self.frame[..., :3].mean((0, 1))).max()), 5, kind)
            flat = np.full((16, 16, 4), 255, np.uint8)
            flat[..., :3] = self.palette.colours[5]
            self.assertTrue(np.all(indexed(flat, self.palette, kind, 1.0) == 5), kind)

    def test_steady_pixels_stay_until_the_difference_is_seen(self) -> None:
        before = indexed(self.frame, self.palette)
        moved = np.clip(self.frame.astype(int) + np.array([2, 2, 2, 0]), 0, 255).astype(np.uint8)
        strict = indexed(moved, self.palette, before=before)
        weights = np.array([0.3, 0.5, 0.2])
        least = np.sqrt((self.palette.colours[strict].astype(float) - moved[..., :3]) ** 2 @ weights)
        for kind in ("none", "diffusion"):
            loose = indexed(moved, self.palette, kind, 0.0, np.full(before.shape, 10.0, np.float32), before)
            self.assertLess(int((loose != before).sum()), int((strict != before).sum()) // 2)
            far = np.sqrt((self.palette.colours[loose].astype(float) - moved[..., :3]) ** 2 @ weights)
            self.assertTrue(np.all(far <= least + 10.0 * (3 if kind == "none" else 1) + 1e-3), kind)

    def test_what_is_held_follows_its_definition(self) -> None:
        random = np.random.default_rng(8)
        weights = np.array([0.3, 0.5, 0.2])
        noise = random.integers(-70, 71, self.frame.shape)
        here = np.clip(self.frame + noise * [1, 1, 1, 0], 0, 255).astype(np.uint8)
        before = indexed(self.frame, self.palette)
        allowed = random.uniform(0, 9, before.shape).astype(np.float32)
        for kind, reach in (("none", 0.0), ("ordered", 1.6 * self.palette.spacing)):
            near = indexed(here, self.palette, kind, 1.0)

            def off(index: np.ndarray) -> np.ndarray:
                return np.asarray(np.sqrt((self.palette.colours[index].astype(float) - here[..., :3]) ** 2 @ weights))

            excess = off(before) - off(indexed(here, self.palette)) - reach / 2
            changes = uniform_filter((excess > allowed).astype(float), 7, mode="mirror")
            most = allowed * 3 * (1 - changes)
            expected = np.where(excess <= most, before, near)
            found = indexed(here, self.palette, kind, 1.0, allowed, before)
            sure = np.abs(excess - most) > 1e-3
            np.testing.assert_array_equal(found[sure], expected[sure])
            self.assertGreater(int((expected == before).sum()), 100)
            self.assertGreater(int((expected != before).sum()), 100)

    def test_lone_pixels_stay_and_those_in_the_midst_of_change_do_not(self) -> None:
        ramp = np.arange(0, 250, 5, dtype=np.uint8)
        palette = build([np.dstack([ramp[None]] * 3 + [np.full((1, len(ramp)), 255, np.uint8)])], len(ramp))
        before = np.full((40, 40, 4), 255, np.uint8)
        before[..., :3] = 100
        here = before.copy()
        here[5, 5, :3] = here[20:, 20:, :3] = 110
        allowed = np.full((40, 40), 6.0, np.float32)
        held = indexed(before, palette)
        found = palette.colours[indexed(here, palette, "none", 0.0, allowed, held)][..., 0]
        self.assertEqual(int(found[5, 5]), 100)
        self.assertTrue(np.all(found[25:, 25:] == 110))
        # One by one: 10 is more than 6, and less than three times that.
        self.assertEqual(int(palette.colours[indexed(here, palette, "diffusion", 0.0, allowed, held)][5, 5, 0]), 110)

    def test_blue_noise_has_every_level_once_and_no_clumps(self) -> None:
        noise = blue_noise()
        np.testing.assert_allclose(np.sort(noise.ravel()), (np.arange(4096) + 0.5) / 4096, atol=1e-6)
        power = np.abs(np.fft.fft2(noise - noise.mean())) ** 2
        rings = np.hypot(*np.meshgrid(np.fft.fftfreq(64), np.fft.fftfreq(64)))
        self.assertLess(float(power[(rings > 0) & (rings < 0.1)].mean()), 0.05 * float(power[rings > 0.35].mean()))

    def test_few_colours_are_kept_exactly(self) -> None:
        random = np.random.default_rng(4)
        colours = random.integers(0, 256, (20, 3), dtype=np.uint8)
        frame = np.full((40, 40, 4), 255, np.uint8)
        frame[..., :3] = colours[random.integers(0, 20, (40, 40))]
        palette = build([frame], 32)
        np.testing.assert_array_equal(palette.colours[indexed(frame, palette, "diffusion", 1.0)], frame[..., :3])


if __name__ == "__main__":
    unittest.main()
