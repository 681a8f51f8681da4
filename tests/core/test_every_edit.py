"""Edits that keep what is seen, and those that close loops, tried on pieces with layers of all kinds."""

from __future__ import annotations

import random
import unittest
from collections.abc import Callable
from fractions import Fraction

import numpy as np
from attrs import evolve

from spiralis.core.checks.piece import check_piece
from spiralis.core.checks.seam import mended_all
from spiralis.core.editing.arranging import flipped
from spiralis.core.editing.carrying import on_carrier
from spiralis.core.editing.duplicating import duplicated
from spiralis.core.editing.edits import toggle_key
from spiralis.core.editing.keys import KeyRef, keys_moved, keys_reversed
from spiralis.core.editing.linking import baked, with_driver, with_wobble
from spiralis.core.editing.looping import loop_closed
from spiralis.core.editing.moving import taken_apart, with_move, without_move
from spiralis.core.editing.nesting import nest, open_up
from spiralis.core.editing.pasting import put_in, taken_out
from spiralis.core.editing.reformat import reformatted
from spiralis.core.editing.reframing import add_format
from spiralis.core.editing.removing import removed
from spiralis.core.editing.rounds import with_rounds_written
from spiralis.core.editing.separating import position_switched
from spiralis.core.editing.spans import split
from spiralis.core.errors import SpiralisError
from spiralis.core.model import Composition, Extend, MoveUse, Project, Rule, layer_kind
from spiralis.core.model.drivers import Follow, Wobble
from spiralis.core.model.references import dependents, with_all_needed
from spiralis.core.moves import FAMILIES, moves
from spiralis.core.render import render_frame
from spiralis.core.render.layers import Evaluated
from spiralis.core.storage.project_file import packed, unpacked
from tests.core.zoo import LENGTH, zoo

PIECES, FRAMES, HERE = 16, (0, 8, 9, 33, 49), 9
#: An edit of some layers of a piece at the frame HERE.
Edit = Callable[[Project, Composition, list[str]], Project]


def _split(project: Project, piece: Composition, ids: list[str]) -> Project:
    return project.with_composition(split(Evaluated(project, piece, HERE), ids, HERE)[0])


def _carrier(project: Project, piece: Composition, ids: list[str]) -> Project:
    return project.with_composition(on_carrier(project, piece, ids, HERE, "Carrier")[0])


def _apart(project: Project, piece: Composition, ids: list[str]) -> Project:
    return project.with_composition(position_switched(piece, ids, True)[0])


def _copied_and_copies_deleted(project: Project, piece: Composition, ids: list[str]) -> Project:
    more, made = duplicated(piece, ids)
    return project.with_composition(removed(project, more, made, HERE).piece)


def _cut_and_pasted(project: Project, piece: Composition, ids: list[str]) -> Project:
    held = unpacked(packed(taken_out(project, piece.id, [layer.id for layer in piece.layers])), "the clipboard")
    return put_in(project.with_composition(evolve(piece, layers=())), piece.id, held, 0).project


def _nested_and_opened(project: Project, piece: Composition, ids: list[str]) -> Project:
    made, chosen = nest(project, piece.id, _tied_to(piece, ids[:1]), "Nest", False)
    return open_up(made, piece.id, chosen if isinstance(chosen, str) else next(iter(chosen)))[0]


def _tied_to(piece: Composition, ids: list[str]) -> list[str]:
    """Return the layers with all that they need, and all that needs them."""
    found, more = set[str](), set(ids)
    while more != found:
        found = more
        more = with_all_needed(piece, found)
        more = more | {tie.owner for tie in dependents(piece, more)}
    return [layer.id for layer in piece.layers if layer.id in found]


def _other_format_and_back(project: Project, piece: Composition, ids: list[str]) -> Project:
    there = reformatted(piece, 800, 600, piece.rate, LENGTH, "fit", "frames")
    back = reformatted(there, piece.width, piece.height, piece.rate, LENGTH, "fit", "frames")
    return project.with_composition(back)


def _other_rate_and_back(project: Project, piece: Composition, ids: list[str]) -> Project:
    there = reformatted(piece, piece.width, piece.height, Fraction(50), 2 * LENGTH, "keep", "seconds")
    back = reformatted(there, piece.width, piece.height, piece.rate, LENGTH, "keep", "seconds")
    return project.with_composition(back)


