"""How a lift that dries gets through its hours: shared by skins and coats."""

from __future__ import annotations

from ..document.scene import Lift
from ..figure import Figure, Term
from ..hardening.climate import Climate, evaporation
from ..hardening.drying import CRITICAL_SHARE, READY_SHARE, hours_to_share
from .estimate import span
from .labels import Labels


def follows_dry(above: Lift | None, labels: Labels) -> bool:
    """Whether what goes on next wants the bed dry: a seal or a pour; a wet layer or a wash does not."""
    return above is not None and (above.levels_itself or labels.mix_of(above).seals)


def drying_hours(
    water_g_m2: float, depth_mm: float, diffusivity: float, climate: Climate, share: float, what: str
) -> Figure:
    """Hours until `share` of the water is left, with its working; `what` names the goal."""
    value = hours_to_share(water_g_m2, depth_mm, diffusivity, climate, share)
    rate = evaporation(climate.temp_c[0], climate.rh[0], climate.transfer_m_s)
    working = (
        Term("water to lose", water_g_m2, "g/m2", "free water of the mix × depth"),
        Term("leaves a wet face", rate, "g/m2/h", f"room at {climate.temp_c[0]:g} °C, {climate.rh[0]:.0%}"
             + ("" if climate.steady else ", then along the series")),
        Term("constant rate until this share is left", CRITICAL_SHARE, "", "default"),
        Term(what, share, "", "default"),
        Term("depth", depth_mm, "mm"),
        Term("diffusivity", f"{diffusivity:.0e} m²/s", "", "label"),
    )  # fmt: skip
    formula = "drying in two periods: at the room's rate while the face is wet, then ever slower from within"
    # Rooms and films differ: a quarter to either side is what careful records show.
    return span(
        value,
        formula,
        *working,
        low=None if value is None else value * 0.75,
        high=None if value is None else value * 1.25,
    )


def ready_hours(
    above: Lift | None,
    labels: Labels,
    water_g_m2: float,
    depth_mm: float,
    diffusivity: float,
    climate: Climate,
    pocket_g_m2: float | None = None,
) -> tuple[Figure, Figure, Figure]:
    """(when what follows may go on, when it is dry through, when it is past its constant-rate period). Of a layer of
    uneven thickness `water_g_m2` is what nine tenths of it have to lose, `pocket_g_m2` its deepest place, there
    `depth_mm` thick."""
    deep = water_g_m2 if pocket_g_m2 is None else max(pocket_g_m2, water_g_m2)
    full = drying_hours(deep, depth_mm, diffusivity, climate, READY_SHARE, "ready to seal or pour on at")
    damp = drying_hours(
        water_g_m2, depth_mm, diffusivity, climate, CRITICAL_SHARE, "ready for a wet layer or a wash at"
    )
    return (full if follows_dry(above, labels) else damp), full, damp
