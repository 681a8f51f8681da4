"""GIF: one palette for the piece, pixels that stay while nobody sees a difference, delays that keep the duration."""

from __future__ import annotations

import math
from collections.abc import Sequence
from fractions import Fraction
from pathlib import Path

import numpy as np
from attrs import evolve
from PIL import Image

from spiralis.core.errors import ExportError
from spiralis.core.media.dithering import KINDS, indexed
from spiralis.core.media.exporters.base import Exporter, ExportJob, Step, expect, register_exporter
from spiralis.core.media.gif_file import GifWriter
from spiralis.core.media.leeway import AHEAD, leeway, resting
from spiralis.core.media.palette import Palette, build
from spiralis.core.model import Kind, Parameter
from spiralis.core.render.frame import render_straight8

PALETTES = ("whole piece", "each scene")
SETTINGS = (
    Parameter("colours", "Colours", Kind.NUMBER, 256.0, "Fewer colours, smaller file", "", 2, 256),
    Parameter("palette", "Palette", Kind.CHOICE, PALETTES[0], "One for all frames, or one for each scene: where a "
              "picture changes at once, better colours begin", choices=PALETTES),
    Parameter("keep", "Keep swatches", Kind.SWITCH, False, "The project's swatches keep their exact colours"),
    Parameter("pattern", "Dither", Kind.CHOICE, "none", "Fine pattern that hides missing colours", choices=KINDS),
    Parameter("dither", "Strength", Kind.NUMBER, 80.0, "How strong that pattern is", "%", 0, 100,
              needs=("pattern", KINDS[1:])),
    Parameter("steady", "Steady", Kind.NUMBER, 3.0,
              "How far a colour may be off before its pixel changes: calm areas, much smaller files; less where it "
              "will rest, further for lone pixels and in contrast", "levels", 0, 40),
    Parameter("lossy", "Lossy", Kind.NUMBER, 1.0,
              "How far a colour may be off in calm areas so that it packs better; less where it will rest, further in "
              "contrast", "levels", 0, 60),
    Parameter("loops", "Rounds", Kind.NUMBER, 0.0, "How many times it plays; 0 is for ever", "", 0, 65_535),
)  # fmt: skip
_FASTEST = 50


def _ladder() -> tuple[Step, ...]:
    """Return ways to write a GIF: colours and steadiness first, then the size, at last the frames."""
    fine = [Step(f"{c} colours, steady {s}", {"colours": float(c), "steady": float(s), "pattern": "none"})
            for c, s in ((256, 0), (256, 3), (256, 6), (128, 6), (64, 6), (64, 9))]  # fmt: skip
    less = [
        Step(f"{c} colours, {round(scale * 100)} % of the size",
             {"colours": float(c), "steady": 6.0, "pattern": "none"}, scale)
        for scale in (0.8, 0.65, 0.5, 0.4, 0.3) for c in (128, 64)
    ]  # fmt: skip
    few = [
        Step(f"{c} colours, {round(scale * 100)} % of the size, half the frames",
             {"colours": float(c), "steady": 9.0, "pattern": "none"}, scale, 0.5)
        for scale, c in ((0.4, 64), (0.3, 64), (0.3, 32), (0.2, 32))
    ]  # fmt: skip
    return (*fine, *less, *few)


_PALETTE_FRAMES = 24
#: A scene begins where pictures of 64 px change by so many levels on average, and by four times more than usual.
_LOOKED_AT, _CUT = 64, 18.0


def frame_step(rate: Fraction) -> int:
    """Return how many frames one GIF picture stands for: browsers slow down pictures under 2/100 s."""
    return max(1, math.ceil(rate / _FASTEST))


def delays(count: int, rate: Fraction, step: int) -> list[int]:
    """Return hundredths of a second for each picture of ``count`` frames; they add up to the duration.

    Each picture begins at its exact time rounded to the nearest hundredth, so errors never add up.
    """
    times = [round(Fraction(100 * index) / rate) for index in [*range(0, count, step), count]]
    return [after - before for before, after in zip(times, times[1:], strict=False)]


def _rendered(job: ExportJob, moment: float) -> np.ndarray:
    return render_straight8(job.project, job.composition_id, moment, job.scale, dither=False)


def scenes(job: ExportJob) -> list[int]:
    """Return the indices of a job's times at which a new scene begins, 0 first: where the picture changes at once."""
    scale = min(job.scale, _LOOKED_AT / max(job.composition.width, job.composition.height))
    seen = [pixels[..., :3].astype(np.int16) for pixels in job.draw(evolve(job, scale=scale), _rendered, job.times)]
    change = np.array([float(np.abs(b - a).mean()) for a, b in zip(seen, seen[1:], strict=False)])
    usual = float(np.median(change)) if len(change) else 0.0
    cuts = [index + 1 for index, found in enumerate(change) if found > max(_CUT, 4 * usual)]
    return [0, *cuts]


