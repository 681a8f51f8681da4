"""The workshop's flyer as it comes from the printer: kite, dunes and sky in one flat picture; and what is made of it by
Cut out subject and Fill behind, with the strokes of a hand."""

from __future__ import annotations

from functools import cache

import cv2
import numpy as np
from attrs import evolve

from spiralis.core.editing.touching import area_strokes, cut_source, filled_source, pixels_of
from spiralis.core.media.pictures import picture_source
from spiralis.core.media.png_file import png_bytes
from spiralis.core.model import Source
from spiralis.core.model.touching import CUT_OUT, FILL, KEEP, Stroke, Touched
from spiralis.demo.artwork import pictures

WIDTH, HEIGHT = 720, 900
#: Where the kite lies in the flat picture: left, top, width, height.
KITE = (236, 110, 250, 433)


def _ground() -> np.ndarray:
    """Return sky with soft clouds over three dunes, float (h, w, 3)."""
    y, x = np.mgrid[0:HEIGHT, 0:WIDTH].astype(np.float64)
    share = (y / HEIGHT)[..., None]
    sky = np.array([86.0, 168, 206]) * (1 - share) + np.array([246.0, 226, 190]) * share
    random = np.random.Generator(np.random.Philox(29))
    cloud = np.zeros((HEIGHT, WIDTH))
    for octave in range(5):
        rough = random.random((6 * 2**octave, 4 * 2**octave)).astype(np.float32)
        cloud += cv2.resize(rough, (WIDTH, HEIGHT), interpolation=cv2.INTER_CUBIC) / 2**octave
    cloud = np.clip((cloud - 1.02) * 2.2, 0, 1) * np.clip(1.2 - y / 620, 0, 1)
    made = sky + cloud[..., None] * (np.array([252.0, 248, 240]) - sky) * 0.85
    for base, height, phase, tint in ((690, 42, 0.4, (214, 170, 118)), (760, 34, 2.1, (196, 146, 96)),
                                      (835, 26, 4.0, (172, 120, 78))):  # fmt: skip
        edge = base + height * np.sin(x / 150 + phase) + 8 * np.sin(x / 37 + 2 * phase)
        ripple = 10 * np.sin((y - edge) / 5 + x / 60)
        sand = np.array(tint, dtype=np.float64) + ripple[..., None]
        cover = np.clip(y - edge, 0, 1)[..., None]
        made = made + cover * (sand - made)
    return np.asarray(made + random.normal(0, 2.0, (HEIGHT, WIDTH, 1)))


def _flat() -> np.ndarray:
    """Return the flyer, uint8 (h, w, 4): the kite laid over its ground, and nothing to take them apart by."""
    made = _ground()
    left, top, width, height = KITE
    kite = cv2.resize(pixels_of(pictures()["kite-swift.png"]), (width, height), interpolation=cv2.INTER_AREA)
    alpha = kite[..., 3:].astype(np.float64) / 255
    part = made[top : top + height, left : left + width]
    part += alpha * (kite[..., :3] - part)
    return np.dstack([np.clip(np.round(made), 0, 255), np.full((HEIGHT, WIDTH), 255)]).astype(np.uint8)


@cache
def flyer_sources() -> dict[str, Source]:
    """Return the flat flyer, the kite that was cut out of it, and the flyer with the hole filled."""
    flat = evolve(picture_source(png_bytes(_flat()), "flyer.png"), id="flyer")
    left, top, width, height = KITE
    spine = left + width / 2
    strokes = (
        Stroke(KEEP, 8.0, ((spine, top + 30.0), (spine, top + 290.0))),
        Stroke(KEEP, 8.0, ((left + 50.0, top + 125.0), (left + width - 50.0, top + 125.0))),
        Stroke(KEEP, 4.0, ((spine, top + 300.0), (spine + 4, top + 330.0))),
    )
    box = (left - 14.0, top - 10.0, left + width + 14.0, top + height + 8.0)
    cut = evolve(cut_source(flat, Touched("flyer", CUT_OUT, box, strokes, shift=0.0)), id="flyer-kite")
    alpha = pixels_of(cut)[..., 3]
    wider = cv2.dilate(alpha, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (15, 15))) > 8
    behind = evolve(filled_source(flat, Touched("flyer", FILL, strokes=area_strokes(wider))), id="flyer-behind")
    return {"flyer.png": flat, "flyer cut out.png": cut, "flyer filled.png": behind}
