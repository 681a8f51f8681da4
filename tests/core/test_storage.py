"""The project file: there and back, the schema, and every kind of bad input."""

import json
import os
import stat
import tempfile
import unittest
import zipfile
from fractions import Fraction
from io import BytesIO
from pathlib import Path
from unittest import mock

import jsonschema
import numpy as np
from attrs import evolve, fields
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from PIL import Image

from spiralis.core.animation.easing import HOLD, CubicBezier, Steps
from spiralis.core.contents import contents_of
from spiralis.core.editing.sources import linked
from spiralis.core.errors import ProjectFileError
from spiralis.core.media.exporters import ExportJob, export, exporters
from spiralis.core.media.sources import read_source
from spiralis.core.model import Composition, EdgePin, Extend, Key, Layer, Marker, MoveUse, Project, Rule, Track
from spiralis.core.model.drivers import DialJoin, Follow, Roll, Wobble
from spiralis.core.model.poses import Pose, PoseStrip
from spiralis.core.model.reframing import Hold, Reframing
from spiralis.core.model.slots import Slot, Variant
from spiralis.core.model.touching import Touched
from spiralis.core.storage import load, migrations, save
from spiralis.core.storage.conversion import from_json, to_json
from spiralis.core.storage.recovery import Journal, left_behind
from spiralis.core.storage.summary import summary
from spiralis.core.storage.versions import keep_version, versions
from spiralis.demo.project import demo_project
from tests.core.samples import backdrop, piece, png_bytes, project, square_source

SCHEMA = Path(__file__).parents[2] / "docs" / "project.schema.json"


def hundredths(low: int, high: int) -> st.SearchStrategy[float]:
    """Numbers that CSS text keeps exactly."""
    return st.integers(low, high).map(lambda value: value / 100)


easings = st.one_of(
    st.just(HOLD),
    st.builds(Steps, st.integers(2, 9), st.sampled_from(["start", "end", "jump-none", "jump-both"])),
    st.builds(CubicBezier, hundredths(0, 100), hundredths(-99, 199), hundredths(0, 100), hundredths(-99, 199)),
)
pairs = st.tuples(st.floats(-5000, 5000), st.floats(-5000, 5000))
extends = st.builds(Extend, st.sampled_from(list(Rule)), st.integers(0, 9))
keys = st.lists(
    st.builds(Key, st.integers(-100, 400), pairs, easings, st.none() | pairs, st.none() | pairs),
    max_size=6,
    unique_by=lambda key: key.frame,
)
tracks = st.builds(Track, pairs, keys.map(tuple), extends, extends)


class ThereAndBackTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))

    def test_the_demo_comes_back_equal(self) -> None:
        demo = demo_project()
        save(demo, self.folder / "demo.spiralis")
        again = load(self.folder / "demo.spiralis")
        self.assertEqual(again, demo)
        self.assertEqual([s.data for s in again.sources], [s.data for s in demo.sources])

    def test_a_link_stays_a_link_and_who_may_read_a_file_still_may(self) -> None:
        real, linked_ = self.folder / "real", self.folder / "links"
        real.mkdir()
        linked_.mkdir()
        first, second = (project(backdrop(8, 8, (red, 0.0, 0.0, 1.0)), length=4) for red in (0.2, 0.7))
        for mode in (0o660, 0o600):
            file, link = real / f"{mode:o}.spiralis", linked_ / f"{mode:o}.spiralis"
            save(first, file)
            file.chmod(mode)
            link.symlink_to(Path("..") / "real" / file.name)
            save(second, link)
            self.assertTrue(link.is_symlink())
            self.assertEqual((second, mode), (load(file), stat.S_IMODE(file.stat().st_mode)))
            with mock.patch("os.chown", side_effect=PermissionError):  # It is of a group that one is not in.
                save(first, file)
            self.assertEqual(mode, stat.S_IMODE(file.stat().st_mode))
        leads_nowhere = linked_ / "new.spiralis"
        leads_nowhere.symlink_to(real / "new.spiralis")
        save(first, leads_nowhere)
        self.assertEqual(first, load(real / "new.spiralis"))
        for kind in exporters():
            if not kind.many_files:
                out = linked_ / f"{kind.name}{kind.suffix}"
                out.symlink_to(real / out.name)
                self.assertEqual(out, export(kind, ExportJob(first, first.compositions[0].id, out, 0, 2)).path)
                self.assertTrue(out.is_symlink() and (real / out.name).stat().st_size > 0, kind.name)
        self.assertEqual([], list(self.folder.rglob(".*")), "nothing half written is left")

    def test_a_pipe_is_not_waited_for(self) -> None:
        pipe = self.folder / "pipe.spiralis"
        os.mkfifo(pipe)
        self.assertIsNone(contents_of(pipe))
        with self.assertRaisesRegex(ProjectFileError, "a device or a pipe"):
            load(pipe)

    def test_names_of_files_may_hold_any_bytes(self) -> None:
        # As they come out of archives of other systems: “Größe” in Latin-1, which is no UTF-8.
        folder = self.folder / os.fsdecode(b"Gr\xf6\xdfe")
        folder.mkdir()
        picture = folder / os.fsdecode(b"M\xf6we\n\x01 \\.png")
        picture.write_bytes(png_bytes(np.full((8, 8, 4), 255, np.uint8)))
        source = read_source(picture)
        self.assertEqual("M\ufffdwe\ufffd\ufffd \\.png", source.name)
        words = Layer("Words", "text", 0, 10).with_values(text="a\udcf6b")
        shown = Layer("Shown", "picture", 0, 10).with_values(source=source.id)
        made = linked(project(words, shown, sources=(source,), length=10), folder)
        file = folder / os.fsdecode(b"St\xfcck.spiralis")
        save(made, file)
        again = load(file)
        self.assertEqual((made, source.data), (again, again.sources[0].data))
        self.assertTrue(again.sources[0].linked)
        with zipfile.ZipFile(file) as archive:
            for name in ("project.json", "contents.json"):
                json.loads(archive.read(name).decode("utf-8"))
        keep_version(file, again, "a test", None)
        self.assertEqual([words], [load(version.path).compositions[0].layers[0] for version in versions(file, again)])
        for kind in exporters():
            with self.subTest(kind=kind.name):
                out = folder / f"{kind.name}{os.fsdecode(bytes([0xf6]))}{kind.suffix}"
                self.assertTrue(export(kind, ExportJob(again, again.compositions[0].id, out, 0, 2)).path.exists())

    @settings(suppress_health_check=[HealthCheck.differing_executors])
    @given(tracks, st.booleans(), st.text(min_size=1, max_size=20), st.integers(1, 20_000), st.integers(1, 20_000))
    def test_any_track_and_name_comes_back(
        self, track: Track, locked: bool, name: str, width: int, height: int
    ) -> None:
        layer = Layer(name, "text", -3, 9, locked=locked).with_track("position", track)
        sample = Project(name, (Composition(name, width, height, Fraction(30000, 1001), 7, layers=(layer,)),))
        text = json.dumps(to_json(sample))
        self.assertEqual(from_json(json.loads(text), "x"), sample)

    def test_the_file_is_a_zip_that_says_what_it_is(self) -> None:
        save(project(backdrop(64, 48, (1, 0, 0, 1))), self.folder / "a.spiralis")
        with zipfile.ZipFile(self.folder / "a.spiralis") as archive:
            first = archive.infolist()[0]
            self.assertEqual((first.filename, first.compress_type), ("mimetype", zipfile.ZIP_STORED))
            self.assertIn("thumbnail.png", archive.namelist())
            data = json.loads(archive.read("project.json"))
        self.assertEqual((data["format"], data["version"]), ("spiralis", migrations.VERSION))

    def test_the_text_is_plain_json_in_the_order_of_the_fields(self) -> None:
        for sample in (demo_project(), Project("Ümlaut “x”", (Composition("Bare", 8, 8, Fraction(25), 2),))):
            save(sample, self.folder / "a.spiralis", b"")
            with zipfile.ZipFile(self.folder / "a.spiralis") as archive:
                text = archive.read("project.json").decode()
            self.assertEqual(text, json.dumps(json.loads(text), ensure_ascii=False, separators=(",", ":")))
            self.assertEqual(load(self.folder / "a.spiralis"), sample)

    def test_its_picture_keeps_colours_where_it_is_see_through(self) -> None:
        half = backdrop(900, 600, (1.0, 0.0, 0.0, 1.0)).with_values(opacity=50.0)
        edge = Layer("Edge", "shape", 0, 20).with_values(
            form="ellipse", size=(500.0, 600.0), fill=(0.0, 1.0, 0.0, 1.0), position=(250.0, 300.0)
        )
        for layer, places in ((half, {(10, 10): (255, 0, 0, 128)}), (edge, {(89, 107): (0, 255, 0, 255)})):
            save(project(layer, width=900, height=600), self.folder / "a.spiralis")
            with zipfile.ZipFile(self.folder / "a.spiralis") as archive:
                picture = Image.open(BytesIO(archive.read("thumbnail.png")))
            self.assertEqual((picture.mode, max(picture.size)), ("RGBA", 320))
            for place, colour in places.items():
                self.assertEqual(picture.getpixel(place), colour)
            # Between what is there and what is clear colours fade out, and never become darker.
            seen = np.asarray(picture).reshape(-1, 4)
            seen = seen[seen[:, 3] > 8].astype(int)
            self.assertGreaterEqual(seen[:, :3].max(axis=1).min(), 230)

    def test_the_schema_describes_what_is_written(self) -> None:
        schema = json.loads(SCHEMA.read_text(encoding="utf-8"))
        validator = jsonschema.Draft202012Validator(schema)
        validator.check_schema(schema)
        plain = json.dumps(to_json(demo_project()))
        validator.validate(json.loads(plain))
        broken = json.loads(plain)
        broken["compositions"][0]["width"] = 0
        self.assertFalse(validator.is_valid(broken))

    def test_the_schema_knows_every_field(self) -> None:
        schema = json.loads(SCHEMA.read_text(encoding="utf-8"))
        wobble = Wobble(4.0, 2.0, 3, 2)
        shape = evolve(
            Layer(
                "Shape",
                "shape",
                0,
                20,
                id="shape",
                moves=(MoveUse("spin", 2, 8, 80.0, 180.0, 40.0, 2, "words"),),
                solo=True,
                folded=True,
                tint="rose",
                reference=True,
                slots=(Slot("Look", "opacity", "How clear", 3, 1.5, ("a",), "cover", (3.0, 4.0), 5.0),),
            ),
            properties={
                "rotation": Track(0.0, driver=Follow("dial", "value", 2.0, 1.0, 3.0, 0.0, 90.0, 0, 0)),
                "opacity": Track(50.0, driver=DialJoin("dial", ((0.0, 0.0), (100.0, 100.0))), wobble=wobble),
                "position": Track((1.0, 2.0), wobble=wobble),
            },
        )
        roll = Layer("Wheel", "shape", 0, 20, id="wheel", edge_pins=(EdgePin("left", "right", "shape", 4.0),))
        roll = roll.with_track("rotation", Track(0.0, driver=Roll(20.0, "shape")))
        dial = Layer("Dial", "dial", 0, 20, id="dial")
        strip = PoseStrip(
            (Pose("A", (("shape", "position", (1.0, 2.0)), ("shape", "visible", True)), 3, 5),), 2, False, 10.0
        )
        inner = piece(shape, roll, dial, id="inner", guides=((0, 12.5), (1, 3.0)), grid=8.0, safe_area=(4.0, 6.0),
                      markers=(Marker(3, "Drop"),), poses=strip, blur_samples=64,
                      variants=(Variant((("Look", "50"),)),),
                      follows=Reframing("gone", (Hold("shape", "left", "top", "keep"),), (("shape", "*"),)),
                      )  # fmt: skip
        nest = Layer("Nest", "nested", 0, 20, id="nest", dial_values=(("dial", 40.0),)).with_values(composition="inner")
        rich = evolve(project(nest), swatches=((1.0, 0.5, 0.0, 1.0),), template=True)
        rich = evolve(rich, compositions=(*rich.compositions, inner))
        data = json.loads(json.dumps(to_json(rich)))
        jsonschema.Draft202012Validator(schema).validate(data)
        self.assertEqual(from_json(data, "x"), rich)
        for what, model in (("composition", Composition), ("layer", Layer), ("marker", Marker), ("wobble", Wobble),
                            ("follow", Follow), ("roll", Roll), ("join", DialJoin), ("track", Track),
                            ("move", MoveUse), ("edge_pin", EdgePin), ("strip", PoseStrip),
                            ("pose", Pose), ("slot", Slot), ("variant", Variant), ("reframing", Reframing),
                            ("hold", Hold), ("touched", Touched)):  # fmt: skip
            known = set(schema["$defs"][what]["properties"]) - {"kind"}
            self.assertEqual(known, {field.name for field in fields(model)} - {"kind"}, what)

    def test_missing_media_opens_and_is_reported(self) -> None:
        source = square_source()
        path = self.folder / "a.spiralis"
        save(project(sources=(source,)), path)
        thin = self.folder / "thin.spiralis"
        with zipfile.ZipFile(path) as old, zipfile.ZipFile(thin, "w") as new:
            for name in old.namelist():
                if not name.startswith("media/"):
                    new.writestr(name, old.read(name))
        again = load(thin)
        self.assertTrue(again.sources[0].missing)
        self.assertTrue(summary(again)["sources"][0]["missing"])

    def test_old_versions_go_through_the_chain(self) -> None:
        newest = migrations.VERSION
        try:
            migrations.VERSION = newest + 1
            migrations.MIGRATIONS[newest] = lambda data: {**data, "name": data["name"] + "!", "version": newest + 1}
            self.assertEqual(migrations.migrate({"version": 1, "name": "a"}, "f")["name"], "a!")
        finally:
            migrations.VERSION = newest
            del migrations.MIGRATIONS[newest]

    def test_edge_pins_of_version_3_open_under_their_new_name(self) -> None:
        made = project(Layer("Bar", "shape", 0, 20, id="bar", edge_pins=(EdgePin("left", "right", "", 4.0),)))
        data = to_json(made)
        layer = data["compositions"][0]["layers"][0]
        layer["holds"] = layer.pop("edge_pins")
        self.assertEqual(from_json(migrations.migrate({**data, "version": 3}, "f"), "f"), made)

    def test_a_project_of_the_first_version_opens_as_it_was(self) -> None:
        old = self.folder / "old.spiralis"
        text = """{"format": "spiralis", "version": 1, "name": "Old", "compositions": [{"name": "Piece", "width": 64,
          "height": 48, "rate": "30000/1001", "length": 20, "id": "c1", "loop": true, "layers": [{"name": "Ground",
          "kind": "backdrop", "first": 0, "last": 20, "id": "l1", "properties": {"style": {"value": "flat"},
          "colour": {"value": [1, 0, 0, 1]}, "position": {"value": [32, 24]}, "opacity": {"value": 100, "keys": [
          {"frame": 0, "value": 100, "easing": "cubic-bezier(0.45, 0, 0.55, 1)"}, {"frame": 20, "value": 50}]}}}]}]}"""
        with zipfile.ZipFile(old, "w") as archive:
            archive.writestr("project.json", text)
        piece = load(old).compositions[0]
        self.assertEqual((piece.name, float(piece.rate), piece.layers[0].mattes), ("Piece", 30000 / 1001, ()))
        self.assertEqual([key.frame for key in piece.layers[0].track("opacity").keys], [0, 20])


class BadInputTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.good = self.folder / "good.spiralis"
        save(project(backdrop(64, 48, (1, 0, 0, 1)), sources=(square_source(),)), self.good)

    def refused(self, path: Path) -> str:
        with self.assertRaises(ProjectFileError) as caught:
            load(path)
        sentence = str(caught.exception)
        self.assertTrue(sentence.endswith("."), sentence)
        self.assertNotIn("Traceback", sentence)
        return sentence

    def changed(self, change, extra: dict[str, bytes] | None = None) -> Path:  # type: ignore[no-untyped-def]
        path = self.folder / "changed.spiralis"
        with zipfile.ZipFile(self.good) as old, zipfile.ZipFile(path, "w") as new:
            data = json.loads(old.read("project.json"))
            change(data)
            new.writestr("project.json", json.dumps(data))
            for name, content in (extra or {}).items():
                new.writestr(name, content)
        return path

    def test_cut_short_anywhere(self) -> None:
        data = self.good.read_bytes()
        for share in (0.0, 0.1, 0.5, 0.9, 0.99):
            path = self.folder / "cut.spiralis"
            path.write_bytes(data[: int(share * len(data))])
            self.refused(path)

    def test_other_files(self) -> None:
        text = self.folder / "text.spiralis"
        text.write_text("not a project")
        self.assertIn("text.spiralis", self.refused(text))
        self.assertIn("not there", self.refused(self.folder / "none.spiralis"))
        self.assertIn("folder", self.refused(self.folder))

    def test_climbing_and_absolute_paths(self) -> None:
        for name in ("../evil.png", "media/../../evil", "/etc/evil", "c:/evil", "..\\evil"):
            sentence = self.refused(self.changed(lambda data: None, {name: b"x"}))
            self.assertIn("leads out", sentence)
        self.refused(self.changed(lambda data: data["sources"][0].update(path="../../secret.png")))
        self.refused(self.changed(lambda data: data["sources"][0].update(path="/etc/passwd")))
        self.assertFalse((self.folder.parent / "evil.png").exists())

    def test_values_outside_the_limits_are_named(self) -> None:
        for field, value, word in (
            ("width", 0, "width"), ("height", 20_001, "height"), ("rate", "0/1", "rate"), ("rate", "25/0", "rate"),
            ("rate", 25, "rate"), ("length", 0, "frames"), ("width", "wide", "whole number"),
            ("width", True, "whole number"),
            ("loop", 1, "true or false"), ("background", [1, 2], ""), ("layers", 3, ""), ("colour", "red", "colour"),
            ("play_span", [5, 2], "play span"),
        ):  # fmt: skip
            sentence = self.refused(self.changed(lambda data, f=field, v=value: data["compositions"][0].update({f: v})))
            self.assertIn(word, sentence, field)

    def test_layers_that_cannot_be(self) -> None:
        def layer(**values):  # type: ignore[no-untyped-def]
            return lambda data: data["compositions"][0]["layers"][0].update(values)

        for change in (
            layer(kind="hologram"), layer(first=9, last=9), layer(parent="x", id="x"), layer(properties=[]),
            layer(properties={"opacity": {"value": 900}}), layer(properties={"sparkle": {"value": 1}}),
            layer(properties={"opacity": {"value": 5, "keys": [{"frame": 1.5, "value": 5}]}}),
            layer(properties={"opacity": {"value": 5, "keys": [{"frame": 1, "value": 5, "easing": "boom"}]}}),
            layer(properties={"opacity": {"value": 5, "after": {"rule": "never"}}}),
        ):  # fmt: skip
            self.refused(self.changed(change))

    def test_newer_versions_and_unknown_fields(self) -> None:
        self.assertIn("newer", self.refused(self.changed(lambda data: data.update(version=99))))
        self.refused(self.changed(lambda data: data.update(version="one")))
        self.refused(self.changed(lambda data: data.update(surprise=1)))

    @settings(suppress_health_check=[HealthCheck.differing_executors], max_examples=60)
    @given(st.binary(max_size=200), st.integers(0, 10_000))
    def test_any_damage_is_a_project_or_a_sentence(self, noise: bytes, place: int) -> None:
        data = bytearray(self.good.read_bytes())
        place %= len(data)
        data[place : place + len(noise)] = noise
        path = self.folder / "noise.spiralis"
        path.write_bytes(bytes(data))
        try:
            load(path)
        except ProjectFileError:
            pass

    def test_a_failed_save_leaves_the_old_file_alone(self) -> None:
        before = self.good.read_bytes()
        with self.assertRaises(ProjectFileError):
            save(project(), self.folder / "missing" / "a.spiralis")
        with self.assertRaises(ProjectFileError):
            save(project(), Path("/proc/spiralis-test.spiralis"))
        self.assertEqual(self.good.read_bytes(), before)
        self.assertEqual([p.name for p in self.folder.iterdir()], ["good.spiralis"])


