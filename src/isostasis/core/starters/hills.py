"""Boards that rise: hills with a way through, a shelf in sections, a bank with falling water."""

from __future__ import annotations

from ..fault import fault
from .layout import blob, block, grid_of, wavy
from .layups import CLOTH_HILL, DIRT_ROAD, FALL, GRASS, STONY_BANK
from .model import Answers, Document, Question, Starter, sizes
from .parts import SHEET_MM, Data, board, foam_under, hollow, patch, ponds, sheet, water_patch

POND_MM = 10.0


def _hills(answers: Answers) -> Document:
    width, depth, steps, road = answers["width"], answers["depth"], answers["steps"], answers["road"]
    foam = foam_under(width, depth, POND_MM)
    middle = (0.26 * width, 0.7 * depth)
    reach = min(0.17 * width, 0.24 * depth)
    hill = [
        sheet(f"Hill step {number + 1}", blob(*middle, reach * 1.25 * share, reach * share, 1))
        for number, share in enumerate(1 - 0.26 * number for number in range(steps))
    ]
    mound: Data = {
        "id": "paper-mound", "kind": "mound", "name": "Paper mound", "crown_mm": round(min(30.0, reach / 2), 1),
        "outline": blob(0.78 * width, 0.76 * depth, reach, reach * 0.8, 2), "material": "crumpled-paper",
    }  # fmt: skip
    path = wavy(0, width, 0.4 * depth, 0.03 * depth, 0)
    lowland = (0.0, 0.0, width, 0.4 * depth - road / 2 - 0.04 * depth)
    count = answers["count"]
    if lowland[3] < (60.0 if count else 10.0):
        raise fault("road width", f"{road:g} mm leave {max(lowland[3], 0):.0f} mm south of the road",
                    "a narrower road, no ponds, or a deeper board")  # fmt: skip
    dug = ponds(count, POND_MM, lowland, False, (width, depth)) if count else []
    way = {"id": "road-way", "name": "Road", "path": path, "width_mm": round(road * 0.8, 1), "flat_mm": 1.0}
    return {
        "grid_mm": grid_of(width, depth), "base": board(width, depth), "forms": [*foam, *hill, mound, *dug],
        "patches": [
            patch("Ground", {"rest": True}, GRASS),
            patch("Hill", {"above_mm": SHEET_MM * len(foam) + 1.0}, CLOTH_HILL),
            patch("Mound", {"on": "paper-mound"}, CLOTH_HILL),
            patch("Road", {"near": "road-way", "within_mm": round(road * 0.1, 1)}, DIRT_ROAD),
            *([water_patch("Ponds", SHEET_MM * len(foam), POND_MM)] if dug else []),
        ],
        "flats": [way],
    }  # fmt: skip


HILLS = Starter(
    "hills", "Hills and a road", "size, steps, road width, ponds", "Hills and a road",
    (
        *sizes(600, 400, low=200),
        Question("steps", "steps of the hill", 2, "count", 1, 3),
        Question("road", "road width", 40.0, low=10, high=120),
        Question("count", "ponds", 0, "count", 0, 3),
    ),
    _hills,
)  # fmt: skip


def _shelf(answers: Answers) -> Document:
    width, depth, benches = answers["width"], answers["depth"], answers["benches"]
    sections = answers["sections"]
    forms = [sheet("Ground sheet", block(0, 0, width, depth))]
    for number in range(benches):
        front = wavy(0, width, depth * (0.45 + 0.45 * number / max(benches, 1)), depth * 0.03, number)
        ring = [*front, [width, depth], [0.0, depth]]
        forms.append(sheet(f"Bench {number + 1}", ring))
    joints = [round(width * number / sections, 1) for number in range(1, sections)]
    steep = [patch("Benches", {"above_mm": SHEET_MM + 1.0}, STONY_BANK)] if benches else []
    return {
        "grid_mm": grid_of(width, depth), "base": board(width, depth, joints_x_mm=joints), "forms": forms,
        "patches": [patch("Floor", {"rest": True}, GRASS), *steep],
    }  # fmt: skip


SHELF = Starter(
    "shelf", "A shelf with a joint", "length, sections, benches", "Shelf",
    (
        *sizes(1200, 300, low=150),
        Question("sections", "sections", 2, "count", 1, 6),
        Question("benches", "benches of rock", 2, "count", 0, 4),
    ),
    _shelf,
)  # fmt: skip


def _falling(answers: Answers) -> Document:
    width, depth, rise, deep = answers["width"], answers["depth"], answers["rise"], answers["deep"]
    foam = foam_under(width, depth, deep)
    lip = SHEET_MM * len(foam)
    count = max(1, round(rise / SHEET_MM))
    each = round(rise / count, 2)
    front = [*wavy(0, width, 0.55 * depth, 0.03 * depth, 1), [width, depth], [0.0, depth]]
    bank = [sheet(f"Bank {number + 1}", front, each) for number in range(count)]
    reach = min(0.26 * width, 0.2 * depth)
    pool = hollow("plunge pool", blob(width / 2, 0.3 * depth, reach * 1.2, reach), deep)
    wide = answers["fall"]
    face = {"id": "fall", "name": "Fall", "area": {"face_mm2": round(wide * (rise + lip * 0.1), 1), "slope_deg": 90},
            "lifts": FALL.laid("fall")}  # fmt: skip
    return {
        "grid_mm": grid_of(width, depth), "base": board(width, depth), "forms": [*foam, *bank, pool],
        "patches": [
            patch("Ground", {"rest": True}, GRASS),
            patch("Bank face", {"steeper_deg": 45.0}, STONY_BANK),
            face,
            water_patch("Pool", lip, deep),
        ],
    }  # fmt: skip


FALLING = Starter(
    "falling", "A bank, falling water", "height, width, pool", "Bank and fall",
    (
        *sizes(300, 300, low=120, high=2000),
        Question("rise", "height of the bank", 75.0, low=20, high=400),
        Question("fall", "width of the fall", 40.0, low=5, high=400),
        Question("deep", "how deep", 10.0, low=2, high=45),
    ),
    _falling,
)  # fmt: skip
