"""Between the frozen model and plain JSON values."""

from __future__ import annotations

import re
from collections.abc import Mapping, Set
from fractions import Fraction
from functools import cache
from typing import Any

from cattrs import Converter, transform_error
from cattrs.errors import BaseValidationError
from cattrs.gen import make_dict_structure_fn, make_dict_unstructure_fn, override

from spiralis.core import generated_code
from spiralis.core.animation.easing import LINEAR, Easing
from spiralis.core.errors import ModelError, ProjectFileError, SpiralisError
from spiralis.core.model import (
    Artwork,
    Composition,
    EdgePin,
    Extend,
    Key,
    Layer,
    Marker,
    Matte,
    MoveUse,
    Origin,
    Project,
    Rule,
    Source,
    Track,
)
from spiralis.core.model.art import Bundle
from spiralis.core.model.blocks import Block
from spiralis.core.model.poses import Pose, PoseStrip
from spiralis.core.model.reframing import Hold, Reframing
from spiralis.core.model.slots import Slot, Variant
from spiralis.core.model.source import source_kinds
from spiralis.core.model.touching import Stroke, Touched
from spiralis.core.storage.art_json import art_in, art_out
from spiralis.core.storage.driver_json import driver_in, driver_out, wobble_in, wobble_out
from spiralis.core.storage.migrations import VERSION

generated_code.install("cattrs.gen")


def _tuples(value: Any) -> Any:
    if isinstance(value, dict):
        return art_in(value)
    if isinstance(value, list):
        return tuple([_tuples(part) if isinstance(part, list | dict) else part for part in value])
    return value


def _lists(value: Any) -> Any:
    if isinstance(value, Bundle):
        return art_out(value)
    return [_lists(part) for part in value] if isinstance(value, tuple) else value


def _known(data: Any, names: Set[str], what: str) -> dict[str, Any]:
    if not isinstance(data, dict):
        raise ModelError(f"{what} is not an object")
    if not data.keys() <= names:
        raise ModelError(f"{what} has the unknown field {min(data.keys() - names)!r}")
    return data


def _key_out(key: Key) -> dict[str, Any]:
    data: dict[str, Any] = {"frame": key.frame, "value": _lists(key.value)}
    if key.easing != LINEAR:
        data["easing"] = key.easing.css()
    for name in ("handle_in", "handle_out"):
        if getattr(key, name) is not None:
            data[name] = list(getattr(key, name))
    return data


def _point_in(value: Any) -> tuple[float, float] | None:
    if value is None:
        return None
    if not isinstance(value, list) or len(value) != 2 or not all(isinstance(v, int | float) for v in value):
        raise ModelError("a path handle is two numbers")
    return float(value[0]), float(value[1])


_OF_KEYS = frozenset({"frame", "value", "easing", "handle_in", "handle_out"})
_OF_TRACKS = frozenset({"value", "keys", "before", "after", "driver", "wobble"})


def _key_in(data: Any, _: type) -> Key:
    data = _known(data, _OF_KEYS, "a key")
    frame = data.get("frame")
    if not isinstance(frame, int) or isinstance(frame, bool) or abs(frame) > 10_000_000:
        raise ModelError("a key's frame is a whole number")
    return Key(
        frame,
        _tuples(data.get("value")),
        Easing.from_css(str(data["easing"])) if "easing" in data else LINEAR,
        _point_in(data.get("handle_in")),
        _point_in(data.get("handle_out")),
    )


def _track_out(track: Track) -> dict[str, Any]:
    data: dict[str, Any] = {"value": _lists(track.value)}
    if track.keys:
        data["keys"] = [_key_out(key) for key in track.keys]
    for name in ("before", "after"):
        extend = getattr(track, name)
        if extend != Extend():
            data[name] = {"rule": extend.rule.value, "count": extend.count}
    if track.driver is not None:
        data["driver"] = driver_out(track.driver)
    if track.wobble is not None:
        data["wobble"] = wobble_out(track.wobble)
    return data


def _extend_in(data: Any) -> Extend:
    data = _known(data, {"rule", "count"}, "an extend rule")
    count = data.get("count", 0)
    if not isinstance(count, int) or not 0 <= count <= 1_000_000:
        raise ModelError("an extend rule's count is a whole number from 0")
    return Extend(Rule(data.get("rule", "once")), count)


_ONCE = Extend()


