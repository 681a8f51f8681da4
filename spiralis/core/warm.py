"""Compile every kernel, or load it from its cache: ``python -m spiralis.core.warm`` says how far it is, line by line.

A stamp in the cache folder says that it was done for these very files, so that a start can tell whether it has to wait.
"""

from __future__ import annotations

import hashlib
import os
import platform
import signal
import subprocess
import sys
from collections.abc import Callable
from contextlib import suppress
from fractions import Fraction
from functools import partial
from importlib.util import find_spec
from pathlib import Path
from threading import Thread
from typing import TYPE_CHECKING

import numpy as np
from platformdirs import user_cache_path

from spiralis.core.machine import cores

if TYPE_CHECKING:
    from spiralis.core.effects.job import EffectJob
    from spiralis.core.media.palette import Palette
    from spiralis.core.model.blocks import EffectKind
    from spiralis.core.raster.raster import Raster

#: What the second process is told.
_BACKWARDS = "backwards"


def stamp_path() -> Path:
    """Return where the stamp lies: its name holds which kernels, Python and Numba it is for."""
    told = hashlib.sha256(f"{platform.python_version()} {platform.machine()}".encode())
    compiler = find_spec("numba")
    if compiler is not None and compiler.origin is not None:
        # Asking what is installed for its version takes longer than all the rest.
        with suppress(OSError):
            told.update((Path(compiler.origin).parent / "_version.py").read_bytes())
    for path in sorted(Path(__file__).parent.glob("*/kernels/*.py")):
        told.update(f"{path} {path.stat().st_size} {path.stat().st_mtime_ns}".encode())
    return user_cache_path("spiralis") / "kernels" / told.hexdigest()[:16]


def compiled() -> bool:
    """Whether the kernels were compiled on this machine as they are now."""
    return stamp_path().exists()


def set_stamp() -> None:
    """Note that they were; where nothing can be written the next start asks again."""
    path = stamp_path()
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        path.touch()
    except OSError:
        pass


def warm_easing() -> None:
    """Load the one kernel that drawing curves asks for; where another thread loads kernels it would wait for those."""
    from spiralis.core.animation.easing import CubicBezier

    CubicBezier(0.4, 0.0, 0.6, 1.0).solve(np.array([0.5]))


def warm(
    told: Callable[[int, int], None] = lambda done, of: None, drawing_alone: bool = False, backwards: bool = False
) -> None:
    """Run each kernel once on tiny arrays of the types that the program uses; ``told`` hears how much of how much.

    What serves files and single pictures takes a fifth of the time, and is left out where it is for ``drawing_alone``.
    Two processes, one of which goes ``backwards``, meet in the middle and load what the other has compiled.
    """
    from spiralis.core.compositing.blend import blend
    from spiralis.core.compositing.kernels import light, smear
    from spiralis.core.effects.job import EffectJob
    from spiralis.core.media import palette, pixels
    from spiralis.core.model import Composition, Layer, Project
    from spiralis.core.model.blocks import effect_kinds
    from spiralis.core.raster import blurring
    from spiralis.core.raster.kernels import covering
    from spiralis.core.raster.raster import Raster
    from spiralis.core.render import frame

    tiny = np.zeros((4, 4, 4), dtype=np.float32)
    solid = np.full((4, 4, 4), 255, dtype=np.uint8)
    linear = np.zeros(64, dtype=np.float32)
    composition = Composition("warm", 8, 8, Fraction(25), 2, layers=(Layer("flat", "backdrop", 0, 2),))
    project = Project(compositions=(composition,))
    steps: list[Callable[[], object]] = [
        lambda: (pixels.visible_box(solid), pixels.filled_box(solid), pixels.filled_box(tiny)),
        lambda: blurring.blurred(solid, 1.0, 1.0),
        _warm_noise, _warm_way,
        lambda: covering.multiply(tiny.copy(), solid[..., 0].copy()),
        lambda: pixels.halved(pixels.premultiplied(solid)),
        lambda: blend("normal", tiny, tiny),
        lambda: frame.render_frame(project, composition.id, 0),
        lambda: frame.render_rgba8(project, composition.id, 0),
        lambda: frame.render_yuv420(project, composition.id, 0),
        lambda: frame.render_straight8(project, composition.id, 0),
        lambda: light.decode_premultiplied(np.zeros(64, dtype=np.uint8), np.float32(1 / 255), linear),
        lambda: light.decode_premultiplied(linear, np.float32(1), linear),
        lambda: smear.smear(linear, 4, 4, np.zeros((1, 6)), np.ones(1), 0, 0, tiny),
        lambda: smear.smear_shifted(linear, 4, 4, np.zeros((1, 2), np.int64), np.ones(1), 0, 0, tiny),
        lambda: smear.smear_projected(linear, 4, 4, np.zeros((1, 9)), np.ones(1), 0, 0, tiny),
        _warm_particles, _warm_crowd, _warm_letters,
        *(partial(_warm_effect, kind, EffectJob, Raster(tiny)) for kind in effect_kinds()),
    ]
    if not drawing_alone:
        steps += [_warm_patching, lambda: _warm_gif(palette.build([np.zeros((4, 4, 4), np.uint8)], 4))]
    # Drawing tables, and smearing them, hold far more code than the rest: they take that much of the time.
    lengths = {7: 30, 13: 15, 16: 3, 19: 3}
    done, of = 0, sum(lengths.get(place, 1) for place in range(len(steps)))
    for place, step in reversed(list(enumerate(steps))) if backwards else enumerate(steps):
        told(done, of)
        step()
        done += lengths.get(place, 1)
    told(done, of)