def _stretched_and_back(project: Project, piece: Composition, ids: list[str]) -> Project:
    there = reformatted(piece, piece.width, piece.height, piece.rate, 2 * LENGTH, "keep", "stretch")
    back = reformatted(there, piece.width, piece.height, piece.rate, LENGTH, "keep", "stretch")
    return project.with_composition(back)


def _apart_and_together(project: Project, piece: Composition, ids: list[str]) -> Project:
    apart = position_switched(piece, ids, True)[0]
    return project.with_composition(position_switched(apart, ids, False)[0])


def _flipped_twice(project: Project, piece: Composition, ids: list[str]) -> Project:
    return project.with_composition(piece.with_layer(flipped(flipped(piece.layer(ids[0]), 0), 0)))


def _with_keys_in_between(project: Project, piece: Composition, ids: list[str]) -> Project:
    for layer in piece.layers:
        for name in layer.animated():
            track = layer.track(name)
            if track.index_at(HERE) is None:
                held = piece.layer(layer.id)
                piece = piece.with_layer(toggle_key(held, name, HERE, track.keys[0].easing))
    return project.with_composition(piece)


def _keys_there_and_back(project: Project, piece: Composition, ids: list[str]) -> Project:
    away, landed = keys_moved(piece, _keys(piece), 7, False)
    return project.with_composition(keys_moved(away, landed, -7, False)[0])


def _keys_reversed_twice(project: Project, piece: Composition, ids: list[str]) -> Project:
    back, landed = keys_reversed(piece, _keys(piece))
    return project.with_composition(keys_reversed(back, landed)[0])


def _keys(piece: Composition) -> frozenset[KeyRef]:
    return frozenset(KeyRef(y.id, n, key.frame) for y in piece.layers for n in y.animated() for key in y.track(n).keys)


def _moved_and_not(project: Project, piece: Composition, ids: list[str]) -> Project:
    flat = [move for family in FAMILIES for move in moves(family) if not move.in_depth]
    chosen = random.Random(str(ids)).choice(flat)
    moved = with_move(project, piece, piece.layer(ids[0]), MoveUse(chosen.name, 2, 12))
    made = piece.with_layer(moved)
    gone = without_move(project.with_composition(made), made, moved, len(moved.moves) - 1)
    return project.with_composition(made.with_layer(gone))


EDITS: tuple[Edit, ...] = (
    _split, _carrier, _apart, _copied_and_copies_deleted, _cut_and_pasted, _nested_and_opened, _other_format_and_back,
    _other_rate_and_back, _stretched_and_back, _apart_and_together, _flipped_twice, _with_keys_in_between,
    _keys_there_and_back, _keys_reversed_twice, _moved_and_not,
)  # fmt: skip

#: An edit, and another after it that says the same in other words.
Pair = Callable[[Composition, list[str]], tuple[Composition, Composition]]


def _wobble_baked(piece: Composition, ids: list[str]) -> tuple[Composition, Composition]:
    wobbling = piece.with_layer(with_wobble(piece.layer(ids[0]), "rotation", Wobble(20.0, 2.0, 3, 2)))
    return wobbling, baked(wobbling, ids[0], "rotation")


def _follow_baked(piece: Composition, ids: list[str]) -> tuple[Composition, Composition]:
    following = piece.with_layer(with_driver(piece.layer(ids[0]), "rotation", Follow(ids[1], "rotation", gain=2.0)))
    return following, baked(following, ids[0], "rotation")


def _move_taken_apart(piece: Composition, ids: list[str]) -> tuple[Composition, Composition]:
    use = MoveUse(next(iter(moves("entrance"))).name, 2, 12)
    layer = with_move(Project("P", (piece,)), piece, piece.layer("dot"), use)
    return piece.with_layer(layer), piece.with_layer(taken_apart(layer, 0))


def _rounds_written(piece: Composition, ids: list[str]) -> tuple[Composition, Composition]:
    ruled = written = piece
    for layer in piece.layers:
        for name in layer.animated():
            rule = random.Random(layer.id + name).choice((Rule.REPEAT, Rule.ACCUMULATE, Rule.PING_PONG))
            track = evolve(layer.track(name), after=Extend(rule))
            longer = with_rounds_written(track, layer.parameter(name), LENGTH - 1)
            ruled = ruled.with_layer(ruled.layer(layer.id).with_track(name, track))
            written = written.with_layer(written.layer(layer.id).with_track(name, longer))
    return ruled, written


