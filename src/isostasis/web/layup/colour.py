"""The Blend page: dry blends and paints by scoops or parts, nearest to a colour, graded, sieved, kept as a mix; and the
Bands page: the bed of a water painted from shore to deep."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import zip_longest
from typing import Any

import numpy as np
from flask import flash, g, render_template, request, url_for
from werkzeug.wrappers import Response

from ...core.catalogue import Material
from ...core.colour.blend import gradient_recipes
from ...core.colour.light import is_colour
from ...core.colour.recipe import Recipe, judge, nearest
from ...core.document import Scene
from ...core.document.edit import add, names_of, refuse_taken, slug_of
from ...core.fault import Faults, fault
from ...core.lifts.kinds.pour.bands import bands
from ...core.mixing.grains import sack_for
from ...store import labels, settings
from ..shared.answers import hx_redirect, safe_return_url
from ..shared.fields import Field, parse_float, read, read_one
from ..shared.scenes import OpenScene, database, edit, materials_of, open_scene, pour_of
from .views import blueprint

ROWS = 5
MAX_SCOOPS, MAX_MIXES = 12, 12
FINEST_MM = 0.05  # a finer mesh lets nothing through but dust
MOST = Field("most", "scoops at most", "whole", start=6, low=1, high=MAX_SCOOPS)
MIXES = Field("mixes", "mixes", "whole", start=4, low=2, high=MAX_MIXES)
NAME = Field("name", "name", most=60)
SIEVED = (
    Field("mesh", "mesh", "mm", low=FINEST_MM),
    Field("sieved", "sieved", "g"),
    Field("passed", "passed", "g"),
    Field("need", "needed", "g", optional=True),
)
BANDS = (
    Field("bands", "bands", "whole", start=4, low=2, high=MAX_MIXES),
    Field("coats", "coats", "whole", start=1, low=1, high=20),
    Field("shore", "paint for the shore", "choice", start="paint-sand"),
    Field("deep", "paint for the deep", "choice", start="paint-teal"),
)


@dataclass(frozen=True)
class Row:
    """One ingredient as it was chosen: material, scoops, scoops at the other end of a gradient."""

    material: str
    scoops: str
    to: str


def _rows() -> list[Row]:
    fields = [request.values.getlist(name) for name in ("material", "scoops", "to")]
    sent = [Row(*one) for one in zip_longest(*fields, fillvalue="")]
    return (sent + [Row("", "", "")] * ROWS)[:ROWS]


def _chosen(opened: OpenScene, rows: list[Row]) -> list[Material]:
    known = opened.catalogue.materials
    for row in rows:
        if row.material and row.material not in known:
            raise fault("ingredient", f"there is no material '{row.material}'", "choose one of the list")
    return [known[row.material] for row in rows if row.material]


def _halves(texts: list[str], name: str) -> list[int]:
    """Half scoops of what was typed. Raises Faults."""
    halves = []
    for text in texts:
        value = parse_float(text, name) if text.strip() else 0.0
        if value < 0 or value * 2 != int(value * 2) or value > 50:
            raise fault(name, f"“{text}” is no number of half scoops", "write 0.5, 1 or 2.5, at most 50")
        halves.append(int(value * 2))
    return halves


def _written() -> dict[str, str]:
    """What the address says, without fields that were left empty."""
    return {name: value for name, value in request.args.items() if value.strip()}


def _target() -> str | None:
    text = request.values.get("target", "").strip().lower()
    wanted = {"find", "against"} & set(request.values) or "picked" not in request.values  # a picker always holds one
    if not text or not wanted:
        return None
    if not text.startswith("#"):
        text = f"#{text}"
    if not is_colour(text):
        raise fault("wanted colour", f"“{text[:12]}” is no colour", "choose one")
    return text


@dataclass(frozen=True)
class Part:
    """One ingredient of a recipe in the reader's measures."""

    name: str
    scoops: float
    ml: float
    g: float


