"""What a tin of each family says in a few fields, and the labels that are made of it: the rest as the shipped label of
its kind has it."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any, Literal

from ..catalogue import Catalogue, Material, Mix
from ..fault import Fault, Faults, fault
from ..hardening.climate import evaporation
from ..hardening.drying import diffusivity_of_label
from ..mixing.parts import wet

Kind = Literal["text", "number", "mm", "degC", "percent", "choice", "colour"]
Answers = Mapping[str, Any]
LABEL_ROOM = (20.0, 0.5)  # degC and humidity of a tin that says no room
LABEL_LAYER_MM = 5.0  # of a tin that says no thickness


@dataclass(frozen=True, slots=True)
class Ask:
    """One field of a tin: its name and label, what is typed, what stands there first; an optional one may be empty."""

    name: str
    label: str
    kind: Kind = "number"
    start: Any = None
    hint: str = ""
    optional: bool = False
    options: tuple[tuple[str, str], ...] = ()


@dataclass(frozen=True, slots=True)
class Made:
    """The labels of a new tin, what it is bought as and what it is laid as; from which shipped ones they start."""

    material: Material
    mix: Mix | None
    made_from: tuple[str, str | None]


@dataclass(frozen=True, slots=True)
class Family:
    """A family of tins: what it is called, what is asked, and how a label is made of the answers."""

    name: str
    words: str
    asks: tuple[Ask, ...]
    make: Callable[[Answers, Catalogue, Callable[[str], str]], Made]


def _copy(label: Material | Mix, **changes: Any) -> dict[str, Any]:
    return {**label.model_dump(mode="json", exclude_unset=True), **changes}


def _above(answers: Answers, *names: str) -> None:
    """Refuse what must be above nothing and is not. Raises Faults."""
    wrong = [name for name in names if answers.get(name) is not None and answers[name] <= 0]
    if wrong:
        raise Faults(Fault(name, f"{answers[name]:g} is not above 0", "write what the tin says") for name in wrong)


def _source(answers: Answers) -> str:
    return f"the tin of {answers['name']}; what it does not say by default"


def _resin(answers: Answers, known: Catalogue, new_id: Callable[[str], str]) -> Made:
    _above(answers, "working_min", "hard_h", "max_depth_mm", "density_a", "density_b")
    tin, mix = known.materials["casting-resin"], known.mixes["casting-resin"]
    name, held = answers["name"], dict(tin.part_density)
    densities = {part: answers.get(f"density_{part.lower()}") or held[part] for part in ("A", "B")}
    whole = answers["parts_a"] + answers["parts_b"]
    if min(answers["parts_a"], answers["parts_b"]) < 0 or whole <= 0:
        raise fault("parts_a", "parts of nothing mix nothing", "write the ratio of the tin, such as 2 and 1")
    label = new_id(name)
    share_a = answers["parts_a"] / whole
    mean = share_a * densities["A"] + (1 - share_a) * densities["B"]
    material = _copy(tin, id=label, name=name, part_density=list(densities.items()), density=round(mean, 4),
                     source=_source(answers))  # fmt: skip
    parts = [{"material": label, "part": part, "parts": answers[f"parts_{part.lower()}"]} for part in ("A", "B")]
    reacts = {"hard_h": answers["hard_h"], "temp_c": answers["temp_c"], "max_depth_mm": answers["max_depth_mm"],
              "working_min": answers["working_min"]}  # fmt: skip
    laid = _copy(mix, id=label, name=name, basis=answers["basis"], ingredients=parts, reacts=reacts,
                 source=_source(answers))  # fmt: skip
    return Made(Material.model_validate(material), Mix.model_validate(laid), (tin.id, mix.id))


def _cloth(answers: Answers, known: Catalogue, new_id: Callable[[str], str]) -> Made:
    _above(answers, "long_mm", "wide_mm", "thickness_mm", "set_min")
    tin = known.materials["plaster-cloth"]
    roll = [max(answers["long_mm"], answers["wide_mm"]), min(answers["long_mm"], answers["wide_mm"])]
    if answers["overlap_mm"] * 2 > roll[1]:
        raise fault("overlap_mm", f"{answers['overlap_mm']:g} mm is more than half the roll's width", "write 20 or so")
    changes: dict[str, Any] = {"roll_mm": roll, "overlap_mm": answers["overlap_mm"]}
    if answers.get("thickness_mm"):
        changes["thickness_mm"] = answers["thickness_mm"]
    if answers.get("set_min") and tin.sets is not None:
        changes["sets"] = {"set_min": answers["set_min"], "water_ratio": tin.sets.water_ratio}
    made = _copy(tin, id=new_id(answers["name"]), name=answers["name"], source=_source(answers), **changes)
    return Made(Material.model_validate(made), None, (tin.id, None))


def _compound(answers: Answers, known: Catalogue, new_id: Callable[[str], str]) -> Made:
    _above(answers, "powder", "water", "set_min", "dry_h", "dry_mm", "most_mm")
    ready = answers["form"] == "ready"
    tin = known.materials["joint-compound" if ready else "paper-fibre-powder"]
    mix = known.mixes["joint-compound" if ready else "paper-plaster"]
    label, name = new_id(answers["name"]), answers["name"]
    material = Material.model_validate(_copy(tin, id=label, name=name, source=_source(answers)))
    laid = _copy(mix, id=label, name=name, source=_source(answers))
    if ready:
        laid["ingredients"] = [{"material": label, "parts": 1}]
    else:
        laid["ingredients"] = [
            {"material": label, "parts": answers["powder"]}, {"material": "water", "parts": answers["water"]},
        ]  # fmt: skip
    if answers.get("set_min") and not ready and mix.sets is not None:
        laid["sets"] = {**mix.sets.model_dump(mode="json"), "set_min": answers["set_min"]}
    if answers.get("most_mm"):
        laid["most_mm"] = answers["most_mm"]
    compound = Mix.model_validate(laid)
    if answers.get("dry_h"):
        compound = _drying(compound, material, known, answers["dry_h"], answers.get("dry_mm") or LABEL_LAYER_MM)
    return Made(material, compound, (tin.id, mix.id))


def _drying(mix: Mix, material: Material, known: Catalogue, hours: float, depth_mm: float) -> Mix:
    """The mix with the diffusivity by which it dries in its tin's hours. Raises Faults where it could not."""
    water = wet(mix, {**known.materials, material.id: material}).free_water_g_per_ml * depth_mm * 1000
    try:
        diffusivity = diffusivity_of_label(water, depth_mm, hours, evaporation(*LABEL_ROOM))
    except ValueError:
        least = water / evaporation(*LABEL_ROOM)
        told = f"{hours:g} h are too few for {depth_mm:g} mm: at 20 °C the air alone needs about {least:.0f} h"
        raise fault("dry_h", told, "write how thick that was, or leave it empty") from None
    dries = {"diffusivity_m2_s": float(f"{diffusivity:.3g}")}
    return Mix.model_validate({**mix.model_dump(mode="json", exclude_unset=True), "dries": dries})


