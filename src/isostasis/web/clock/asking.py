"""Questions to the solver about scenes as they are now, and what becomes of the answers."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any
from zoneinfo import ZoneInfo

from flask import current_app
from sqlalchemy.orm import Session

from ...core.hours import BenchHours, parse_hours
from ...core.schedule import Marks, Schedule, ScheduleRequest
from ...core.schedule.forecast import joined
from ...core.schedule.requests import ClockRequest
from ...solver import Solver, SolverJob, Unwanted
from ...solver.question import SolverQuestion, question, request_of
from ...store import Database, clock, scenes, settings
from ...store import marks as marks_of
from ...store.tables import ForecastRow
from ..shared.scenes import database, now
from .shared_solver import SharedSolver

PIN = "pin"  # what a question is about, if a step was dropped


@dataclass(frozen=True)
class Pin:
    """A step that was dropped at a moment; None: let go again."""

    step: str
    at: datetime | None


@dataclass(frozen=True)
class Clock:
    """All that a page of the clock knows of a scene: the question as it would be put now, the newest forecast, what the
    solver is at."""

    slug: str
    question: SolverQuestion
    forecast: ForecastRow | None
    made: Schedule | None
    asking: SolverJob | None
    solving: bool  # before the rest was read: an answer that comes meanwhile may be missing in it
    token: str
    together: list[str]
    zone: ZoneInfo
    hours: BenchHours
    hours_text: str
    asked: ScheduleRequest
    wanted: datetime | None
    spare_h: float
    broken: tuple[str, ...]  # what was asked by an earlier version, and cannot be any more

    @property
    def many(self) -> bool:
        """Whether other scenes are scheduled with this one."""
        return len(self.question.scenes) > 1

    def id_of(self, step: str) -> str:
        """A step's id in the schedule."""
        return joined(self.slug, step) if self.many else step

    @property
    def shown(self) -> str:
        """Which forecast a page of it shows."""
        return str(self.forecast.id) if self.forecast else ""

    @property
    def stale(self) -> bool:
        """Whether what is asked has changed since the forecast, or a planned step should have begun by now."""
        if self.forecast is None or self.made is None:
            return True
        return self.forecast.question != self.question.digest or bool(self.missed)

    @property
    def missed(self) -> list[str]:
        """Ids of planned steps that should have begun by now, however late the answer came; of times that stand only
        because nothing better was found, those that passed since."""
        if self.made is None or self.forecast is None:
            return []
        marks = self.asked.marks
        gone = {*marks.started, *marks.done, *marks.skipped}
        return [
            one.id
            for one in self.made.steps
            if one.state == "planned"
            and one.id not in gone
            and datetime.fromisoformat(one.start) < self.asked.start
            and (self.made.status != "infeasible" or self.forecast.at <= datetime.fromisoformat(one.start))
        ]


def solver() -> Solver | SharedSolver:
    """The application's solver."""
    found: Solver | SharedSolver = current_app.extensions["solver"]
    return found


def key_of(slug: str) -> str:
    """Under what a scene's question is asked: a solver may serve several databases."""
    return f"{database().name}:{slug}"


def zone() -> ZoneInfo:
    """The zone that clocks on the wall go by."""
    found: ZoneInfo = current_app.extensions["zone"]
    return found