def _parts(materials: list[Material], halves: tuple[int, ...]) -> list[Part]:
    scoop = g.measures.scoop_ml
    return [
        Part(material.name, half / 2, half / 2 * scoop, half / 2 * scoop * material.density)
        for material, half in zip(materials, halves, strict=True)
        if half
    ]


@blueprint.get("/s/<slug>/layup/blend")
def blend(slug: str) -> str:
    """A blend as it will look, the nearest to a colour, a gradient, what a sack yields. Raises Faults."""
    opened = open_scene(slug)
    rows, problem = _rows(), ""
    recipe: Recipe | None = None
    graded: list[tuple[Recipe, list[Part]]] = []
    materials: list[Material] = []
    try:
        materials = _chosen(opened, rows)
        chosen = [row for row in rows if row.material]
        if materials:
            most = read_one(MOST, _written())
            if "find" in request.args:
                target = _target()
                if target is None:
                    raise fault("wanted colour", "there is none to come near to", "choose one")
                recipe = nearest(materials, target, most * 2, request.args.get("whole") == "yes")
                rows = [
                    Row(row.material, f"{half / 2:g}", row.to) for row, half in zip(chosen, recipe.halves, strict=True)
                ]
                rows = (rows + [Row("", "", "")] * ROWS)[:ROWS]
            else:
                recipe = judge(materials, _halves([row.scoops for row in chosen], "scoops"), _target())
                graded = _graded(materials, chosen)
    except Faults as problems:
        problem = str(problems)
    return render_template(
        "layup/blend.html",
        opened=opened,
        rows=rows,
        problem=problem,
        made=recipe,
        parts=_parts(materials, recipe.halves) if recipe else [],
        graded=graded,
        paints=bool(materials) and materials[0].family == "colour",
        choices=materials_of(opened, "grain", "powder", "colour"),
        sieves=_sieves(),
        asked=request.args,
        place="layup.page",
    )


def _graded(materials: list[Material], chosen: list[Row]) -> list[tuple[Recipe, list[Part]]]:
    """The mixes of a gradient to the other end, if one is given. Raises Faults."""
    ends = [_halves([row.to for row in chosen], "scoops at the other end")]
    if not sum(ends[0]):
        return []
    mixes = read_one(MIXES, _written())
    start = _halves([row.scoops for row in chosen], "scoops")
    each = max(sum(start), sum(ends[0])) / 2
    recipes = gradient_recipes(
        np.array(start, dtype=float), np.array(ends[0], dtype=float), mixes, each, request.args.get("eased") == "yes"
    )
    return [(judge(materials, halves, None), _parts(materials, halves)) for halves in recipes]


@blueprint.post("/s/<slug>/layup/blend")
def keep_blend(slug: str) -> Response:
    """The blend as a mix of this scene, to be strewn or painted with. Raises Faults."""
    opened = open_scene(slug)
    name = read_one(NAME, request.form) or ""
    if not name:
        raise fault("name", "the blend has no name", "give it one, such as Path, pale")
    refuse_taken(
        name, [*(mix.name for mix in opened.catalogue.mixes.values()), *names_of(opened.written, "mixes")], "a mix"
    )
    rows = _rows()
    materials = _chosen(opened, rows)
    halves = _halves([row.scoops for row in rows if row.material], "scoops")
    recipe = judge(materials, halves, None)
    paint = materials[0].family == "colour"
    mix = {
        "id": opened.new_id(slug_of(name, "blend")[:50]),
        "name": name,
        "family": "colour" if paint else "texture",
        "ingredients": [
            {"material": material.id, "parts": half / 2}
            for material, half in zip(materials, halves, strict=True)
            if half
        ],
        "colour": recipe.dry,
        "source": "my own blend, by scoops",
    }

    def change(scene: Scene) -> Scene:
        return add(scene, "mixes", mix)

    return edit(slug, f"Kept the blend {name}", change, url_for("layup.blend", slug=slug, **_query()))


