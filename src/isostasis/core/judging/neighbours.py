"""This on that, and this beside that: where two things meet that do not go together, by the catalogue's rules.

`at_site` judges a lift by what lies under and around it; `between` needs the whole build, for what neighbours' own
lay-ups bring.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from ..catalogue import NeighbourRule
from ..document import ResolvedScene
from ..document.areas import OnArea
from ..document.scene import Lift, Patch
from ..fault import fault
from ..figure import Figure, Term
from ..ground.forms import bare_ground
from ..ground.raster import Array, Mask
from ..lifts.areas import Cover, line_of, share_of
from ..lifts.estimate import LiftEstimate, Notice
from ..lifts.fold import Build
from ..lifts.kinds import kind_of
from ..lifts.kinds.pour.pools import PourLift, bed_drinks, filled
from ..lifts.labels import Labels
from ..lifts.site import Site
from ..lifts.tops import tops
from ..units import show

Segment = tuple[tuple[float, float], tuple[float, float]]
THROUGH_MM = 5.0  # a solvent goes through so much of what is porous, craft estimate
STEP_MM = 3.0  # a lower step between neighbours does not show under texture, craft estimate
SHORTEST_MM = 20.0  # less of a boundary is how outlines touch on the grid


@dataclass(frozen=True, slots=True, eq=False)
class Check:
    """One rule that bites: at which lift, over which cells (ny, nx) or along which segments (mm) beside its ground.

    `extent` is the area in mm2 or the length in mm; `other` names what it meets; with `advice` nothing is wrong."""

    code: str
    text: str
    reason: str
    lift: str
    other: str
    extent: Figure
    advice: bool
    cells: Mask | None = None
    edges: tuple[Segment, ...] = ()

    @property
    def notice(self) -> Notice:
        """As a warning of the lift."""
        return Notice(self.code, self.text, self.reason)


# Every cell and its neighbour to the east or to the north: what to slice off for each of the two, and the way.
_PAIRS = (
    (np.s_[:, :-1], np.s_[:, 1:], (0, 1)),
    (np.s_[:-1, :], np.s_[1:, :], (1, 0)),
)


def _segments(between: Mask, way: tuple[int, int], cell: float) -> list[Segment]:
    """The sides in mm of the cells marked in `between` towards their neighbours `way` (rows, columns) on."""
    dy, dx = way
    return [
        ((x, y), (x + dy * cell, y + dx * cell))
        for x, y in (((column + dx) * cell, (row + dy) * cell) for row, column in np.argwhere(between).tolist())
    ]


def _edges(inner: Mask, outer: Mask, cell: float) -> list[Segment]:
    """Every side between a cell of `inner` and one of `outer`."""
    segments: list[Segment] = []
    for one, two, way in _PAIRS:
        segments += _segments((inner[one] & outer[two]) | (outer[one] & inner[two]), way, cell)
    return segments


def _over(rule: NeighbourRule, lift: Lift, other: str, cells: Mask, ground_cell: float, **words: str) -> Check | None:
    """The check of a rule that bites over cells; None if there are none."""
    count = int(cells.sum())
    if not count:
        return None
    area = Figure(count * ground_cell**2, "mm2", "cells where it bites × cell area", (Term("cells", count),))
    return Check(
        rule.code, rule.text.format(other=other, **words), rule.reason, lift.id, other, area, rule.advice, cells
    )


def _along(
    rule: NeighbourRule, lift: Lift, other: str, edges: list[Segment], cell: float, **words: str
) -> Check | None:
    """The check of a rule that bites along a boundary; None where it is too short to matter."""
    length = len(edges) * cell
    if length < SHORTEST_MM:
        return None
    figure = Figure(length, "mm", "sides of cells along which it bites", (Term("sides", len(edges)),))
    text = rule.text.format(other=other, **words)
    return Check(rule.code, text, rule.reason, lift.id, other, figure, rule.advice, None, tuple(edges))


def _ground_under(lift: Lift, site: Site, labels: Labels) -> Mask:
    """The cells (ny, nx) that a lift lies on."""
    cover: Cover = kind_of(lift).covers(lift, site, labels)
    return cover.mask


def _coated(lift: Lift, site: Site, labels: Labels) -> str:
    """The family of the coat that lies directly under a lift; empty where none does."""
    below = site.patch.lifts[: site.patch.lifts.index(site.lift)]
    if below and "film" in kind_of(below[-1]).traits(below[-1], labels):
        mix = labels.mix_of(below[-1])
        return labels.materials[mix.id].family if mix.id in labels.materials else mix.family
    return ""


def _here(rule: NeighbourRule, lift: Lift, attacked: set[str]) -> bool:
    """Whether a rule can be judged from a lift's own site, and means it."""
    if rule.attacks:
        return bool(attacked.intersection(rule.on))
    return lift.kind in rule.lays and "damp" not in rule.on and "step" not in rule.beside


