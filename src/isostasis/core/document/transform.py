"""Forms moved, turned, scaled, mirrored, several at once: the places of each, about the middle of all."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from math import cos, radians, sin
from typing import Any, Literal

from ..fault import fault
from .edit import S, find, update
from .scene import Form, Scene

How = Literal["shift", "turn", "scale", "mirror-x", "mirror-y"]
HOWS: tuple[How, ...] = ("shift", "turn", "scale", "mirror-x", "mirror-y")
LEAST, MOST = 0.05, 20.0  # times that something is scaled by
Place = tuple[float, float]


def places_of(form: Form) -> list[Place]:
    """All places of a form: its line, its spots, its dips."""
    return [(one[0], one[1]) for one in (*form.line, *getattr(form, "points", ()), *getattr(form, "dips", ()))]


def box_of(forms: Sequence[Form]) -> tuple[float, float, float, float]:
    """West, south, east, north of some forms that have places, mm."""
    x, y = zip(*(place for form in forms for place in places_of(form)), strict=True)
    return min(x), min(y), max(x), max(y)


def transformed(scene: S, ids: Sequence[str], how: How, by: Place = (0.0, 0.0)) -> S:
    """With some forms shifted by mm east and north, turned by so many degrees against the clock, scaled so many times
    (`by[0]`), or mirrored east-west ("mirror-x") or north-south; about the middle of all of them, and moved back on to
    the base where they stand out of it. Raises Faults."""
    forms = [find(scene, "forms", name) for name in ids]
    fixed = next((form for form in forms if not places_of(form) or getattr(form, "grid", None)), None)
    if fixed is not None:
        raise fault("forms", f"“{fixed.title}” is a grid of heights, which lies as it was measured", "leave it out")
    if not forms:
        return scene
    west, south, east, north = box_of(forms)
    move = _move(how, by, ((west + east) / 2, (south + north) / 2))
    moved = [[move(*place) for place in places_of(form)] for form in forms]
    right, up = _back_on(scene, [place for places in moved for place in places])

    def put(places: Any) -> list[list[float]]:
        out = []
        for x, y, *rest in places:
            a, b = move(x, y)
            out.append([round(a + right, 3), round(b + up, 3), *rest])
        return out

    for form in forms:
        names = [name for name in ("outline", "path", "points", "dips") if getattr(form, name, None)]
        changes: dict[str, Any] = {name: put(getattr(form, name)) for name in names}
        if how == "scale":
            changes |= {name: round(getattr(form, name) * by[0], 3) for name in ("width_mm",) if hasattr(form, name)}
        scene = update(scene, "forms", form.id, changes)
    return scene


def _move(how: How, by: Place, about: Place) -> Callable[[float, float], Place]:
    x0, y0 = about
    if how == "turn":
        cosine, sine = cos(radians(by[0])), sin(radians(by[0]))
        return lambda x, y: (
            x0 + (x - x0) * cosine - (y - y0) * sine,
            y0 + (x - x0) * sine + (y - y0) * cosine,
        )
    if how == "scale":
        if not LEAST <= by[0] <= MOST:
            raise fault("scale", f"{by[0]:g} times", f"{LEAST:g} to {MOST:g} times")
        return lambda x, y: (x0 + (x - x0) * by[0], y0 + (y - y0) * by[0])
    if how == "mirror-x":
        return lambda x, y: (2 * x0 - x, y)
    if how == "mirror-y":
        return lambda x, y: (x, 2 * y0 - y)
    return lambda x, y: (x + by[0], y + by[1])


def _back_on(scene: Scene, places: Sequence[Place]) -> Place:
    """By how much places must move to lie on the base, as far as they can."""

    def shift(values: list[float], most: float) -> float:
        low, high = min(values), max(values)
        return -low if low < 0 else most - high if high > most else 0.0

    x, y = ([place[axis] for place in places] for axis in (0, 1))
    return shift(list(x), scene.base.width_mm), shift(list(y), scene.base.depth_mm)
