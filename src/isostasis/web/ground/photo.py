"""A photograph under the plan: taken in, laid straight by the board's corners or by a known distance, traced."""

from __future__ import annotations

import json
from dataclasses import dataclass

import numpy as np
from flask import Response, jsonify, render_template, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from ...core.document.edit import set_fields, written
from ...core.document.scene import Base, Photo
from ...core.fault import Refusal, fault
from ...core.ground.raster import Array
from ...core.photo import follow
from ...core.photo.lens import WIDE_FOCUS, Placement
from ...core.photo.straighten import Straightened, at_the_table, by_scale, doubts, straighten
from ...core.photo.warp import laid_straight, scale_of
from ...core.stages import cached_stage
from ...exchange.picture import opened as opened_picture
from ...exchange.picture import packed, take_in
from ...store import pictures, scenes
from ...store.tables import PictureRow
from ..shared.answers import hx_redirect, safe_return_url
from ..shared.fields import Field, parse_float
from ..shared.scenes import OpenScene, database, edit, now, open_scene
from .reports import tool_page
from .views import blueprint

APART = Field("apart", "how far apart they are", "mm", low=1)
INSET = 0.12  # of the picture, where the handles wait at first


@dataclass(frozen=True)
class Taken:
    """A photograph as it is kept: its digest, its size in px, the focal length that its camera told."""

    digest: str
    width: int
    height: int
    focus: float | None

    @property
    def waiting(self) -> list[list[int]]:
        """Where the corners' handles stand before anybody has dragged them."""
        x, y = round(self.width * INSET), round(self.height * INSET)
        return [[x, self.height - y], [self.width - x, self.height - y], [self.width - x, y], [x, y]]

    @property
    def measuring(self) -> list[tuple[list[int], str]]:
        """Where the handles of a known distance stand before: the board's corner, and the two points."""
        (x, south), (east, _), *_ = self.waiting
        middle = self.height // 2
        return [([x, south], "SW"), ([2 * x, middle], "1"), ([east - x, middle], "2")]

    @property
    def handle_px(self) -> float:
        """Radius of a handle."""
        return max(self.width, self.height) / 70


def _row(digest: str) -> PictureRow:
    with database().reading() as session:
        row = pictures.find(session, digest)
    if row is None:
        raise fault("photo", "it is not here any more", "take it in once more")
    return row


def _taken(digest: str) -> Taken:
    row = _row(digest)
    return Taken(row.digest, row.width, row.height, row.focus)


@cached_stage
def _straightened(
    digest: str, corners: tuple[tuple[float, float], ...], width_mm: float, depth_mm: float
) -> Straightened:
    """By content, so that the page need not fit the same picture again. Raises Refusal."""
    image = opened_picture(_row(digest).content).convert("RGB")
    return straighten(np.asarray(image), np.array(corners), width_mm, depth_mm)


def foam_of(opened: OpenScene) -> float:
    """How high the board's top rim stands over the table, mm: the median of the forms along its edges."""
    z = opened.plan.built.bare.z
    return float(np.median(np.concatenate([z[0], z[-1], z[:, 0], z[:, -1]])))


@blueprint.get("/pictures/<digest>.webp")
def picture(digest: str) -> Response:
    """A picture that is kept. Raises Faults."""
    response = Response(_row(digest).content, mimetype="image/webp")
    response.headers["Cache-Control"] = "private, max-age=31536000, immutable"
    return response


@blueprint.get("/s/<slug>/ground/photo")
def photo(slug: str) -> str:
    """Take a photo in; then its corners; then what it is like. Raises Faults."""
    opened = open_scene(slug)
    laid = opened.scene.photo
    if laid is not None and laid.left_out:
        laid = None
    digest = request.args.get("picture") or (laid.taken if laid else None)
    taken = _taken(digest) if digest else None
    sentences: list[str] = []
    advice = ""
    corners: list[list[float]] = [[*one] for one in taken.waiting] if taken else []
    if taken and laid and laid.taken == taken.digest:
        corners = [[round(x, 1), round(y, 1)] for x, y in laid.corners]
        if laid.agree_mm is not None:
            made = _straightened(taken.digest, laid.corners, laid.width_mm, laid.depth_mm)
            focus = taken.focus or WIDE_FOCUS
            sentences, advice = doubts(made, focus), at_the_table(made, foam_of(opened), focus)
    if taken is None:
        return tool_page("photo", "photo", opened)
    return render_template(
        "ground/corners.html", opened=opened, tool="photo", place="ground.page", taken=taken, corners=corners,
        laid=laid if laid and laid.taken == taken.digest else None, told=sentences, advice=advice,
    )  # fmt: skip


def keep_upload() -> str:
    """Keep the photograph that a form sends; returns its digest. Raises Faults."""
    sent = request.files.get("photo")
    if sent is None or not sent.filename:
        raise fault("photo", "nothing was chosen", "choose a photo of the board, or take one")
    made = take_in(sent.filename, sent.read())
    with database().writing() as session:
        return pictures.keep(session, made.content, made.size, now(), made.focus)


@blueprint.post("/s/<slug>/photo")
def take_photo(slug: str) -> BaseResponse:
    """A photograph from a file or the camera. Raises Faults."""
    open_scene(slug)
    return hx_redirect(url_for("ground.photo", slug=slug, picture=keep_upload()))


