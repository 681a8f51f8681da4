"""Moves: ready-made entrances, loops and exits, one file each, that are written as ordinary keys."""

from importlib import import_module
from pkgutil import iter_modules

from spiralis.core.moves.base import FAMILIES, MOVES, Move, Point, Room, between, move, moves, points_of

for _module in sorted(info.name for info in iter_modules(__path__)):
    import_module(f"{__name__}.{_module}")

__all__ = ["FAMILIES", "MOVES", "Move", "Point", "Room", "between", "move", "moves", "points_of"]
