"""The demo's scraps: ballast held five ways, photographed and judged in six rounds; skins that crack, just laid."""

from __future__ import annotations

from datetime import datetime, timedelta
from importlib.resources import files
from typing import Any

import numpy as np
from sqlalchemy.orm import Session

from ..core.swatches.colour import GREY_CARD, read_off
from ..exchange.picture import opened
from ..store import swatches
from ..store.swatches import NewLane

PHOTO, SIZE = "scrap-dry.webp", (1200, 720)
CARD = [0.86, 0.82, 0.11, 0.14]


def _fix(mix: str, wetting: str | None = None, by: str = "drip") -> dict[str, Any]:
    return {"kind": "fix", "mix": mix, "by": by, **({"wetting": wetting} if wetting else {})}


BALLAST = {"kind": "texture", "mix": "ballast", "depth_mm": 4.0}
WAYS = (
    NewLane("Glue-water 40 : 60", [_fix("glue-water-2-3", "water-detergent")], steps="detergent first, then dripped"),
    NewLane("Untreated", [], control=True),
    NewLane("Glue-water 1 : 1", [_fix("glue-water-1-1", "alcohol-water-1-1")], steps="alcohol first, then dripped"),
    NewLane("Ready-mixed binder", [_fix("scenic-binder")], steps="neat, dripped"),
    NewLane(
        "Acrylic medium 1 : 3", [_fix("medium-water-1-3", "alcohol-water-1-1")], steps="alcohol first, then dripped"
    ),
)
# Of each round: hold, scratch and colour of the lanes from the left, out of ten.
ROUNDS = (
    ((6, 5, 5.5), (1, 1, 5), (8.5, 8, 7), (5, 4, 3), (7.5, 7, 6)),
    ((5.5, 6, 6), (0.5, 1, 6), (9, 8.5, 8), (5.5, 5, 4), (8, 7, 7)),
    ((6, 6, 5.5), (2, 2, 5), (7, 7, 6.5), (4, 4.5, 3.5), (7, 6.5, 6)),
    ((7.5, 7, 8), (1.5, 2, 6), (9, 9, 8.5), (6, 5.5, 5), (8.5, 8, 7.5)),
    ((5, 6, 6), (2.5, 2, 5.5), (6, 6.5, 6), (3.5, 4, 3), (6.5, 6.5, 7)),
    ((6, 5.5, 6), (0, 0.5, 5), (7, 6.5, 7.5), (4.5, 4, 4), (7, 7.5, 6.5)),
)
SKINS = (
    NewLane("Paper-fibre compound", [{"kind": "skin", "mix": "paper-plaster", "depth_mm": 3.0}], control=True),
    NewLane("Joint compound", [{"kind": "skin", "mix": "joint-compound", "depth_mm": 3.0}]),
    NewLane("Filler and grout", [{"kind": "skin", "mix": "filler-grout-render", "depth_mm": 3.0}]),
)


def lay(session: Session, now: datetime) -> None:
    """Put the scraps in, as they stand `now`."""
    laid = swatches.add(
        session, "What holds the ballast?", "foam-xps", [BALLAST], (19.0, 0.54),
        {"hold": 2.0, "scratch": 1.0, "colour": 1.0}, WAYS, now - timedelta(days=4, hours=3), "scrap 7",
    )  # fmt: skip
    trial = swatches.find(session, laid.id)
    content = (files(__package__) / "scenes" / PHOTO).read_bytes()
    row = swatches.take_photo(session, trial, "dry", (content, SIZE), now - timedelta(days=3))
    each = 1 / len(WAYS)
    boxes = {str(one.place): [round((one.place - 1) * each + 0.018, 4), 0.05, 0.164, 0.66] for one in trial.lanes}
    row.boxes = {"card": CARD, **boxes}
    image = np.asarray(opened(content).convert("RGB"), dtype=float) / 255
    for lane in trial.lanes:
        west, north, width, height = boxes[str(lane.place)]
        seen = read_off(image, (west, north, width, height), (CARD[0], CARD[1], CARD[2], CARD[3]), GREY_CARD, lane.name)
        swatches.set_colours(trial, "dry", {lane.place: seen.colour}, "read off a photo beside a grey card (18 %)")
    chance = np.random.default_rng(3)
    for number, given in enumerate(ROUNDS):
        trial = swatches.find(session, laid.id)
        order = [int(one) for one in chance.permutation([lane.place for lane in trial.lanes])]
        scores = {
            lane.place: {"hold": float(hold), "scratch": float(scratch), "colour": float(colour)}
            for lane, (hold, scratch, colour) in zip(trial.lanes, given, strict=True)
        }
        swatches.judge(session, trial, order, scores, now - timedelta(days=3, hours=-number))
    swatches.add(
        session, "Which skin cracks least?", "foam-xps", [], (18.5, 0.5), {"crack": 3.0, "scratch": 1.0}, SKINS,
        now - timedelta(days=6),
    )  # fmt: skip
