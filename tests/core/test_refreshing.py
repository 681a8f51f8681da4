"""Refreshing a layered file: what matches is said first, and motion survives."""

from __future__ import annotations

import unittest
from collections.abc import Iterator

import numpy as np
from attrs import evolve

from spiralis.core.editing.arranging import seen_box
from spiralis.core.editing.artwork import as_composition, replace_content
from spiralis.core.editing.reformat import cropped, reformatted
from spiralis.core.editing.refreshing import RefreshReport, apply_refresh, refresh_report
from spiralis.core.media.layered_files import layers_of
from spiralis.core.model import Composition, Key, Layer, Project, Track
from spiralis.core.render import render_frame
from spiralis.core.render.layers import Evaluated
from tests.core.drawings import svg

FILE = "/art/logo.svg"
BEFORE = (
    '<rect id="Ground" width="200" height="160" fill="#eee"/><g id="Wheel"><circle id="Tyre" cx="60" cy="80" r="30"/>'
    '<circle id="Hub" cx="60" cy="80" r="8" fill="#f00"/></g><path id="Sail" d="M120 20h40v60z" fill="#08f"/>'
)


def read(body: str):  # type: ignore[no-untyped-def]
    return layers_of(svg(body), "logo.svg")


def laid_out(body: str = BEFORE) -> tuple[Project, Composition]:
    return as_composition(Project(), read(body), FILE)


def named(piece: Composition, name: str) -> Layer:
    return next(layer for layer in piece.layers if layer.name == name)


def states(report: RefreshReport) -> dict[str, str]:
    return {match.name: match.state for match in report.matches}


class ReportTest(unittest.TestCase):
    def test_the_same_file_changes_nothing(self) -> None:
        project, piece = laid_out()
        report = refresh_report(project, read(BEFORE), FILE)
        self.assertEqual(set(states(report).values()), {"same"})
        again = apply_refresh(project, report)
        np.testing.assert_array_equal(render_frame(again, piece.id, 0), render_frame(project, piece.id, 0))

    def test_each_state_is_told_before_anything_happens(self) -> None:
        project, _ = laid_out()
        changed = (
            BEFORE.replace('fill="#08f"', 'fill="#0c4"').replace('r="8"', 'r="12"').replace('id="Ground"', 'id="Sky"')
            + '<rect id="New" x="5" y="5" width="9" height="9"/>'
        )
        report = refresh_report(project, read(changed), FILE)
        self.assertEqual(
            states(report),
            {"Sail": "changed", "Wheel": "same", "Tyre": "same", "Hub": "resized", "Ground": "missing", "Sky": "new",
             "New": "new"},
        )  # fmt: skip

    def test_a_renamed_layer_is_matched_by_hand(self) -> None:
        project, piece = laid_out()
        changed = read(BEFORE.replace('id="Ground"', 'id="Sky"').replace("#eee", "#ddd"))
        ground = named(piece, "Ground")
        report = refresh_report(project, changed, FILE, {ground.id: "Sky"})
        self.assertEqual(states(report)["Ground"], "changed")
        done = apply_refresh(project, report).composition(piece.id)
        again = done.layer(ground.id)
        self.assertEqual((again.name, again.origin.key if again.origin else ""), ("Ground", "Sky"))
        self.assertEqual(len(done.layers), 3)


