"""Moves: ready-made entrances, loops and exits, one file each, that are written as ordinary keys."""

from spiralis.core.moves.base import FAMILIES, MOVES, Move, Point, Room, between, move, moves, points_of
from spiralis.core.registry import import_files

import_files(__name__)

__all__ = ["FAMILIES", "MOVES", "Move", "Point", "Room", "between", "move", "moves", "points_of"]
