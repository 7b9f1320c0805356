"""The Clock: the strata through time, what to do next, what would buy time, and the settings behind it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta, tzinfo
from typing import Any
from urllib.parse import parse_qs, urlsplit

from flask import Blueprint, g, render_template, request, url_for
from werkzeug.wrappers import Response

from ...core.built.ratio import worst
from ...core.fault import fault
from ...core.hours import parse_hours
from ...core.plan import Step
from ...core.plan.cautions import told_once
from ...core.plan.consequences import BUILT_CODES
from ...core.schedule import Schedule, Timed
from ...core.schedule.forecast import NextStep, named, now_in
from ...core.units import duration, show
from ...store import clock as clocks
from ...store import marks as marks_of
from ...store import scenes, settings
from ..draw.path import line_d
from ..shared.answers import hx_redirect
from ..shared.fields import Field, parse_moment, read, read_one
from ..shared.scenes import OpenScene, database, now, open_scene
from .asking import Clock, Pin, ask, ask_if_stale, clock_of, key_of, next_move, refusal, solver
from .strata import Axis, Strata, layout_lanes

blueprint = Blueprint("clock", __name__)
ZOOMS = (("all", 0), ("a week", 7), ("3 days", 3), ("a day", 1))
DAYS = Field("days", "days", "whole", start=0)
MINUTES = Field("minutes", "minutes that I have", "whole", optional=True, low=1, high=960)
WANTED = (
    Field("hours", "bench hours"),
    Field("deadline", "the date it is wanted", "moment", optional=True),
    Field("buffer_h", "hours to spare", "number", optional=True, low=0, high=1000),
)
DATE = Field("date", "date", "moment", optional=True)


@dataclass(frozen=True)
class Row:
    """A step on a list: its times, its step in the plan, the scene it is of."""

    timed: Timed
    step: Step
    scene: str
    slug: str
    held: int = 0  # marks that it has

    @property
    def start(self) -> datetime:
        """When it begins, in the zone of the clock on the wall."""
        return datetime.fromisoformat(self.timed.start)

    @property
    def end(self) -> datetime:
        """When it ends."""
        return datetime.fromisoformat(self.timed.end)

    @property
    def ready(self) -> datetime:
        """When its wait is over."""
        return datetime.fromisoformat(self.timed.ready)

    @property
    def latest(self) -> datetime | None:
        """How late it may start with the finish kept."""
        return None if self.timed.latest is None else datetime.fromisoformat(self.timed.latest)

    @property
    def window_to(self) -> datetime | None:
        """When its window closes."""
        return None if self.timed.window_to is None else datetime.fromisoformat(self.timed.window_to)


@dataclass(frozen=True)
class Page:
    """A scene with its clock, and the rows of its schedule in the order of their times."""

    opened: OpenScene
    clock: Clock
    rows: list[Row]

    @property
    def made(self) -> Schedule | None:
        """The newest schedule."""
        return self.clock.made

    def row(self, step: str) -> Row | None:
        """The row of a step of this scene."""
        return next((one for one in self.rows if one.step.id == step and one.slug == self.opened.slug), None)

    @property
    def finish(self) -> datetime | None:
        """When all of this scene is ready."""
        ends = [one.ready for one in self.rows if one.slug == self.opened.slug and one.timed.state != "skipped"]
        return max(ends, default=None) if self.made is not None and self.made.finish else None

    @property
    def planned(self) -> list[Row]:
        """What is still to be done."""
        marks = self.clock.asked.marks
        gone = {*marks.done, *marks.skipped}
        return [one for one in self.rows if one.timed.state in ("planned", "begun") and one.timed.id not in gone]


def page_of(slug: str) -> Page:
    """Everything that the clock's pages show of a scene. Raises NoSuchScene, Faults."""
    opened = open_scene(slug)
    scene_clock = clock_of(slug)
    others = {one: opened if one == slug else open_scene(one) for one in scene_clock.question.scenes}
    steps = {one: {step.id: step for step in other.plan.steps} for one, other in others.items()}
    with database().reading() as session:
        marked = {one: marks_of.holding(marks_of.events(session, scenes.find(session, one))) for one in others}
    rows = []
    for timed in scene_clock.made.steps if scene_clock.made else ():
        whose = timed.scene or slug
        if timed.step in steps.get(whose, {}):
            held = len(marked[whose].get(timed.step, ()))
            rows.append(Row(timed, steps[whose][timed.step], others[whose].scene.name, whose, held))
    return Page(opened, scene_clock, sorted(rows, key=lambda row: (row.start, row.end)))


