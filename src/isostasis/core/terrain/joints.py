"""Sections that come apart: profiles on both sides of a joint, and the separator that keeps them apart."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar, Literal

import numpy as np

from ..document import ResolvedScene
from ..document.scene import Lift
from ..figure import Figure, Term
from ..ground.field import Ground
from ..ground.raster import Array
from ..hardening.setting import set_minutes
from ..lifts.areas import line_of
from ..lifts.fold import Build
from ..lifts.labels import Labels
from ..mixing.parts import water_ratio

MARGIN_MM = 10.0  # of a separator above the wet skin, to pull it by


@dataclass(frozen=True, slots=True)
class Separator:
    """What stands in a joint while one lift is wet: length along the ground, height, and when it comes out (hours
    after the lift is laid)."""

    JSON: ClassVar[tuple[str, ...]] = ("lift", "length_mm", "height_mm", "from_h", "to_h")  # what machines read

    lift: str
    length_mm: Figure
    height_mm: Figure
    from_h: float
    to_h: float


@dataclass(frozen=True, slots=True)
class Joint:
    """One joint: which axis it crosses, where, how far the two sides differ, and what crosses it."""

    JSON: ClassVar[tuple[str, ...]] = (
        "axis",
        "at_mm",
        "mismatch_mm",
        "length_mm",
        "separators",
        "cut_forms",
    )  # what machines read

    axis: Literal["x", "y"]
    at_mm: float
    mismatch_mm: Figure
    length_mm: Figure
    separators: tuple[Separator, ...]
    cut_forms: tuple[str, ...]

    @property
    def name(self) -> str:
        """As people point at it."""
        return f"joint at {self.axis} {self.at_mm:g}"


def joint_lines(scene: ResolvedScene) -> list[tuple[Literal["x", "y"], float]]:
    """Every joint of the base: axis and place in mm."""
    base = scene.base
    return [("x", at) for at in base.joints_x_mm] + [("y", at) for at in base.joints_y_mm]


def _sides(ground: Ground, axis: str, at: float, field: Array) -> tuple[Array, Array, Array, Array]:
    """The field along the four rows of cells next to a joint: two before it, two behind it."""
    lines = field.T if axis == "x" else field
    first = int(np.clip(np.floor(at / ground.cell_mm - 0.5), 1, len(lines) - 3))
    return lines[first - 1], lines[first], lines[first + 1], lines[first + 2]


def profiles(ground: Ground, axis: str, at: float) -> tuple[Array, Array, Array]:
    """Position along a joint in mm and the heights just before and just behind it, where both sides are on the base."""
    _, before, behind, _ = _sides(ground, axis, at, ground.z)
    _, on, also, _ = _sides(ground, axis, at, ground.on_base.astype(float))
    both = (on > 0) & (also > 0)
    along = (np.arange(len(before), dtype=np.float64) + 0.5) * ground.cell_mm
    return along[both], before[both], behind[both]


def _mismatch(ground: Ground, axis: str, at: float) -> Figure:
    """How far the heights jump at the joint beyond the slope on either side of it."""
    far, before, behind, beyond = _sides(ground, axis, at, ground.z)
    _, on, also, _ = _sides(ground, axis, at, ground.on_base.astype(float))
    slope = np.maximum(np.abs(before - far), np.abs(beyond - behind))
    jump = np.where((on > 0) & (also > 0), np.abs(behind - before) - slope, 0.0).clip(0)
    place = int(jump.argmax())
    where = (place + 0.5) * ground.cell_mm
    return Figure(
        round(float(jump[place]), 3), "mm", "jump between the two sides, less the slope beside the joint",
        (Term("where", f"{'y' if axis == 'x' else 'x'} {where:.0f}"), Term("one side", float(before[place]), "mm"),
         Term("other side", float(behind[place]), "mm"), Term("slope beside it, per cell", float(slope[place]), "mm")),
    )  # fmt: skip


def _draped(z: Array, cell_mm: float, wanted: Array) -> float:
    """Length in mm along the heights z, over the cells that are wanted (shares)."""
    if len(z) < 2:
        return float(wanted.sum()) * cell_mm
    rise = np.abs(np.diff(z))
    steps = np.hypot(rise, cell_mm) - cell_mm
    return float(wanted.sum() * cell_mm + (steps * np.minimum(wanted[:-1], wanted[1:])).sum())


def crossing(scene: ResolvedScene, built: Build, axis: str, at: float) -> list[Lift]:
    """Shells and skins that set and lie across a joint: a separator stands in it while they are wet."""
    labels = Labels.of(scene)
    setting = []
    for patch in scene.patches:
        _, before, behind, _ = _sides(built.bare, axis, at, built.covers[patch.id].share)
        if (before + behind).max() <= 0:
            continue
        setting += [lift for lift in patch.lifts if labels.mix_of(lift).sets]
    return setting


def separator(scene: ResolvedScene, built: Build, lift: Lift, axis: str, at: float) -> Separator:
    """The separator for one skin in one joint. It comes out between once and twice the set (craft estimate)."""
    labels, stage = Labels.of(scene), built.stages[lift.id]
    mix, ground = labels.mix_of(lift), stage.site.ground
    assert mix.sets is not None
    _, before, behind, _ = _sides(ground, axis, at, ground.z)
    _, own, other, _ = _sides(ground, axis, at, stage.site.cover.share)
    wanted = np.maximum(own, other)
    length = _draped(np.maximum(before, behind), ground.cell_mm, wanted)
    temp = stage.site.climate.temp_c[0]
    ratio = water_ratio(mix, labels.materials) or mix.sets.water_ratio  # what comes dry on a cloth has no water yet
    sets_h = set_minutes(mix.sets.set_min, mix.sets.water_ratio, ratio, temp) / 60
    rise = np.where(stage.site.cover.mask, stage.after.z - ground.z, 0.0)
    _, depth_here, depth_there, _ = _sides(ground, axis, at, rise)
    depth = float(max(depth_here.max(), depth_there.max()))
    return Separator(
        lift.id,
        Figure(length, "mm", "along the ground that the skin goes on, up and down its steps",
               (Term("straight", float(wanted.sum()) * ground.cell_mm, "mm"),)),
        Figure(depth + MARGIN_MM, "mm", "skin + a margin to pull it by",
               (Term("skin", depth, "mm", "this scene"), Term("margin", MARGIN_MM, "mm", "craft estimate"))),
        sets_h,
        2 * sets_h,
    )  # fmt: skip


def joints(scene: ResolvedScene, built: Build) -> dict[str, Joint]:
    """Every joint of the scene, on the bare forms; by `x570` or `y215`."""
    by_name = {}
    for axis, at in joint_lines(scene):
        ground = built.bare
        along, before, behind = profiles(ground, axis, at)
        length = _draped(np.maximum(before, behind), ground.cell_mm, np.ones(len(along)))
        by_name[f"{axis}{at:g}".replace(".", "_")] = Joint(
            axis, at, _mismatch(ground, axis, at),
            Figure(length, "mm", "along the bare forms, up and down their steps",
                   (Term("straight", len(along) * ground.cell_mm, "mm"),)),
            tuple(separator(scene, built, lift, axis, at) for lift in crossing(scene, built, axis, at)),
            tuple(one.form.title for one in built.forms if not one.form.cuts and _reaches(one.form, axis, at)),
        )  # fmt: skip
    return by_name


def _reaches(form: object, axis: str, at: float) -> bool:
    """Whether a form lies on both sides of a joint."""
    line = line_of(form)
    if line is None:
        return False
    _, points, width = line
    places = [point[0 if axis == "x" else 1] for point in points]
    return min(places) - width / 2 < at - 1e-6 and max(places) + width / 2 > at + 1e-6
