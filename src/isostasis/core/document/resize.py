"""Another size for the base: what lies beyond its new edge is cut off there, or everything moves in with it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any, Literal

from .edit import S, set_fields, written
from .scene import Scene

Way = Literal["cut", "scale"]
WAYS: tuple[Way, ...] = ("cut", "scale")
LEAST_MM2, LEAST_MM = 1.0, 0.5  # of an outline or a path that is worth keeping
Line = list[list[float]]
Data = dict[str, Any]


def _lined(scene: Scene) -> Iterator[tuple[str, list[tuple[float, float]]]]:
    """Name and places of everything that has places on the base."""
    for form in scene.forms:
        places = [*form.line, *getattr(form, "points", ()), *getattr(form, "dips", ())]
        yield form.title, [(one[0], one[1]) for one in places]
    for patch in scene.patches:
        yield patch.name, list(getattr(patch.area, "outline", ()))
    for place in (*scene.flats, *scene.protect):
        yield place.name, list(place.outline or place.path or ())


def beyond(scene: Scene, width_mm: float, depth_mm: float) -> list[str]:
    """Names of what has a place beyond a base of that size, in the document's order; what covers the whole base has
    none."""
    whole = _whole(scene.base.width_mm, scene.base.depth_mm)
    out = [
        name
        for name, places in _lined(scene)
        if set(places) != whole and any(x > width_mm + 1e-6 or y > depth_mm + 1e-6 for x, y in places)
    ]
    return list(dict.fromkeys(out))


def resized(scene: S, width_mm: float, depth_mm: float, way: Way) -> S:
    """With a base of another size. "cut": what lies beyond is cut off at the new edge, or taken away where nothing is
    left of it; "scale": all outlines, paths and places are drawn in or out with the base, sizes across and heights
    stay. What covered the whole base still does. Raises Faults."""
    data, base = written(scene), scene.base
    shrink = _scaled(width_mm / base.width_mm, depth_mm / base.depth_mm) if way == "scale" else _Cut(width_mm, depth_mm)
    whole = _whole(base.width_mm, base.depth_mm)

    def line(points: Line, closed: bool) -> Line | None:
        if closed and len(points) == 4 and {(x, y) for x, y in points} == whole:
            return [[x, y] for x, y in ((0, 0), (width_mm, 0), (width_mm, depth_mm), (0, depth_mm))]
        return shrink(points, closed)

    forms = [_with_lines(form, line, shrink, form.get("kind") == "channel") for form in data.get("forms", [])]
    changes: Data = {"forms": [one for one in forms if one]}
    for name in ("flats", "protect"):
        if data.get(name):
            changes[name] = [one for one in (_with_lines(place, line, shrink) for place in data[name]) if one]
    changes["patches"] = [one for one in (_patch(patch, line, shrink) for patch in data.get("patches", [])) if one]
    changes["base"] = _base(data["base"], width_mm, depth_mm, line, shrink)
    return set_fields(scene, changes)


def _whole(width: float, depth: float) -> set[tuple[float, float]]:
    return {(0.0, 0.0), (width, 0.0), (width, depth), (0.0, depth)}


def _rounded(points: Any) -> Line:
    return [[round(float(x), 3), round(float(y), 3)] for x, y in points]


Shrink = Callable[[Line, bool], Line | None]


def _scaled(across: float, along: float) -> Shrink:
    return lambda points, closed: _rounded((x * across, y * along) for x, y in points)


class _Cut:
    """What of a line lies on the base: the largest part, None for nothing."""

    def __init__(self, width: float, depth: float) -> None:
        self.width, self.depth = width, depth

    def __call__(self, points: Line, closed: bool) -> Line | None:
        from shapely import LineString, Point, Polygon, box

        base = box(0, 0, self.width, self.depth)
        if len(points) == 1:
            return points if base.covers(Point(points[0])) else None
        shape = Polygon(points) if closed else LineString(points)
        if base.covers(shape):
            return points
        kind = "Polygon" if closed else "LineString"
        left = shape.intersection(base)
        parts = [part for part in getattr(left, "geoms", [left]) if part.geom_type == kind]
        largest = max(parts, key=lambda part: part.area if closed else part.length, default=None)
        if largest is None or (largest.area < LEAST_MM2 if closed else largest.length < LEAST_MM):
            return None
        return _rounded(largest.exterior.coords[:-1] if closed else largest.coords)


def _with_lines(entry: Data, line: Shrink, place: Shrink, runs_out: bool = False) -> Data | None:
    """A form, a flat or a protected place; None where nothing is left of it."""
    out = dict(entry)
    if "outline" in entry:
        ring = line(entry["outline"], True)
        if ring is None:
            return None
        out["outline"] = ring
    if "path" in entry:
        path = line(entry["path"], False)
        if path is None:
            return None
        out["path"] = entry["path"] if runs_out and isinstance(place, _Cut) else path
    for name in ("points", "dips"):
        if name in entry:
            moved = [(place([list(one[:2])], False), one[2]) for one in entry[name]]
            out[name] = [[*where[0], z] for where, z in moved if where]
    return out


def _patch(patch: Data, line: Shrink, place: Shrink) -> Data | None:
    """A patch with its outline, and the places where its lifts are poured."""
    out = dict(patch)
    area = patch["area"]
    if "outline" in area:
        ring = line(area["outline"], True)
        if ring is None:
            return None
        out["area"] = {**area, "outline": ring}
    if "lifts" in patch:
        out["lifts"] = [_poured(lift, place) for lift in patch["lifts"]]
    return out


def _poured(lift: Data, place: Shrink) -> Data:
    """A lift with the place where it is poured; without one that lies beyond."""
    at = place([lift["at_mm"]], False) if "at_mm" in lift else None
    rest = {name: value for name, value in lift.items() if name != "at_mm"}
    return {**rest, "at_mm": at[0]} if at else rest


def _base(base: Data, width: float, depth: float, line: Shrink, place: Shrink) -> Data:
    """The base itself: its own outline and its joints."""
    out = {**base, "width_mm": width, "depth_mm": depth}
    if isinstance(base.get("outline"), list):
        out["outline"] = line(base["outline"], True)
        if out["outline"] is None:
            del out["outline"]
    elif isinstance(base.get("outline"), dict):
        out["outline"] = {"disc_mm": min(base["outline"]["disc_mm"], width, depth)}
    scaling = not isinstance(place, _Cut)
    for name, old, new in (("joints_x_mm", base["width_mm"], width), ("joints_y_mm", base["depth_mm"], depth)):
        if base.get(name):
            moved = [round(at * new / old, 3) if scaling else at for at in base[name]]
            out[name] = [at for at in moved if 0 < at < new]
    return out