class ApplyTest(unittest.TestCase):
    def test_motion_parents_and_look_stay_while_the_content_changes(self) -> None:
        project, piece = laid_out()
        sail = named(piece, "Sail")
        x, y = sail.track("position").value
        moving = Track((x, y), (Key(0, (x, y)), Key(50, (x + 30, y - 10))))
        kept = evolve(sail.with_track("position", moving).with_values(opacity=40.0), parent=named(piece, "Ground").id)
        project = project.with_composition(piece.with_layer(kept))
        # The sail is drawn 12 px further right and in another colour.
        fresh = read(BEFORE.replace("M120 20h40v60z", "M132 20h40v60z").replace("#08f", "#0c4"))
        report = refresh_report(project, fresh, FILE)
        self.assertEqual(states(report)["Sail"], "changed")
        done = apply_refresh(project, report).composition(piece.id).layer(sail.id)
        self.assertEqual([key.frame for key in done.track("position").keys], [0, 50])
        np.testing.assert_allclose(done.track("position").keys[1].value, (x + 42, y - 10), atol=1e-6)
        self.assertEqual((done.track("opacity").value, done.parent), (40.0, kept.parent))
        self.assertNotEqual(done.track("art").value, sail.track("art").value)

    def test_after_refreshing_it_looks_like_the_file(self) -> None:
        changed = (
            BEFORE.replace('cx="60" cy="80" r="30"', 'cx="70" cy="90" r="44"').replace("M120 20h40", "M100 30h70")
            + '<rect id="New" x="5" y="5" width="30" height="9" fill="#909"/>'
        )
        project, piece = laid_out()
        done = apply_refresh(project, refresh_report(project, read(changed), FILE))
        fresh, other = laid_out(changed)
        np.testing.assert_allclose(render_frame(done, piece.id, 0), render_frame(fresh, other.id, 0), atol=1e-6)

    def test_new_layers_come_where_they_lie_in_the_file_and_missing_ones_may_go(self) -> None:
        changed = read(
            '<rect id="Ground" width="200" height="160" fill="#eee"/><rect id="Middle" width="9" height="9"/>'
            '<path id="Sail" d="M120 20h40v60z" fill="#08f"/>'
        )
        project, piece = laid_out()
        report = refresh_report(project, changed, FILE)
        kept = apply_refresh(project, report).composition(piece.id)
        self.assertEqual([layer.name for layer in kept.layers], ["Sail", "Middle", "Wheel", "Ground"])
        gone = apply_refresh(project, report, keep_missing=False, add_new=False).composition(piece.id)
        self.assertEqual([layer.name for layer in gone.layers], ["Sail", "Ground"])

    def test_a_larger_document_makes_a_larger_piece(self) -> None:
        project, piece = laid_out()
        large = layers_of(svg(BEFORE, 'width="300" height="200"'), "logo.svg")
        report = refresh_report(project, large, FILE)
        self.assertEqual(report.resized, (300, 200))
        done = apply_refresh(project, report).composition(piece.id)
        self.assertEqual((done.width, done.height), (300, 200))


class ReplaceTest(unittest.TestCase):
    def test_content_is_replaced_and_fitted_and_the_format_stays(self) -> None:
        project, piece = laid_out()
        wide = layers_of(svg('<rect id="Only" width="400" height="100"/>', 'width="400" height="100"'), "wide.svg")
        done = replace_content(project, piece, wide, "/art/wide.svg").composition(piece.id)
        self.assertEqual((done.width, done.height, [y.name for y in done.layers]), (200, 160, ["Only"]))
        self.assertEqual(done.layers[0].track("position").value, (100.0, 80.0))
        self.assertEqual(done.layers[0].track("scale").value, (50.0, 50.0))


class FormatTest(unittest.TestCase):
    """A piece that was laid out from a file and has another format since: refreshing keeps it."""

    CHANGED = BEFORE.replace("M120 20", "M130 26") + '<rect id="New" x="50" y="20" width="40" height="10"/>'

    def seen(self, project: Project, piece: Composition, name: str) -> np.ndarray:
        return np.array(seen_box(Evaluated(project, piece, 0.0), named(piece, name)))

    def refreshed(self, project: Project, body: str) -> Project:
        return apply_refresh(project, refresh_report(project, read(body), FILE))

    def pieces(self) -> Iterator[tuple[Project, Composition, float, tuple[float, float]]]:
        """Yield a piece in several formats, with how large and where the file lies in it."""
        project, piece = laid_out()
        for width, height, scales, by in ((400, 320, "fit", 2.0), (300, 160, "keep", 1.0), (100, 320, "cover", 2.0)):
            made = reformatted(piece, width, height, piece.rate, piece.length, scales)
            corner = ((width - by * piece.width) / 2, (height - by * piece.height) / 2)
            yield project.with_composition(made), made, by, corner
        cut = cropped(piece, (20.0, 10.0, 180.0, 150.0))
        yield project.with_composition(cut), cut, 1.0, (-20.0, -10.0)
        frame = Composition("Frame", 500, 200, piece.rate, piece.length, id=piece.id)
        put = replace_content(Project(compositions=(frame,)), frame, read(BEFORE), FILE)
        yield put, put.composition(piece.id), 1.25, (125.0, 0.0)

    def test_the_format_stays_and_parts_lie_where_the_file_says(self) -> None:
        for project, piece, by, corner in self.pieces():
            with self.subTest(size=(piece.width, piece.height)):
                self.assertIsNone(refresh_report(project, read(self.CHANGED), FILE).resized)
                done = self.refreshed(project, self.CHANGED)
                made = done.composition(piece.id)
                self.assertEqual((piece.width, piece.height), (made.width, made.height))
                plain, flat = laid_out(self.CHANGED)
                for name in ("Sail", "New", "Ground", "Wheel"):
                    wanted = by * self.seen(plain, flat, name) + np.array([*corner, *corner])
                    np.testing.assert_allclose(wanted, self.seen(done, made, name), atol=0.01, err_msg=name)
                again = self.refreshed(done, self.CHANGED)
                self.assertEqual(made.layers, again.composition(piece.id).layers)
