"""Whole lay-ups that can be laid, and patches that follow from the forms."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from flask import g

from ...core.document import Scene
from ...core.document import edit as change
from ...core.document.scene import Patch
from ...core.fault import fault
from ...core.plan.preview import first_level
from ...core.starters import READY, ready
from ..shared.scenes import OpenScene

SLOPE_DEG = 35.0  # from which strewn stuff rolls: what is meant by a slope
OWN = "own:"


def choices() -> list[tuple[str, str]]:
    """(value, words) of lay-ups that can be laid whole: those that lie ready, then the user's own."""
    own = [(f"{OWN}{name}", f"{name}, your own") for name in sorted(g.settings.layups)]
    return [*((one.id, f"{one.title}: {one.words}") for one in READY), *own]


def lifts_of(layup: str) -> list[tuple[str, dict[str, Any]]]:
    """What an id ends in, and the lift without it; of the user's own without pours, whose level belongs to a hollow.
    Raises Faults."""
    found = ready(layup)
    if found is not None:
        return list(found.lifts)
    kept = g.settings.layups.get(layup.removeprefix(OWN), ()) if layup.startswith(OWN) else ()
    lifts = [(_end_of(one["id"]), _without_id(one)) for one in kept if one["kind"] != "pour"]
    if not lifts:
        raise fault("lay-up", "there is no such lay-up, or nothing is in it", "choose one of the list")
    return lifts


def _end_of(lift_id: str) -> str:
    """What an id ends in, without a number that only kept it apart."""
    return re.sub(r"-\d+$", "", lift_id).rpartition("-")[2]


def _without_id(lift: Mapping[str, Any]) -> dict[str, Any]:
    return {name: value for name, value in lift.items() if name not in ("id", "after")}


def laid(
    scene: Scene, opened: OpenScene, used: frozenset[str], patch: Patch, lifts: list[tuple[str, dict[str, Any]]]
) -> Scene:
    """With lifts on top of a patch's lay-up, under ids that were never `used`; a pour fills its hollow to four
    fifths. Raises Faults where none holds."""
    for end, lift in lifts:
        name = change.new_id(scene, opened.catalogue, f"{patch.id[:50]}-{end}", used)
        data = {"id": name, **lift}
        if lift["kind"] == "pour":
            data["level_mm"] = first_level(opened.scene, patch, name, opened.catalogue.mixes[lift["mix"]])
        scene = change.add(scene, "lifts", data, patch=patch.id)
    return scene


def offered(opened: OpenScene) -> list[tuple[str, str]]:
    """(value, words) of the patches that follow from the forms and are not there yet."""
    areas = [patch.area for patch in opened.scene.patches]
    options = [("ponds", f"a patch on each hollow ({len(bare_hollows(opened))})")] if bare_hollows(opened) else []
    if not any(hasattr(area, "steeper_deg") for area in areas):
        options.append(("slopes", f"every slope, steeper than {SLOPE_DEG:g}°"))
    if not any(hasattr(area, "rest") for area in areas):
        options.append(("rest", "the rest"))
    return options


def bare_hollows(opened: OpenScene) -> list[Any]:
    """The basins on which no patch lies by name."""
    taken = {getattr(patch.area, "on", None) for patch in opened.scene.patches}
    return [form for form in opened.scene.forms if form.kind == "basin" and not form.off and form.id not in taken]
