"""Carve or fill: what a flight of steps takes in compound if it is left, and in foam if it is carved."""

from __future__ import annotations

from dataclasses import dataclass
from math import cos, radians
from typing import ClassVar

import numpy as np

from ..catalogue import Mix
from ..document import ResolvedScene
from ..figure import Figure, Term
from ..ground.field import Ground
from ..ground.offset import carved_to_slope, fill_to_slope
from ..ground.raster import Array, Mask
from ..hardening.climate import Climate
from ..hardening.drying import READY_SHARE
from ..hardening.uneven import evened
from ..lifts.alternative import cost_of
from ..lifts.areas import line_of, share_of
from ..lifts.fold import Build
from ..lifts.kinds.skin import Skin, thickness
from ..lifts.labels import Labels
from ..lifts.wet_film import drying_hours
from ..mixing.batches import to_mix
from ..mixing.parts import wet
from ..stages import cached_stage

CARVE_MM2_PER_MIN = 3000.0
LEAST_ML = 0.2


@dataclass(frozen=True, slots=True)
class Flight:
    """One flight of steps and both ways of making it a slope. Costs are None where a price is not known."""

    JSON: ClassVar[tuple[str, ...]] = (
        "name",
        "outline",
        "slope_deg",
        "fill_ml",
        "fill_mix_ml",
        "fill_h",
        "fill_cost",
        "carve_ml",
        "carve_h",
        "carve_min",
        "carve_cost",
    )  # what machines read

    name: str
    outline: tuple[tuple[float, float], ...]
    slope_deg: float
    fill_ml: Figure
    fill_mix_ml: Figure
    fill_h: Figure
    fill_cost: Figure | None
    carve_ml: Figure
    carve_h: Figure
    carve_min: Figure
    carve_cost: Figure | None


@cached_stage
def _slopes(ground: Ground, open_to: bytes, slope_deg: float) -> tuple[Array, Array]:
    """What filling adds and what carving takes (ny, nx) in mm, on the cells that are open to either."""
    mask = np.frombuffer(open_to, dtype=bool).reshape(ground.shape)
    if not mask.any():
        return np.zeros(ground.shape), np.zeros(ground.shape)
    filled = fill_to_slope(ground, mask, slope_deg) - ground.z
    carved = ground.z - carved_to_slope(ground.z, ground.z, mask, ground.on_base, slope_deg, ground.cell_mm)
    return filled, carved


def _stepped(scene: ResolvedScene, ground: Ground) -> Mask:
    """Where sheets make steps: all of the base but what other forms have shaped."""
    mask = ground.on_base.copy()
    for form in scene.forms:
        line = line_of(form)
        if form.kind != "sheet" and not form.off and not form.after and line:
            mask &= share_of(line, ground.shape, ground.cell_mm) <= 0
    return mask


def _outline(region: Mask, ground: Ground) -> tuple[tuple[float, float], ...]:
    """A ring in mm round cells and one more all round, as far as the base goes."""
    from scipy.ndimage import binary_dilation, binary_fill_holes
    from shapely import Polygon, box, unary_union

    cell = ground.cell_mm
    grown = binary_fill_holes(binary_dilation(region, np.ones((3, 3)))) & ground.on_base
    strips = []
    for row in np.flatnonzero(grown.any(axis=1)):
        edges = np.flatnonzero(np.diff(np.concatenate(([False], grown[row], [False])).astype(int)))
        strips += [
            box(a * cell, row * cell, b * cell, (row + 1) * cell) for a, b in zip(edges[::2], edges[1::2], strict=True)
        ]
    whole = unary_union(strips).simplify(0.7 * cell).intersection(Polygon(ground.edge))
    largest = max(getattr(whole, "geoms", [whole]), key=lambda part: part.area)
    return tuple((round(x, 2), round(y, 2)) for x, y in list(largest.exterior.coords)[:-1])


def _flights(filled: Array, carved: Array, cell_area: float) -> list[Mask]:
    """Cells of each flight, largest fill first; what lies inside another's ring belongs to it."""
    from scipy.ndimage import binary_fill_holes, label

    labels, count = label((filled > 0.01) | (carved > 0.01), np.ones((3, 3)))
    parts = [labels == number for number in range(1, count + 1)]
    parts = [part for part in parts if filled[part].sum() * cell_area / 1000 >= LEAST_ML]
    parts.sort(key=lambda part: -int(binary_fill_holes(part).sum()))
    flights: list[Mask] = []
    for part in parts:
        around = next((one for one in flights if (binary_fill_holes(one) & part).sum() == part.sum()), None)
        if around is None:
            flights.append(part.copy())
        else:
            around |= part
    return sorted(flights, key=lambda part: -float(filled[part].sum()))