@blueprint.get("/s/<slug>/clock")
def page(slug: str) -> str:
    """The strata and the reading."""
    clock_page = page_of(slug)
    busy = next_move(clock_page.clock)
    minutes = _minutes_now(clock_page)
    free = _free(clock_page, minutes)
    step = request.args.get("step", "")
    chosen = clock_page.row(step)
    with database().reading() as session:
        row = scenes.find(session, slug)
        history = clocks.forecasts(session, row)
    return render_template(
        "clock/page.html",
        opened=clock_page.opened,
        clock=clock_page.clock,
        page=clock_page,
        busy=busy,
        strata=_strata(clock_page),
        zooms=ZOOMS,
        zoom=_zoom(),
        chosen=chosen,
        gone=step if chosen is None and not busy else "",
        cautions=clock_page.opened.plan.cautions_of(chosen.step.id) if chosen else (),
        tonight=_tonight(clock_page),
        minutes=minutes,
        free=free,
        slacks=_slacks(clock_page),
        options=_options(clock_page.clock),
        chart=_chart(history, clock_page.clock.zone),
        told=[*clock_page.clock.broken, *_told(clock_page.opened)],
        refused=refusal(clock_page.clock.asking),
        all_scenes=_others(slug),
        place="clock.page",
    )


def _told(opened: OpenScene) -> list[str]:
    """What is to be said of what was built, against what is planned now."""
    said = [off.do for off in opened.plan.off or ()]
    for name, lift in opened.plan.lifts.items():
        said += [notice.text.rstrip(".") for notice in lift.warnings if notice.code in BUILT_CODES]
        work = opened.plan.works[name]
        for layer in work.there:
            off = worst(layer.entry)
            if off is not None:
                said.append(f"{layer.entry.do}: {off.expect}; {off.times:.2g} times its hours are waited. {off.save}")
        if work.state == "part" and lift.remains_ml is not None:
            said.append(
                f"{work.layers[-1].entry.do}: {opened.show(work.built_ml, 'ml')} lie there, "
                f"{opened.show(lift.remains_ml.number, 'ml')} are still to be laid"
            )
    return said


def _written() -> dict[str, str]:
    """What the address says, without what was left empty."""
    return {name: value for name, value in request.args.items() if value.strip()}


def _zoom() -> int:
    days = int(read_one(DAYS, _written()))
    if days not in {one for _, one in ZOOMS}:
        raise fault("days", f"{days} is no span that is drawn", f"one of {', '.join(str(one) for _, one in ZOOMS)}")
    return days


def _strata(clock_page: Page) -> Strata | None:
    schedule = clock_page.made
    if schedule is None or not clock_page.rows:
        return None
    scene_clock, days = clock_page.clock, _zoom()
    moment = now().astimezone(scene_clock.zone)
    midnight = moment.replace(hour=0, minute=0, second=0, microsecond=0)
    if days:
        at = request.args.get("from", "")
        begin = parse_moment(at, "from").astimezone(scene_clock.zone) if at else midnight
        end = begin + timedelta(days=days)
    else:
        starts = [row.start for row in clock_page.rows if row.timed.state not in ("skipped", "gate")]
        begin = min([midnight, *(max(one, midnight - timedelta(days=7)) for one in starts)])
        last = max([row.ready for row in clock_page.rows] + [midnight + timedelta(days=1)])
        end = min(last, begin + timedelta(days=120))
    begin = begin.replace(hour=0, minute=0, second=0, microsecond=0)
    measures = g.measures
    return layout_lanes(
        clock_page.opened.scene, clock_page.opened.plan, schedule, scene_clock.hours, Axis(begin, end), moment,
        scene_clock.wanted, clock_page.opened.slug, set(scene_clock.question.asked.pins),
        lambda temp: " ".join(show(temp, "degC", measures)),
    )  # fmt: skip


