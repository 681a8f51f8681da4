"""Projects sent to another process, and frames drawn there."""

from __future__ import annotations

import gc
import os
import pickle
import signal
import subprocess
import sys
import threading
import time
import unittest
from contextlib import suppress
from pathlib import Path
from types import MappingProxyType

import numpy as np
from attrs import evolve
from hypothesis import given, settings
from hypothesis import strategies as st

from spiralis.core.checks.piece import check_piece
from spiralis.core.checks.seam import check
from spiralis.core.errors import Cancelled, SpiralisError
from spiralis.core.media.pictures import picture_source
from spiralis.core.model import Layer, Project
from spiralis.core.render.frame import render_rgba8
from spiralis.core.render.remote import Remote, RemoteLost, read_message, write_all, write_message
from spiralis.core.render.sending import Message, Receiver, Sender
from spiralis.demo.stored import stored_demo
from tests.core.long_work import failing, until_stopped, where
from tests.core.samples import png_bytes, project, square_source


def _weight(message: Message) -> int:
    return len(message[0]) + sum(len(data) for data in message[1])


class SendingTest(unittest.TestCase):
    def test_many_bytes_go_beside_the_message_as_they_are(self) -> None:
        pictures = [evolve(square_source(), data=bytes([n]) * (n * 40_000)) for n in (1, 2, 3)]
        project, sender, receiver = Project("P", sources=tuple(pictures[:2])), Sender(), Receiver()
        head, large = sender.message(project)
        self.assertEqual([len(data) for data in large], [80_000])
        self.assertIs(large[0], pictures[1].data)
        self.assertLess(len(head), 60_000)
        arrived = receiver.project((head, large))
        self.assertEqual([s.data for s in arrived.sources], [s.data for s in project.sources])
        more = evolve(project, sources=(*project.sources, pictures[2]))
        message = sender.message(more)
        self.assertEqual([len(data) for data in message[1]], [120_000], "what was sent is not sent again")
        self.assertEqual(receiver.project(message).sources[2].data, pictures[2].data)

    def test_a_project_arrives_equal_and_an_edit_sends_little(self) -> None:
        demo, sender, receiver = stored_demo(), Sender(), Receiver()
        whole = sender.message(demo)
        arrived = receiver.project(whole)
        self.assertEqual(arrived, demo)
        self.assertEqual([s.data for s in arrived.sources], [s.data for s in demo.sources], "bytes are no part of ==")
        piece = demo.composition("kite-day")
        edited = demo.with_composition(piece.with_layer(piece.layer("kite").with_values(opacity=40.0)))
        change = sender.message(edited)
        self.assertLess(_weight(change), _weight(whole) / 100)
        after = receiver.project(change)
        self.assertEqual(after, edited)
        self.assertIs(after.sources, arrived.sources)
        same = after.composition("kite-day").layer("headline")
        self.assertIs(same, arrived.composition("kite-day").layer("headline"), "what is kept beside it stays of use")

    @settings(max_examples=15)
    @given(st.lists(st.tuples(st.integers(0, 44), st.integers(0, 9), st.integers(0, 2)), min_size=1, max_size=12))
    def test_versions_arrive_equal_whatever_was_edited_dropped_or_undone(
        self, edits: list[tuple[int, int, int]]
    ) -> None:
        sender, receiver = Sender(), Receiver()
        versions = [stored_demo()]
        for place, number, what in edits:
            now = versions[-1]
            piece = now.compositions[place % len(now.compositions)]
            layer = piece.layers[number % len(piece.layers)]
            if what == 0:
                versions.append(now.with_composition(piece.with_layer(evolve(layer, name=f"{layer.name}!"))))
            elif what == 1:
                versions.append(now.with_composition(evolve(piece, name=f"{piece.name} {number}")))
            else:
                del versions[1:-1]
                versions = versions[:1]
                gc.collect()
            self.assertEqual(receiver.project(sender.message(versions[-1])), versions[-1])

    def test_what_arrives_is_found_again_by_what_was_sent(self) -> None:
        demo, sender, receiver = stored_demo(), Sender(), Receiver()
        for piece in demo.compositions:
            for layer in piece.layers:
                hash(layer)
                layer.ties  # noqa: B018  worked out and kept beside the fields: it stays where it is
        arrived = receiver.project(sender.message(demo))
        for sent, come in zip(demo.compositions, arrived.compositions, strict=True):
            for ours, theirs in zip(sent.layers, come.layers, strict=True):
                self.assertEqual({ours: 1}.get(theirs), 1, ours.name)
                self.assertEqual(ours.ties, theirs.ties)
                self.assertIsInstance(theirs.properties, MappingProxyType, "nobody may write to it")

    def test_things_that_come_and_go_in_the_same_place_are_told_apart(self) -> None:
        sender, receiver = Sender(), Receiver()
        numbers, places = set(), set()
        for turn in range(60):
            layer = Layer(f"Layer {turn}", "shape", 0, 10)
            places.add(id(layer))
            numbers.add(sender.number_of(layer))
            del layer
        self.assertEqual(len(numbers), 60)
        self.assertLess(len(places), 60, "none lay where another one did: nothing is shown")
        held = [Layer(f"Layer {turn}", "shape", 0, 10) for turn in range(8)]
        for turn in range(3):
            version = project(*held[turn : turn + 4])
            self.assertEqual(receiver.project(sender.message(version)), version)
        self.assertEqual(len(sender._numbers), len(receiver._known))

    def test_what_nobody_holds_any_more_is_forgotten_on_both_sides(self) -> None:
        demo, sender, receiver = stored_demo(), Sender(), Receiver()
        receiver.project(sender.message(demo))
        before = len(receiver._known)
        piece = demo.composition("kite-day")
        for turn in range(20):
            edited = demo.with_composition(piece.with_layer(piece.layer("kite").with_values(opacity=float(turn))))
            receiver.project(sender.message(edited))
        del edited
        gc.collect()
        receiver.project(sender.message(demo))
        self.assertLessEqual(len(receiver._known), before + 2)
        self.assertEqual(len(sender._numbers), len(receiver._known))