def _name(scene: ResolvedScene, region: Mask, ground: Ground) -> str:
    """The sheets whose edges make the flight."""
    from shapely import Polygon, points

    rows, columns = np.nonzero(region)
    spots = points((columns + 0.5) * ground.cell_mm, (rows + 0.5) * ground.cell_mm)
    named = []
    for form in scene.forms:
        if form.kind == "sheet" and not form.off and not form.after:
            ring = Polygon(form.outline).exterior
            inner = ring.difference(Polygon(ground.edge).exterior.buffer(1.0))
            if not inner.is_empty and bool((inner.distance(spots) < ground.cell_mm).any()):
                named.append(form.title)
    if not named:
        return "Steps"
    return named[0] if len(named) == 1 else f"{named[0]} to {named[-1]}"


def _compound(scene: ResolvedScene, built: Build, part: Mask, filled: Array, slope_deg: float) -> tuple[Array, Mask]:
    """How thick (ny, nx) compound lies, mm square to its face, if a flight is filled, and on which cells: with the skin
    that goes over it in the same go, as the lay-up of the patch that owns most of the flight says."""
    square = filled * cos(radians(slope_deg))
    owner = max(scene.patches, key=lambda patch: int((built.covers[patch.id].mask & part).sum()), default=None)
    skin = next((lift for lift in owner.lifts if isinstance(lift, Skin)), None) if owner else None
    if owner is None or skin is None or not (built.covers[owner.id].mask & part).any():
        return square * part, part
    mask = built.covers[owner.id].mask
    return square * (mask & (filled > 0)) + thickness(skin, built.stages[skin.id].site), mask


def flights(scene: ResolvedScene, built: Build, labels: Labels, slope_deg: float, mix: Mix) -> dict[str, Flight]:
    """Every flight of steps on the bare forms and both ways to a slope of `slope_deg`, filled with `mix`.

    Source: docs/science.md, ground. Carving goes at 30 cm2 of face a minute (craft estimate).
    """
    ground = built.bare
    filled, carved = _slopes(ground, _stepped(scene, ground).tobytes(), slope_deg)
    climate, mixture = Climate.of(scene.room), wet(mix, labels.materials)
    by_patch = {}
    for number, part in enumerate(_flights(filled, carved, ground.cell_area), start=1):
        inside = ground.inside * part
        fill_ml = float((filled * inside).sum()) * ground.cell_area / 1000
        carve_ml = float((carved * inside).sum()) * ground.cell_area / 1000
        laid, over = _compound(scene, built, part, filled, slope_deg)
        lies = evened(laid, ground.inside * over, ground.cell_mm)
        slope = Term("slope", slope_deg, "deg", "as chosen")
        total = to_mix(fill_ml)
        face = float((inside * (carved > 0.01)).sum()) * ground.cell_area / cos(radians(slope_deg))
        water = mixture.free_water_g_per_ml * 1000
        drying = drying_hours(
            water * max(lies.pocket_mm, lies.slow_mm), lies.deepest_mm,
            mix.dries.diffusivity_m2_s if mix.dries else 1e-9, climate, READY_SHARE, "ready to seal at",
        )  # fmt: skip
        sheet = next((one.form for one in built.forms if one.form.kind == "sheet"), None)
        foam = labels.materials[sheet.made_of or ""] if sheet else None
        each = scene.bench.price_each(foam.id) if foam else None
        paid = None
        if foam and each is not None and foam.thickness_mm:
            worth = carve_ml * 1000 / foam.thickness_mm * each
            paid = Figure(
                worth, "money", "what the carved foam was worth; it is bought already, so carving costs time only",
                (Term("carved", carve_ml, "ml"), Term("sheet", foam.thickness_mm, "mm", f"label of {foam.name}"),
                 Term("price of a m2", each * 1e6, "money", "your price")),
            )  # fmt: skip
        by_patch[f"flight-{number}"] = Flight(
            name=_name(scene, part, ground),
            outline=_outline(part, ground),
            slope_deg=slope_deg,
            fill_ml=Figure(fill_ml, "ml", "what fills the steps to the slope, cell by cell", (slope,)),
            fill_mix_ml=Figure(total, "ml", "in place + what stays in cup and on tools",
                               (Term("in place", fill_ml, "ml"),
                                Term("left behind", total - fill_ml, "ml", "default"))),
            fill_h=drying,
            fill_cost=cost_of(mix, total, labels, scene),
            carve_ml=Figure(carve_ml, "ml", "what carving to the slope takes away, cell by cell", (slope,)),
            carve_h=Figure(0.0, "h", "carved foam has nothing to dry; the skin over it dries either way"),
            carve_min=Figure(5 + face / CARVE_MM2_PER_MIN, "min", "set-up + face / 30 cm² a minute",
                             (Term("set-up", 5, "min", "craft estimate"), Term("carved face", face, "mm2"))),
            carve_cost=paid,
        )  # fmt: skip
    return by_patch
