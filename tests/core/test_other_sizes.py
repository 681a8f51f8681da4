"""The demo's pieces twice as large, as a format twice as large, and at twice the rate: the same pictures."""

from __future__ import annotations

import unittest

import numpy as np

from spiralis.core.editing.reformat import reformatted, retimed
from spiralis.core.editing.reframing import add_format
from spiralis.core.render.frame import render_frame
from spiralis.demo.stored import stored_demo

_PIXELS = 120


class OtherSizesTest(unittest.TestCase):
    def test_every_piece_looks_the_same(self) -> None:
        project = stored_demo()
        inner = {nested for piece in project.compositions for nested in piece.nested}
        for piece in project.compositions:
            if piece.id in inner or piece.follows is not None:
                continue
            frame, scale = piece.length // 3, _PIXELS / max(piece.width, piece.height)
            wanted = render_frame(project, piece.id, frame, scale)
            width, height = 2 * piece.width, 2 * piece.height
            large = reformatted(piece, width, height, piece.rate, piece.length, "fit")
            format_of, made = add_format(project, piece.id, width, height)
            for what, changed, name, at, fine in (
                ("larger", project.with_composition(large), piece.id, frame, scale / 2),
                ("a format", format_of, made, frame, scale / 2),
                ("faster", project.with_composition(retimed(piece, 2 * piece.rate)), piece.id, 2 * frame, scale),
            ):
                with self.subTest(piece.name, what=what):
                    seen = render_frame(changed, name, at, fine)
                    self.assertLess(float(np.abs(seen - wanted).mean()), 2e-3)
                    # At the double rate the shutter is open for half the time.
                    if what != "faster":
                        self.assertLess(float(np.abs(seen - wanted).max()), 0.2)
