"""Looking at layers in depth from elsewhere than the camera, while one works."""

from __future__ import annotations

from attrs import evolve

from spiralis.core.model import Composition, Layer, Project, Track, layer_kind
from spiralis.core.raster.lens import FILM
from spiralis.core.render.layers import Evaluated
from spiralis.core.render.space import is_in_depth, turned

#: The id of the camera that a viewpoint puts in front of all others. It is never part of a project that is saved.
VIEWER = "viewpoint"
VIEWS = ("camera", "front", "top", "side", "free")
#: A viewpoint stands so many times the frame's longer side away: nearly parallel; and shows so much of it beside 1:1.
_AWAY, _SHOWN = 12.0, 0.6
_TURNS = {"front": (0.0, 0.0), "top": (-90.0, 0.0), "side": (0.0, -90.0)}


def viewed(project: Project, piece: Composition, view: str, turn: tuple[float, float]) -> Composition:
    """Return a composition as it is seen from elsewhere than its camera: what lies flat is left out, but for light.

    Args:
        turn: of the free view, degrees about the level and about the upright.
    """
    about_x, about_y = _TURNS.get(view, turn)
    away = max(piece.width, piece.height) * _AWAY
    ahead = turned(about_x, about_y, 0.0)[:, 2]
    x, y, z = (float(v) for v in (piece.width / 2, piece.height / 2, 0.0) - ahead * away)
    viewer = Layer("Viewpoint", "camera", 0, piece.length, id=VIEWER).with_values(
        depth=True, position=(x, y), position_z=z, turn_x=about_x, turn_y=about_y,
        lens=min(away * _SHOWN * FILM / piece.width, 2000.0),
    )  # fmt: skip
    at = Evaluated(project, piece, 0.0)
    shown = {y.id for y in piece.layers if is_in_depth(at, y) or layer_kind(y.kind).lights}
    layers = (y if y.id in shown else y.with_track("visible", Track(False)) for y in piece.layers)
    return evolve(piece, layers=(viewer, *layers))
