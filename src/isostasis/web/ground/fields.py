"""What can be typed about each kind of form, how a new one begins, and the handle that it has in the cut."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from ...core.document.scene import Base, Form
from ...core.document.transform import box_of
from ...core.fault import fault
from ...core.ground.field import Ground
from ...core.ground.raster import band
from ...core.ground.sketch import Line, middle_of
from ...core.lifts.areas import line_of, share_of
from ...core.lifts.fold import Build
from ...core.units import EXACT, number
from ..draw.projection import Projection
from ..shared.fields import Field, parse_float, read

BANK = Field("bank_deg", "Banks, degrees", "deg", hint="90 is upright")
FIELDS: dict[str, tuple[Field, ...]] = {
    "sheet": (Field("thickness_mm", "Thickness", "mm"),),
    "mound": (Field("crown_mm", "Crown", "mm"),),
    "ramp": (
        Field("width_mm", "Width", "mm"),
        Field("start_mm", "Height at its start", "mm"),
        Field("end_mm", "Height at its end", "mm", optional=True),
        Field("grade", "or grade, percent", "percent", optional=True),
        Field("riser_mm", "Risers every", "mm", optional=True, hint="for their heights"),
    ),
    "rim": (Field("height_mm", "Height", "mm"), Field("width_mm", "Width", "mm")),
    "basin": (Field("depth_mm", "Depth", "mm"), BANK),
    "channel": (Field("width_mm", "Width at the lip", "mm"), Field("depth_mm", "Depth", "mm"), BANK),
    "bevel": (Field("slope_deg", "Slope, degrees", "deg"),),
    "casting": (
        Field("height_mm", "Stands out by", "mm"),
        Field("mould_ml", "A mould holds", "ml", hint="water that fills it"),
        Field("pieces", "Pieces", "whole"),
        Field("moulds", "Moulds that I have", "whole"),
    ),
    "survey": (),
    "dips": (),
}
KIND_WORDS = {
    "sheet": "sheet of foam",
    "mound": "mound of paper",
    "ramp": "ramp",
    "rim": "rim round a pool",
    "basin": "basin",
    "channel": "channel",
    "bevel": "bevel of steps",
    "casting": "casting, set in",
    "survey": "survey by dip stick",
    "dips": "hollow, by its dips",
}


ROAD = "road"  # drawn like a form, and kept flat
ROAD_FLAT_MM = 1.0
# What is drawn with the pencil, and what a new one is called beside its place; which of it are paths; with what.
NOUNS = {
    "sheet": "step", "mound": "mound", "basin": "pond", "rim": "rim", "bevel": "bevel", "casting": "casting",
    "dips": "hollow", "ramp": "ramp", "channel": "brook", ROAD: "road",
}  # fmt: skip
PATHS = frozenset({"ramp", "channel", ROAD})
PENCILS = ("freehand", "corners", "ellipse", "rectangle")
FOLLOW = "follow an edge"  # of the photo under the plan
MAX_TYPED = 400  # spots in one field


def _round(value: float) -> float:
    return round(value, 3)


def _plain(value: float) -> float:
    """Two digits: what a person would have chosen."""
    return float(f"{value:.2g}")


def road_width(base: Base) -> float:
    """How wide a road is at first, mm."""
    return _plain(min(base.width_mm, base.depth_mm) / 10)


CHOICES = tuple(Field(name, name, "choice", optional=True) for name in ("material", "glue", "after", "mix"))


def values_of(form: Form) -> dict[str, Any]:
    """What the fields of a form hold."""
    return {field.name: getattr(form, field.name) for field in FIELDS[form.kind]}


def sent_values(form: Any, sent: Mapping[str, str]) -> dict[str, Any]:
    """The fields of a form that a request sends, as the document has them. Raises Faults."""
    kind = form.kind
    fields = [field for field in (*FIELDS[kind], *CHOICES) if field.name in sent]
    values = read(fields, sent, values_of(form))
    if values.get("material") == form.made_of:
        values.pop("material", None)  # shown as its kind is made anyway
    if kind == "ramp":
        values["cut"] = sent.get("cut") == "yes"
    if kind == "survey" and sent.get("points", "").split() not in ([], spots_text(form.points).split()):
        values["points"] = spots(sent["points"])
    if kind == "dips" and "dips" in sent and sent["dips"].split() != spots_text(form.dips).split():
        values["dips"] = spots(sent["dips"])
    return values


def spots_text(points: Sequence[Sequence[float]]) -> str:
    """Spot heights as they are typed, a spot a line."""
    return "\n".join(", ".join(number(value, EXACT) for value in point) for point in points)


def spots(text: str) -> list[list[float]]:
    """Spot heights as they were typed: x, y, z a line. Raises Faults that name the line."""
    places = []
    for place, line in enumerate(text.splitlines(), start=1):
        words = line.replace(",", " ").replace(";", " ").split()
        if not words:
            continue
        if len(words) != 3:
            raise fault(f"spot heights, line {place}", f"“{line[:40]}” has {len(words)} values", "write x, y and z")
        places.append([_round(parse_float(word, f"spot heights, line {place}")) for word in words])
    return places


def begin(kind: str, base: Base, ground: Ground, first: bool, line: Line | None = None) -> dict[str, Any]:
    """A new form of a kind along a line, or in the middle of the base; the first sheet covers all of it. Raises
    Faults."""
    if kind not in FIELDS:
        raise fault("kind", f"'{kind}' is no kind of form that is built", f"choose one of {', '.join(FIELDS)}")
    width, depth = base.width_mm, base.depth_mm
    least = min(width, depth)
    low, high = (0.0, 1.0) if kind == "sheet" and first else (0.3, 0.7)
    west, east, south, north = (_round(one) for one in (width * low, width * high, depth * low, depth * high))
    ring = [[west, south], [east, south], [east, north], [west, north]]
    if base.outline and low == 0.0:
        ring = [[_round(x), _round(y)] for x, y in base.ring]
    path = [[west, _round(depth / 2)], [east, _round(depth / 2)]]
    if line:
        ring = path = line
    under = float(ground.z[ground.cell_at(*(middle_of(line) if line else (width / 2, depth / 2)))])
    if kind in ("basin", "channel", "bevel", "dips") and under <= 0:
        raise fault("forms", f"there is nothing to cut a {kind} into there", "lay a sheet first")
    size = _plain(least / 8)
    starts: dict[str, dict[str, Any]] = {
        "sheet": {"outline": ring, "thickness_mm": 25 if least > 150 else 10, "material": "foam-xps"},
        "mound": {"outline": ring, "crown_mm": size, "material": "crumpled-paper"},
        "ramp": {"path": path, "width_mm": size, "start_mm": _round(under), "end_mm": _round(under + _plain(size / 4))},
        "rim": {"outline": ring, "height_mm": _plain(size / 6), "width_mm": _plain(size / 2)},
        "basin": {"outline": ring, "depth_mm": min(10, _plain(under / 2)), "bank_deg": 45},
        "channel": {"path": path, "width_mm": size, "depth_mm": min(8, _plain(under / 2)), "bank_deg": 45},
        "bevel": {"outline": ring, "slope_deg": 38},
        "casting": {
            "outline": ring,
            "height_mm": size,
            "mould_ml": _plain((ring[1][0] - ring[0][0]) * (ring[2][1] - ring[1][1]) * size / 1000),
            "pieces": 1,
            "moulds": 1,
            "mix": "plaster-2-3",
        },
        "survey": {"points": [[*corner, _round(under)] for corner in ring]},
        "dips": {"outline": ring, "dips": []},
    }
    return {"kind": kind, **starts[kind]}


@dataclass(frozen=True, slots=True)
class Handle:
    """A form's handle in the cut: the field that it moves, its value, where it stands, mm of height a mm of value."""

    field: str
    label: str
    value: float
    x: float
    z: float
    per: float


