"""The core sample: the column of a spot drawn to scale, its lifts hatched by family."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ...core.lifts.labels import Labels
from ...core.plan import Plan
from .as_built import lift_class
from .panels import innermost
from .path import line_d
from .projection import HatchOf

ROW = 84  # px that one lift's figures take
BED = 62  # px for what the forms left and for the board, cut short
FORMS = 42.0  # of that, px for the forms
WIDE = 92
THIN = 4.0  # px: coats are thinner than this, and drawn so thick


@dataclass(frozen=True)
class Stratum:
    """One band of the core: its place, what it is, and the leader to its row of figures."""

    y: float
    height: float
    hatch: str
    lift: str
    leader: str
    state: str = ""  # built, planned or off, once something of the scene was built
    bites: tuple[tuple[int, bool], ...] = ()  # numbers of the checks that bite under it, and which are mere advice


@dataclass(frozen=True)
class CoreSample:
    """The whole core, top first; `beds` are what the forms left there: (kind, y, height)."""

    strata: tuple[Stratum, ...]
    beds: tuple[tuple[str, float, float], ...]
    height: float
    bed_y: float
    times: float
    at: tuple[float, float]


def core_sample(plan: Plan, labels: Labels, patch_id: str, lift_ids: list[str], hatch_of: HatchOf) -> CoreSample:
    """The core at the patch's lowest place if it holds a pour, else at its innermost. Lifts to one scale, coats at
    least 4 px, what the forms left and the board cut short."""
    built = plan.built
    cover = built.covers[patch_id]
    if any(built.stages[name].site.lift.levels_itself for name in lift_ids):
        low = np.where(cover.mask, built.bare.z, np.inf)
        row, column = divmod(int(low.argmin()), low.shape[1])
    else:
        row, column = built.bare.cell_at(*innermost(cover, built.bare.cell_mm))
    thick: list[float] = []
    for lift_id in lift_ids:
        stage = built.stages[lift_id]
        rise = float(stage.after.z[row, column] - stage.site.ground.z[row, column])
        made = plan.lifts[lift_id]
        raises = stage.site.lift.raises_ground
        thick.append(rise if rise > 0 else 0.0 if not raises else made.layers[0].depth_mm.number * len(made.layers))
    room = max(len(lift_ids) * ROW - 12.0, 60.0)
    thin = sum(1 for one in thick if one < 0.5)
    total = sum(one for one in thick if one >= 0.5)
    scale = (room - thin * THIN) / total if total else room
    scale = min(scale, 60.0)
    heights = [max(one * scale, THIN) for one in thick]
    bottom = 6 + room
    y, strata = bottom, []
    for number, (lift_id, height) in enumerate(zip(lift_ids, heights, strict=True)):
        y -= height
        middle = (len(lift_ids) - 1 - number) * ROW + 22
        centre = y + height / 2
        leader = line_d(((WIDE, centre), (WIDE + 12, centre), (WIDE + 26, middle), (WIDE + 34, middle)))
        bites = tuple(
            (number, check.advice)
            for number, check in enumerate(plan.checks, start=1)
            if check.lift == lift_id and check.cells is not None and check.cells[row, column]
        )
        strata.append(
            Stratum(y, height, hatch_of(plan.lifts[lift_id].kind), lift_id, leader, lift_class(plan, lift_id), bites)
        )
    return CoreSample(
        tuple(reversed(strata)),
        _beds(plan, labels, int(row), int(column), bottom),
        bottom + BED,
        bottom,
        scale * 25.4 / 96,
        built.bare.point_of(int(row), int(column)),
    )


def _beds(plan: Plan, labels: Labels, row: int, column: int, y: float) -> tuple[tuple[str, float, float], ...]:
    """What the forms left under a cell, top first and cut short: foam, paper, a casting; the topmost two."""
    pieces = {one.form.made_of for one in plan.built.forms if one.form.keeps_clear}
    kinds: list[str] = []
    for name, _ in reversed(plan.built.bare.column(row, column)):
        family = labels.materials[name].family if name in labels.materials else "foam"
        kind = "casting" if name in pieces else "paper" if family == "paper" else "foam"
        if not kinds or kinds[-1] != kind:
            kinds.append(kind)
    each = FORMS / max(len(kinds[:2]), 1)
    return tuple((kind, y + number * each, each) for number, kind in enumerate(kinds[:2]))