def _track_in(data: Any, _: type) -> Track:
    data = _known(data, _OF_TRACKS, "a property")
    if len(data) == 1 and "value" in data:  # Most are no more than a value.
        return Track(_tuples(data["value"]))
    keys = data.get("keys", [])
    if not isinstance(keys, list):
        raise ModelError("keys are a list")
    return Track(
        _tuples(data.get("value")),
        tuple(_key_in(key, Key) for key in keys),
        _extend_in(data["before"]) if "before" in data else _ONCE,
        _extend_in(data["after"]) if "after" in data else _ONCE,
        driver_in(data["driver"], _tuples) if "driver" in data else None,
        wobble_in(data["wobble"]) if "wobble" in data else None,
    )


def _properties_in(data: Any, _: type) -> dict[str, Track]:
    if not isinstance(data, dict):
        raise ModelError("properties are an object")
    return {str(name): _track_in(track, Track) for name, track in data.items()}


def _properties_out(tracks: Mapping[str, Track]) -> dict[str, Any]:
    return {name: _track_out(track) for name, track in tracks.items()}


def _pose_out(pose: Pose) -> dict[str, Any]:
    rows = [[layer, name, _lists(value)] for layer, name, value in pose.values]
    return {"name": pose.name, "values": rows, "stay": pose.stay, "between": pose.between}


def _pose_in(data: Any, _: type) -> Pose:
    data = _known(data, {"name", "values", "stay", "between"}, "a pose")
    rows = data.get("values", [])
    if not isinstance(rows, list) or not all(
        isinstance(row, list) and len(row) == 3 and isinstance(row[0], str) and isinstance(row[1], str) for row in rows
    ):
        raise ModelError("a pose's values are rows of layer, property and value")
    stay, between = (_strict_int(data.get(name, default), int) for name, default in (("stay", 6), ("between", 8)))
    values = tuple((layer, name, _tuples(value)) for layer, name, value in rows)
    return Pose(_strict_text(data.get("name", ""), str), values, stay, between)


def _rate_in(text: Any, _: type) -> Fraction:
    if not isinstance(text, str) or not re.fullmatch(r"\d{1,9}/\d{1,9}", text) or text.endswith("/0"):
        raise ModelError(f"a frame rate is written like 25/1, and {str(text)[:30]!r} is not")
    return Fraction(text)


def _strict_int(value: Any, _: type) -> int:
    if not isinstance(value, int) or isinstance(value, bool):
        raise ModelError(f"{str(value)[:40]!r} is not a whole number")
    return value


def _strict_bool(value: Any, _: type) -> bool:
    if not isinstance(value, bool):
        raise ModelError(f"{str(value)[:40]!r} is not true or false")
    return value


def _strict_text(value: Any, _: type) -> str:
    if not isinstance(value, str) or len(value) > 20_000:
        raise ModelError(f"{str(value)[:40]!r} is not a text")
    return value


_SOURCE_FIELDS = frozenset({"id", "name", "kind", "digest", "width", "height", "path", "frames", "rate", "file",
                            "linked", "made"})  # fmt: skip
MOST_FRAMES = 10_000_000


def _source_out(source: Source) -> dict[str, Any]:
    names = ("id", "name", "kind", "digest", "width", "height")
    data = {**{name: getattr(source, name) for name in names}, "path": source.path}
    if source.frames:
        data["frames"] = source.frames
    if source.rate is not None:
        data["rate"] = f"{source.rate.numerator}/{source.rate.denominator}"
    if source.file is not None:
        data["file"] = source.file
    if source.linked:
        data["linked"] = True
    if source.made is not None:
        data["made"] = _writer().unstructure(source.made)
    return data