def _warm_way() -> None:
    from spiralis.core.animation.motion_path import travel

    travel((0.0, 0.0), (1.0, 1.0), (1.0, 0.0), None, np.array([0.5]))


def _warm_effect(kind: EffectKind, job: type[EffectJob], picture: Raster) -> None:
    values = {parameter.name: parameter.default for parameter in kind.own_parameters}
    kind.run(job(picture, (0, 0, 4, 4), values, box=(0.0, 0.0, 4.0, 4.0)))


def _warm_patching() -> None:
    from spiralis.core.media.filling import filled_behind

    hole = np.zeros((40, 40), dtype=bool)
    hole[14:26, 14:26] = True
    filled_behind(np.zeros((40, 40, 4), dtype=np.uint8), hole)


def _warm_crowd() -> None:
    from spiralis.core.render.kernels import crowding

    low, high = np.full(crowding.COLUMNS, -1e9), np.full(crowding.COLUMNS, 1e9)
    rows, maps = np.zeros((1, crowding.COLUMNS)), np.empty((1, 6))
    none = np.empty((0, 5), dtype=np.int64)
    crowding.place_all(0.0, none, low, high, np.zeros((1, 4)), np.zeros(6), rows, maps)


def _warm_letters() -> None:
    from spiralis.core.geometry import IDENTITY
    from spiralis.core.raster.outlines import Filling, OutlinePen, Outlines

    one = Outlines.of([OutlinePen().done()])
    letters = Filling(one, np.zeros(1, dtype=np.int64), np.zeros((1, 6)), np.array([0, 1]), np.zeros((1, 4)))
    letters.draw(np.zeros((4, 4, 4), dtype=np.uint8), IDENTITY)


def _warm_noise() -> None:
    from spiralis.core.raster.kernels import framing, noise
    from spiralis.core.raster.noise import fractal_noise
    from spiralis.core.raster.ramps import ramp

    levels = fractal_noise((2, 2), (1.0, 1.0, 0.0, 0.0), 1, 0.5, 0.0, 4, 1)
    one, all_in = np.float32(1), np.ones(2, bool)
    table = ramp(((0.0, 0.0, 0.0, 0.0, 1.0), (1.0, 1.0, 1.0, 1.0, 1.0)), 512)
    noise.shaded(levels, 0, one, one, table, all_in, all_in, np.empty((2, 2, 4), dtype=np.float32))
    framing.place((1.0, 0.0, 0.0, 1.0, 0.0, 0.0), 0, 0, (1.0, 1.0, 0.0, 0.0), (2.0, 2.0),
                  *np.empty((3, 2, 2), dtype=np.float32))  # fmt: skip


def _warm_particles() -> None:
    from spiralis.core.raster.kernels import particles

    pair, one = np.zeros((1, 2)), np.ones(1)
    particles.even_numbers(np.empty((2, 3), order="F"), 1)
    particles.curl(pair, one, 8, 1, np.empty((1, 2)))
    particles.thickness(pair, 1, np.empty(1))
    out = np.zeros((4, 4, 4), dtype=np.float32)
    particles.splat(out, 0, 0, pair, pair, one, one, np.ones((1, 4)), particles.SOFT, True, out.copy())


def _warm_gif(colours: Palette) -> None:
    import io

    from spiralis.core.media.dithering import indexed
    from spiralis.core.media.gif_file import GifWriter
    from spiralis.core.media.leeway import masking

    writer, pixels = GifWriter(io.BytesIO(), (4, 4), colours, False), np.zeros((4, 4, 4), dtype=np.uint8)
    masking(pixels)
    for pattern in ("none", "diffusion"):
        writer.add(indexed(pixels, colours, pattern, 1.0, np.ones((4, 4), np.float32), writer.shown), 4, pixels)


def _held() -> None:
    """End with the process at the other end of the standard input, whatever becomes of it."""
    while os.read(0, 64):
        pass
    os._exit(1)


def _compile() -> None:
    """Compile in two processes where there are two cores: on two calm ones that takes half the time."""
    if cores() < 2:
        warm(_say)
        return
    command = [sys.executable, "-m", "spiralis.core.warm", _BACKWARDS]
    with subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.DEVNULL):
        warm(_say)


def _say(done: int, of: int) -> None:
    print(f"{done} of {of}", flush=True)


if __name__ == "__main__":
    os.environ.setdefault("OMP_WAIT_POLICY", "passive")
    # Whoever presses Ctrl+C knows where it was, and the script that called ends with it.
    signal.signal(signal.SIGINT, signal.SIG_DFL)
    if sys.argv[1:] == [_BACKWARDS]:
        Thread(target=_held, daemon=True).start()
        warm(backwards=True)
    else:
        _compile()
        set_stamp()