class RemoteTest(unittest.TestCase):
    remote: Remote

    @classmethod
    def setUpClass(cls) -> None:
        cls.remote = Remote()
        cls.wait(cls.remote)

    @classmethod
    def tearDownClass(cls) -> None:
        cls.remote.end()

    @staticmethod
    def wait(remote: Remote) -> None:
        ends = time.monotonic() + 60
        while not remote.ready and not remote.lost and time.monotonic() < ends:
            time.sleep(0.02)

    def test_frames_are_those_of_this_process_bit_for_bit(self) -> None:
        demo = stored_demo()
        for piece_id, frame, scale in (
            ("kite-day", 30, 0.3), ("kite-day", 30, 0.6), ("living-gradient", 60, 0.2), ("squeeze-pair", 12, 0.3),
            ("flipbook-blink", 5, 0.3),
        ):  # fmt: skip
            made = self.remote.frame(demo, piece_id, frame, scale)
            np.testing.assert_array_equal(made, render_rgba8(demo, piece_id, frame, scale), piece_id)

    def test_an_edit_shows_and_so_does_the_way_back(self) -> None:
        demo = stored_demo()
        piece = demo.composition("kite-day")
        for value in (80.0, 10.0):
            edited = demo.with_composition(piece.with_layer(piece.layer("kite").with_values(opacity=value)))
            for version in (edited, demo):
                made = self.remote.frame(version, piece.id, 60, 0.25, 2)
                np.testing.assert_array_equal(made, render_rgba8(version, piece.id, 60, 0.25))

    def test_a_large_picture_arrives_whole(self) -> None:
        noise = np.random.default_rng(7).integers(0, 255, (260, 300, 4), dtype=np.uint8)
        source = picture_source(png_bytes(noise), "noise.png")
        self.assertGreater(len(source.data), 3 << 16)
        layer = Layer("Noise", "picture", 0, 20).with_values(source=source.id, position=(32.0, 24.0))
        made = project(layer, sources=(source,))
        np.testing.assert_array_equal(self.remote.frame(made, "Piece", 0, 1.0), render_rgba8(made, "Piece", 0))

    def test_one_whose_asker_is_gone_ends_without_a_word(self) -> None:
        asks, answers = os.pipe(), os.pipe()
        memory = os.memfd_create("frames")
        command = [sys.executable, "-m", "spiralis.core.serving", str(memory), str(64 << 20)]
        process = subprocess.Popen(command, stdin=asks[0], stdout=answers[1], stderr=subprocess.PIPE,
                                   pass_fds=(memory,))  # fmt: skip
        with open(answers[0], "rb", buffering=0) as stream:
            os.close(answers[1])
            read_message(stream)
        head, large = Sender().message(stored_demo())
        job = pickle.dumps((None, ("kite-day", 3, 0.2, 1)))
        with open(asks[1], "wb", buffering=0) as out:
            write_message(out, pickle.dumps((head, [len(data) for data in large], job), protocol=5))
            for data in large:
                write_all(out, data)
        os.close(asks[0])
        os.close(memory)
        _, told = process.communicate(timeout=60)
        self.assertEqual((process.returncode, told.replace(b"\n", b"")), (0, b""))

    def test_a_frame_that_cannot_be_drawn_is_told_and_the_next_one_comes(self) -> None:
        demo = stored_demo()
        with self.assertRaises(SpiralisError) as caught:
            self.remote.frame(demo, "no such piece", 0, 0.2)
        self.assertNotIsInstance(caught.exception, RemoteLost)
        self.assertEqual(self.remote.frame(demo, "kite-day", 0, 0.2).shape, (270, 216, 4))

    def test_checks_find_there_what_they_find_here(self) -> None:
        demo = stored_demo()
        for piece_id in ("kite-day", "squeeze-pair", "flipbook-blink"):
            piece = demo.composition(piece_id)
            self.assertEqual(self.remote.work(check, demo, piece_id), check(demo, piece), piece_id)
            found = self.remote.work(check_piece, demo, piece_id, drawn=False, known=frozenset({"kite"}))
            self.assertEqual(found, check_piece(demo, piece, drawn=False, known=frozenset({"kite"})), piece_id)

    def test_work_is_about_the_version_that_is_given_and_frames_go_on(self) -> None:
        demo = stored_demo()
        piece = demo.composition("kite-day")
        fewer = demo.with_composition(evolve(piece, layers=piece.layers[1:]))
        for version in (demo, fewer, demo):
            count = len(version.composition("kite-day").layers)
            number, words = self.remote.work(where, version, "kite-day", name="Here")
            self.assertEqual(words, f"Here Kite day {count} False")
            self.assertEqual(number, self.remote._process.pid)
            made = self.remote.frame(version, "kite-day", 9, 0.2)
            np.testing.assert_array_equal(made, render_rgba8(version, "kite-day", 9, 0.2))

    def test_work_stops_when_told_and_what_comes_next_does_not(self) -> None:
        demo, started = stored_demo(), time.monotonic()
        with self.assertRaises(Cancelled):
            self.remote.work(until_stopped, demo, "kite-day", stops=lambda: time.monotonic() - started > 0.3)
        self.assertLess(time.monotonic() - started, 5.0)
        self.assertGreaterEqual(self.remote.work(until_stopped, demo, "kite-day", seconds=0.2), 0.2)
        # Told before it has so much as read what it is to do.
        self.remote._process.send_signal(signal.SIGSTOP)
        threading.Timer(0.3, lambda: self.remote._process.send_signal(signal.SIGCONT)).start()
        with self.assertRaises(Cancelled):
            self.remote.work(until_stopped, demo, "kite-day", stops=lambda: True)
        # Told when it is as good as done: the word must not reach the work that follows.
        for wait in np.linspace(0.0, 0.03, 12):
            started = time.monotonic()
            with suppress(Cancelled):
                self.remote.work(until_stopped, demo, "kite-day", seconds=float(wait),
                                 stops=lambda started=started: time.monotonic() - started > 0.02)  # fmt: skip
            self.assertEqual(self.remote.work(where, demo, "kite-day")[1][-5:], "False")
            self.assertFalse(self.remote.working)

    def test_work_that_goes_wrong_or_cannot_be_sent_costs_nothing_else(self) -> None:
        demo = stored_demo()
        piece = demo.composition("kite-day")
        other = demo.with_composition(piece.with_layer(piece.layer("kite").with_values(opacity=35.0)))
        with self.assertRaisesRegex(SpiralisError, "by nothing") as caught:
            self.remote.work(failing, demo, "kite-day")
        self.assertNotIsInstance(caught.exception, RemoteLost)
        with self.assertRaises((AttributeError, pickle.PicklingError)):
            self.remote.work(lambda *_, **__: None, other, "kite-day")
        made = self.remote.frame(other, "kite-day", 9, 0.2)
        np.testing.assert_array_equal(made, render_rgba8(other, "kite-day", 9, 0.2))

    def test_ctrl_c_in_the_terminal_is_left_to_the_window(self) -> None:
        demo = stored_demo()
        self.remote._process.send_signal(signal.SIGINT)
        made = self.remote.frame(demo, "flipbook-blink", 5, 0.3)
        np.testing.assert_array_equal(made, render_rgba8(demo, "flipbook-blink", 5, 0.3))
        self.assertFalse(self.remote.lost)

    def test_a_killed_one_is_known_to_be_lost(self) -> None:
        remote = Remote()
        self.wait(remote)
        self.assertTrue(remote.ready)
        remote._process.send_signal(signal.SIGKILL)
        with self.assertRaises(RemoteLost):
            remote.frame(stored_demo(), "kite-day", 0, 0.2)
        self.assertTrue(remote.lost and not remote.ready)
        remote.end()

    def test_it_ends_with_the_program_that_started_it(self) -> None:
        code = (
            "import os, time; from spiralis.core.render.remote import Remote; r = Remote();\n"
            "while not r.ready: time.sleep(0.02)\n"
            "print(r._process.pid, flush=True); os._exit(0)"
        )
        told = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True, timeout=60)
        pid, ends = int(told.stdout), time.monotonic() + 10
        while self.runs(pid) and time.monotonic() < ends:
            time.sleep(0.05)
        self.assertFalse(self.runs(pid))

    @staticmethod
    def runs(pid: int) -> bool:
        """Whether a process is there and has not ended."""
        try:
            return Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0] != "Z"
        except OSError:
            return False


if __name__ == "__main__":
    unittest.main()
