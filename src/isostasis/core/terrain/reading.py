"""Areas, heights and weight of the ground."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import ClassVar

import numpy as np

from ..document import ResolvedScene
from ..figure import Figure, Term
from ..ground.field import Ground
from ..ground.forms.casting import Casting
from ..ground.surface import cell_true_area, steepness
from ..lifts.cast import cast
from ..lifts.estimate import LiftPlan
from ..lifts.fold import Build
from ..lifts.labels import Labels
from ..mixing.parts import wet


@dataclass(frozen=True, slots=True)
class Reading:
    """One ground, read off: areas, heights above the board's top, steepest place, volume, and the weight of it all."""

    JSON: ClassVar[tuple[str, ...]] = (
        "plan_area_mm2",
        "true_area_mm2",
        "highest_mm",
        "lowest_mm",
        "steepest_deg",
        "volume_ml",
        "weight_g",
        "leans_east_mm_per_m",
        "leans_north_mm_per_m",
    )  # what machines read

    plan_area_mm2: Figure
    true_area_mm2: Figure
    highest_mm: Figure
    lowest_mm: Figure
    steepest_deg: Figure
    volume_ml: Figure
    weight_g: Figure
    leans_east_mm_per_m: Figure
    leans_north_mm_per_m: Figure


def _place(ground: Ground, cell: tuple[int, int]) -> str:
    x, y = ground.point_of(*cell)
    return f"at x {x:.0f}, y {y:.0f}"


def _extreme(ground: Ground, values: np.ndarray, sign: int) -> tuple[float, tuple[int, int]]:
    """The greatest (sign 1) or least (-1) of the values on the base, and its cell."""
    row, column = np.unravel_index(int(np.where(ground.on_base, sign * values, -np.inf).argmax()), values.shape)
    return float(values[row, column]), (int(row), int(column))


def weigh(scene: ResolvedScene, built: Build, lifts: Mapping[str, LiftPlan], finished: bool) -> Figure:
    """Grams of board and forms, and with `finished` of every lift once its water has left."""
    labels = Labels.of(scene)
    board = labels.materials[scene.base.board]
    area = float(built.bare.inside.sum()) * built.bare.cell_area
    terms = [Term("board", area * (board.thickness_mm or 9.0) / 1000 * board.density, "g", f"label of {board.name}")]
    last = ""
    for shaped in built.forms:
        if isinstance(shaped.form, Casting):
            terms.append(cast(scene, shaped, labels).weight_g.term(shaped.form.title, "its pieces, dry"))
        elif shaped.form.made_of and shaped.volume_ml > 0:
            last = shaped.form.made_of
            terms.append(
                Term(shaped.form.title, shaped.volume_ml * labels.materials[last].density, "g", "volume × density")
            )
    carved = -sum(one.volume_ml for one in built.forms if one.form.cuts)
    if carved > 0 and last:
        terms.append(Term("carved away", -carved * labels.materials[last].density, "g", "volume × density of foam"))
    if finished:
        for patch in scene.patches:
            for lift in patch.lifts:
                left = wet(labels.mix_of(lift), labels.materials).dry_g_per_ml
                made = lifts[lift.id]
                grams = (made.fixing.binder_ml if made.fixing else made.volume_ml).number * left
                terms.append(Term(f"{lift.title}, dry", grams, "g", "in place × what stays once its water has left"))
    return Figure(sum(float(term.value) for term in terms), "g", "sum of all parts, glue not counted", tuple(terms))


def read_ground(scene: ResolvedScene, built: Build, lifts: Mapping[str, LiftPlan], stage: str = "bare") -> Reading:
    """The figures of the ground at a stage ("bare", "finished", or after a form or lift). Raises KeyError."""
    ground = built.at(stage)
    inside = ground.inside
    plan_area = float(inside.sum()) * ground.cell_area
    cell = Term("cell", ground.cell_mm, "mm", "grid of this scene")
    high, at_high = _extreme(ground, ground.z, 1)
    low, at_low = _extreme(ground, ground.z, -1)
    lean = np.degrees(np.arctan(steepness(ground)))
    steep, at_steep = _extreme(ground, lean, 1)
    east, north = scene.base.tilt_mm_per_m
    source = "spirit level, as entered in this scene"
    return Reading(
        Figure(plan_area, "mm2", "share of each cell on the base × cell area", (cell,)),
        Figure(float((cell_true_area(ground) * inside).sum()), "mm2", "surface triangulated through the cell centres",
               (Term("its shadow", plan_area, "mm2"), cell)),
        Figure(high, "mm", "greatest height above the board's top", (Term("where", _place(ground, at_high)),)),
        Figure(low, "mm", "least height above the board's top", (Term("where", _place(ground, at_low)),)),
        Figure(steep, "deg", "greatest slope between neighbouring cells; a step reads as steep as the grid can show",
               (Term("where", _place(ground, at_steep)), cell)),
        Figure(float((ground.z * inside).sum()) * ground.cell_area / 1000, "ml", "height × area, cell by cell",
               (Term("mean height", float((ground.z * inside).sum() / inside.sum()), "mm"),
                Term("plan area", plan_area, "mm2"))),
        weigh(scene, built, lifts, stage not in ("bare", *(one.form.id for one in built.forms))),
        Figure(east, "mm/m", "rise of the board to the east", (Term("read off", source),)),
        Figure(north, "mm/m", "rise of the board to the north", (Term("read off", source),)),
    )  # fmt: skip