def _paint(answers: Answers, known: Catalogue, new_id: Callable[[str], str]) -> Made:
    tin = known.materials["paint-earth"]
    changes: dict[str, Any] = {"colour": answers["colour"], "opacity": answers["opacity"]}
    if answers.get("sheen"):
        changes["sheen"] = answers["sheen"]
    made = _copy(tin, id=new_id(answers["name"]), name=answers["name"], source=_source(answers), **changes)
    return Made(Material.model_validate(made), None, (tin.id, None))


def _powder(answers: Answers, known: Catalogue, new_id: Callable[[str], str]) -> Made:
    _above(answers, "density", "particle_density", "grain_mm", "water_ratio", "set_min")
    sets = answers["takes"] == "sets"
    tin = known.materials["plaster" if sets else "stone-dust"]
    mix = known.mixes["plaster-2-3" if sets else "quarry-dust"]
    if answers["particle_density"] <= answers["density"]:
        told = f"{answers['particle_density']:g} g a ml is no more than the {answers['density']:g} g as scooped"
        raise fault("particle_density", told, "air lies between grains: the grains' figure is the larger")
    label, name = new_id(answers["name"]), answers["name"]
    changes = {one: answers[one] for one in ("density", "particle_density", "grain_mm") if answers.get(one)}
    material = Material.model_validate(_copy(tin, id=label, name=name, source=_source(answers), **changes))
    laid = _copy(mix, id=label, name=name, source=_source(answers))
    laid["ingredients"] = [{"material": label, "parts": 1}]
    if sets:
        ratio = answers.get("water_ratio") or (mix.sets.water_ratio if mix.sets else 0.7)
        laid |= {"basis": "mass", "ingredients": [*laid["ingredients"], {"material": "water", "parts": ratio}],
                 "sets": {"set_min": answers.get("set_min") or 20, "water_ratio": ratio}}  # fmt: skip
    return Made(material, Mix.model_validate(laid), (tin.id, mix.id))


def _glue(answers: Answers, known: Catalogue, new_id: Callable[[str], str]) -> Made:
    return _drier("white-glue", "glue-water-1-1", answers, known, new_id)


def _sealer(answers: Answers, known: Catalogue, new_id: Callable[[str], str]) -> Made:
    return _drier("acrylic-sealer", None, answers, known, new_id)