def at_site(lift: Lift, site: Site, labels: Labels) -> tuple[Check, ...]:
    """Rules that bite between a lift and what it lies on or ends beside, castings and porous beds included. Raises
    Faults for what is refused."""
    if site.cover.face:
        return ()
    ground, cell = site.ground, site.ground.cell_mm
    attacked = {
        family for part in labels.mix_of(lift).ingredients for family in labels.materials[part.material].attacks
    }
    rules = [rule for rule in site.scene.rules.neighbours if _here(rule, lift, attacked)]
    if not rules:
        return ()
    mine, coat = _ground_under(lift, site, labels), _coated(lift, site, labels)
    drunk = bed_drinks(lift, site, filled(lift, site).pools) if isinstance(lift, PourLift) and site.porous else ()
    checks: list[Check | None] = []
    for rule in rules:
        if "pour" in rule.lays and labels.mix_of(lift).reacts is None:
            continue  # glue water is meant to be drunk
        if rule.most_layers is not None and getattr(lift, "layers", 0) > rule.most_layers:
            continue
        if rule.attacks:
            bare = bare_ground(site.scene.base, site.scene.cell_mm, site.scene.forms)[0]
            near = (tops(bare, labels) == "foam") & (ground.z - bare.z <= THROUGH_MM)
            if (mine & near).any():
                raise fault(site.where, f"{lift.title}: {rule.text}", rule.refused)
        elif "porous" in rule.on:
            for patch in site.scene.patches:
                if patch.id in site.porous and isinstance(lift, PourLift):
                    cells = mine & site.covers[patch.id].mask
                    said = next((show(one.figure.value, "ml") for one in drunk if one.patch is patch), ("0", "ml"))
                    checks.append(_over(rule, lift, patch.name, cells, cell, drinks=" ".join(said)))
        elif "powder" in rule.beside:
            for form in site.scene.forms:
                line = line_of(form)
                if form.keeps_clear and not form.off and not form.after and line:
                    piece = share_of(line, ground.shape, cell) >= 0.5
                    checks.append(_along(rule, lift, form.title, _edges(mine, piece, cell), cell))
        elif rule.on:
            cells = mine if coat in rule.on else np.zeros_like(mine)
            if not coat:
                cells = mine & np.isin(tops(ground, labels), rule.on)
            checks.append(_over(rule, lift, rule.on[0], cells, cell))
    return tuple(check for check in checks if check)


def between(
    scene: ResolvedScene, built: Build, estimates: dict[str, LiftEstimate], labels: Labels
) -> tuple[Check, ...]:
    """Rules that bite between neighbouring patches: shores on skins that are still damp, and steps where skins end."""
    damp, step = scene.rules.neighbour("still-wet"), scene.rules.neighbour("step-beside")
    return (
        *(_damp(scene, built, estimates, damp) if damp else ()),
        *(_steps(scene, built, labels, step) if step else ()),
    )