def clock_of(slug: str) -> Clock:
    """The clock of a scene. Raises NoSuchScene."""
    asking = solver().of(key_of(slug))
    solving = asking is not None and asking.solving
    with database().reading() as session:
        row = scenes.find(session, slug)
        together = [
            one for one in settings.read(session).together if any(r.slug == one for r in scenes.all_scenes(session))
        ]
        slugs = sorted(set(together)) if slug in together else [slug]
        documents: dict[str, dict[str, Any]] = {}
        marks: dict[str, Marks] = {}
        due: dict[str, datetime] = {}
        pins: dict[str, datetime] = {}
        many = len(slugs) > 1
        for neighbour in slugs:
            other = scenes.find(session, neighbour)
            documents[neighbour] = scenes.exported(session, other.head)
            marks[neighbour] = marks_of.marks(marks_of.events(session, other))
            kept = clock.asked_of(session, other)
            if many:
                pins |= {joined(neighbour, step): at for step, at in kept.pins.items()}
                if kept.deadline is not None:
                    due[neighbour] = kept.deadline - timedelta(hours=kept.buffer_h)
        own_question = clock.asked_of(session, row)
        asked = ClockRequest(pins=pins) if many else own_question
        hours = settings.read(session).hours
        forecast = clock.latest(session, row)
        token = clock.token_of(session, row)
        broken = tuple(str(one) for one in clock.faults(session, row))
    put = question(documents, hours, str(zone()), asked, marks, due)
    asked_now = request_of(put.begun(now()))
    kept_schedule = Schedule.of(forecast.made) if forecast else None
    wanted = own_question.deadline.astimezone(zone()) if own_question.deadline is not None else None
    return Clock(
        slug, put, forecast, kept_schedule, asking, solving, token, together, zone(),
        parse_hours(hours), hours, asked_now, wanted, own_question.buffer_h, broken,
    )  # fmt: skip


def ask(scene_clock: Clock, cause: str, pin: Pin | None = None) -> None:
    """Put the question; with a `pin` as if that step were there, which is kept only if a schedule comes of it."""
    app_database, clock_now = database(), current_app.extensions["now"]
    put = scene_clock.question.begun(clock_now())
    if pin is not None:
        put = put.pinned(scene_clock.id_of(pin.step), pin.at)
    kept: list[int] = []

    def answered(answer: dict[str, Any]) -> None:
        if pin is not None and pin.at is not None and answer["finish"] is None:
            return
        try:
            with app_database.writing() as session:
                kept.append(_keep(session, scene_clock, put, answer, cause, pin, clock_now()))
        except scenes.NoSuchScene:
            raise Unwanted("This scene was in the bin when its times were found; plan it again.") from None

    def bought(options: list[dict[str, Any]]) -> None:
        if kept:
            _options(app_database, kept[-1], options)

    solver().ask(key_of(scene_clock.slug), put, answered, bought, about=PIN if pin is not None else "")


def next_move(scene_clock: Clock) -> str:
    """What is to become of a scene's schedule: "busy" while the solver is at it, "ask" if what is asked has changed, ""
    if it stands. What was stopped, or went wrong, is not asked again by itself."""
    asking = scene_clock.asking
    if asking is not None and scene_clock.question.same(asking.question):
        if scene_clock.solving:
            return "busy"
        if asking.wrong or not scene_clock.missed:
            return ""
    if scene_clock.stale:
        return "ask"
    return "busy" if scene_clock.solving else ""


def ask_if_stale(scene_clock: Clock) -> None:
    """Put the question if what is asked has changed."""
    if next_move(scene_clock) == "ask":
        ask(scene_clock, _cause(scene_clock))


def _cause(scene_clock: Clock) -> str:
    if scene_clock.forecast is None:
        return "first look"
    return (
        "a step was not begun"
        if scene_clock.missed and scene_clock.forecast.question == scene_clock.question.digest
        else "changed"
    )


def _keep(
    session: Session,
    scene_clock: Clock,
    put: SolverQuestion,
    answer: dict[str, Any],
    cause: str,
    pin: Pin | None,
    at: datetime,
) -> int:
    """Keep a schedule, and the pin that it was found with."""
    row = scenes.find(session, scene_clock.slug)
    if pin is not None:
        clock.ask(session, row, clock.asked_of(session, row).pinned(pin.step, pin.at))
    if answer["finish"] is None and scene_clock.made is not None:
        # The last times stand; why nothing better was found is told.
        answer = {**scene_clock.made.kept(), "status": "infeasible", "why": answer["why"]}
    return clock.add_forecast(session, row, put.digest, cause, answer, at).id


def _options(app_database: Database, forecast: int, options: list[dict[str, Any]]) -> None:
    with app_database.writing() as session:
        row = session.get(ForecastRow, forecast)
        if row is not None:
            row.options = options


def refusal(asking: SolverJob | None) -> tuple[str, ...]:
    """Why a step could not go where it was dropped; empty if it could, or nothing was dropped."""
    if asking is None or asking.about != PIN or asking.made is None or asking.made["finish"] is not None:
        return ()
    return tuple(asking.made["why"] or ())
