"""A round of judging: the lanes in an order of chance, each by its number alone, everything that counts out of ten."""

from __future__ import annotations

from secrets import SystemRandom

from flask import render_template, request, url_for
from werkzeug.wrappers import Response

from ...core.fault import fault
from ...store import swatches
from ..shared.answers import hx_redirect
from ..shared.fields import Field, read_one
from ..shared.scenes import database, now
from .views import blueprint

NOTE = Field("note", "note", optional=True, most=500)


@blueprint.get("/swatches/<int:number>/judge")
def judge(number: int) -> str:
    """The lanes, shuffled anew each time. Raises Faults."""
    with database().reading() as session:
        trial = swatches.find(session, number)
    order = [one.place for one in trial.lanes]
    SystemRandom().shuffle(order)
    return render_template("swatches/judge.html", trial=trial, order=order, place="swatches")


@blueprint.post("/swatches/<int:number>/judge")
def judged(number: int) -> Response:
    """Keep a round. Raises Faults, with nothing kept."""
    order = [int(one) for one in request.form.getlist("order") if one.isdecimal()]
    with database().writing() as session:
        trial = swatches.find(session, number)
        scores: dict[int, dict[str, float]] = {}
        for lane in trial.lanes:
            scores[lane.place] = {}
            for at, name in enumerate(trial.scrap.weights):
                text = request.form.get(f"score-{lane.place}-{at}", "")
                if not text.strip():
                    raise fault(f"lane {lane.place}, {name}", "it was not judged", "0 the worst to 10 the best")
                field = Field("score", f"lane {lane.place}; {name}", "number", low=0, high=10)
                scores[lane.place][name] = read_one(field, {"score": text})
        swatches.judge(session, trial, order, scores, now(), read_one(NOTE, request.form) or "")
    return hx_redirect(url_for("swatches.page", number=number))