PAIRS: tuple[Pair, ...] = (_wobble_baked, _follow_baked, _move_taken_apart, _rounds_written)


class EveryEditTest(unittest.TestCase):
    def test_what_is_seen_stays(self) -> None:
        done = dict.fromkeys((edit.__name__ for edit in EDITS), 0)
        for seed in range(PIECES):
            project = zoo(seed)
            piece = project.compositions[0]
            before = [render_frame(project, piece.id, frame, 0.25) for frame in FRAMES]
            shown = [layer.id for layer in piece.layers[:-1] if not layer_kind(layer.kind).unseen]
            for edit in EDITS:
                chosen = random.Random(f"{seed}{edit.__name__}").sample(shown, 2)
                ids = [layer.id for layer in piece.layers if layer.id in chosen]
                with self.subTest(edit.__name__, seed=seed, ids=ids):
                    try:
                        made = edit(project, piece, ids)
                    except SpiralisError:
                        continue  # It is refused, in a sentence.
                    done[edit.__name__] += 1
                    for frame, seen in zip(FRAMES, before, strict=True):
                        now = render_frame(made, piece.id, frame, 0.25)
                        self.assertLess(float(np.abs(now - seen).max()), 4 / 255, f"frame {frame}")
        self.assertGreater(min(done.values()), PIECES // 2, done)

    def test_what_is_said_in_other_words_is_seen_alike(self) -> None:
        done = dict.fromkeys((pair.__name__ for pair in PAIRS), 0)
        for seed in range(PIECES):
            project = zoo(seed)
            piece = project.compositions[0]
            shown = [layer.id for layer in piece.layers[:-1] if not layer_kind(layer.kind).unseen]
            for pair in PAIRS:
                ids = random.Random(f"{seed}{pair.__name__}").sample(shown, 2)
                with self.subTest(pair.__name__, seed=seed, ids=ids):
                    try:
                        one, other = pair(piece, ids)
                    except SpiralisError:
                        continue
                    done[pair.__name__] += 1
                    for frame in FRAMES:
                        seen = [render_frame(project.with_composition(p), piece.id, frame, 0.25) for p in (one, other)]
                        self.assertLess(float(np.abs(seen[0] - seen[1]).max()), 4 / 255, f"frame {frame}")
        self.assertGreater(min(done.values()), PIECES // 2, done)

    def test_every_thread_closes(self) -> None:
        for seed in range(PIECES):
            piece = zoo(seed).compositions[0]
            for layer in piece.layers:
                for name in layer.animated():
                    parameter = layer.parameter(name)
                    for smooth in (False, True):
                        closed = loop_closed(piece, [(layer.id, name)], smooth)
                        keys = closed.layer(layer.id).track(name).keys
                        self.assertEqual(LENGTH, keys[-1].frame)
                        at = Evaluated(zoo(seed), closed, 0)
                        first = at.values(closed.layer(layer.id))[name]
                        if parameter.numeric and parameter.kind.name in ("NUMBER", "PAIR"):
                            apart = parameter.apart(first, keys[-1].value)
                            self.assertLess(float(np.abs(apart).max()), 1e-6, (seed, layer.kind, name))

    def test_loops_are_mended_pieces_checked_and_shown_in_other_formats(self) -> None:
        for seed in range(PIECES):
            project = zoo(seed)
            with self.subTest(seed=seed):
                made, done, problems = mended_all(project, "zoo")
                self.assertEqual(bool(done), made is not project)
                self.assertTrue(all(sentence.endswith(".") for sentence in problems))
                check_piece(project, project.compositions[0], drawn=False)
                for width, height in ((480, 640), (300, 300)):
                    formed, piece = add_format(project, "zoo", width, height)
                    seen = render_frame(formed, piece, HERE, 0.25)
                    self.assertEqual((height // 4, width // 4), seen.shape[:2])
                    self.assertTrue(np.isfinite(seen).all())


if __name__ == "__main__":
    unittest.main()
