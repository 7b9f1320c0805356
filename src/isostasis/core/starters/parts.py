"""What several starters are made of: foam on a board, hollows in it, patches with their lay-ups."""

from __future__ import annotations

from math import ceil, floor, radians, tan
from typing import Any

from ..fault import fault
from ..ground.sketch import by_place
from .layout import SPREAD, Ring, blob, block, room_for
from .layups import SKIN_MM, ReadyLayup, pond

SHEET_MM = 25.0
FLOOR_MM = 4.0  # foam that stays under the deepest hollow
UNDER_LIP_MM = 2.0  # so far below the lip water stands, in a shallow hollow less
RIM_MM = 5.0  # of ground between a hollow and the edge of the base, at least
OUTERMOST = 1.1 * 1.15  # half-axes out to which a blob of this shape reaches
SHALLOW_MM = 6.0  # what a coating resin fills in one go

Data = dict[str, Any]


def board(width: float, depth: float, **more: Any) -> Data:
    """A base of plywood."""
    return {"width_mm": width, "depth_mm": depth, "board": "plywood-9", **more}


def sheet(name: str, ring: Ring, thickness_mm: float = SHEET_MM) -> Data:
    """A sheet of foam, glued on."""
    return {
        "id": name.lower().replace(" ", "-"), "kind": "sheet", "name": name, "outline": ring,
        "thickness_mm": thickness_mm, "material": "foam-xps", "glue": "white-glue",
    }  # fmt: skip


def foam_under(width: float, depth: float, deepest: float) -> list[Data]:
    """As many whole sheets over the board as the deepest hollow wants."""
    count = max(1, ceil((deepest + FLOOR_MM) / SHEET_MM))
    names = ["Foam"] if count == 1 else [f"Foam {number}" for number in range(1, count + 1)]
    return [sheet(name, block(0, 0, width, depth)) for name in names]


def hollow(name: str, ring: Ring, depth_mm: float, steep: bool = False) -> Data:
    """A hollow cut into the foam. Raises Faults for banks that would meet before they are so deep."""
    bank_deg = 70 if steep else 40
    across = min(max(point[axis] for point in ring) - min(point[axis] for point in ring) for axis in (0, 1))
    most = floor(0.3 * across * tan(radians(bank_deg)))
    if depth_mm > most:
        raise fault(
            "how deep",
            f"the {name} is {across:.0f} mm across",
            f"at most {most} mm, or a larger base, or fewer of them",
        )
    return {
        "id": name.replace(" ", "-"), "kind": "basin", "name": name.capitalize(), "outline": ring,
        "depth_mm": depth_mm, "bank_deg": bank_deg,
    }  # fmt: skip


def ponds(
    count: int, deep: float, area: tuple[float, float, float, float], steep: bool, base: tuple[float, float]
) -> list[Data]:
    """N hollows spread over an area (west, south, east, north) of a base, each so deep, named by place."""
    west, south, east, north = area
    width, depth = east - west, north - south
    in_a_row = width > 2.2 * depth
    shares = [((number + 0.5) / count, 0.5) for number in range(count)] if in_a_row else SPREAD[count]
    middles = [(x * width, y * depth) for x, y in shares]
    reach = room_for(middles, width, depth)
    # Ground that holds the water stands between each and the base's edge, however small the base is.
    off = [min(x + west, base[0] - x - west, y + south, base[1] - y - south) for x, y in middles]
    reach = max(min(reach, *((one - RIM_MM) / OUTERMOST for one in off)), 1.0)
    names = by_place("pond", [(west + x, south + y) for x, y in middles], *base)
    return [
        hollow(name, blob(west + x, south + y, reach * 1.1, reach * 0.9, turn), deep, steep)
        for turn, (name, (x, y)) in enumerate(zip(names, middles, strict=True))
    ]


def patch(name: str, area: Data, layup: ReadyLayup, **water: float) -> Data:
    """A patch with a ready lay-up on it."""
    stem = name.lower().replace(" ", "-")
    return {"id": stem, "name": name, "area": area, "lifts": layup.laid(stem, **water)}


def water_patch(name: str, lip_mm: float, deepest: float) -> Data:
    """All hollows below a lip, filled to a little under it with the resin that suits their depth."""
    layup = pond("coating-resin", 0.0) if deepest <= SHALLOW_MM else pond()
    below = min(UNDER_LIP_MM, 0.4 * deepest)
    return patch(name, {"below_mm": lip_mm - 0.5}, layup, level_mm=round(lip_mm + SKIN_MM - below, 2))
