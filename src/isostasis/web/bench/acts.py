"""What is done at the bench beside marks: photos of a step, what was left over of it, cautions that were read."""

from __future__ import annotations

from flask import abort, g, make_response, request
from werkzeug.wrappers import Response

from ...core.fault import fault
from ...core.stock.reading import parse_amount
from ...core.units import NotAMeasure
from ...exchange.picture import small, take_in
from ...store import cautions, marks, photos, pictures, scenes, shelf
from ..shared.answers import hx_redirect, safe_return_url
from ..shared.fields import Field, read, read_one
from ..shared.scenes import database, now
from .views import blueprint

PHOTO = (Field("step", "step"), Field("moment", "moment"), Field("note", "note", start="", most=500))
LINE = Field("line", "what was taken", "whole")
A_YEAR = 365 * 24 * 3600


@blueprint.post("/s/<slug>/shots")
def photo(slug: str) -> Response:
    """A photo of a step, before or after it, straight from the camera. Raises Faults."""
    step, moment, note = read(PHOTO, request.form).values()
    file = request.files.get("photo")
    if file is None or not file.filename:
        raise fault("photo", "there is none", "take one, or choose a file")
    whole = take_in(file.filename, file.read())
    little = small(whole)
    with database().writing() as session:
        row = scenes.find(session, slug)
        if len(step) > 80:
            raise fault("photo", "there is no such step", "reload the page")
        kept, thumb = (whole.content, whole.size), (little.content, little.size)
        photos.add(session, row, step, moment, kept, thumb, now(), note)
    return hx_redirect(safe_return_url())


@blueprint.post("/s/<slug>/shots/<int:number>/off")
def unphoto(slug: str, number: int) -> Response:
    """A photo is taken off. Raises Faults."""
    with database().writing() as session:
        photos.take_off(session, scenes.find(session, slug), number, now())
    return hx_redirect(safe_return_url())


@blueprint.get("/s/<slug>/shots/<digest>.webp")
def picture(slug: str, digest: str) -> Response:
    """A photo of this scene, or a small one of it."""
    with database().reading() as session:
        row = scenes.find(session, slug)
        shot = pictures.find(session, digest) if photos.shown(session, row, digest) else None
    if shot is None:
        abort(404)
    answer = make_response(shot.content)
    answer.headers["Content-Type"] = "image/webp"
    answer.headers["Cache-Control"] = f"private, max-age={A_YEAR}, immutable"
    return answer


@blueprint.post("/s/<slug>/left")
def left(slug: str) -> Response:
    """So much of what a step took was left, and goes back to the shelf. Raises Faults."""
    line, text = int(read_one(LINE, request.form)), request.form.get("left", "").strip()
    with database().writing() as session:
        row = scenes.find(session, slug)
        events = marks.laid(marks.events(session, row))
        taken = [(event, one) for event in events for one in shelf.taken_by(session, event) if one.line.id == line]
        if not taken:
            raise fault("left over", "nothing of that was taken for this step", "reload the page")
        event, one = taken[0]
        try:
            amount = parse_amount(text, one.label, one.pack.part, g.measures)
        except NotAMeasure as problem:
            raise fault("left over", problem.what, problem.right) from None
        shelf.left_over(session, event, line, amount, now())
    return hx_redirect(safe_return_url())


@blueprint.post("/s/<slug>/caution")
def caution(slug: str) -> Response:
    """Cautions were read, about a batch or a step."""
    about = request.form.get("about", "")[:120]
    with database().writing() as session:
        cautions.mark_read(session, scenes.find(session, slug), about, request.form.getlist("code")[:20], now())
    return hx_redirect(safe_return_url())
