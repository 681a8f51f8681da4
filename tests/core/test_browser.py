"""Files of every kind that pages show, judged by headless Chromium: size, duration, frames, the first frame."""

from __future__ import annotations

import json
import shutil
import subprocess
import tempfile
import threading
import unittest
from http.server import SimpleHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any, ClassVar

import numpy as np

from spiralis.core.media.exporters import ExportJob, export, exporter
from spiralis.core.model import Layer, Project
from spiralis.core.render.frame import render_straight8
from tests.core.samples import moving, project

CHROMIUM = shutil.which("chromium") or shutil.which("chromium-browser")
LENGTH, WIDTH, HEIGHT = 20, 96, 64
#: Points of the picture that are compared: on the square, on the ground.
POINTS = ((24, 32), (80, 10), (60, 50))
#: Names of files, the kind of file, its settings, and how the browser is to look at it.
FILES = (
    ("h264.mp4", "mp4", {}, "video"),
    ("av1.mp4", "mp4", {"codec": "AV1"}, "video"),
    ("vp9.webm", "webm", {}, "video"),
    ("av1.webm", "webm", {"codec": "AV1"}, "video"),
    ("a.gif", "gif", {}, "image/gif"),
    ("a.apng", "apng", {}, "image/png"),
    ("a.webp", "webp", {}, "image/webp"),
    ("a.avif", "avif", {}, "image/avif"),
    ("a.svg", "svg", {}, "svg"),
)
_PAGE = """<!doctype html><meta charset="utf-8"><script>
const files = %s, points = %s;
function pixels(source, width, height) {
  const canvas = document.createElement("canvas");
  canvas.width = width; canvas.height = height;
  const context = canvas.getContext("2d");
  context.drawImage(source, 0, 0, width, height);
  return points.map(([x, y]) => [...context.getImageData(x, y, 1, 1).data]);
}
function once(target, name) {
  return new Promise((good, bad) => {
    target.addEventListener(name, good, {once: true});
    target.addEventListener("error", () => bad(name + " never came"), {once: true});
  });
}
const ways = {
  async video(name) {
    const video = document.createElement("video");
    video.muted = true; video.preload = "auto"; video.src = name;
    document.body.append(video);
    await once(video, "loadeddata");
    video.currentTime = 0.001;
    await once(video, "seeked");
    const [width, height] = [video.videoWidth, video.videoHeight];
    let seen = pixels(video, width, height);
    // The first frame may come a moment after it is said to be there.
    for (let turn = 0; turn < 100 && seen[0][3] === 0; turn++) {
      await new Promise(go => setTimeout(go, 50));
      seen = pixels(video, width, height);
    }
    return {width, height, seconds: video.duration, pixels: seen};
  },
  async svg(name) {
    const frame = document.createElement("iframe");
    frame.src = name; frame.width = %d; frame.height = %d;
    document.body.append(frame);
    await once(frame, "load");
    const root = frame.contentDocument.documentElement;
    const moving = frame.contentDocument.getAnimations().map(each => each.effect.getComputedTiming().duration / 1000);
    const image = new Image();
    image.src = name;
    await once(image, "load");
    const [width, height] = [root.width.baseVal.value, root.height.baseVal.value];
    return {width, height, seconds: Math.max(...moving), pixels: pixels(image, width, height)};
  },
};
async function image(name, type) {
  const data = await (await fetch(name)).arrayBuffer();
  const decoder = new ImageDecoder({data, type});
  await decoder.tracks.ready;
  const frames = decoder.tracks.selectedTrack.frameCount;
  let seconds = 0, first = null, size = null;
  for (let index = 0; index < frames; index++) {
    const found = (await decoder.decode({frameIndex: index})).image;
    seconds += found.duration / 1e6;
    if (index === 0) {
      size = [found.displayWidth, found.displayHeight];
      first = pixels(found, ...size);
    }
    found.close();
  }
  const rounds = decoder.tracks.selectedTrack.repetitionCount;
  return {width: size[0], height: size[1], seconds, frames, pixels: first, rounds: rounds === Infinity ? 0 : rounds};
}
addEventListener("load", async () => {
  const found = {};
  for (const [name, way] of files) {
    try { found[name] = await (ways[way] ? ways[way](name) : image(name, way)); }
    catch (problem) { found[name] = {problem: String(problem)}; }
  }
  await fetch("found", {method: "POST", body: JSON.stringify(found)});
});
</script><body></body>"""