def _query() -> dict[str, Any]:
    return {name: request.form.getlist(name) for name in ("material", "scoops", "to", "target")}


def _sieves() -> list[tuple[str, str, float]]:
    """(name, mesh, share that passes) of the user's own sievings."""
    with database().reading() as session:
        kept = settings.read(session).sieves
        known = labels.catalogue(session).materials
    return [
        (known[material].name if material in known else material, mesh, share)
        for material, yields in sorted(kept.items())
        for mesh, share in sorted(yields.items())
    ]


@blueprint.post("/layup/sieves")
def sieve() -> Response:
    """What passed a mesh of what was sieved: kept as the user's own yield; and the sack for what is needed. Raises
    Faults."""
    material = request.form.get("material", "")
    with database().reading() as session:
        known = labels.catalogue(session).materials
    if material not in known:
        raise fault("material", f"there is no material '{material}'", "choose one of the list")
    mesh, sieved, passed, need = read(SIEVED, request.form).values()
    if not 0 < passed <= sieved:
        raise fault("passed", f"{passed:g} g cannot pass of {sieved:g} g", "weigh what was sieved and what passed")
    label = f"{mesh:g} mm"
    with database().writing() as session:
        kept = settings.read(session).sieves
        yields = {**kept.get(material, {}), label: round(passed / sieved, 4)}
        settings.change(session, sieves={**kept, material: yields})
    said = f"{passed / sieved:.0%} of it passes {label}."
    if need is not None:
        said += f" For {need:g} g sieve {sack_for(need, yields, label):.0f} g."
    flash(said)
    return hx_redirect(safe_return_url("back"))


def _bands(opened: OpenScene) -> tuple[int, int, Material, Material]:
    """How many bands in how many coats, and the two paints. Raises Faults."""
    count, coats, *names = read(BANDS, _written()).values()
    paints = [opened.catalogue.materials.get(name) for name in names]
    if any(paint is None or paint.family != "colour" for paint in paints):
        raise fault("paint", "a bed is painted with two paints", "choose one for the shore and one for the deep")
    shore, deep = (paint for paint in paints if paint)
    return count, coats, shore, deep


@blueprint.get("/s/<slug>/layup/bands")
def depth_bands(slug: str) -> str:
    """The bed of a pour in bands from shore to deep, and the paint that each takes."""
    opened = open_scene(slug)
    lift = pour_of(opened.scene, request.args.get("lift", ""))
    count, coats, shore, deep = _bands(opened)
    site = opened.plan.built.stages[lift.id].site
    colours = bands(lift, site, count, shore, deep, coats)
    looks = [judge([shore, deep], [round((1 - one.share) * 40), round(one.share * 40)], None) for one in colours]
    return render_template(
        "layup/bands.html",
        opened=opened,
        lift=lift,
        patch=site.patch,
        bands=list(zip(colours, looks, strict=True)),
        shore=shore,
        deep=deep,
        coats=coats,
        paints=materials_of(opened, "colour"),
        place="layup.page",
    )


@blueprint.get("/s/<slug>/layup/bands/working")
def band_working(slug: str) -> str:
    """The terms of a figure of one band, asked as the page is. Raises Faults."""
    opened = open_scene(slug)
    lift = pour_of(opened.scene, request.args.get("lift", ""))
    count, coats, shore, deep = _bands(opened)
    colours = bands(lift, opened.plan.built.stages[lift.id].site, count, shore, deep, coats)
    number, name = request.args.get("band", -1, type=int), request.args.get("figure", "")
    if not 0 <= number < len(colours) or name not in ("area_mm2", "shore_ml", "deep_ml"):
        raise fault("figure", "there is no such figure", "reload the page")
    figure = getattr(colours[number], name)
    return render_template("shared/_working.html", figure=figure)
