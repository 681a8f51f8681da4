"""Frozen value objects: project, compositions, layers, tracks, keys."""

import spiralis.core.model.making  # noqa: F401  Before the first class is made.
from spiralis.core.model.edge_pins import EdgePin
from spiralis.core.model.history import History, Version
from spiralis.core.model.kinds import BLEND_MODES, LayerKind, layer_kind, layer_kinds, register_kind
from spiralis.core.model.layer import Layer, Matte, Origin, new_id
from spiralis.core.model.moves import MoveUse
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.model.project import Artwork, Composition, Marker, Project, check_format
from spiralis.core.model.source import Source
from spiralis.core.model.track import Extend, Key, Rule, Track

__all__ = [
    "BLEND_MODES",
    "Artwork",
    "Composition",
    "EdgePin",
    "Extend",
    "History",
    "Key",
    "Kind",
    "Layer",
    "LayerKind",
    "Marker",
    "Matte",
    "MoveUse",
    "Origin",
    "Parameter",
    "Project",
    "Rule",
    "Source",
    "Track",
    "Value",
    "Version",
    "check_format",
    "layer_kind",
    "layer_kinds",
    "new_id",
    "register_kind",
]  # fmt: skip