def _tonight(clock_page: Page) -> tuple[datetime, list[Row]] | None:
    """The next session: its day, and what is to be done in it."""
    planned = clock_page.planned
    if not planned:
        return None
    first = planned[0].start
    at = clock_page.clock.asked.minutes(first)
    ends = [to for begin, to in clock_page.clock.asked.sessions(60) if begin <= at < to]
    last = ends[0] if ends else at + 180
    return first, [row for row in planned if clock_page.clock.asked.minutes(row.start) < last]


def _minutes_now(clock_page: Page) -> int:
    """Minutes that the reader has, or what is left of the session under way, or an hour."""
    given = read_one(MINUTES, request.args)
    if given is not None:
        return int(given)
    under_way = [to for begin, to in clock_page.clock.asked.sessions(1) if begin == 0]
    return under_way[0] if under_way else 60


def _free(clock_page: Page, minutes: int) -> list[tuple[NextStep, Row]]:
    """What can be done in that time, of all that shares the hands."""
    if clock_page.made is None:
        return []
    steps = [named(row.slug, row.step) if clock_page.clock.many else row.step for row in clock_page.rows]
    rows = {row.timed.id: row for row in clock_page.rows}
    return [(one, rows[one.step]) for one in now_in(steps, clock_page.made, clock_page.clock.asked, minutes)]


def _slacks(clock_page: Page) -> list[tuple[str, int]]:
    """For each patch with work left, by how many minutes its tightest step may slip; the tightest patch first."""
    slacks = []
    for patch in clock_page.opened.scene.patches:
        lifts = {lift.id for lift in patch.lifts}
        mine = [
            one.timed.slack_min
            for one in clock_page.planned
            if one.slug == clock_page.opened.slug and one.step.lift in lifts and one.timed.state == "planned"
        ]
        if mine:
            slacks.append((patch.name, min(mine)))
    return sorted(slacks, key=lambda one: one[1])


def _options(scene_clock: Clock) -> list[dict[str, Any]]:
    """What would buy time: as kept with the forecast, or as far as the solver is."""
    asking = scene_clock.asking
    if asking is not None and asking.made is not None and asking.options:
        return asking.options
    return list(scene_clock.forecast.options) if scene_clock.forecast is not None else []


@dataclass(frozen=True)
class Chart:
    """How the forecast of the finish moved: points (x, y, words), lines by day (y, name), the path."""

    points: list[tuple[float, float, str]]
    lines: list[tuple[float, str]]
    d: str


def _chart(history: list[Any], zone: tzinfo) -> Chart | None:
    known = [(one.at, datetime.fromisoformat(one.made["finish"]), one.cause) for one in history if one.made["finish"]]
    ends = [finish for _, finish, _ in known]
    if len(set(ends)) < 2:  # it never moved
        return None
    first, last = known[0][0], known[-1][0]
    low, high = min(ends), max(ends)
    spread = max((high - low).total_seconds(), 3600.0)
    wide = max((last - first).total_seconds(), 1.0)
    points = [
        (
            8 + 384 * (at - first).total_seconds() / wide,
            70 - 60 * (finish - low).total_seconds() / spread,
            f"{at.astimezone(zone):%a %d %b %H:%M}: {finish:%a %d %b %H:%M} ({cause})",
        )
        for at, finish, cause in known
    ]
    steps: list[tuple[float, float]] = []
    for x, y, _ in points:  # level until the next forecast, then at once
        if steps:
            steps.append((x, steps[-1][1]))
        steps.append((x, y))
    d = line_d(steps)
    top = 70 - 60 * (high - low).total_seconds() / spread
    lines = [(70.0, f"{low:%a %d %b %H:%M}"), (top, f"{high:%a %d %b %H:%M}")]
    return Chart(points, lines, d)


