"""Kettle Fen, made once and committed: its ground as shaped, its photo by the stand-in camera, and the scene that is
traced on that photo, as a caster would: corners dragged, twelve clicks round each outline.

    python -m tools.kettle      # writes demo/scenes/kettle-fen.json and the two pictures of its photo
"""

from __future__ import annotations

import json
from hashlib import sha256
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image
from scipy.ndimage import distance_transform_edt, gaussian_filter, zoom
from shapely import Polygon

from isostasis.core.catalogue import shipped
from isostasis.core.colour.light import coded
from isostasis.core.document import resolve
from isostasis.core.ground.raster import band, covered
from isostasis.core.lifts.fold import build
from isostasis.core.photo import follow
from isostasis.core.photo.straighten import straighten
from isostasis.core.photo.warp import laid_straight, scale_of
from isostasis.core.reading import read
from isostasis.core.starters.layout import blob, block, wavy
from isostasis.core.starters.layups import CLOTH_HILL, DIRT_ROAD, GRASS, SKIN_MM, pond
from isostasis.core.starters.parts import SHEET_MM, hollow, patch, sheet
from isostasis.core.surface import surface
from isostasis.exchange.picture import packed, take_in
from isostasis.standins.camera import Light, Pose, photograph

FOLDER = Path(__file__).parents[1] / "src" / "isostasis" / "demo" / "scenes"
WIDTH, DEPTH = 600.0, 400.0
ROAD_MM = 40.0
PONDS = (
    ("east pond", 470, 165, 78, 70, 0, 14),
    ("west pond", 125, 150, 66, 56, 2, 9),
    ("north pond", 300, 305, 60, 42, 1, 7),
)
CLICKS = 12
PAINT_INSIDE_MM = 1.6  # of the lip, where a painted bed begins
LIGHT = Light(from_deg=305, above_deg=38, shade=0.55)
POSE = Pose(lean_deg=14, towards_deg=205, turn_deg=-3, off_mm=(-6, 8), fill=0.84, bend=-0.05)


def shaped() -> dict[str, Any]:
    """The fen as it was shaped: foam, three ponds, a hill of two steps, a mound of crumpled paper."""
    foam = sheet("Foam", block(0, 0, WIDTH, DEPTH))
    hill = [
        sheet(f"Hill step {number}", blob(105, 310, 92 * share, 78 * share, 1))
        for number, share in ((1, 1.0), (2, 0.66))
    ]
    mound = {
        "id": "paper-mound", "kind": "mound", "name": "Paper mound", "crown_mm": 34.0, "material": "crumpled-paper",
        "outline": blob(500, 320, 68, 52, 2),
    }  # fmt: skip
    dug = [hollow(name, blob(x, y, a, b, turn), deep) for name, x, y, a, b, turn, deep in PONDS]
    return {
        "isostasis": 1, "name": "Kettle Fen", "grid_mm": 2.5, "base": {"width_mm": WIDTH, "depth_mm": DEPTH},
        "forms": [foam, *hill, mound, *dug],
    }  # fmt: skip


def road() -> list[list[float]]:
    """The middle of the road, which stays flat."""
    return [[x, y] for x, y in wavy(0, WIDTH, 232, 9, 1)]


