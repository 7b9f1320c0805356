"""The smallest scene that has a sum in it, planned: so a quick sum and a scene cannot differ."""

from __future__ import annotations

from math import cos, pi, sin
from typing import Any

from ..document import ResolvedScene, resolve
from ..plan import Plan, plan
from ..reading import read
from .model import Drawing, SumRequest

MARGIN_MM = 20.0
SHEET_MM = 25.0  # of foam beneath
CORNERS = 64  # of a round outline
Ring = tuple[tuple[float, float], ...]


def rectangle(width: float, depth: float) -> Ring:
    """A ring of that size, its south-west corner a margin from that of the board."""
    west = south = MARGIN_MM
    return (west, south), (west + width, south), (west + width, south + depth), (west, south + depth)


def oval(width: float, depth: float) -> Ring:
    """An oval in that rectangle, of the same area as the true one."""
    grown = (2 * pi / CORNERS / sin(2 * pi / CORNERS)) ** 0.5
    middle = MARGIN_MM + width / 2, MARGIN_MM + depth / 2
    return tuple(
        (
            round(middle[0] + grown * width / 2 * cos(2 * pi * number / CORNERS), 3),
            round(middle[1] + grown * depth / 2 * sin(2 * pi * number / CORNERS), 3),
        )
        for number in range(CORNERS)
    )


def square(asked: SumRequest, area_mm2: float) -> Drawing:
    """A square of that area, as a picture."""
    side = area_mm2**0.5
    ring = (0.0, 0.0), (side, 0.0), (side, side), (0.0, side)
    return Drawing((("skin", ring),), ((0.0, -6.0, side, -6.0, asked.mm(side)),))


def grid_for(width: float, depth: float) -> float:
    """Cells fine enough for a shape of that size, and not more of them than it takes."""
    return round(min(max(min(width, depth) / 60, 0.5), 5.0), 2)


def document(
    name: str,
    width: float,
    depth: float,
    room: tuple[float, float],
    forms: list[dict[str, Any]],
    patches: list[Any],
    *,
    deep_mm: float = 0.0,
    **base: Any,
) -> dict[str, Any]:
    """A scene of a board of that size with a margin round it, under a sheet thick enough for a hollow so deep."""
    wide, deep = width + 2 * MARGIN_MM, depth + 2 * MARGIN_MM
    ring = [[0, 0], [wide, 0], [wide, deep], [0, deep]]
    sheet = {
        "id": "sheet",
        "kind": "sheet",
        "outline": ring,
        "thickness_mm": deep_mm + SHEET_MM,
        "material": "foam-xps",
    }
    return {
        "isostasis": 1,
        "name": name,
        "grid_mm": grid_for(width, depth),
        "base": {"width_mm": wide, "depth_mm": deep, **base},
        "room": {"temp_c": room[0], "rh": room[1]},
        "forms": [sheet, *forms],
        "patches": patches,
    }


def basin(outline: Ring, depth_mm: float, bank_deg: float = 89.0) -> dict[str, Any]:
    """A hollow in the sheet."""
    ring = [list(point) for point in outline]
    return {"id": "hollow", "kind": "basin", "outline": ring, "depth_mm": depth_mm, "bank_deg": bank_deg}


def planned(data: dict[str, Any], asked: SumRequest) -> tuple[ResolvedScene, Plan]:
    """The scene and its plan, with the reader's own labels and things. Raises Faults, in the words of the plan."""
    scene = resolve(read(data), asked.catalogue, asked.bench)
    return scene, plan(scene)


def on_square(asked: SumRequest, area: float, lifts: list[dict[str, Any]]) -> dict[str, Any]:
    """A scene of one square spot of that area with those lifts."""
    side = area**0.5
    ring = [list(point) for point in rectangle(side, side)]
    patch = {"id": "spot", "name": "Spot", "area": {"outline": ring}, "lifts": lifts}
    return document("Quick sum", side, side, asked.room(), [], [patch])