def _others(slug: str) -> list[tuple[str, str]]:
    with database().reading() as session:
        return [one for one in scenes.named(session) if one[0] != slug]


@blueprint.get("/s/<slug>/clock/solving")
def solving(slug: str) -> Response | str:
    """How far the solver is; the page anew once it is done, or other times hold than those `shown`."""
    asking = solver().of(key_of(slug))
    if asking is None or not asking.solving:
        return back(slug)
    scene_clock = clock_of(slug)
    if scene_clock.shown != request.args.get("shown", scene_clock.shown):
        return back(slug)
    best = bound = None
    if asking.best is not None and asking.bound is not None:
        best, bound = (scene_clock.asked.moment(one) for one in (asking.best, asking.bound))
    return render_template("clock/_solving.html", slug=slug, shown=scene_clock.shown, best=best, bound=bound)


@blueprint.get("/s/<slug>/clock/bought")
def bought(slug: str) -> str:
    """What would buy time, as far as it is found out."""
    found = clock_of(slug)
    more = found.asking is not None and found.asking.made is not None and not found.asking.over
    return render_template("clock/_options.html", slug=slug, options=_options(found), more=more, opened=None)


def back(slug: str, **more: Any) -> Response:
    """On to the page that was looked at: the clock with its days and its step, or the list for the phone."""
    came = urlsplit(request.headers.get("HX-Current-URL", ""))
    if came.path == url_for("clock.listed", slug=slug):
        return hx_redirect(came.path)
    kept = parse_qs(came.query)
    known: dict[str, Any] = {name: kept[name][0] for name in ("days", "from", "step", "minutes") if name in kept}
    return hx_redirect(url_for("clock.page", slug=slug, **{**known, **more}))


@blueprint.post("/s/<slug>/clock/look")
def look(slug: str) -> Response | str:
    """Put the question of a page that found its schedule out of date; the page follows how far the solver is."""
    scene_clock = clock_of(slug)
    ask_if_stale(scene_clock)
    if "HX-Request" not in request.headers:
        return back(slug)
    return render_template("clock/_solving.html", slug=slug, shown=scene_clock.shown, best=None)


@blueprint.post("/s/<slug>/clock/cancel")
def cancel(slug: str) -> Response:
    """Stop searching; the last schedule stands."""
    solver().cancel(key_of(slug))
    return back(slug)


@blueprint.post("/s/<slug>/clock/ask")
def ask_again(slug: str) -> Response:
    """Search again, from now on."""
    ask(clock_of(slug), "asked again")
    return back(slug)


@blueprint.post("/s/<slug>/clock/hours")
def hours(slug: str) -> Response:
    """Bench hours, the date it is wanted with hours to spare, and which scenes share the hands."""
    text, deadline, spare = read(WANTED, request.form).values()
    parse_hours(text)
    scene_clock = clock_of(slug)
    together = [one for one in request.form.getlist("together") if one != slug]
    with database().writing() as session:
        known = {row.slug for row in scenes.all_scenes(session)}
        shared = [slug, *(one for one in together if one in known)]
        joint = shared if len(shared) > 1 else _without(scene_clock.together, slug)
        settings.change(session, hours=" ".join(text.split()), together=joint)
        row = scenes.find(session, slug)
        kept = clocks.asked_of(session, row)
        clocks.ask(session, row, kept.model_copy(update={"deadline": deadline, "buffer_h": spare or 0.0}))
    ask(clock_of(slug), "hours or date changed")
    return back(slug)


