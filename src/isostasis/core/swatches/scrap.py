"""Ways side by side on a scrap: what each lays, as lifts of a document, and what the laws say of it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from ..catalogue import Bench, Catalogue
from ..document import ResolvedScene, resolve
from ..fault import Faults, fault
from ..figure import Figure
from ..lifts.alternative import cost_of_plan
from ..lifts.labels import Labels
from ..plan import Plan, plan
from ..reading import read
from ..surface import looks

SIDE_MM = 100.0  # of the lane that figures are told for: a square decimetre
MARGIN_MM, SHEET_MM = 20.0, 40.0
MAX_LANES = 12
LiftData = Mapping[str, Any]
# What can be tried: its kind, in words, of which families of mixes, and what its thickness is called in a document.
KINDS: dict[str, tuple[str, tuple[str, ...], str]] = {
    "skin": ("trowelled on", ("skin",), "depth_mm"),
    "texture": ("strewn", ("texture",), "depth_mm"),
    "fix": ("soaked in", ("binder", "wetting"), ""),
    "coat": ("brushed on", ("colour", "seal", "binder"), ""),
    "pour": ("poured", ("resin", "binder", "seal"), "depth_mm"),
}
START_MM = {"skin": 3.0, "texture": 4.0, "pour": 4.0}
BOARDS = ("foam-xps", "foam-eps", "hardboard-3", "plywood-9")  # what scraps are cut from
CRITERIA = ("hold", "scratch", "dent", "crack", "gloss", "colour")


@dataclass(frozen=True, slots=True)
class Foretold:
    """What the laws say of a lane of one square decimetre: hours until the next thing goes on, its cost (None where it
    is not priced), and its look dry and wet (hex; None for what is clear or poured)."""

    hours: Figure | None
    cost: Figure | None
    dry: str | None
    wet: str | None


def way(kind: str, mix: str, thickness_mm: float | None, wetting: str | None, known: Catalogue) -> dict[str, Any]:
    """A lift of a document, without an id. Raises Faults for what does not go together."""
    if kind not in KINDS:
        raise fault("how", f"“{kind[:20]}” cannot be tried on a scrap", f"one of {', '.join(KINDS)}")
    words, families, name = KINDS[kind]
    label = known.mixes.get(mix)
    material = known.materials.get(mix) if kind == "coat" else None
    if label is None and material is None:
        raise fault("what", f"there is no mix “{mix[:40]}”", "choose one of the list")
    if label is not None and label.family not in families:
        raise fault("what", f"{label.name} is not {words}", f"a mix of the family {' or '.join(families)}")
    data: dict[str, Any] = {"kind": kind, "material" if material is not None else "mix": mix}
    if name:
        data[name] = thickness_mm or START_MM[kind]
    if wetting and kind == "fix":
        data["wetting"] = wetting
    return data


def document(board: str, lifts: Sequence[LiftData], room: tuple[float, float]) -> dict[str, Any]:
    """The scene of one lane: lifts bottom up on a board in a room (degC, rh); what is poured stands in a hollow."""
    wide = SIDE_MM + 2 * MARGIN_MM
    poured = sum(float(one["depth_mm"]) for one in lifts if one["kind"] == "pour")
    west, east = MARGIN_MM, MARGIN_MM + SIDE_MM
    ring = [[west, west], [east, west], [east, east], [west, east]]
    whole = [[0, 0], [wide, 0], [wide, wide], [0, wide]]
    forms: list[dict[str, Any]] = [
        {"id": "sheet", "kind": "sheet", "outline": whole, "thickness_mm": SHEET_MM + poured, "material": board}
    ]
    if poured:
        raised = sum(float(one.get("depth_mm", 0.0)) for one in lifts if one["kind"] != "pour")
        hollow = {"id": "hollow", "kind": "basin", "outline": ring, "depth_mm": poured + raised + 2, "bank_deg": 89}
        forms.append(hollow)
    named = [{"id": f"lane-{number}", **one} for number, one in enumerate(lifts, 1)]
    return {
        "isostasis": 1,
        "name": "Scrap",
        "grid_mm": 5.0,
        "base": {"width_mm": wide, "depth_mm": wide},
        "room": {"temp_c": room[0], "rh": room[1]},
        "forms": forms,
        "patches": [{"id": "lane", "name": "Lane", "area": {"outline": ring}, "lifts": named}],
    }


def planned(
    board: str, lifts: Sequence[LiftData], room: tuple[float, float], known: Catalogue, bench: Bench
) -> tuple[ResolvedScene, Plan]:
    """One lane, planned as a scene is. Raises Faults."""
    scene = resolve(read(document(board, lifts, room)), known, bench)
    return scene, plan(scene)


def foretold(
    board: str, lifts: Sequence[LiftData], room: tuple[float, float], known: Catalogue, bench: Bench
) -> Foretold | None:
    """What the laws say of a lane; None for a bare one, and for one whose labels are gone since."""
    if not lifts:
        return None
    try:
        scene, scene_plan = planned(board, lifts, room, known, bench)
    except Faults:
        return None
    labels = Labels.of(scene)
    costs = [cost_of_plan(one, labels, scene) for one in scene_plan.lifts.values()]
    last = scene_plan.lifts[f"lane-{len(lifts)}"]
    seen = looks(scene, "lane")
    top = next((seen[name] for name in reversed(list(scene_plan.lifts)) if name in seen), None)
    priced = [one for one in costs if one is not None]
    whole = Figure(
        sum(one.number for one in priced),
        "money",
        "sum over what lies on it",
        tuple(t for one in priced for t in one.working),
    )
    poured = any(one["kind"] == "pour" for one in lifts)
    return Foretold(
        last.hours.next if last.hours.next.value is not None else None,
        whole if len(priced) == len(costs) else None,
        None if top is None or poured else top.dry,
        None if top is None or poured else top.wet,
    )