def palettes(job: ExportJob) -> list[tuple[float, Palette]]:
    """Return the moments from which on palettes hold, the first one for all that comes before it too."""
    if job.setting(GIF, "palette") == PALETTES[0]:
        return [(job.times[0], piece_palette(job, job.times))]
    starts = scenes(job)
    ends = [*starts[1:], len(job.times)]
    return [(job.times[a], piece_palette(job, job.times[a:b])) for a, b in zip(starts, ends, strict=True)]


def piece_palette(job: ExportJob, times: Sequence[float]) -> Palette:
    """Return one palette for some of a job's frames, from up to 24, with an index left for what stays or is clear."""
    picks = sorted({times[index * len(times) // _PALETTE_FRAMES] for index in range(_PALETTE_FRAMES)})
    # Small frames are enough for a palette; the true scale is used where it is smaller still.
    scale = min(job.scale, 480 / job.composition.width)
    samples = list(job.draw(evolve(job, scale=scale), _rendered, picks))
    if len(times) == len(job.times):
        job.look_through(samples)
    colours = int(job.setting(GIF, "colours"))
    swatches = job.project.swatches if job.setting(GIF, "keep") else ()
    fixed = np.round(np.array([swatch[:3] for swatch in swatches]).reshape(-1, 3) * 255).astype(np.uint8)
    return build(samples, colours if job.see_through or colours < 256 else 255, fixed)


def _write(job: ExportJob, path: Path) -> tuple[str, ...]:
    rate = job.out_rate
    step = frame_step(rate)
    waits = delays(len(job.times), rate, step)
    held = job.given.get("palettes") or palettes(job)
    pattern, strength = job.setting(GIF, "pattern"), job.setting(GIF, "dither") / 100
    steady, lossy, loops = (job.setting(GIF, name) for name in ("steady", "lossy", "loops"))
    see_through = any(palette.transparent >= 0 for _, palette in held)
    moments = job.times[::step]
    if see_through:
        # It is written whole each time: nothing is held, and what is off does not stay.
        steady = 0.0
    ahead = AHEAD if (steady or lossy) and not see_through else 1
    with path.open("wb") as file:
        writer = GifWriter(file, job.size, held[0][1], see_through, float(lossy), int(loops))
        drawn = resting(job.frames(_rendered, moments), ahead, _following(job) if ahead > 1 else None)
        for moment, (pixels, rests), wait in zip(moments, drawn, waits, strict=True):
            palette = [each for start, each in held if start <= moment or start == held[0][0]][-1]
            writer.use(palette)
            may = leeway(pixels, rests) if steady or lossy else None
            keeps = may.steady * np.float32(steady) if may and steady else None
            index = indexed(pixels, palette, pattern, strength, keeps, writer.shown)
            writer.add(index, wait, pixels if pattern == KINDS[0] else None, may.lossy if may else None)
        writer.end()
    if step > 1:
        return (f"A GIF shows at most {_FASTEST} pictures a second, so every {_ordinal(step)} frame was written.",)
    return ()


def _following(job: ExportJob) -> np.ndarray | None:
    """Return the frame that comes after those of a job that is a sample of a longer one."""
    moment = job.given.get("following")
    return None if moment is None else next(iter(job.draw(job, _rendered, [moment])))


def _ordinal(number: int) -> str:
    return {2: "second", 3: "third", 4: "fourth", 5: "fifth"}.get(number, f"{number}th")


def _check(job: ExportJob, path: Path) -> tuple[int, float, int, int]:
    count = len(job.times)
    step = frame_step(job.out_rate)
    hundredths = 0
    try:
        with Image.open(path, formats=["GIF"]) as image:
            frames = getattr(image, "n_frames", 1)
            for index in range(frames):
                image.seek(index)
                hundredths += image.info.get("duration", 0) // 10
            size = image.size
    except (OSError, ValueError, EOFError) as error:
        raise ExportError(
            f"“{job.path.name}” was not written completely; check for free space on the disk and try again."
        ) from error
    once = count / job.out_rate
    if frames == 1:
        hundredths = round(100 * once)
    found = (frames, hundredths / 100, *size)
    expect(job, path, found, (len(range(0, count, step)), once, *job.size))
    return found


def _prepared(job: ExportJob) -> ExportJob:
    """Return the job with its palette worked out, so that samples of it look as the whole does."""
    found = palettes(job)
    return evolve(job, given={**job.given, "palettes": found})


GIF = Exporter("gif", "GIF", ".gif", "Palette: pages and mail", SETTINGS, _write, _check, prepare=_prepared,
               ladder=_ladder(), order=200)  # fmt: skip
register_exporter(GIF)