def _without(together: list[str], slug: str) -> list[str]:
    left = [one for one in together if one != slug]
    return left if len(left) > 1 else []


@blueprint.post("/s/<slug>/clock/pin")
def pin(slug: str) -> Response:
    """A step is dropped at a moment; or let go again. The rest follows, or it stays with the reason. Raises Faults."""
    clock_page = page_of(slug)
    step = request.form.get("step", "")
    row = clock_page.row(step)
    if row is None:
        raise fault("step", f"the schedule has no step '{step}'", "reload the page; the plan may have changed")
    if row.timed.state != "planned":
        raise fault("step", f"“{row.step.do}” is {row.timed.state} already", "what is done or begun stays where it is")
    text = request.form.get("at", "").strip()
    if not text:
        ask(clock_page.clock, f"let go: {row.step.do}", Pin(step, None))
        return back(slug, step=step)
    at = parse_moment(text, "time")
    if at < clock_page.clock.asked.start:
        raise fault("time", f"{at:%a %d %b %H:%M} is over", "drop it to the right of the red line")
    ask(clock_page.clock, f"moved: {row.step.do}", Pin(step, at))
    return back(slug, step=step)


@blueprint.get("/s/<slug>/clock/day")
def day(slug: str) -> str:
    """The sheet for one day, to print."""
    clock_page = page_of(slug)
    planned = clock_page.planned
    first = planned[0].start if planned else now().astimezone(clock_page.clock.zone)
    date = (read_one(DATE, request.args) or first).date()
    rows = [row for row in clock_page.rows if row.start.date() == date and row.timed.state in ("planned", "begun")]
    due = [row for row in clock_page.rows if row.ready.date() == date and row.ready > row.end and row.step.wait_h]
    return render_template(
        "clock/day.html",
        opened=clock_page.opened,
        date=date,
        rows=rows,
        due=due,
        batches=_batches(clock_page, rows),
        cautions=told_once((row.timed.id, _cautions(clock_page, row)) for row in rows),
        before=date - timedelta(days=1),
        after=date + timedelta(days=1),
        place="clock.page",
    )


def _batches(clock_page: Page, rows: list[Row]) -> dict[str, list[Any]]:
    """What is mixed for each step of this scene."""
    by_step: dict[str, list[Any]] = {}
    for row in rows:
        if row.slug == clock_page.opened.slug:
            by_step[row.timed.id] = [
                batch
                for batch in clock_page.opened.plan.batches
                if any(
                    feed.into in (row.step.lift, row.step.form) and feed.layer == row.step.course
                    for feed in batch.feeds
                )
            ]
    return by_step


def _cautions(here: Page, row: Row) -> tuple[Any, ...]:
    opened = here.opened if row.slug == here.opened.slug else open_scene(row.slug)
    return opened.plan.cautions_of(row.step.id)


@blueprint.get("/s/<slug>/clock/list")
def listed(slug: str) -> str:
    """Now and next, for a phone."""
    clock_page = page_of(slug)
    busy = next_move(clock_page.clock)
    moment = now()
    wet = [
        row
        for row in clock_page.rows
        if row.timed.state in ("done", "begun") and row.ready > moment and row.step.wait_h and row.timed.id
    ]
    return render_template(
        "clock/list.html",
        opened=clock_page.opened,
        page=clock_page,
        busy=busy,
        rows=clock_page.planned[:12],
        left=sum(1 for step in clock_page.opened.plan.steps if not step.built and not step.gate and not step.only_if),
        wet=sorted(wet, key=lambda row: row.ready),
        cautions={row.timed.id: _cautions(clock_page, row) for row in clock_page.planned[:1]},
        place="clock.page",
    )


def spoken(minutes: float) -> str:
    """Minutes as people say them."""
    return " ".join(duration(minutes / 60))
