"""How a depth is poured: split into lifts by the label and by heat on this bed in this room."""

from __future__ import annotations

from dataclasses import dataclass
from math import ceil

from ....catalogue import Mix, Reacts
from ....hardening.climate import Climate
from ....hardening.layer import FOAM, PLYWOOD, RESIN, SKIN, Courses, Slab, heat_from_label, solved
from ....hardening.layer import Pour as Layered
from ...labels import Labels
from ...site import Site
from .pools import MAX_LIFTS

THINNEST_SLAB_MM = 0.05  # what is thinner holds back no heat
TOO_HOT_C = 60.0  # a lift that peaks above is too deep


@dataclass(frozen=True, slots=True)
class Split:
    """How a depth is poured: layers from the bed up, and how each goes (own heat, less of it, more of it)."""

    depths: tuple[float, ...]
    courses: tuple[Courses, ...]


def bed_under(site: Site, labels: Labels, cell: tuple[int, int]) -> tuple[Slab, ...]:
    """The column under a cell, from the bed's face down to the board."""
    fallback = {"foam": FOAM, "board": PLYWOOD, "resin": RESIN}
    slabs: list[Slab] = []
    for name, thickness in reversed(site.ground.column(*cell)):
        entry = labels.mixes.get(name) or labels.materials.get(name)
        thermal = (entry.thermal if entry else None) or fallback.get(entry.family if entry else "foam", SKIN)
        if thickness >= THINNEST_SLAB_MM:
            slabs.append((round(thickness, 3), thermal))
    board = labels.materials[site.scene.base.board]
    return (*slabs, (board.thickness_mm or 9.0, board.thermal or PLYWOOD))


def courses_of(
    depths: tuple[float, ...], bed: tuple[Slab, ...], mix: Mix, label: Reacts, climate: Climate, cured: float = 0.0
) -> tuple[Courses, ...]:
    """How each layer goes on what is below it; earlier layers count as inert resin at room temperature."""
    thermal = mix.thermal or RESIN
    heat = heat_from_label(label, thermal).j_g
    layers = []
    below = 0.0
    for depth in depths:
        under = ((round(below, 3), thermal), *bed) if below else bed
        layers.append(Layered(round(depth, 3), under, label, round(heat, 2), climate, thermal, cured))
        below += depth
    return solved(tuple(layers))


def by_heat(
    depth_mm: float, bed: tuple[Slab, ...], mix: Mix, label: Reacts, climate: Climate, cured: float = 0.0
) -> Split:
    """The fewest equal lifts of which each passes the label's depth and 60 degC on this bed in this room.

    The label's own depth at its own temperature always passes.
    """
    count = max(1, ceil(depth_mm / label.max_depth_mm - 1e-9))
    while True:
        depths = (depth_mm / count,) * count
        courses = courses_of(depths, bed, mix, label, climate, cured)
        label_room = max(climate.temp_c) <= label.temp_c
        if label_room or all(course[0].peak_c <= TOO_HOT_C for course in courses) or count >= MAX_LIFTS:
            return Split(depths, courses)
        count += 1


def bond_end(label: Reacts, gel_h: float) -> float | None:
    """The label's last hour for a bond without scuffing; never before the gel."""
    return None if label.last_bond_h is None else max(label.last_bond_h, gel_h)
