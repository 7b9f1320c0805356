"""Calendars and tables: a file, a private address that calendars can subscribe to, CSV."""

from __future__ import annotations

from flask import Response as Answer
from flask import abort, current_app
from werkzeug.wrappers import Response

from ...exchange.calendar import Entry, alarms, as_calendar, as_csv
from ...store import clock as clocks
from ...store import scenes
from ..shared.scenes import database
from .views import Page, back, blueprint, page_of


def entries(clock_page: Page, all_steps: bool = False) -> list[Entry]:
    """The steps of a schedule for a calendar: what is still to be done, or all. No alarm rings in quiet hours."""
    listed = []
    for row in clock_page.rows if all_steps else clock_page.planned:
        cautions = clock_page.opened.plan.cautions_of(row.step.id) if row.slug == clock_page.opened.slug else ()
        rings = tuple(at for at in alarms(row.start, row.window_to) if not clock_page.clock.hours.is_quiet(at))
        zone = clock_page.clock.zone
        start, end, ready = (at.astimezone(zone) for at in (row.start, row.end, row.ready))
        closes = row.window_to.astimezone(zone) if row.window_to else None
        told = tuple(caution.text for caution in cautions)
        listed.append(
            Entry(row.slug, row.step.id, row.step.do, start, end, ready, closes, row.timed.state, told, rings)
        )
    return listed


def _calendar(clock_page: Page) -> bytes:
    forecast = clock_page.clock.forecast
    made = forecast.at if forecast else clock_page.clock.asked.start
    number = forecast.id if forecast else 0
    return as_calendar(clock_page.opened.scene.name, entries(clock_page), made, number, str(clock_page.clock.zone))


@blueprint.get("/s/<slug>/clock.ics")
def calendar(slug: str) -> Response:
    """The calendar as a file."""
    here = page_of(slug)
    return _sent(_calendar(here), "text/calendar", f"{slug}.ics")


@blueprint.get("/s/<slug>/clock.csv")
def table(slug: str) -> Response:
    """All steps with their times as CSV."""
    return _sent(as_csv(entries(page_of(slug), all_steps=True)).encode(), "text/csv", f"{slug}-clock.csv")


@blueprint.get("/calendar/<token>.ics")
def subscribed(token: str) -> Response:
    """The calendar at its private address."""
    with database().reading() as session:
        row = clocks.by_token(session, token)
        slug = None if row is None else row.slug
    if slug is None:
        abort(404)
    current_app.extensions["keeper"].fetched.add(slug)  # if it is out of date, it is new by the next time
    return _sent(_calendar(page_of(slug)), "text/calendar", None)


@blueprint.post("/s/<slug>/clock/address")
def address(slug: str) -> Response:
    """Another private address; the old one is gone."""
    with database().writing() as session:
        clocks.new_token(session, scenes.find(session, slug))
    return back(slug)


def _sent(data: bytes, kind: str, name: str | None) -> Response:
    answer = Answer(data, mimetype=kind)
    answer.headers["Cache-Control"] = "no-store"
    if name:
        answer.headers["Content-Disposition"] = f'attachment; filename="{name}"'
    return answer
