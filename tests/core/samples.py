"""Small projects that tests are built from."""

from __future__ import annotations

import hashlib
import io
from fractions import Fraction

import numpy as np
from PIL import Image

from spiralis.core.checks.seam import JUMP, check
from spiralis.core.media.pictures import picture_source
from spiralis.core.model import Composition, Key, Layer, Project, Source, Track


def png_bytes(pixels: np.ndarray, **options: object) -> bytes:
    """Return uint8 pixels as PNG."""
    buffer = io.BytesIO()
    Image.fromarray(pixels).save(buffer, "PNG", **options)
    return buffer.getvalue()


def square_source(size: int = 20, colour: tuple[int, int, int, int] = (255, 0, 0, 255)) -> Source:
    """Return a picture source of one colour."""
    return picture_source(png_bytes(np.full((size, size, 4), colour, dtype=np.uint8)), "square.png")


def backdrop(width: int, height: int, colour: tuple[float, ...], **values: object) -> Layer:
    """Return a flat backdrop that covers a frame of that size."""
    return Layer("Ground", "backdrop", 0, 1000).with_values(
        position=(width / 2, height / 2), style="flat", colour=colour, **values
    )


def piece(*layers: Layer, width: int = 64, height: int = 48, length: int = 20, **values: object) -> Composition:
    """Return a composition of these layers, front to back."""
    return Composition("Piece", width, height, Fraction(25), length, layers=layers, **values)  # type: ignore[arg-type]


def project(*layers: Layer, sources: tuple[Source, ...] = (), **values: object) -> Project:
    """Return a project with one composition."""
    return Project("Sample", (piece(*layers, **values),), sources)  # type: ignore[arg-type]


def moving(layer: Layer, start: tuple[float, float], end: tuple[float, float], last: int) -> Layer:
    """Return the layer with two keys on its position."""
    return layer.with_track("position", Track(start, (Key(0, start), Key(last, end))))


def seam_jumps(project_: Project, piece_: Composition) -> list[str]:
    """Return “layer: property” for everything that jumps at the seam of a piece."""
    found = [cause for cause in check(project_, piece_).causes if cause.sort == JUMP]
    layers = [project_.with_composition(piece_).composition(cause.piece).layer(cause.layer) for cause in found]
    pairs = zip(layers, found, strict=True)
    return [f"{y.name}: {y.parameter(c.name).full_label if c.name else 'does not come round'}" for y, c in pairs]


def cube(edge: int = 5, seed: int = 2, **lines: str) -> bytes:
    """Return a .cube file of random colours."""
    colours = np.random.default_rng(seed).random((edge**3, 3))
    head = ['TITLE "Evening 2"', "# made by a test", f"LUT_3D_SIZE {edge}"]
    head += [f"{name} {value}" for name, value in lines.items()]
    return "\n".join([*head, "", *(f"{r:.6f} {g:.6f} {b:.6f}" for r, g, b in colours)]).encode()


def lookup_source(data: bytes) -> Source:
    """Return the source ``look`` of a .cube file's bytes."""
    return Source("a.cube", hashlib.sha256(data).hexdigest(), ".cube", 0, 0, kind="lookup", id="look", data=data)
