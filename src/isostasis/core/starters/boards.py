"""Flat boards: with ponds, flooded all over, in a frame, empty; and round bases."""

from __future__ import annotations

from ..document.outline import disc
from ..fault import fault
from .layout import SPREAD, blob, block, grid_of
from .layups import EARTH, FLOODED_BED, GRASS, SKIN_MM, STONY_BANK, pond
from .model import Answers, Document, Question, Starter, sizes
from .parts import SHEET_MM, Data, board, foam_under, hollow, patch, ponds, sheet, water_patch

BED_MM = SKIN_MM + 1.0  # of skin and soil, under a flooded board's water
BANKS = Question("banks", "banks", "gentle", "choice", options=(("gentle", "gentle"), ("steep", "steep")))


def _with_ponds(answers: Answers) -> Document:
    width, depth, deep, count = answers["width"], answers["depth"], answers["deep"], answers["count"]
    foam = foam_under(width, depth, deep)
    lip = SHEET_MM * len(foam)
    dug = ponds(count, deep, (0, 0, width, depth), answers["banks"] == "steep", (width, depth))
    return {
        "grid_mm": grid_of(width, depth), "base": board(width, depth), "forms": [*foam, *dug],
        "patches": [patch("Ground", {"rest": True}, GRASS), water_patch("Ponds", lip, deep)],
    }  # fmt: skip


PONDS = Starter(
    "ponds", "A board with ponds", "size, how many, how deep", "Three ponds",
    (
        *sizes(600, 400),
        Question("deep", "how deep", 10.0, low=2, high=60),
        Question("count", "how many ponds", 3, "count", 1, 6),
        BANKS,
    ),
    _with_ponds,
)  # fmt: skip


def _flooded(answers: Answers) -> Document:
    width, depth, level = answers["width"], answers["depth"], answers["level"]
    islands: list[Data] = []
    count = int(answers["islands"])
    reach = min(width, depth) * (0.16 if count < 3 else 0.11)
    crown = min(level + 6, 0.4 * reach)
    if count and crown < level + 1:
        raise fault("water above its bed", f"islands of {2 * reach:.0f} mm across would not show",
                    f"at most {max(0.4 * reach - 1, 0):.0f} mm, or no islands")  # fmt: skip
    for turn, (x, y) in enumerate(SPREAD[count] if count else ()):
        islands.append({
            "id": f"island-{turn + 1}", "kind": "mound", "name": f"Island {turn + 1}", "crown_mm": round(crown, 1),
            "outline": blob(x * width, y * depth, reach * 1.1, reach, turn), "material": "foam-xps",
        })  # fmt: skip
    ground = sheet("Foam", block(0, 0, width, depth))
    base = board(width, depth, dammed="all", dam_mm=round(SHEET_MM + level + 8.0, 1))
    bed = patch("Bed", {"rest": True}, FLOODED_BED, level_mm=SHEET_MM + BED_MM + level)
    return {"grid_mm": grid_of(width, depth), "base": base, "forms": [ground, *islands], "patches": [bed]}


FLOODED = Starter(
    "flooded", "A flooded board", "size, water level, islands", "Flooded board",
    (
        *sizes(400, 300),
        Question("level", "water above its bed", 8.0, low=2, high=40),
        Question("islands", "islands", 2, "count", 0, 5),
    ),
    _flooded,
)  # fmt: skip


def _framed(answers: Answers) -> Document:
    width, depth, rise, deep = answers["width"], answers["depth"], answers["rise"], answers["deep"]
    wide = max(8.0, min(width, depth) * 0.06)
    foam = foam_under(width, depth, deep)
    lip = SHEET_MM * len(foam)
    half = wide / 2
    rim = {
        "id": "frame", "kind": "rim", "name": "Frame", "height_mm": rise, "width_mm": round(wide, 1),
        "outline": block(half, half, width - half, depth - half),
    }  # fmt: skip
    forms = [*foam]
    patches = [patch("Ground", {"rest": True}, EARTH), patch("Frame bank", {"above_mm": lip + 1.0}, STONY_BANK)]
    if answers["water"] == "yes":
        reach = (min(width, depth) - 2 * wide) * 0.3
        forms.append(hollow("pond", blob(width / 2, depth / 2, reach * min(width / depth, 1.5), reach), deep))
        patches.append(water_patch("Water", lip, deep))
    return {"grid_mm": grid_of(width, depth), "base": board(width, depth), "forms": [*forms, rim], "patches": patches}


FRAMED = Starter(
    "framed", "A scene in a frame", "size, rim, water or none", "Scene in a frame",
    (
        *sizes(300, 200),
        Question("rise", "rim above the ground", 10.0, low=2, high=60),
        Question("water", "water", "yes", "choice", options=(("yes", "a pond"), ("no", "none"))),
        Question("deep", "how deep", 10.0, low=2, high=45),
    ),
    _framed,
)  # fmt: skip


def _bases(answers: Answers) -> Document:
    across, deep = answers["across"], answers["deep"]
    thick = max(4.0, round(deep + 2))
    ring = [[round(x, 2), round(y, 2)] for x, y in disc(across, (across / 2, across / 2))]
    plinth = sheet("Plinth", ring, thick)
    skin = 0.6
    pools = answers["pools"]
    reach = across * (0.3 if pools == 1 else 0.17)
    dug = [
        hollow(f"pool {turn + 1}", blob(x * across, y * across, reach, reach * 0.85, turn), deep, steep=True)
        for turn, (x, y) in enumerate(((0.5, 0.5),) if pools == 1 else ((0.33, 0.55), (0.68, 0.45))[:pools])
    ]
    crust = patch("Crust", {"rest": True}, EARTH)
    crust["lifts"][0] |= {"mix": "plaster-2-3", "depth_mm": skin}
    crust["lifts"][2] |= {"depth_mm": 0.5}
    pool = pond("coating-resin", 0.0, "plaster-2-3", skin)
    water = [patch("Pools", {"below_mm": thick - 0.25}, pool, level_mm=round(thick + skin - 0.5, 2))] if pools else []
    return {
        "grid_mm": grid_of(across, across), "copies": answers["copies"],
        "base": {"width_mm": across, "depth_mm": across, "outline": {"disc_mm": across}, "board": "hardboard-3"},
        "forms": [plinth, *dug], "patches": [crust, *water],
    }  # fmt: skip


BASES = Starter(
    "bases", "Round bases", "diameter, how many, pools", "Round bases",
    (
        Question("across", "diameter", 60.0, low=20, high=300),
        Question("copies", "how many of them", 5, "count", 1, 100),
        Question("pools", "pools on each", 1, "count", 0, 2),
        Question("deep", "how deep", 3.0, low=1, high=15),
    ),
    _bases,
)  # fmt: skip


def _empty(answers: Answers) -> Document:
    width, depth, foam = answers["width"], answers["depth"], answers["foam"]
    forms = [sheet("Foam", block(0, 0, width, depth), foam)] if foam else []
    patches = [{"id": "ground", "name": "Ground", "area": {"rest": True}, "lifts": []}]
    return {"grid_mm": grid_of(width, depth), "base": board(width, depth), "forms": forms, "patches": patches}


EMPTY = Starter(
    "empty", "An empty board", "size, and you draw", "Empty board",
    (*sizes(400, 300, low=20, high=20_000), Question("foam", "foam on it", 25.0, low=0, high=200)),
    _empty,
)  # fmt: skip
