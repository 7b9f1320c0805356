"""Looking ahead: the steps of scenes as they would be in the room that is forecast for when they run, scheduled
together for one pair of hands; what would buy time; what to do now."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from datetime import datetime, timedelta
from functools import partial
from math import ceil
from typing import Any

from ..alternatives import alternatives, with_families
from ..catalogue import Catalogue
from ..document import ResolvedScene
from ..document.scene import Lift
from ..fault import Faults
from ..hardening.climate import Climate
from ..hours import Span, daylight, parse_hours
from ..lifts.kinds import kind_of
from ..lifts.labels import Labels
from ..plan import Plan, Step, plan
from ..stages import cached_stage
from . import EFFORT, Marks, Schedule, ScheduleRequest, StepsAt, Stopped, first_times, schedule
from .solve import Stop, never

JOINT = "/"  # between a scene's slug and a step's id where several scenes are scheduled together


def _frozen(scene: ResolvedScene, base: Plan) -> ResolvedScene:
    """The scene with each lift laid as planned: in another room pours might be split into other lifts."""
    patches = tuple(
        patch.model_copy(
            update={"lifts": tuple(kind_of(lift).as_planned(lift, base.lifts[lift.id]) for lift in patch.lifts)}
        )
        for patch in scene.patches
    )
    return scene.model_copy(update={"patches": patches})


def steps_along(scene: ResolvedScene, stop: Stop = never) -> StepsAt:
    """The steps of a resolved scene as they would be if they ran from a given moment on. Raises Faults as `plan` does
    for the scene as it is, and Stopped once `stop` says so; where a later room makes a pour impossible, the steps stay
    as planned."""
    planned = plan(scene)
    rooms = (scene.room, *(place.room for place in scene.places))
    if not any(room.series for room in rooms):
        return lambda _: planned.steps
    frozen = _frozen(scene, planned)
    known: dict[tuple[Climate, ...], Sequence[Step]] = {}

    def at(moment: datetime) -> Sequence[Step]:
        key = tuple(Climate.of(room.since(moment)) for room in rooms)
        if key not in known:
            if stop():
                raise Stopped
            places = tuple(place.model_copy(update={"room": place.room.since(moment)}) for place in scene.places)
            then = frozen.model_copy(update={"room": scene.room.since(moment), "places": places})
            try:
                known[key] = plan(then).steps
            except Faults:
                known[key] = planned.steps
        return known[key]

    return at


def joined(slug: str, name: str) -> str:
    """What a step or a place of a scene is called where several scenes are scheduled together."""
    return f"{slug}{JOINT}{name}"


def named(slug: str, step: Step) -> Step:
    """A step of a scene as it is called where several are scheduled together."""
    return replace(
        step,
        id=joined(slug, step.id),
        after=tuple(joined(slug, one) for one in step.after),
        windows=tuple(
            replace(one, of=joined(slug, one.of), mends=one.mends and joined(slug, one.mends)) for one in step.windows
        ),
        place=step.place and joined(slug, step.place),
        scene=slug,
        local_id=step.own_id,
        bowl=tuple((joined(slug, one), minutes) for one, minutes in step.bowl),
    )


def together(parts: Mapping[str, StepsAt]) -> StepsAt:
    """The steps of several scenes as one list: their ids and places are joined to the scene's slug."""
    known: dict[tuple[int, ...], tuple[list[Sequence[Step]], list[Step]]] = {}  # by identity

    def at(moment: datetime) -> Sequence[Step]:
        each = [one(moment) for one in parts.values()]
        key = tuple(id(steps) for steps in each)
        if key not in known:
            known[key] = each, [named(slug, step) for slug, steps in zip(parts, each, strict=True) for step in steps]
        return known[key][1]

    return at


