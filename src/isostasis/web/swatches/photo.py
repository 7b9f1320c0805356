"""The photo of a scrap, dry and wet: taken in, its boxes drawn, colours read off beside the card; or set by eye."""

from __future__ import annotations

import numpy as np
from flask import render_template, request, url_for
from werkzeug.wrappers import Response

from ...core.colour.light import is_colour
from ...core.fault import fault
from ...core.swatches.colour import GREY_CARD, Box, Read, read_off
from ...exchange.picture import opened, take_in
from ...store import labels, pictures, shelf, swatches
from ...store.swatch_tables import ScrapPhotoRow
from ...store.swatches import MOMENTS, Trial
from ..shared.answers import hx_redirect
from ..shared.scenes import database, now
from .drawing import box_of, card_of
from .views import blueprint

# What may lie in the photo as the known colour, as hex: it reflects so much by its maker's word, or by convention.
CARDS = ((GREY_CARD, "a grey card (18 %)"), ("#f4f4f2", "white paper"), ("#ffffff", "a white card"))


def _moment(text: str) -> str:
    if text not in MOMENTS:
        raise fault("photo", f"a scrap is not “{text[:20]}”", "dry or wet")
    return text


def _cards() -> list[tuple[str, str]]:
    """What may lie in the photo as the known colour: a card, paper, or a dried dab of a paint on the shelf."""
    with database().reading() as session:
        known = labels.catalogue(session).materials
        there = {one.row.material for one in shelf.stocked(session)}
    paints = sorted((one.name, one.colour) for one in known.values() if one.family == "colour" and one.id in there)
    return [*CARDS, *((colour, f"a dry dab of {name.lower()}") for name, colour in paints)]


@blueprint.get("/swatches/<int:number>/photo")
def photo(number: int) -> str:
    """The photo with its boxes; what was read off it. Raises Faults."""
    moment = _moment(request.args.get("moment", "dry"))
    with database().reading() as session:
        trial = swatches.find(session, number)
        row = trial.photos.get(moment)
        picture = pictures.find(session, row.digest) if row else None
    boxes = row.boxes if row else {}
    return render_template(
        "swatches/photo.html",
        trial=trial,
        which=moment,
        moments=MOMENTS,
        picture=picture,
        boxes=[("card", "card", card_of(boxes))]
        + [(str(one.place), str(one.place), box_of(boxes, one.place, len(trial.lanes))) for one in trial.lanes],
        cards=_cards(),
        place="swatches",
    )


@blueprint.post("/swatches/<int:number>/photo")
def take(number: int) -> Response:
    """A photo, dry or wet. Raises Faults."""
    moment = _moment(request.form.get("moment", ""))
    file = request.files.get("photo")
    if file is None or not file.filename:
        raise fault("photo", "there is none", "take one, or choose a file")
    made = take_in(file.filename, file.read())
    with database().writing() as session:
        swatches.take_photo(session, swatches.find(session, number), moment, (made.content, made.size), now())
    return hx_redirect(url_for("swatches.photo", number=number, moment=moment))


def _box(name: str) -> Box:
    """A box as it was sent: four shares of the photo. Raises Faults."""
    parts = request.form.get(f"box-{name}", "").split()
    try:
        west, north, width, height = (float(one) for one in parts)
    except ValueError:
        raise fault(f"box {name}", "it is no box", "four shares of the photo: west, north, width, height") from None
    if not all(0 <= one <= 1 for one in (west, north, width, height)):
        raise fault(f"box {name}", "it lies outside of the photo", "four shares from 0 to 1")
    return west, north, width, height


def _read(trial: Trial, row: ScrapPhotoRow, content: bytes, known: str) -> dict[int, Read]:
    image = np.asarray(opened(content).convert("RGB"), dtype=float) / 255
    card = _box("card")
    return {one.place: read_off(image, _box(str(one.place)), card, known, one.name) for one in trial.lanes}


@blueprint.post("/swatches/<int:number>/colours")
def colours(number: int) -> Response:
    """Colours of the lanes: read off the photo, or as they are chosen by eye. Raises Faults, with nothing kept."""
    moment, how = _moment(request.form.get("moment", "")), request.form.get("how", "")
    known = request.form.get("known", GREY_CARD).lower()
    words = dict(_cards()).get(known, f"a card of {known}")
    with database().writing() as session:
        trial = swatches.find(session, number)
        if how == "photo":
            row = trial.photos.get(moment)
            picture = pictures.find(session, row.digest) if row else None
            if row is None or picture is None:
                raise fault("photo", f"there is none of it {moment}", "take one first")
            if not is_colour(known):
                raise fault("card", f"“{known[:12]}” is no colour", "choose one of the list, or a colour")
            found = _read(trial, row, picture.content, known)
            row.boxes = {"card": list(_box("card")), **{str(place): list(_box(str(place))) for place in found}}
            for place, one in found.items():
                said = f"read off a photo beside {words}" + (f"; doubtful: {one.doubt}" if one.doubt else "")
                swatches.set_colours(trial, moment, {place: one.colour}, said)
        elif how == "eye":
            sent = {one.place: request.form.get(f"colour-{one.place}", "") for one in trial.lanes
                    if request.form.get(f"known-{one.place}")}  # fmt: skip
            swatches.set_colours(trial, moment, sent, "set by eye")
        else:
            raise fault("how", f"“{how[:20]}” is no way to find a colour", "photo or eye")
    return hx_redirect(url_for("swatches.photo", number=number, moment=moment))
