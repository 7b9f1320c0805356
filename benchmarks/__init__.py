"""Speed against the project's own marks. Each mark is a ratio: below 1 is within it.

Warm means: same process, label anchors cached, plan not cached.
"""

from __future__ import annotations

import tempfile
import time
from collections.abc import Callable
from dataclasses import asdict, dataclass
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np

from tools.browser import CHROMIUM, CHROMIUM_FLAGS, Served


@dataclass(frozen=True)
class Mark:
    """What was measured, in `unit`, and the most that it may be."""

    name: str
    measured: float
    most: float
    unit: str

    @property
    def ratio(self) -> float:
        """Measured / most: below 1 is within."""
        return self.measured / self.most

    def as_json(self) -> dict[str, Any]:
        """For machines."""
        return {**asdict(self), "ratio": self.ratio}

    def __str__(self) -> str:
        verdict = "within" if self.ratio <= 1 else "OVER"
        return f"{self.name:56} {self.measured:9.3g} {self.unit:3} of {self.most:g}   ratio {self.ratio:.2f}  {verdict}"


def _best(action: Callable[[], object], times: int, before: Callable[[], object] = lambda: None) -> float:
    """Median seconds of several runs, each after `before`."""
    spans = []
    for _ in range(times):
        before()
        start = time.perf_counter()
        action()
        spans.append(time.perf_counter() - start)
    return float(np.median(spans))


def forget_stages() -> None:
    """Empty every stage of the plan; keep what follows from labels alone: the anchors are worked out anew at once."""
    from isostasis.core.catalogue import shipped
    from isostasis.core.hardening.layer import RESIN, heat_from_label
    from isostasis.core.stages import STAGES

    STAGES.clear()
    for mix in shipped().mixes.values():
        if mix.reacts:
            heat_from_label(mix.reacts, mix.thermal or RESIN)


def _plan() -> Mark:
    from isostasis.core.catalogue import shipped
    from isostasis.core.document import resolve
    from isostasis.core.plan import plan
    from isostasis.core.reading import read
    from isostasis.demo import document

    scene = resolve(read(document("hollin-delf")), shipped())
    plan(scene)

    return Mark("plan of Hollin Delf at 5 mm, warm", _best(lambda: plan(scene), 9, forget_stages) * 1000, 150, "ms")


def _layer() -> list[Mark]:
    from isostasis.core.catalogue import shipped
    from isostasis.core.hardening.climate import Climate
    from isostasis.core.hardening.layer import ANCHOR_BED, Pour, heat_from_label, solve
    from isostasis.core.hardening.reference import solve_reference

    label = shipped().mixes["casting-resin"].reacts
    assert label is not None
    room = Climate((0.0,), (23.0,), (0.5,))
    pour = Pour(12.0, ANCHOR_BED, label, heat_from_label(label).j_g, room)
    ours, reference = solve(pour)[0], solve_reference(pour)
    mine = _best(lambda: solve(pour), 25)
    theirs = _best(lambda: solve_reference(pour), 3)
    rise = (ours.peak_c - 23) / (reference.peak_c - 23) - 1
    assert ours.gel_h
    assert reference.gel_h
    assert ours.hard_h
    assert reference.hard_h
    return [
        Mark("one resin layer", mine * 1000, 15, "ms"),
        Mark("one resin layer, ten times, against the reference", mine * 10 / theirs, 1, "x"),
        Mark("temperature rise of a layer, off the reference", abs(rise) * 100, 2, "%"),
        Mark("gel of a layer, off the reference", abs(ours.gel_h / reference.gel_h - 1) * 100, 1, "%"),
        Mark("hard of a layer, off the reference", abs(ours.hard_h / reference.hard_h - 1) * 100, 3, "%"),
    ]


def _filling() -> Mark:
    from isostasis.core.ground.filling import level_for_volume

    z = np.random.default_rng(7).normal(50, 10, 4_000_000)
    sort = _best(lambda: np.sort(z), 5)
    level = _best(lambda: level_for_volume(z, 25.0, 1_000_000.0), 5)
    return Mark("level from volume on 4 million cells, in sorts", level / sort, 3, "x")