def _source_in(data: Any, _: type) -> Source:
    data = _known(data, _SOURCE_FIELDS, "a source")
    path, digest = data.get("path"), data.get("digest")
    match = re.fullmatch(r"media/([0-9a-f]{64})(\.[a-z0-9]{2,6})", path) if isinstance(path, str) else None
    if match is None or match[1] != digest:
        raise ModelError(f"the path {str(path)[:80]!r} leads out of the project's media folder")
    sizes = [_strict_int(data.get(name), int) for name in ("width", "height")]
    if not all(0 <= size <= 20_000 for size in sizes):
        raise ModelError(f"a source of {sizes[0]} × {sizes[1]} px is too large")
    name, kind, source_id = (_strict_text(data.get(field), str) for field in ("name", "kind", "id"))
    frames = _strict_int(data.get("frames", 0), int)
    if not 0 <= frames <= MOST_FRAMES:
        raise ModelError(f"a source of {frames} frames is too long")
    rate = _rate_in(data["rate"], Fraction) if "rate" in data else None
    file = _strict_text(data["file"], str) if data.get("file") is not None else None
    kinds = [known.name for known in source_kinds()]
    if kind not in kinds or (rate is not None and rate <= 0):
        raise ModelError(f"a source is {', '.join(kinds)}, at a rate above 0")
    linked = _strict_bool(data.get("linked", False), bool)
    made = _reader().structure(data["made"], Touched) if data.get("made") is not None else None
    return Source(name, match[1], match[2], sizes[0], sizes[1], kind, source_id, frames, rate, file, linked, made=made)


#: What is converted field by field, each after those that it holds.
_KINDS: tuple[type, ...] = (
    Origin, Block, PoseStrip, Matte, Artwork, Marker, MoveUse, EdgePin, Slot, Variant, Hold, Reframing, Stroke, Touched,
    Layer, Composition, Project,
)  # fmt: skip


def _special(kind: type, **properties: Any) -> dict[str, Any]:
    """Return what is not as usual about a kind's fields: some are written even where they are at their defaults."""
    kept: dict[str, Any] = {n: override(omit_if_default=False) for n in ("id", "loop") if hasattr(kind, n)}
    return {**kept, "properties": override(**properties)} if kind is Layer else kept


@cache
def _writer() -> Converter:
    """Return what writes. It is made at its first use, as that compiles a function for each kind."""
    converter = Converter()
    converter.register_unstructure_hook(Fraction, lambda rate: f"{rate.numerator}/{rate.denominator}")
    converter.register_unstructure_hook(Source, _source_out)
    converter.register_unstructure_hook(Track, _track_out)
    converter.register_unstructure_hook(Pose, _pose_out)
    for kind in _KINDS:
        special = _special(kind, unstruct_hook=_properties_out)
        made: Any = make_dict_unstructure_fn(kind, converter, _cattrs_omit_if_default=True, **special)
        converter.register_unstructure_hook(kind, made)
    return converter


@cache
def _reader() -> Converter:
    """Return what reads, strictly: no field may be unknown, and nothing is taken for what it is not."""
    converter = Converter()
    converter.register_structure_hook(Fraction, _rate_in)
    converter.register_structure_hook(int, _strict_int)
    converter.register_structure_hook(bool, _strict_bool)
    converter.register_structure_hook(str, _strict_text)
    converter.register_structure_hook(str | None, lambda value, _: None if value is None else _strict_text(value, str))
    converter.register_structure_hook(Source, _source_in)
    converter.register_structure_hook(Track, _track_in)
    converter.register_structure_hook(Pose, _pose_in)
    for kind in _KINDS:
        special = _special(kind, struct_hook=_properties_in)
        made: Any = make_dict_structure_fn(kind, converter, _cattrs_forbid_extra_keys=True, **special)
        converter.register_structure_hook(kind, made)
    return converter


def to_json(project: Project) -> dict[str, Any]:
    """Return the project as plain JSON values, without the sources' bytes."""
    data = _writer().unstructure(project)
    return {"format": "spiralis", "version": VERSION, "name": project.name, **data}


def from_json(data: dict[str, Any], name: str) -> Project:
    """Return the project that plain JSON values of the current version describe.

    Raises:
        ProjectFileError: one sentence that names the place and what is wrong there.
    """
    fields = {key: value for key, value in data.items() if key not in ("format", "version")}
    try:
        return _reader().structure(fields, Project)
    except BaseValidationError as error:
        first = transform_error(error, path="project", format_exception=_reason)[0]
        raise ProjectFileError(f"“{name}” is damaged: {first.rstrip('.')}; open an earlier copy of it.") from error
    except SpiralisError as error:
        raise ProjectFileError(f"“{name}” is damaged: {str(error).rstrip('.')}; open an earlier copy of it.") from error


def _reason(error: BaseException, _: type | None) -> str:
    if isinstance(error, KeyError) and not isinstance(error, SpiralisError):
        return f"the field {error.args[0]!r} is missing"
    return str(error).rstrip(".") or type(error).__name__
