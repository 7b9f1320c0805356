"""A large ground: rebuilt after a drag, and how it grows with its cells."""

from __future__ import annotations

import time
from typing import Any

import numpy as np

from .marks import Mark, forget_stages, seconds


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


def measure() -> list[Mark]:
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
        times.append(seconds(once, 3, forget_stages))
    exponent = float(np.polyfit(np.log(sizes), np.log(times), 1)[0])
    return [
        Mark("6 x 3 m at 5 mm rebuilt after a form is dragged, slowest", max(spans) * 1000, 400, "ms"),
        Mark("ground from nothing, exponent over cells (to 2.9 million)", exponent, 1.1, ""),
    ]