def _spans_of(hours: str | None, light: tuple[float, float] | None, start: datetime, days: int) -> list[Span]:
    """When one can work in a place: its hours, or by daylight, or both."""
    spans = parse_hours(hours).sessions(start, days) if hours else [(0, (days + 1) * 1440)]
    if light is None:
        return spans
    lit = daylight(*light, start, days)
    found = ((max(a, c), min(b, d)) for a, b in spans for c, d in lit)
    return sorted(span for span in found if span[1] > span[0])


def with_things(asked: ScheduleRequest, scenes: Mapping[str, ResolvedScene]) -> ScheduleRequest:
    """What is asked, with the places, cups, set-up and clean-up of these resolved scenes."""
    places = {
        joined(slug, place.id) if len(scenes) > 1 else place.id: partial(_spans_of, place.hours, place.daylight)
        for slug, scene in scenes.items()
        for place in scene.places
        if place.hours or place.daylight
    }
    benches = [scene.bench for scene in scenes.values() if scene.bench]
    cups = [bench.cups for bench in benches if bench.cups]
    return replace(
        _with_built(asked, scenes),
        places=places,
        cups=min(cups) if cups else None,
        setup_min=max((bench.setup_min for bench in benches), default=0.0),
        cleanup_min=max((bench.cleanup_min for bench in benches), default=0.0),
    )


def _with_built(asked: ScheduleRequest, scenes: Mapping[str, ResolvedScene]) -> ScheduleRequest:
    """What is asked, with what was built marked as done; what was marked besides wins."""
    done: dict[str, datetime] = {}
    started: dict[str, datetime] = {}
    for slug, scene in scenes.items():
        for entry in scene.built:
            name = joined(slug, entry.step) if len(scenes) > 1 else entry.step
            done[name] = entry.ended
            if entry.begun is not None:
                started[name] = entry.begun
    if not done:
        return asked
    marks = asked.marks
    known = replace(marks, done={**done, **marks.done}, started={**started, **marks.started})
    return replace(asked, marks=known)


def steps_of(scenes: Mapping[str, ResolvedScene], stop: Stop = never) -> StepsAt:
    """The steps of one scene under their own ids, of several under the scenes' slugs. Raises Faults, Stopped."""
    parts = {slug: steps_along(scene, stop) for slug, scene in scenes.items()}
    return next(iter(parts.values())) if len(parts) == 1 else together(parts)


def scheduled(scenes: Mapping[str, ResolvedScene], asked: ScheduleRequest, effort: float = EFFORT) -> Schedule:
    """One or several resolved scenes, by slug, for one pair of hands. Raises Faults as `plan` does."""
    return schedule(steps_of(scenes), with_things(asked, scenes), effort)


Marked = tuple[tuple[str, tuple[tuple[str, datetime], ...]], ...]  # kinds of marks, each (step, moment)


@cached_stage
def by_rule(scene: ResolvedScene, hours: str, start: datetime, marked: Marked = ()) -> Schedule | None:
    """Times of a scene by the next-ready rule, in a blink; None where it finds none. Raises Faults for hours that are
    none, and as `plan` does."""
    held = Marks(**{kind: dict(found) for kind, found in marked})
    asked = with_things(ScheduleRequest(start, parse_hours(hours), marks=held), {"": scene})
    return first_times(steps_of({"": scene}), asked)


@dataclass(frozen=True, slots=True)
class Option:
    """One change and what it would buy: the finish then, hours gained (negative: lost), or why it cannot be done."""

    name: str
    finish: str | None
    gained_h: float | None
    note: str = ""


def _warmer(scene: ResolvedScene, degrees: float) -> ResolvedScene:
    def heated(room: Any) -> Any:
        series = tuple(one.model_copy(update={"temp_c": one.temp_c + degrees}) for one in room.series)
        return room.model_copy(update={"temp_c": room.temp_c + degrees, "series": series})

    places = tuple(one.model_copy(update={"room": heated(one.room)}) for one in scene.places)
    return scene.model_copy(update={"room": heated(scene.room), "places": places})


