"""Studies in depth, made of flat ones: layers spread in space, a carrier that sways, a camera that drifts."""

from __future__ import annotations

from collections.abc import Mapping

from attrs import evolve

from spiralis.core.editing.reparenting import with_parent
from spiralis.core.model import Composition, Layer, Project
from spiralis.core.raster.lens import reach
from spiralis.core.render.layers import Evaluated
from spiralis.demo.building import keys, layer


def deep_kite_day(flat: Composition) -> Composition:
    """Return Kite day with its layers at different distances, each as large as it was, seen by a drifting camera."""
    away, n = reach(flat.width), flat.length
    depths: Mapping[str, float] = {"Far kite": 900.0, "Kite": -160.0, "Price tag": -320.0, "Headline": 60.0,
                                   "Place and time": 60.0}  # fmt: skip
    layers = []
    for each in flat.layers:
        z = depths.get(each.name)
        if z is not None:
            # Farther away means larger by as much, about the frame's middle: without a drift all is as it was.
            share = (away + z) / away
            each = _spread(each, share, flat).with_values(depth=True, position_z=z)
        layers.append(each)
    camera = layer(
        "camera", "Camera", n, depth=True, lens=50.0, aims=True, looks_at=(540.0, 675.0), looks_at_z=150.0,
        position=keys((0, (540.0, 675.0)), (38, (690.0, 640.0)), (112, (390.0, 700.0)), (n, (540.0, 675.0))),
        position_z=keys((0, -away), (75, -away + 130.0), (n, -away)),
    )  # fmt: skip
    return evolve(flat, id="kite-day-deep", name="Kite day in depth", layers=(camera, *layers))


def _spread(each: Layer, share: float, piece: Composition) -> Layer:
    """Return a layer that is larger by a share, all its places as much farther from the frame's middle."""
    middle = piece.width / 2, piece.height / 2

    def placed(value: tuple[float, float]) -> tuple[float, float]:
        return tuple(m + (v - m) * share for v, m in zip(value, middle, strict=True))  # type: ignore[return-value]

    place = each.track("position")
    def longer(handle: tuple[float, float] | None) -> tuple[float, float] | None:
        return None if handle is None else (handle[0] * share, handle[1] * share)

    made = [
        evolve(key, value=placed(key.value), handle_in=longer(key.handle_in), handle_out=longer(key.handle_out))
        for key in place.keys
    ]
    each = each.with_track("position", evolve(place, value=placed(place.value), keys=tuple(made)))
    size = each.track("scale")
    larger = [evolve(key, value=tuple(v * share for v in key.value)) for key in size.keys]
    return each.with_track("scale", evolve(size, value=tuple(v * share for v in size.value), keys=tuple(larger)))


def swaying(project: Project, piece: Composition, names: tuple[str, ...], step: float = 44.0) -> Composition:
    """Return a piece whose named layers lie one behind the other on a carrier that sways a little, as a solid would."""
    n = piece.length
    carrier = layer("carrier", "Sway", n, position=(piece.width / 2, piece.height / 2), depth=True,
                    turn_y=keys((0, 0.0), (n // 4, 5.0), (3 * n // 4, -5.0), (n, 0.0)),
                    turn_x=keys((0, 0.0), (n // 2, 2.5), (n, 0.0)))  # fmt: skip
    piece = evolve(piece, layers=(*piece.layers, carrier))
    hung = [y for y in piece.layers if y.name in names or y.name.removesuffix(" glow") in names]
    for place, each in enumerate(reversed(hung)):
        at = Evaluated(project.with_composition(piece), piece, 0.0)
        z = step * (len(hung) // 2 - place)
        # Each as large as it was, about the frame's middle, where the carrier's own is.
        own = _spread(piece.layer(each.id), (reach(piece.width) + z) / reach(piece.width), piece)
        own = with_parent(at, own, carrier.id)
        piece = piece.with_layer(own.with_values(depth=True, position_z=z))
    return piece
