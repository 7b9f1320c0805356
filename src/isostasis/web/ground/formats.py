"""Files in and out of the ground."""

from __future__ import annotations

import io
import zipfile

from flask import Response, render_template, request, url_for
from werkzeug.wrappers import Response as BaseResponse

from ...core.document.edit import add
from ...core.fault import fault
from ...exchange import MAX_BYTES, survey_form
from ...exchange.drawing import STYLE, templates
from ...exchange.outgoing import FORMATS, one_file, written
from ..shared.scenes import edit, open_scene
from .reports import tool_page
from .views import blueprint, cut_of, form_of, stages_of


@blueprint.get("/s/<slug>/ground/files")
def files(slug: str) -> str:
    """What can be taken in and out."""
    opened = open_scene(slug)
    sheets = {form.id: len(templates(opened.scene, form)) for form in opened.scene.forms if not form.off}
    return tool_page(
        "files",
        "files",
        opened,
        formats=FORMATS,
        sheets=sheets,
        stages=stages_of(opened),
        at=request.args.get("at", "bare"),
    )


@blueprint.get("/s/<slug>/ground/files/<kind>")
def download(slug: str, kind: str) -> Response:
    """The ground in one format, or all of them in an archive. Raises Faults."""
    opened = open_scene(slug)
    stage, built = request.args.get("at", "bare"), opened.plan.built
    try:
        if kind == "all.zip":
            packed = io.BytesIO()
            with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as archive:
                for name, data in written(opened.scene, built, stage):
                    archive.writestr(name, data)
            response = Response(packed.getvalue(), mimetype="application/zip")
        else:
            mimetype = FORMATS[kind][1]
            response = Response(one_file(opened.scene, built, stage, kind, cut_of(opened)), mimetype=mimetype)
    except KeyError:
        raise fault("file", f"there is no {kind} of the stage '{stage}'", "choose one of the list") from None
    name = f"{slug}-{kind}" if "." in kind else f"{slug}.{kind}"
    response.headers["Content-Disposition"] = f'attachment; filename="{name}"'
    return response


@blueprint.get("/s/<slug>/ground/templates/<form_id>")
def print_templates(slug: str, form_id: str) -> str:
    """A form's cutting templates, one A4 page each, to print at 100 %. Raises Faults."""
    opened = open_scene(slug)
    form = form_of(opened, form_id)
    if form is None:
        raise fault("form", f"there is no form '{form_id}'", "reload the page")
    # The page's policy lets no style stand in it: print.css has the same rules.
    sheets = [(name, svg.replace(STYLE, "")) for name, svg in templates(opened.scene, form)]
    return render_template("ground/print.html", opened=opened, form=form, sheets=sheets)


@blueprint.post("/s/<slug>/ground/survey")
def import_survey(slug: str) -> BaseResponse:
    """Heights from a file as one more form; a picture brings its side file along. Raises Faults."""
    opened = open_scene(slug)
    sent = [one for one in request.files.getlist("file") if one.filename]
    if not sent:
        raise fault("file", "nothing was chosen", "choose an .asc, a .csv, or a .png with its .json")
    side = next((one for one in sent if str(one.filename).lower().endswith(".json")), None)
    heights = next((one for one in sent if one is not side), None)
    if heights is None:
        raise fault("file", "that is a side file alone", "choose the picture as well")
    text = side.read(100_000).decode("utf-8", "replace") if side else None
    form = survey_form(str(heights.filename), heights.read(MAX_BYTES + 1), text)
    name = opened.new_id("survey")
    return edit(
        slug,
        f"Heights from {heights.filename}",
        lambda scene: add(scene, "forms", {"id": name, **form}),
        url_for("ground.page", slug=slug, form=name),
    )