def _fanned(scene: ResolvedScene) -> ResolvedScene:
    fan = {"air": "fan"}
    places = tuple(one.model_copy(update={"room": one.room.model_copy(update=fan)}) for one in scene.places)
    return scene.model_copy(update={"room": scene.room.model_copy(update=fan), "places": places})


def _deciding(timetable: Schedule, slug: str) -> list[str]:
    """Lifts of a scene (empty: of the only one) that decide the finish, the longest wait first."""
    waits: dict[str, float] = {}
    for step in timetable.steps:
        if step.decides and step.lift and step.state == "planned" and step.scene == slug:
            wait = (datetime.fromisoformat(step.ready) - datetime.fromisoformat(step.end)).total_seconds()
            waits[step.lift] = waits.get(step.lift, 0.0) + wait
    return sorted(waits, key=lambda lift: -waits[lift])


def _replaced(scene: ResolvedScene, lift: Lift, name: str) -> ResolvedScene:
    patches = tuple(
        patch.model_copy(update={"lifts": tuple(lift if one.id == name else one for one in patch.lifts)})
        for patch in scene.patches
    )
    return scene.model_copy(update={"patches": patches})


def _quicker(scene: ResolvedScene, lift_id: str, catalogue: Catalogue) -> list[tuple[str, ResolvedScene]]:
    """A lift that decides laid thinner, and done by the way that is over soonest of those that have nothing to be
    warned of: words, and the scene with it."""
    lift = scene.lift(lift_id)
    kind, made = kind_of(lift), plan(scene).lifts[lift_id]
    changes = [(words, _replaced(scene, thinner, lift_id)) for words, thinner in kind.quicker(lift, made)]
    ways = alternatives(scene, lift_id, catalogue) if kind.SOONEST else {}
    whole = with_families(scene, catalogue, kind.ALTERNATIVE_FAMILIES)
    labels = Labels.of(whole)
    hours = {
        name: one.hours(kind.SOONEST)
        for name, one in ways.items()
        if not one.notes and kind.may_replace(lift, name, labels)
    }
    known = {name: hour for name, hour in hours.items() if hour is not None and name != kind.chosen(lift)}
    if known:
        best = min(known, key=lambda name: known[name])
        changed = _replaced(whole, kind.adopt(lift, best), lift_id)
        changes.append((f"{lift.title} in {ways[best].name.lower()}", changed))
    return changes


def options(
    scenes: Mapping[str, ResolvedScene],
    asked: ScheduleRequest,
    timetable: Schedule,
    catalogue: Catalogue,
    steps: StepsAt | None = None,
    effort: float = 4.0,
    stop: Stop = never,
) -> Iterator[Option]:
    """What would buy time, one change after the other, each scheduled anew: three degrees, a fan, the deciding lift
    thinner or by another school, one more evening. Nothing is guessed. Steps that were done stay done. `steps` are
    those of the scenes as they are, if known. Raises Stopped once `stop` says so."""
    if timetable.finish is None:
        return
    finish, same = datetime.fromisoformat(timetable.finish), steps or steps_of(scenes, stop)

    def tried(name: str, changed: Mapping[str, ResolvedScene], how: ScheduleRequest) -> Option:
        try:
            if stop():
                raise Stopped
            those = same if changed is scenes else steps_of(changed, stop)
            after = schedule(those, with_things(how, changed), effort, stop=stop)
        except Faults as refused:
            return Option(name, None, None, refused.faults[0].what.capitalize())
        if after.finish is None:
            return Option(name, None, None, (after.why or ("it cannot be kept",))[0])
        gained = (finish - datetime.fromisoformat(after.finish)).total_seconds() / 3600
        return Option(
            name,
            after.finish,
            round(gained, 2),
            "" if after.status != "feasible" else "at least",
        )

    def warned(changed: ResolvedScene, scene: ResolvedScene, lift: str) -> str:
        """What the change would bring on, beyond what is warned of now."""
        known = {notice.code for notice in plan(scene).lifts[lift].warnings}
        return " ".join(notice.text for notice in plan(changed).lifts[lift].warnings if notice.code not in known)

    free = replace(asked, deadline=None)
    yield tried("3 °C warmer", {slug: _warmer(scene, 3.0) for slug, scene in scenes.items()}, free)
    if any(scene.room.air != "fan" for scene in scenes.values()):
        yield tried("a fan", {slug: _fanned(scene) for slug, scene in scenes.items()}, free)
    for slug, scene in scenes.items():
        for lift in _deciding(timetable, slug if len(scenes) > 1 else "")[:2]:
            for name, changed in _quicker(scene, lift, catalogue):
                option = tried(name, {**scenes, slug: changed}, free)
                yield option if option.finish is None else replace(option, note=warned(changed, scene, lift))
    best: Option | None = None
    for begin, to in _free_evenings(asked, finish):
        choice = tried(
            f"an hour more on {begin:%a %d %b}, from {begin:%H:%M}", scenes, replace(free, extra=((begin, to),))
        )
        if choice.gained_h is not None and (best is None or choice.gained_h > (best.gained_h or 0.0)):
            best = choice
    if best is not None:
        yield best


