"""What a bed drinks of a first pour if it is left unsealed, lift by lift."""

from __future__ import annotations

from ..catalogue import Mix
from ..document.scene import Lift
from ..figure import Figure, Term
from ..mixing.grains import FULL, WETTING_SHARE, bed_of
from ..mixing.parts import wet
from .fix import Fix
from .shell import Shell
from .site import Labels
from .skin import Skin
from .texture import Texture, held

FILL = 0.6  # of the voids that resin gets into, default
SOAKED_MM = 0.5  # so deep it gets into a dry skin, craft estimate


def open_layers(below: list[Lift], labels: Labels) -> list[tuple[Lift, float, float]]:
    """What is open to a liquid from the top of `below` (bottom up) down to the first seal: (lift, mm deep, voids)."""
    found: list[tuple[Lift, float, float]] = []
    glue: tuple[Mix, float] | None = None
    for lift in reversed(below):
        mix = labels.mix_of(lift)
        if mix.seals or lift.levels_itself:
            break
        if isinstance(lift, Fix):
            glue = glue or (mix, FULL - (WETTING_SHARE if lift.wetting else 0.0))
        elif isinstance(lift, Texture):
            voids = bed_of(mix, labels.materials).voids
            if glue:  # its solids have filled some of them
                voids *= 1 - glue[1] * max(1 - wet(glue[0], labels.materials).free_water_g_per_ml, 0.0)
            found.append((lift, held(lift, labels) * lift.cover, voids))
            glue = None
        elif isinstance(lift, Skin | Shell):
            material = labels.materials.get(getattr(lift, "material", ""))
            # What was water is air once it is dry.
            voids = 0.4 if material else min(wet(mix, labels.materials).free_water_g_per_ml, 0.6)
            found.append((lift, SOAKED_MM, voids))
            break
    return found


def drinks(below: list[Lift], labels: Labels, area_mm2: float) -> Figure:
    """ml that a bed of so many mm2 under the lifts `below` (bottom up) drinks: area x depth x voids x 0.6, summed down
    to the first seal. Source: docs/science.md, filling.
    """
    layers = open_layers(below, labels)
    terms = [Term("wetted area", area_mm2, "mm2"), Term("of the voids are filled", FILL, "", "default")]
    total = 0.0
    for lift, depth, voids in layers:
        ml = area_mm2 * depth * voids * FILL / 1000
        total += ml
        terms.append(Term(f"{lift.title}: {depth:.3g} mm with {voids:.0%} voids", ml, "ml"))
    return Figure(total, "ml", "wetted area × porous depth × voids × fill, down to the first seal", tuple(terms))