def _drier(tin_id: str, mix_id: str | None, answers: Answers, known: Catalogue, new_id: Callable[[str], str]) -> Made:
    """What dries by losing water: a glue, with a mix let down with as much water as its tin says; a sealer."""
    _above(answers, "film_mm", "water")
    tin = known.materials[tin_id]
    assert tin.dries is not None
    if not 0 < answers["solids"] < 1:
        raise fault(
            "solids", f"{answers['solids'] * 100:g} % is not between 0 and 100", "write what stays when it is dry"
        )
    label, name = new_id(answers["name"]), answers["name"]
    dries = {**tin.dries.model_dump(mode="json"), "solids": answers["solids"]}
    changes: dict[str, Any] = {"dries": dries, "source": _source(answers)}
    if answers.get("film_mm"):
        changes["film_mm"] = answers["film_mm"]
    material = Material.model_validate(_copy(tin, id=label, name=name, **changes))
    if mix_id is None:
        return Made(material, None, (tin.id, None))
    mix = known.mixes[mix_id]
    parts = [{"material": label, "parts": 1}, {"material": "water", "parts": answers["water"]}]
    laid = _copy(mix, id=label, name=f"{name}, with water", ingredients=parts, source=_source(answers))
    return Made(material, Mix.model_validate(laid), (tin.id, mix.id))


_NAME = Ask("name", "What the tin is called", "text", hint="as you would say it")
FAMILIES: dict[str, Family] = {
    one.name: one
    for one in (
        Family("resin", "Resin, two parts", (
            _NAME, Ask("parts_a", "Parts of A", start=2.0), Ask("parts_b", "Parts of B", start=1.0),
            Ask("basis", "The parts are", "choice", "volume", options=(("volume", "by volume"), ("mass", "by mass"))),
            Ask("working_min", "Working time, min", start=40.0, hint="100 g in the cup"),
            Ask("hard_h", "Hard after, h", start=24.0, hint="a thin layer"),
            Ask("temp_c", "Told for a room of", "degC", 23.0),
            Ask("max_depth_mm", "Greatest depth of one lift", "mm", 10.0),
            Ask("density_a", "A millilitre of A weighs, g", hint="empty: 1.16", optional=True),
            Ask("density_b", "A millilitre of B weighs, g", hint="empty: 0.98", optional=True),
        ), _resin),
        Family("cloth", "Plaster cloth", (
            _NAME, Ask("long_mm", "Roll, long", "mm", 3000.0), Ask("wide_mm", "Roll, wide", "mm", 200.0),
            Ask("overlap_mm", "Strips overlap by", "mm", 20.0),
            Ask("thickness_mm", "One layer, wet and smoothed", "mm", hint="empty: 1 mm", optional=True),
            Ask("set_min", "Sets after, min", hint="empty: 6", optional=True),
        ), _cloth),
        Family("compound", "Sculpting compound", (
            _NAME,
            Ask("form", "It comes", "choice", "powder", options=(("powder", "as a powder"), ("ready", "ready-mixed"))),
            Ask("powder", "Parts of powder, by volume", start=2.0), Ask("water", "Parts of water", start=1.0),
            Ask("set_min", "Sets after, min", hint="empty: 40", optional=True),
            Ask("dry_h", "Dry after, h", hint="at 20 °C; empty: by default", optional=True),
            Ask("dry_mm", "That thick", "mm", hint="empty: 5 mm", optional=True),
            Ask("most_mm", "One course no thicker than", "mm", hint="empty: by default", optional=True),
        ), _compound),
        Family("paint", "Paint or ink", (
            _NAME, Ask("colour", "Colour", "colour", "#7a5a38"),
            Ask("opacity", "One coat hides, percent", "percent", 0.9),
            Ask("sheen", "Dry it is", "choice", "matt", options=(("matt", "matt"), ("gloss", "gloss"))),
        ), _paint),
        Family("powder", "Powder", (
            _NAME, Ask("density", "A millilitre as scooped weighs, g", start=1.2),
            Ask("particle_density", "Its grains alone, g a ml", start=2.65, hint="stone and sand 2.65, plaster 2.63"),
            Ask("grain_mm", "Grain", "mm", 0.1),
            Ask("takes", "With water it", "choice", "lies",
                options=(("lies", "stays a powder"), ("sets", "sets hard"))),
            Ask("water_ratio", "Water to powder, by mass", hint="if it sets; empty: 0.7", optional=True),
            Ask("set_min", "Sets after, min", hint="if it sets; empty: 20", optional=True),
        ), _powder),
        Family("glue", "Glue or binder", (
            _NAME, Ask("solids", "What stays when it is dry, percent", "percent", 0.45, hint="by mass"),
            Ask("water", "Let down with parts of water", start=1.0, hint="to one of glue, for soaking"),
            Ask("film_mm", "One coat, wet", "mm", hint="empty: 0.15 mm", optional=True),
        ), _glue),
        Family("sealer", "Sealer or varnish", (
            _NAME, Ask("solids", "What stays when it is dry, percent", "percent", 0.4, hint="by mass"),
            Ask("film_mm", "One coat, wet", "mm", hint="empty: 0.12 mm", optional=True),
        ), _sealer),
    )
}  # fmt: skip