def _free_evenings(asked: ScheduleRequest, finish: datetime, most: int = 7) -> list[tuple[datetime, datetime]]:
    """An hour on each of the days to come: right after that day's last session, or at seven where there is none."""
    evenings: list[tuple[datetime, datetime]] = []
    day = asked.start.date()
    while len(evenings) < most and day <= finish.date():
        spans = asked.hours.of_day(day)
        minute = spans[-1][1] if spans else 19 * 60
        if minute + 60 <= 23 * 60:
            begin = datetime(day.year, day.month, day.day, minute // 60, minute % 60, tzinfo=asked.start.tzinfo)
            if begin > asked.start and not asked.hours.is_quiet(begin):
                evenings.append((begin, begin + timedelta(hours=1)))
        day += timedelta(days=1)
    return evenings


@dataclass(frozen=True, slots=True)
class NextStep:
    """A step that can be done in the minutes there are, and when it would begin, minutes from now."""

    step: str
    after_min: int


def now_in(steps: Sequence[Step], timetable: Schedule, asked: ScheduleRequest, minutes: int) -> list[NextStep]:
    """What to do now, given so many minutes and what is dry: of the steps that nothing holds up, that with the least
    slack first, as long as they fit. What becomes free meanwhile counts."""
    timed = {one.id: one for one in timetable.steps}
    ready: dict[str, int] = {}
    ends: dict[str, int] = {}
    for planned in timetable.steps:
        if planned.state != "planned":
            ready[planned.id] = asked.minutes(datetime.fromisoformat(planned.ready))
            ends[planned.id] = asked.minutes(datetime.fromisoformat(planned.end))
    fitting: list[NextStep] = []
    at = 0
    while True:
        able = []
        for step in steps:
            if step.id in ready or step.id not in timed or step.gate:
                continue
            least = [at, *(ready.get(one, minutes + 1) for one in step.after)]
            most = minutes
            for window in step.windows:
                if window.of not in ends:
                    least.append(minutes + 1)
                    continue
                least.append(ends[window.of] + round(window.from_h * 60))
                if window.to_h is not None and not window.mends:
                    most = min(most, ends[window.of] + round(window.to_h * 60))
            takes = max(1, ceil(step.hands_on_min))
            if max(least) <= most and max(least) + takes <= minutes:
                able.append((max(least), timed[step.id].slack_min, step.id, takes, step.wait_h or 0.0))
        if not able:
            return fitting
        soonest = min(one[0] for one in able)
        begin, _, name, takes, wait = min((one for one in able if one[0] == soonest), key=lambda one: one[1])
        fitting.append(NextStep(name, begin))
        at = begin + takes
        ends[name] = at
        ready[name] = at + round(wait * 60)