class RecoveryTest(unittest.TestCase):
    def test_a_dead_process_leaves_its_work_and_a_living_one_does_not(self) -> None:
        sample = project(backdrop(64, 48, (0, 1, 0, 1)))
        journal = Journal()
        journal.write(sample, Path("/somewhere/piece.spiralis"))
        self.assertNotIn(journal.path, [found.journal.path for found in left_behind()])
        note = json.loads(journal.note.read_text())
        journal.note.write_text(json.dumps({**note, "process": 2**22 - 3}))
        found = next(f for f in left_behind() if f.journal.path == journal.path)
        self.assertEqual(found.load(), sample)
        self.assertEqual(found.original, Path("/somewhere/piece.spiralis"))
        journal.discard()
        self.assertFalse(journal.path.exists() or journal.note.exists())


class SummaryTest(unittest.TestCase):
    def test_layers_run_front_to_back_with_their_keys(self) -> None:
        layers = tuple(evolve(backdrop(64, 48, (1, 0, 0, 1)), name=name, id=name) for name in ("front", "back"))
        keyed = layers[0].with_track("opacity", Track(5.0, (Key(0, 5.0), Key(3, 9.0))))
        listed = summary(Project("p", (piece(keyed, layers[1]),)))["compositions"][0]
        self.assertEqual([y["name"] for y in listed["layers"]], ["front", "back"])
        self.assertEqual([y["keys"] for y in listed["layers"]], [2, 0])
        self.assertEqual((listed["rate"], listed["length"], listed["loop"]), ("25/1", 20, True))
