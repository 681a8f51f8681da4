"""Pictures whose alpha is known, and textures with a hole whose middle is known: what cutting out and filling are held
against."""

from __future__ import annotations

import cv2
import numpy as np

from spiralis.core.model.touching import CUT_OUT, DROP, KEEP, SOFT, Stroke, Touched

N = 360


def subject(kind: str) -> tuple[np.ndarray, np.ndarray]:
    """A warm body before a cool, uneven ground: straight uint8 (N, N, 4), and its alpha, float (N, N)."""
    rng = np.random.default_rng(3)
    y, x = np.mgrid[0:N, 0:N].astype(float)
    back = np.stack([90 + 30 * np.sin(x / 60), 130 + 40 * np.cos(y / 70), 170 + 30 * np.sin((x + y) / 50)], -1)
    big, centre = np.zeros((4 * N, 4 * N), np.uint8), (2 * N, 2 * N + 100)
    cv2.ellipse(big, centre, (N, int(1.2 * N)), 0, 0, 360, 255, -1, cv2.LINE_AA)
    if kind == "hair":
        for angle in np.linspace(np.pi, 2 * np.pi, 50):
            way = [(centre[0] + r * np.cos(angle), centre[1] + 1.2 * r * np.sin(angle)) for r in (0.8 * N, 1.35 * N)]
            cv2.line(big, *(tuple(int(v) for v in p) for p in way), 255, 6, cv2.LINE_AA)  # type: ignore[call-overload]
    alpha = cv2.resize(big, (N, N), interpolation=cv2.INTER_AREA).astype(float) / 255
    if kind == "soft":
        alpha = cv2.GaussianBlur(alpha, (0, 0), 4)
    front = np.stack([220 + 20 * np.sin(y / 17), 140 + 30 * np.sin(x / 23), 60 + 0 * x], -1)
    mixed = alpha[..., None] * front + (1 - alpha[..., None]) * back + rng.normal(0, 3, (N, N, 1))
    return np.dstack([np.clip(mixed, 0, 255), np.full((N, N), 255)]).astype(np.uint8), alpha


def ring(kind: str, first: float, last: float, radius: float) -> Stroke:
    points = [(180 + 90 * 1.12 * np.cos(a), 205 + 108 * 1.12 * np.sin(a)) for a in np.linspace(first, last, 24)]
    return Stroke(kind, radius, tuple((float(px), float(py)) for px, py in points))


#: What a person strikes out who sees that the ground below was taken along.
_WAY = ((68, 250), (78, 290), (108, 325), (180, 340), (252, 325), (282, 290), (292, 250))
BELOW = Stroke(DROP, 8, tuple((float(x), float(y)) for x, y in _WAY))
MARKS = {
    "hard": Touched("x", CUT_OUT, box=(70, 70, 290, 340)),
    "soft": Touched("x", CUT_OUT, box=(60, 70, 300, 340), strokes=(ring(SOFT, 0, 2 * np.pi, 14), BELOW)),
    "hair": Touched("x", CUT_OUT, box=(40, 40, 320, 340), strokes=(
        ring(SOFT, np.pi, 2 * np.pi, 24), Stroke(KEEP, 60, ((180.0, 190.0), (180.0, 230.0))), BELOW,
    )),
}  # fmt: skip


def texture(kind: str, n: int = 240) -> np.ndarray:
    y, x = np.mgrid[0:n, 0:n].astype(float)
    rng = np.random.default_rng(5)
    if kind == "stripes":
        made = np.stack([128 + 90 * np.sin((x + y) / 5), 128 + 60 * np.sin((x + y) / 5 + 1), 90 + 0 * x], -1)
    elif kind == "bricks":
        joint = ((y % 16) < 2) | (((x + (y // 16 % 2) * 16) % 32) < 2)
        made = np.where(joint[..., None], [200, 190, 180], [170, 80, 60]) + rng.normal(0, 3, (n, n, 1))
    elif kind == "checks":
        made = np.where((((x // 12) + (y // 12)) % 2)[..., None] > 0, [230, 220, 200], [60, 90, 120])
    else:
        made = np.where(((x % 20 - 10) ** 2 + (y % 20 - 10) ** 2 < 30)[..., None], [240, 200, 60], [40, 60, 110])
    return np.dstack([np.clip(made, 0, 255), np.full((n, n), 255)]).astype(np.uint8)


def hole(n: int = 240, size: float = 38.0) -> np.ndarray:
    y, x = np.mgrid[0:n, 0:n]
    return np.asarray(((y - 118) / size) ** 2 + ((x - 124) / (1.2 * size)) ** 2 < 1)