def damp_beds(
    scene: ResolvedScene, estimates: dict[str, LiftEstimate], lift: Lift
) -> Iterator[tuple[Patch, Lift, float]]:
    """What must be dry before a lift, and dries on after the next may go on: (patch, lift, hours until dry). For a pour
    the top lifts of other patches under it; for a fix what its texture lies on, since glue must not meet a wet bed."""
    home = scene.patch_of(lift.id)
    beds: list[tuple[Patch, Lift]] = []
    if lift.levels_itself and Labels.of(scene).mix_of(lift).reacts:
        for patch in scene.patches:
            below = [one for one in patch.lifts if not one.levels_itself]
            if patch.id != home.id and patch.id in estimates[lift.id].touches and below:
                beds.append((patch, below[-1]))
    elif lift.wants_dry_bed:
        below = [one for one in home.lifts[: home.lifts.index(lift)] if one.dries_as_bed]
        beds += [(home, below[-1])] if below else []
    for patch, bed in beds:
        hours = estimates[bed.id].plan.hours
        if hours.full.value is not None and hours.next.value is not None and hours.full.value > hours.next.value:
            yield patch, bed, hours.full.value


def wet_beds(scene: ResolvedScene, estimates: dict[str, LiftEstimate]) -> dict[str, Notice]:
    """What is told of a fix whose bed is still wet when its texture may go on, by the fix's id: it holds all over the
    patch, so that there is no one place where it bites."""
    rule, notices = scene.rules.neighbour("wet-bed"), {}
    for patch in scene.patches:
        for lift in patch.lifts:
            if rule and lift.wants_dry_bed:
                for _, bed, hours in damp_beds(scene, estimates, lift):
                    text = rule.text.format(bed=bed.title, hours=" ".join(show(hours, "h")))
                    notices[lift.id] = Notice(rule.code, text, rule.reason)
    return notices


def _damp(scene: ResolvedScene, built: Build, estimates: dict[str, LiftEstimate], rule: NeighbourRule) -> list[Check]:
    checks = []
    for stage in built.stages.values():
        lift = stage.site.lift
        for patch, _, hours in damp_beds(scene, estimates, lift) if lift.levels_itself else ():
            wet = _ground_under(lift, stage.site, Labels.of(scene)) & built.covers[patch.id].mask
            said = " ".join(show(hours, "h"))
            check = _over(rule, lift, patch.name, wet, built.bare.cell_mm, hours=said)
            checks += [check] if check else []
    return checks


def _steps(scene: ResolvedScene, built: Build, labels: Labels, rule: NeighbourRule) -> list[Check]:
    """Where the skins and shells of one patch end high above its neighbour's."""
    thick: dict[str, Array] = {}
    last: dict[str, Lift] = {}
    for patch in scene.patches:
        total = np.zeros(built.bare.shape)
        for lift in patch.lifts:
            edge = kind_of(lift).edge_mm(lift, built.stages[lift.id].site, labels)
            if np.any(edge):
                total, last[patch.id] = total + edge, lift
        thick[patch.id] = total
    owner, height = np.full(built.bare.shape, -1), np.zeros(built.bare.shape)
    pieces = {form.id for form in scene.forms if form.keeps_clear}
    for number, patch in enumerate(scene.patches):
        if isinstance(patch.area, OnArea) and patch.area.on in pieces:
            continue  # a casting is meant to stand above what is brought to its foot
        mask = built.covers[patch.id].mask
        owner[mask], height[mask] = number, thick[patch.id][mask]
    steps: dict[tuple[int, int], list[tuple[list[Segment], float]]] = {}
    for one, two, way in _PAIRS:
        for high, low in ((one, two), (two, one)):
            rise = height[high] - height[low]
            at = (rise >= STEP_MM) & (owner[high] != owner[low]) & (owner[low] >= 0)
            if at.any():
                pairs = np.stack((owner[high], owner[low]), axis=-1)
                for upper, lower in np.unique(pairs[at], axis=0).tolist():
                    these = at & (owner[high] == upper) & (owner[low] == lower)
                    segments = _segments(these, way, built.bare.cell_mm)
                    steps.setdefault((upper, lower), []).append((segments, float(rise[these].max())))
    checks = []
    for (upper, lower), parts in sorted(steps.items()):
        patch, other = scene.patches[upper], scene.patches[lower]
        said = f"up to {max(rise for _, rise in parts):.2g} mm"
        edges = [segment for segments, _ in parts for segment in segments]
        check = _along(rule, last[patch.id], other.name, edges, built.bare.cell_mm, step=said)
        checks += [check] if check else []
    return checks