def _points(name: str, count: int) -> Array:
    """Places in px of the taken picture that the page sends as JSON. Raises Faults."""
    try:
        points = np.array(json.loads(request.form.get(name, "")), dtype=float)
    except (ValueError, TypeError, RecursionError):
        points = np.empty(0)
    if points.shape != (count, 2) or not np.isfinite(points).all():
        raise fault("photo", f"it has no {count} places on it", "drag the handles on to the picture")
    return points


def _placed(taken: Taken, base: Base) -> tuple[Placement, Array, float | None]:
    """Where the board is on a picture, its corners as clicked, and how well its edges agree. Raises Faults."""
    size, width, depth = (taken.width, taken.height), base.width_mm, base.depth_mm
    try:
        if request.form.get("by") == "distance":
            points = _points("points", 3)
            apart = APART.parse(request.form.get("apart", ""))
            placement = by_scale(points[1:], apart, points[0], size, width, depth)
            return placement, placement.corners, None
        corners = _points("corners", 4).round(1)
        made = _straightened(taken.digest, tuple((float(x), float(y)) for x, y in corners), width, depth)
        return made.placement, corners, made.agree_mm
    except Refusal as refused:
        raise fault("photo", refused.what, refused.right) from None


@blueprint.post("/s/<slug>/photo/lay")
def lay_photo(slug: str) -> BaseResponse:
    """Lay it straight under the plan. Raises Faults."""
    opened = open_scene(slug)
    taken, base = _taken(request.form.get("picture", "")), opened.scene.base
    placement, corners, agree_mm = _placed(taken, base)
    straight = laid_straight(opened_picture(_row(taken.digest).content), placement)
    with database().writing() as session:
        digest = pictures.keep(session, packed(straight), straight.size, now())
    before = opened.scene.photo
    data = Photo(
        straight=digest, taken=taken.digest, width_mm=base.width_mm, depth_mm=base.depth_mm,
        corners=tuple((float(x), float(y)) for x, y in corners.round(1)),  # type: ignore[arg-type]
        agree_mm=None if agree_mm is None else round(agree_mm, 2), bend=round(placement.bend, 4),
        tilt_deg=round(placement.tilt_deg(taken.focus or WIDE_FOCUS), 1),
        strength=before.strength if before else Photo.model_fields["strength"].default,
    )  # fmt: skip
    then = url_for("ground.page", slug=slug)
    return edit(slug, "Laid a photo under the plan", lambda scene: set_fields(scene, {"photo": written(data)}), then)


@blueprint.post("/s/<slug>/photo/change")
def change_photo(slug: str) -> BaseResponse:
    """Another strength, or away with it. Raises Faults."""
    opened = open_scene(slug)
    laid = opened.written.photo
    if laid is None:
        raise fault("photo", "there is none under this plan any more", "reload the page")
    if request.form.get("how") == "remove":
        then = url_for("ground.page", slug=slug)
        return edit(slug, "Took the photo away", lambda scene: set_fields(scene, {"photo": None}), then)
    percent = parse_float(request.form.get("strength", ""), "how strong the photo is")
    if not 0 <= percent <= 100:
        raise fault("how strong the photo is", f"{percent:g} percent", "0 to 100")
    data = {**written(laid), "strength": percent / 100}
    return edit(slug, f"Photo at {percent:.0f} %", lambda scene: set_fields(scene, {"photo": data}), safe_return_url())


def edges_of(laid: Photo) -> follow.Edges:
    """The edges of a scene's straight picture. Raises Faults."""

    def grey() -> Array:
        return np.asarray(opened_picture(_row(laid.straight).content).convert("L"))

    return follow.edges_of(follow.StraightPicture(laid.straight, scale_of(laid.width_mm, laid.depth_mm), grey))


def photo_of(slug: str) -> Photo:
    """The photo under a scene's plan. Raises NoSuchScene, Faults."""
    with database().reading() as session:
        laid = scenes.document(scenes.find(session, slug).head).photo
    if laid is None or laid.left_out:
        raise fault("photo", "there is none under this plan", "lay one in first")
    return laid


@blueprint.get("/s/<slug>/photo/edge")
def edge(slug: str) -> Response:
    """The edge along the last clicks, and back to the first if the ring is `closed`: JSON {first, segments}, the
    segments from click `first` on. Raises Faults."""
    edges = edges_of(photo_of(slug))
    try:
        clicks = follow.checked_clicks(json.loads(request.args.get("clicks", "")))
        if request.args.get("closed"):
            made = follow.outline(edges, clicks, other="other" in request.args)
            off = {"off_mm": made.clicks_off_mm, "worst_mm": made.worst_off_mm, "beside_mm": made.beside_mm}
            return jsonify({"line": made.line, **off})
        first = max(len(clicks) - 3, 0)
        ways = [follow.segment(edges, clicks, number) for number in range(first, len(clicks) - 1)]
        return jsonify({"first": first, "segments": ways})
    except Refusal as refused:
        raise fault("photo", refused.what, refused.right) from None
    except (ValueError, TypeError, RecursionError):
        raise fault("photo", "the clicks are no list of places", "draw it on the plan") from None


def followed(slug: str, points: object, closed: bool, other: bool) -> list[list[float]]:
    """An outline or a path that was clicked along an edge of the photo. Raises Refusal, Faults."""
    edges, clicks = edges_of(photo_of(slug)), follow.checked_clicks(points)
    if closed:
        return [[x, y] for x, y in follow.outline(edges, clicks, other).line]
    ways = [follow.segment(edges, clicks, number) for number in range(len(clicks) - 1)]
    return [[x, y] for number, way in enumerate(ways) for x, y in (way[1:] if number else way)]