_IN_CUT = {
    "sheet": ("thickness_mm", 1),
    "mound": ("crown_mm", 1),
    "rim": ("height_mm", 1),
    "casting": ("height_mm", 1),
    "basin": ("depth_mm", -1),
    "channel": ("depth_mm", -1),
    "ramp": ("end_mm", 1),
}


def handle_of(form: Form, built: Build, row: int, frame: Projection) -> Handle | None:
    """The handle of a form where the cut passes through it; None where it does not, or there is nothing to move."""
    line = line_of(form)
    step = next((one for one in built.forms if one.form.id == form.id), None)
    if form.kind not in _IN_CUT or line is None or step is None:
        return None
    field, sign = _IN_CUT[form.kind]
    value = getattr(form, field)
    if value is None:
        return None
    ground = step.ground
    columns = np.flatnonzero(share_of(line, ground.shape, ground.cell_mm)[row] > 0.5)
    if not len(columns):
        return None
    heights = ground.z[row, columns]
    place = int({1: heights.argmax(), -1: heights.argmin()}[sign])
    if form.kind in ("sheet", "basin", "channel"):
        level = columns[np.abs(heights - heights[place]) < 1e-6]
        column = int(level[len(level) // 2])
    else:
        column = int(columns[place])
    per = float(sign)
    if form.kind == "mound":
        per = _share_of_crown(form, built, row, column)
    elif form.kind == "ramp":
        per = _share_of_run(form, ground, row, column)
    if abs(per) < 0.1:
        return None
    label = next(one.label for one in FIELDS[form.kind] if one.name == field).lower()
    x = min(max(frame.x((column + 0.5) * ground.cell_mm), frame.left), frame.left + frame.plan_width)
    return Handle(field, label, float(value), x, float(ground.z[row, column]), per)


def _share_of_crown(form: Any, built: Build, row: int, column: int) -> float:
    """How much of the crown a mound reaches at a cell."""
    number = next(place for place, one in enumerate(built.forms) if one.form.id == form.id)
    step = built.forms[number]
    before = built.forms[number - 1].ground.z[row, column] if number else 0.0
    return float((step.ground.z[row, column] - before) / form.crown_mm)


def _share_of_run(form: Any, ground: Ground, row: int, column: int) -> float:
    """How far along a ramp a cell lies, 0 to 1."""
    strip = band(form.path, form.width_mm, ground.shape, ground.cell_mm)
    along = strip.along[row - strip.box[0].start, column - strip.box[1].start]
    return float(along / strip.length)


def snaps(base: Base, forms: Sequence[Form], but: str | None) -> dict[str, list[float]]:
    """Lines in mm that a dragged point snaps to: the base's edges, middle and joints, and corners, edges and middles of
    the other forms."""
    x = {0.0, base.width_mm / 2, base.width_mm, *base.joints_x_mm}
    y = {0.0, base.depth_mm / 2, base.depth_mm, *base.joints_y_mm}
    for form in forms:
        if form.id == but or form.off or not form.line:
            continue
        west, south, east, north = box_of([form])
        x |= {west, round((west + east) / 2, 1), east}
        y |= {south, round((south + north) / 2, 1), north}
        if len(form.line) <= 24:  # corners of curves would snap everywhere
            x |= {point[0] for point in form.line}
            y |= {point[1] for point in form.line}
    return {"x": sorted(x), "y": sorted(y)}


def risers(form: Any, ground: Ground) -> list[tuple[float, float]]:
    """(place along the path, height of a riser) of a ramp with risers: its top less what stood there before it."""
    if getattr(form, "riser_mm", None) is None:
        return []
    heights = []
    points = np.asarray(form.path, dtype=float)
    run = np.hypot(*np.diff(points, axis=0).T)
    stations = np.concatenate(([0.0], np.cumsum(run)))
    for at in np.arange(0.0, form.length_mm + 1e-6, form.riser_mm):
        x, y = np.interp(at, stations, points[:, 0]), np.interp(at, stations, points[:, 1])
        below = float(ground.z[ground.cell_at(float(x), float(y))])
        heights.append((float(at), max(form.start_mm + form.rise_per_mm * float(at) - below, 0.0)))
    return heights