def _spill() -> list[Mark]:
    """A pour over hills: it fills a hollow, spills and merges until most of the ground is under water."""
    from scipy.ndimage import gaussian_filter
    from skimage.morphology import reconstruction

    from isostasis.core.document.scene import Base
    from isostasis.core.ground.field import empty_ground
    from isostasis.core.ground.spill import fill_from
    from isostasis.core.stages import STAGES

    sizes, times, ratio = [], [], 0.0
    for side in (250, 500, 1000, 1400):
        base = Base(width_mm=side * 5.0, depth_mm=side * 5.0, dammed=("all",))
        hills = gaussian_filter(np.random.default_rng(3).normal(size=(side, side)), side / 60) * side * 3
        ground = empty_ground(base, 5.0).after(hills - hills.min(), "foam")
        z = ground.z
        volume = float(np.maximum(np.quantile(z, 0.8) - z, 0).sum()) * 25 / 1000
        start = (side // 2, side // 2)

        def pour(ground: Any = ground, base: Any = base, start: Any = start, volume: float = volume) -> None:
            STAGES.clear()
            fill_from(ground, base, start, volume)

        seed = z.copy()
        seed[1:-1, 1:-1] = z.max()
        times.append(_best(pour, 3))
        sizes.append(side * side)
        if side == 1000:
            ratio = times[-1] / _best(partial(reconstruction, seed, z, method="erosion"), 3)
    exponent = float(np.polyfit(np.log(sizes), np.log(times), 1)[0])
    # n log n between the least and the greatest size has this exponent; a twentieth more is noise.
    most = float(np.log(sizes[-1] * np.log(sizes[-1]) / sizes[0] / np.log(sizes[0])) / np.log(sizes[-1] / sizes[0]))
    return [
        Mark("pour that spills and merges on 1 million cells", times[2], 2, "s"),
        Mark("the same in greyscale reconstructions of that ground", ratio, 5, "x"),
        Mark("pour that spills and merges, exponent over cells (to 2 million)", exponent, most * 1.05, ""),
    ]


def long_layout(scale: float) -> dict[str, Any]:
    """A layout of 6 x 3 m times `scale` at 5 mm with a form of every kind that shapes ground."""
    from math import cos, pi, sin

    def points(*places: tuple[float, float]) -> list[list[float]]:
        return [[round(x * scale, 2), round(y * scale, 2)] for x, y in places]

    def blob(x: float, y: float, radius: float, corners: int = 48) -> list[list[float]]:
        turns = [2 * pi * corner / corners for corner in range(corners)]
        wide = [radius * (1 + 0.2 * sin(3 * turn)) for turn in turns]
        places = [(x + r * cos(turn), y + 0.7 * r * sin(turn)) for r, turn in zip(wide, turns, strict=True)]
        return points(*places)

    benches = [
        {"id": f"bench-{number}", "kind": "sheet", "thickness_mm": 25, "outline": points(
            (0, 1800 + 150 * number), (6000, 1700 + 150 * number), (6000, 3000), (0, 3000))}
        for number in range(4)
    ]  # fmt: skip
    forms: list[dict[str, Any]] = [
        {"id": "floor", "kind": "sheet", "thickness_mm": 50,
         "outline": points((0, 0), (6000, 0), (6000, 3000), (0, 3000))},
        *benches,
        {"id": "hill", "kind": "mound", "outline": blob(1200, 900, 600), "crown_mm": 180},
        {"id": "fell", "kind": "mound", "outline": blob(4600, 900, 700), "crown_mm": 220},
        {"id": "line", "kind": "ramp", "path": points((100, 1500), (3000, 1600), (5900, 1500)), "width_mm": 120 * scale,
         "start_mm": 50, "end_mm": 110},
        {"id": "beck", "kind": "channel", "path": points((0, 300), (2500, 500), (4000, 200), (6000, 350)),
         "width_mm": 160 * scale, "depth_mm": 20},
        {"id": "tarn", "kind": "basin", "outline": blob(3000, 900, 400), "depth_mm": 30, "bank_deg": 40},
        {"id": "bund", "kind": "rim", "outline": blob(3000, 900, 450), "height_mm": 12, "width_mm": 60 * scale},
        {"id": "scree", "kind": "bevel", "slope_deg": 40,
         "outline": points((300, 1750), (2500, 1750), (2500, 2500), (300, 2500))},
    ]  # fmt: skip
    return {
        "isostasis": 1, "name": "Long layout", "grid_mm": 5,
        "base": {"width_mm": 6000 * scale, "depth_mm": 3000 * scale}, "forms": forms,
        "patches": [{"id": "all", "name": "All", "area": {"rest": True}}],
    }  # fmt: skip


def _ground() -> list[Mark]:
    """A large ground rebuilt after one form was dragged, each form in turn, and how all of it grows with the cells."""
    from isostasis.core.catalogue import shipped
    from isostasis.core.document import resolve
    from isostasis.core.ground.forms import bare_ground
    from isostasis.core.reading import read

    def built(data: dict[str, Any]) -> float:
        scene = resolve(read(data), shipped())
        start = time.perf_counter()
        bare_ground(scene.base, scene.cell_mm, scene.forms)
        return time.perf_counter() - start

    whole = long_layout(1.0)
    built(whole)
    spans = []
    for number, form in enumerate(whole["forms"]):
        line = "path" if "path" in form else "outline"
        if form["id"] == "floor":
            continue  # its corners are the board's
        for off in (5.0, 10.0, 15.0):
            moved = [list(point) for point in form[line]]
            moved[1][1] -= off
            forms = [*whole["forms"][:number], {**form, line: moved}, *whole["forms"][number + 1 :]]
            spans.append(built({**whole, "forms": forms}))
    sizes, times = [], []
    for scale in (0.5, 0.7, 1.0, 1.4, 2.0):
        data = long_layout(scale)

        def once(data: dict[str, Any] = data) -> None:
            built(data)

        sizes.append(data["base"]["width_mm"] * data["base"]["depth_mm"] / 25)
        times.append(_best(once, 3, forget_stages))
    exponent = float(np.polyfit(np.log(sizes), np.log(times), 1)[0])
    return [
        Mark("6 x 3 m at 5 mm rebuilt after a form is dragged, slowest", max(spans) * 1000, 400, "ms"),
        Mark("ground from nothing, exponent over cells (to 2.9 million)", exponent, 1.1, ""),
    ]


def _schedule() -> list[Mark]:
    """Hollin Delf over two weeks with warm days and cold nights, through the solver's process: from nothing, and again
    once a step is marked; and the finish of every demo scene against the next-ready rule's."""
    from datetime import UTC, datetime, timedelta
    from threading import Event

    from isostasis.core.catalogue import shipped
    from isostasis.core.document import resolve
    from isostasis.core.reading import read
    from isostasis.core.schedule import Marks, Schedule, greedy_finish
    from isostasis.core.schedule.forecast import steps_of
    from isostasis.core.schedule.requests import ClockRequest
    from isostasis.demo import HOURS, SCENES, document
    from isostasis.solver import Solver
    from isostasis.solver.question import question, request_of

    start = datetime(2027, 3, 1, 12, tzinfo=UTC)
    turns = [start + timedelta(hours=10 * number + 4 * (number // 2)) for number in range(56)]
    series = [
        {"at": at.isoformat(), "temp_c": 21.0 - 6.0 * (number % 2) - 0.1 * (number // 2), "rh": 0.5}
        for number, at in enumerate(turns)
    ]
    scenes = {name: document(name) for name in SCENES}
    scenes["hollin-delf"] = {**scenes["hollin-delf"], "room": {"temp_c": 21.0, "rh": 0.5, "series": series}}
    solver = Solver()

    def asked(name: str, at: datetime, marks: Marks) -> tuple[float, Schedule]:
        put = question({name: scenes[name]}, HOURS, "UTC", ClockRequest(), {name: marks}).begun(at)
        heard, there = [], Event()

        def answered(made: dict[str, Any]) -> None:
            heard.append(made)
            there.set()

        begin = time.perf_counter()
        asking = solver.ask(name, put, answered)
        while not there.wait(0.5):
            if asking.wrong:
                raise SystemExit(asking.wrong)
        return time.perf_counter() - begin, Schedule.of(heard[0])

    first, made = asked("hollin-delf", start, Marks())
    assert made.finish and made.bound
    whole = datetime.fromisoformat(made.finish) - start
    gap = (datetime.fromisoformat(made.finish) - datetime.fromisoformat(made.bound)) / whole
    done = made.steps[0]
    again, _ = asked("hollin-delf", start + timedelta(hours=8), Marks(done={done.id: start + timedelta(hours=7.5)}))
    marks = [
        Mark(f"schedule of Hollin Delf, {len(made.steps)} steps, process and all", first, 10, "s"),
        Mark("its gap to the bound", gap, 0.02, ""),
        Mark("replanned after a step is marked", again, 3, "s"),
    ]
    for name in SCENES:
        found = made if name == "hollin-delf" else asked(name, start, Marks())[1]
        put = question({name: scenes[name]}, HOURS, "UTC", ClockRequest(), {}).begun(start)
        scene = resolve(read(scenes[name]), shipped())
        rule = greedy_finish(steps_of({name: scene}), request_of(put))
        assert found.finish
        days = (datetime.fromisoformat(found.finish) - start) / timedelta(days=1)
        # The rule may miss a window altogether; then the schedule is counted against itself.
        most = days if rule is None else (rule - start) / timedelta(days=1)
        missed = " (the rule misses a window)" if rule is None else ""
        marks.append(Mark(f"days to finish {name}, of the next-ready rule's{missed}", days, most, "d"))
    solver.close()
    return marks


def _second_start(folder: str) -> Mark:
    start = time.perf_counter()
    with Served(folder):
        took = time.perf_counter() - start
    return Mark("second start of the server, to its first page", took, 4, "s")


_SCRUB = """
async ({steps}) => {
  const slider = document.getElementById("so-far");
  const spans = [];
  for (let step = 0; step < steps; step++) {
    const before = document.getElementById("so-far-words");
    slider.value = 5 + (step * 37) % 90;
    const begin = performance.now();
    slider.dispatchEvent(new Event("input", { bubbles: true }));
    while (document.getElementById("so-far-words") === before) await new Promise((done) => requestAnimationFrame(done));
    await new Promise((done) => requestAnimationFrame(done));
    spans.push(performance.now() - begin);
  }
  return spans;
}
"""
_DRAG = """
async ({steps}) => {
  const level = () => document.getElementById("level");
  const low = Number(level().getAttribute("aria-valuemin")), high = Number(level().getAttribute("aria-valuemax"));
  const spans = [];
  for (let step = 0; step < steps; step++) {
    const value = low + 2 + (high - low - 3) * ((step * 0.37) % 1);
    const before = document.getElementById("pour-reading");
    const box = level().getBoundingClientRect();
    const svg = document.querySelector("svg.panels");
    const zero = Number(svg.dataset.zero), rise = Number(svg.dataset.rise);
    const point = new DOMPoint(300, zero - value * rise).matrixTransform(svg.getScreenCTM());
    const fire = (type, target, y) =>
      target.dispatchEvent(new PointerEvent(type, {bubbles: true, clientX: point.x, clientY: y}));
    fire("pointerdown", level(), box.y + box.height / 2);
    const start = performance.now();
    fire("pointermove", document, point.y);
    while (document.getElementById("pour-reading") === before) await new Promise((done) => setTimeout(done, 1));
    await new Promise((done) => requestAnimationFrame(() => setTimeout(done, 0)));
    spans.push(performance.now() - start);
    document.dispatchEvent(new KeyboardEvent("keydown", {key: "x"}));
  }
  return spans;
}
"""


def _drag(folder: str) -> list[Mark]:
    from playwright.sync_api import sync_playwright

    with Served(folder) as served, sync_playwright() as driver:
        browser = driver.chromium.launch(executable_path=CHROMIUM, args=list(CHROMIUM_FLAGS))
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto(f"{served.url}/s/hollin-delf/pour")
        page.evaluate(_DRAG, {"steps": 5})
        spans = page.evaluate(_DRAG, {"steps": 60})
        page.goto(f"{served.url}/s/hollin-delf/pour")
        page.evaluate(_SCRUB, {"steps": 5})
        scrubs = page.evaluate(_SCRUB, {"steps": 60})
        browser.close()
    return [
        Mark("level change from drag to repainted numbers, 95th pct", float(np.percentile(spans, 95)), 150, "ms"),
        Mark("scrub through a pour to repainted water, 95th pct", float(np.percentile(scrubs, 95)), 150, "ms"),
    ]


def run(browser: bool = True) -> list[Mark]:
    """All marks, one after the other."""
    marks = [_plan(), *_layer(), _filling(), *_spill(), *_ground(), *_schedule()]
    with tempfile.TemporaryDirectory() as folder:
        with Served(folder):
            pass
        marks.append(_second_start(folder))
        if browser:
            if not Path(CHROMIUM).exists():
                raise SystemExit("Chromium is missing: `make bench` installs it, or use --no-browser")
            marks += _drag(folder)
    return marks