def sample(ground: bool = True) -> Project:
    """Return a square that moves over a gradient."""
    square = Layer("Square", "shape", 0, LENGTH, id="s").with_values(
        form="rectangle", size=(24.0, 24.0), fill=(1.0, 0.3, 0.1, 1.0)
    )
    layers = [moving(square, (24.0, 32.0), (72.0, 32.0), LENGTH - 1)]
    if ground:
        colour = Layer("Ground", "backdrop", 0, LENGTH, id="g").with_values(position=(48.0, 32.0), style="linear")
        layers.append(colour)
    return project(*layers, width=WIDTH, height=HEIGHT, length=LENGTH, id="piece")


@unittest.skipIf(CHROMIUM is None, "Chromium is not installed (Debian's package chromium)")
class BrowserTest(unittest.TestCase):
    found: dict[str, dict[str, Any]]

    @classmethod
    def setUpClass(cls) -> None:
        folder = Path(cls.enterClassContext(tempfile.TemporaryDirectory()))
        for name, kind, settings, _ in FILES:
            export(exporter(kind), ExportJob(sample(), "piece", folder / name, 0, LENGTH, settings=settings))
        clear = ExportJob(sample(ground=False), "piece", folder / "clear.webm", 0, LENGTH)
        export(exporter("webm"), clear)
        asked = [[name, way] for name, _, _, way in FILES] + [["clear.webm", "video"]]
        page = _PAGE % (json.dumps(asked), json.dumps(POINTS), WIDTH, HEIGHT)
        (folder / "page.html").write_text(page, encoding="utf-8")
        cls.found = _looked_at(folder)

    def test_every_file_has_its_size_its_duration_and_its_first_frame(self) -> None:
        drawn = render_straight8(sample(), "piece", 0)
        for name, _, _, _ in FILES:
            with self.subTest(name):
                found = self.found[name]
                self.assertNotIn("problem", found)
                self.assertEqual((found["width"], found["height"]), (WIDTH, HEIGHT))
                self.assertAlmostEqual(found["seconds"], LENGTH / 25, delta=0.011)
                for (x, y), seen in zip(POINTS, found["pixels"], strict=True):
                    far = np.abs(np.array(seen[:3], dtype=float) - drawn[y, x, :3]).max()
                    self.assertLess(float(far), 16.0, (x, y, seen, drawn[y, x]))

    def test_animated_pictures_have_all_frames_and_go_round(self) -> None:
        for name, _, _, way in FILES:
            if way.startswith("image/"):
                self.assertEqual((self.found[name]["frames"], self.found[name]["rounds"]), (LENGTH, 0), name)

    def test_see_through_video_is_see_through(self) -> None:
        found = self.found["clear.webm"]
        self.assertNotIn("problem", found)
        self.assertGreater(found["pixels"][0][3], 245)
        self.assertLess(found["pixels"][1][3], 10)


def _looked_at(folder: Path) -> dict[str, dict[str, Any]]:
    """Return what the browser tells of the page in a folder, which it gets from a server of this process."""
    told: dict[str, dict[str, Any]] = {}
    there = threading.Event()

    class Handler(SimpleHTTPRequestHandler):
        extensions_map: ClassVar = {
            **SimpleHTTPRequestHandler.extensions_map, ".avif": "image/avif", ".webp": "image/webp",
            ".webm": "video/webm", ".apng": "image/apng",
        }  # fmt: skip

        def __init__(self, *given: Any) -> None:
            super().__init__(*given, directory=str(folder))

        def do_POST(self) -> None:
            told.update(json.loads(self.rfile.read(int(self.headers["Content-Length"]))))
            self.send_response(204)
            self.end_headers()
            there.set()

        def log_message(self, *given: Any) -> None:
            pass

    server = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    assert CHROMIUM is not None
    with tempfile.TemporaryDirectory() as profile:
        browser = subprocess.Popen(
            [CHROMIUM, "--headless", "--no-sandbox", "--disable-gpu", "--disable-dev-shm-usage", "--no-first-run",
             "--disable-background-networking", "--disable-component-update", "--remote-debugging-port=0",
             f"--user-data-dir={profile}", f"http://127.0.0.1:{server.server_port}/page.html"],
            stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
        )  # fmt: skip
        try:
            there.wait(90)
        finally:
            browser.kill()
            browser.wait()
            server.shutdown()
            server.server_close()
    return told