def as_seen(document: dict[str, Any], painted: bool = False, seed: int = 4) -> tuple[Any, Any]:
    """Heights and colours (0 to 255) of a document's bare ground at 1 mm: its paper crumpled, its road sanded; or
    `painted`: grass in patches, dark beds whose edge runs a little inside the lip."""
    scene = resolve(read({**document, "grid_mm": 1.0}), shipped())
    built = build(scene)
    z, colours = built.bare.z.copy(), coded(surface(scene, built, "bare")) * 255
    rng = np.random.default_rng(seed)
    on = covered(next(form.outline for form in scene.forms if form.kind == "mound"), z.shape, 1.0)
    coarse = zoom(rng.normal(size=(z.shape[0] // 9 + 1, z.shape[1] // 9 + 1)), 9, order=1)[: z.shape[0], : z.shape[1]]
    z += on * np.minimum(z - SHEET_MM, 6.0) / 6.0 * 3.0 * coarse
    if painted:
        patches = gaussian_filter(rng.normal(size=z.shape), 12)
        grass = np.array([104, 116, 66]) + 14 * (patches / patches.std())[..., None] * np.array([1, 0.9, 0.5])
        bed = distance_transform_edt(z < SHEET_MM - 0.1)[..., None] > PAINT_INSIDE_MM
        return z, np.where(bed, np.array([74.0, 60, 44]), grass)
    strip = band(tuple((x, y) for x, y in road()), ROAD_MM, z.shape, 1.0)
    worn = np.zeros(z.shape)
    worn[strip.box] = strip.share
    return z, colours * (1 - 0.12 * gaussian_filter(worn, 1.0)[..., None])


def traced(edges: follow.Edges, outline: list[list[float]], rng: np.random.Generator) -> list[list[float]]:
    """An outline as it is clicked, a hair off, and followed."""
    ring = Polygon(outline).exterior
    clicks = np.array([ring.interpolate(one / CLICKS, normalized=True).coords[0] for one in range(CLICKS)])
    return [[x, y] for x, y in follow.outline(edges, clicks + rng.normal(scale=0.6, size=clicks.shape)).line]


def main() -> None:
    """Make it, and write it."""
    document, rng = shaped(), np.random.default_rng(7)
    shot = photograph(*as_seen(document), 1.0, POSE, LIGHT, (1600, 1200), seed=4)
    jpeg = _jpeg(shot.pixels)
    taken = take_in("fen.jpg", jpeg)
    corners = shot.seen(
        np.array([[0, 0, SHEET_MM], [WIDTH, 0, SHEET_MM], [WIDTH, DEPTH, SHEET_MM], [0, DEPTH, SHEET_MM]])
    )
    clicks = (corners + rng.normal(scale=1.5, size=(4, 2))).round(1)
    pixels = np.asarray(_opened(taken.content).convert("RGB"))
    made = straighten(pixels, clicks, WIDTH, DEPTH)
    straight = laid_straight(_opened(taken.content), made.placement)
    content = packed(straight)
    edges = follow.edges_of(
        follow.StraightPicture("fen", scale_of(WIDTH, DEPTH), lambda: np.asarray(straight.convert("L")))
    )
    for form in document["forms"][3:]:
        form["outline"] = traced(edges, form["outline"], rng)
    document["photo"] = {
        "straight": sha256(content).hexdigest(), "taken": sha256(taken.content).hexdigest(), "width_mm": WIDTH,
        "depth_mm": DEPTH, "corners": clicks.tolist(), "agree_mm": round(made.agree_mm, 2),
        "bend": round(made.placement.bend, 4), "tilt_deg": round(made.placement.tilt_deg(), 1), "strength": 0.85,
    }  # fmt: skip
    waters = [
        patch(f"{form['name']} water", {"outline": form["outline"]}, pond(drops=2.0), level_mm=SHEET_MM + SKIN_MM - 2.0)
        for form in document["forms"]
        if form["kind"] == "basin"
    ]
    document["patches"] = [
        patch("Ground", {"rest": True}, GRASS),
        patch("Hill", {"above_mm": SHEET_MM + 1.0}, CLOTH_HILL),
        patch("Mound", {"on": "paper-mound"}, CLOTH_HILL),
        patch("Road", {"near": "road-way", "within_mm": 4.0}, DIRT_ROAD),
        *waters,
    ]
    document["flats"] = [{"id": "road-way", "name": "Road", "path": road(), "width_mm": ROAD_MM - 8.0, "flat_mm": 1.0}]
    read(document)
    (FOLDER / "kettle-fen.json").write_text(json.dumps(document, separators=(",", ":"), ensure_ascii=False), "utf-8")
    (FOLDER / "kettle-fen-taken.webp").write_bytes(taken.content)
    (FOLDER / "kettle-fen-straight.webp").write_bytes(content)


def _jpeg(pixels: Any) -> bytes:
    import io

    out = io.BytesIO()
    Image.fromarray(pixels).save(out, "JPEG", quality=92)
    return out.getvalue()


def _opened(content: bytes) -> Any:
    from isostasis.exchange.picture import opened

    return opened(content)


if __name__ == "__main__":
    main()
