"""Parts by volume or by mass, and what they come to once they are wet together.

Source: conservation of mass.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ..catalogue import Material, Mix

BOUND_WATER = 0.186  # g of water per g of hemihydrate, by stoichiometry


@dataclass(frozen=True, slots=True)
class Amount:
    """So much of a material (or of part A or B of a kit): ml as scooped or poured, and g."""

    material: str
    part: str | None
    volume_ml: float
    mass_g: float
    drops: float | None = None


def mass_shares(parts: tuple[float, ...], densities: tuple[float, ...]) -> tuple[float, ...]:
    """Mass share of each of several parts by volume: p rho / sum(p rho). Densities in g/ml.
    Raises ValueError unless parts are 0 or more, and not all 0.

    >>> [round(share, 3) for share in mass_shares((2, 1), (1.16, 0.98))]
    [0.703, 0.297]
    """
    masses = [part * density for part, density in zip(parts, densities, strict=True)]
    if min(parts, default=-1) < 0 or sum(masses) <= 0:
        raise ValueError("parts are 0 or more, and not all 0")
    return tuple(mass / sum(masses) for mass in masses)


@dataclass(frozen=True, slots=True)
class WetMix:
    """One measure of a mix as its parts say: masses g per ingredient, what they occupy wet in ml, free water g."""

    masses: tuple[float, ...]
    volume_ml: float
    free_water_g: float
    plaster_share: float = 0.0  # of the mass

    @property
    def density(self) -> float:
        """g/ml of the wet mix."""
        return sum(self.masses) / self.volume_ml

    @property
    def free_water_g_per_ml(self) -> float:
        """Water that must dry out, g per ml of wet mix."""
        return self.free_water_g / self.volume_ml

    @property
    def stays(self) -> float:
        """Share of a wet film's height that is left once its water has gone."""
        return max(1 - self.free_water_g_per_ml, 0.01)

    @property
    def dry_g_per_ml(self) -> float:
        """What stays of a ml of wet mix once its water has left, g."""
        return max(self.density - self.free_water_g_per_ml, 0.0)


def wet(mix: Mix, materials: Mapping[str, Material]) -> WetMix:
    """The mix's own parts once wet: sum(m / particle density) x (1 + air); free water is the water, and what is no
    solid in glues and paints, less what plaster binds. A dry blend to be strewn stays as loose as it is scooped.

    >>> from isostasis.core.catalogue import shipped
    >>> tins = shipped()
    >>> round(wet(tins.mixes['paper-plaster'], tins.materials).free_water_g, 2)
    0.8
    """
    masses, volume, water, plaster = [], 0.0, 0.0, 0.0
    for ingredient in mix.ingredients:
        material = materials[ingredient.material]
        density = material.density_of(ingredient.part)
        mass = ingredient.parts * (density if mix.basis == "volume" else 1.0)
        masses.append(mass)
        loose = mix.family == "texture"
        volume += mass / (density if loose else material.particle_density or density)
        plaster += mass * material.hemihydrate
        if material.family == "water":
            water += mass
        elif material.dries and material.dries.solids is not None:
            water += mass * (1 - material.dries.solids)
    return WetMix(tuple(masses), volume * (1 + mix.air), max(0.0, water - BOUND_WATER * plaster), plaster / sum(masses))


def water_ratio(mix: Mix, materials: Mapping[str, Material]) -> float:
    """Water to powder by mass.

    >>> from isostasis.core.catalogue import shipped
    >>> tins = shipped()
    >>> round(water_ratio(tins.mixes['plaster-2-3'], tins.materials), 2)
    0.7
    """
    masses = wet(mix, materials).masses
    families = [materials[ingredient.material].family for ingredient in mix.ingredients]
    water = sum(mass for mass, family in zip(masses, families, strict=True) if family == "water")
    powder = sum(mass for mass, family in zip(masses, families, strict=True) if family == "powder")
    return water / powder if powder else 0.0


def amounts(
    mix: Mix,
    materials: Mapping[str, Material],
    volume_ml: float,
    tint: tuple[tuple[str, float], ...] = (),
    drop_ml: float = 0.05,
) -> tuple[Amount, ...]:
    """What to measure out for `volume_ml` of wet mix; `tint` is (material, drops or, of what is
    weighed, grams per 100 ml), part of that volume.

    >>> from isostasis.core.catalogue import shipped
    >>> tins = shipped()
    >>> [round(part.volume_ml, 1) for part in amounts(tins.mixes['casting-resin'], tins.materials, 90)]
    [60.0, 30.0]
    """
    measure = wet(mix, materials)
    tints, displaced = [], 0.0
    for name, per_100 in tint:
        tin, count = materials[name], per_100 * volume_ml / 100
        if count > 0:
            ml = count / tin.density if tin.weighed else count * drop_ml
            displaced += count / (tin.particle_density or tin.density) if tin.weighed else ml
            tints.append(Amount(name, None, ml, ml * tin.density, None if tin.weighed else count))
    times = (volume_ml - displaced) / measure.volume_ml
    out = []
    for ingredient, mass in zip(mix.ingredients, measure.masses, strict=True):
        density = materials[ingredient.material].density_of(ingredient.part)
        out.append(Amount(ingredient.material, ingredient.part, mass * times / density, mass * times))
    return (*out, *tints)


def by_mass_error(mix: Mix, materials: Mapping[str, Material]) -> float:
    """By how much the hardener's share is off (0.1 = 10 % too much) if a ratio by volume is weighed as if by mass.

    >>> from isostasis.core.catalogue import shipped
    >>> tins = shipped()
    >>> round(by_mass_error(tins.mixes['casting-resin'], tins.materials), 2)
    0.18
    """
    parts = tuple(ingredient.parts for ingredient in mix.ingredients)
    shares = mass_shares(parts, tuple(materials[one.material].density_of(one.part) for one in mix.ingredients))
    return (parts[-1] / parts[0]) / (shares[-1] / shares[0]) - 1
