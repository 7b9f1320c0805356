"""The pages in Chromium, each act also against the same answered with what was recorded before."""

from __future__ import annotations

import tempfile
import time
from itertools import cycle
from pathlib import Path
from threading import Thread
from typing import TYPE_CHECKING, Any
from urllib.request import urlopen

import numpy as np
import waitress

from tools.browser import CHROMIUM, CHROMIUM_FLAGS, Served

from .marks import Mark

if TYPE_CHECKING:
    from playwright.sync_api import Browser, Response

# Milliseconds of each step, until what the answer replaces, `watched`, is painted; `move` makes the hand's move ready.
# Nothing asks again and again meanwhile: that would take its time from what is measured.
_STEPS = """
async ({first, steps}) => {
  const painted = (watched) => {
    const before = document.getElementById(watched);
    return new Promise((done) => {
      new MutationObserver((_, watch) => {
        if (document.getElementById(watched) === before) return;
        watch.disconnect();
        requestAnimationFrame(() => setTimeout(done, 0));
      }).observe(document.body, {childList: true, subtree: true});
    });
  };
  const spans = [];
  for (let step = first; step < first + steps; step++) {
    const move = (%(move)s)();
    const answer = painted("%(watched)s");
    const start = performance.now();
    move();
    await answer;
    spans.push(performance.now() - start);
  }
  return spans;
}
"""
_SCRUB = _STEPS % {
    "watched": "so-far-words",
    "move": """() => {
      const slider = document.getElementById("so-far");
      slider.value = 5 + (step * 37) % 90;
      return () => slider.dispatchEvent(new Event("input", {bubbles: true}));
    }""",
}
_DRAG = _STEPS % {
    "watched": "pour-reading",
    "move": """() => {
      const level = document.getElementById("level");
      const low = Number(level.getAttribute("aria-valuemin")), high = Number(level.getAttribute("aria-valuemax"));
      const value = low + 2 + (high - low - 3) * ((step * 0.381966) % 1);
      const box = level.getBoundingClientRect();
      const svg = document.querySelector("svg.panels");
      const zero = Number(svg.dataset.zero), rise = Number(svg.dataset.rise);
      const point = new DOMPoint(300, zero - value * rise).matrixTransform(svg.getScreenCTM());
      const fire = (type, target, y) =>
        target.dispatchEvent(new PointerEvent(type, {bubbles: true, clientX: point.x, clientY: y}));
      fire("pointerdown", level, box.y + box.height / 2);
      return () => fire("pointermove", document, point.y);
    }""",
}


def _second_start(folder: str) -> Mark:
    start = time.perf_counter()
    with Served(folder):
        took = time.perf_counter() - start
    return Mark("second start of the server, to its first page", took, 4, "s")


class Canned:
    """A server in front of another that hands out recorded answers for one address, and everything else unchanged, but
    for what a page is told as it happens: nothing."""

    def __init__(self, behind: str, path: str, answers: list[bytes]) -> None:
        turns = cycle(answers)

        def application(environ: Any, start_response: Any) -> list[bytes]:
            if environ["PATH_INFO"] == path:
                start_response("200 OK", [("Content-Type", "text/html; charset=utf-8")])
                return [next(turns)]
            if environ["PATH_INFO"] == "/live":  # never ends: nothing that waits for its end could answer
                start_response("204 No Content", [])
                return []
            query = f"?{environ['QUERY_STRING']}" if environ["QUERY_STRING"] else ""
            with urlopen(behind + environ["PATH_INFO"] + query) as answer:
                start_response("200 OK", [("Content-Type", answer.headers["Content-Type"])])
                return [answer.read()]

        self.server = waitress.create_server(application, host="127.0.0.1", port=0, threads=4)
        self.url = f"http://127.0.0.1:{self.server.effective_port}"
        Thread(target=self.server.run, daemon=True).start()


STEPS = 240
TURNS = 12  # real and canned answers take turns, so that a machine that is slow for a while is slow for both


class Act:
    """One act on the Pour page of a server, in turns."""

    def __init__(self, browser: Browser, url: str, script: str, path: str) -> None:
        self.page = browser.new_page(viewport={"width": 1280, "height": 800})
        self.page.goto(f"{url}/s/hollin-delf/pour")
        self.script = script
        self.heard: list[Response] = []
        self.page.on("response", lambda answer: self.heard.append(answer) if path in answer.url else None)

    def turn(self, first: int, steps: int) -> list[float]:
        """Milliseconds of so many steps, counted on from the `first`."""
        self.page.bring_to_front()
        taken: list[float] = self.page.evaluate(self.script, {"first": first, "steps": steps})
        return taken


def _in_turns(browser: Browser, url: str, script: str, path: str) -> tuple[float, float]:
    """The 95th percentile in ms of an act on the Pour page, and of the same with what was answered before."""
    real = Act(browser, url, script, path)
    real.turn(STEPS, 5)
    answers = [answer.body() for answer in real.heard]
    canned = Act(browser, Canned(url, path, answers).url, script, path)
    canned.turn(STEPS, 5)
    taken: tuple[list[float], list[float]] = [], []
    for first in range(0, STEPS, STEPS // TURNS):
        for spans, act in zip(taken, (real, canned), strict=True):
            spans.extend(act.turn(first, STEPS // TURNS))
    real.page.close()
    canned.page.close()
    own, told = (float(np.percentile(spans, 95)) for spans in taken)
    return own, told


def _acts(folder: str) -> list[Mark]:
    from playwright.sync_api import sync_playwright

    marks = []
    with Served(folder) as served, sync_playwright() as driver:
        browser = driver.chromium.launch(executable_path=CHROMIUM, args=list(CHROMIUM_FLAGS))
        for name, script, path, most in (
            ("level dragged to repainted numbers", _DRAG, "/s/hollin-delf/pour/preview", 80),
            ("pour scrubbed to repainted water", _SCRUB, "/s/hollin-delf/pour/so-far", 150),
        ):
            taken, canned = _in_turns(browser, served.url, script, path)
            marks += [
                Mark(f"{name}, 95th percentile", taken, most, "ms"),
                Mark("the same, in the same act with canned answers", taken / canned, 1.8, "x"),
            ]
        browser.close()
    return marks


def measure(browser: bool) -> list[Mark]:
    """The second start of the server; with a browser, the drag of a level and the scrub of a pour."""
    with tempfile.TemporaryDirectory() as folder:
        with Served(folder):
            pass
        marks = [_second_start(folder)]
        if browser:
            if not Path(CHROMIUM).exists():
                raise SystemExit("Chromium is missing: `make bench` installs it, or use --no-browser")
            marks += _acts(folder)
    return marks
