"""Strata through time: each patch a lane in which its lifts are laid down, fade as they harden, and stay."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime, timedelta

from ...core.document.scene import Scene
from ...core.hours import BenchHours
from ...core.plan import Plan, Step
from ...core.schedule import Schedule, Timed
from ..layup.kinds import page_of_kind

WIDE, LEFT, TOP = 812.0, 112.0, 50.0
LANES = 580.0  # px for all lanes; one lane is at least and at most so high
LANE_LEAST, LANE_MOST = 50.0, 92.0
LOW = 46.0  # px a day below which a day is drawn wider than the page
NIGHT = (22 * 60, 7 * 60)
CHARACTER = 7.2  # px


@dataclass(frozen=True)
class Block:
    """A layer: laid from `x`, fading until `ready`, there to the end; `state` built, planned, or off where it must come
    off."""

    hatch: str
    tone: str
    x: float
    ready: float
    y: float
    high: float
    title: str
    state: str = "planned"


@dataclass(frozen=True)
class Post:
    """Hands on: a step at its time. `label` empty where there is no room for it; `gate`: the x at which its window
    closes; `label_y`: where the label stands over all that it passes."""

    step: str
    state: str
    x: float
    y: float
    high: float
    label: str
    title: str
    at: str
    gate: float | None = None
    pinned: bool = False
    label_y: float = 0.0


@dataclass
class Lane:
    """A patch, or what is done besides."""

    name: str
    base: float
    blocks: list[Block] = field(default_factory=list)
    posts: list[Post] = field(default_factory=list)


@dataclass(frozen=True)
class Strata:
    """The whole drawing, px: days (x, name, its room's degrees and humidity where they are not the day before's),
    columns of bench hours and night (x, width), lanes, now, the date it is wanted, the finish."""

    wide: float
    high: float
    days: list[tuple[float, str, str, str]]
    open_at: list[tuple[float, float]]
    nights: list[tuple[float, float]]
    lanes: list[Lane]
    now: float | None
    wanted: float | None
    finish: float | None
    start: datetime
    px_per_hour: float

    @property
    def crowded(self) -> bool:
        """Whether the names of days touch where words are drawn larger."""
        return self.px_per_hour * 24 < 72


@dataclass(frozen=True)
class Axis:
    """The days that are shown, whole ones from a midnight on, until `end`; where a moment lies in px."""

    begin: datetime
    end: datetime

    @property
    def days(self) -> int:
        """How many; one at least."""
        return max(1, int(-(-(self.end - self.begin).total_seconds() // 86_400)))

    @property
    def day_px(self) -> float:
        """As wide as they fit; never narrower than can be read."""
        return max(LOW, (WIDE - LEFT - 8) / self.days)

    def x(self, at: datetime) -> float:
        """Where a moment lies; what is beyond lies at the edge."""
        return LEFT + min(max((at - self.begin).total_seconds() / 86_400, 0.0), self.days) * self.day_px

    def shows(self, at: datetime) -> bool:
        """Whether it has a place of its own."""
        return self.begin <= at <= self.end

    def mark(self, at: datetime | None) -> float | None:
        """Where a moment lies that is shown; None for others."""
        return self.x(at) if at is not None and self.shows(at) else None

    def span(self, begin: datetime, end: datetime) -> tuple[float, float]:
        """(x, width) of a time."""
        return self.x(begin), self.x(end) - self.x(begin)


def layout_lanes(
    scene: Scene, plan: Plan, schedule: Schedule, hours: BenchHours, axis: Axis, moment: datetime,
    deadline: datetime | None, slug: str, pins: Collection[str], degrees: Callable[[float], str],
) -> Strata:  # fmt: skip
    """The strata of the scene `slug` along an axis; `pins` are ids of the schedule."""
    timed = {one.step: one for one in schedule.steps if one.scene in ("", slug)}
    others = [one for one in schedule.steps if one.scene not in ("", slug)]
    rows = _rows(scene, plan, timed)
    if others:
        rows.append(("Other scenes", []))
    each = min(LANE_MOST, max(LANE_LEAST, LANES / max(len(rows), 1)))
    filling = _Filling(plan, timed, axis, pins, each, {one.id: one.title for one in scene.forms})
    lanes = []
    for number, (name, steps) in enumerate(rows):
        lane = Lane(name, TOP + each * (number + 1) - 8)
        if name == "Other scenes":
            for step in others:
                if axis.shows(datetime.fromisoformat(step.start)):
                    lane.posts.append(_post(step, step.id, "", step.id, lane.base, 12.0, axis, False))
        else:
            filling.fill(lane, steps)
        lanes.append(lane)
    finish = None if schedule.finish is None else datetime.fromisoformat(schedule.finish)
    return Strata(
        LEFT + axis.day_px * axis.days + 8, TOP + each * len(lanes) + 26, _heads(scene, axis, degrees),
        [axis.span(a, b) for a, b in _spans(hours, axis.begin, axis.days)], _nights(axis), lanes,
        axis.mark(moment), axis.mark(deadline), axis.mark(finish), axis.begin, axis.day_px / 24,
    )  # fmt: skip


def _nights(axis: Axis) -> list[tuple[float, float]]:
    nights = []
    for number in range(-1, axis.days):
        day = axis.begin + timedelta(days=number)
        dusk, dawn = day + timedelta(minutes=NIGHT[0]), day + timedelta(days=1, minutes=NIGHT[1])
        if dawn > axis.begin:
            nights.append(axis.span(dusk, dawn))
    return nights


def _heads(scene: Scene, axis: Axis, degrees: Callable[[float], str]) -> list[tuple[float, str, str, str]]:
    """Each day's x, name, and its room where that is another than the day before's."""
    heads, before = [], ("", "")
    for number in range(axis.days):
        day = axis.begin + timedelta(days=number)
        room = _room(scene, day + timedelta(hours=12), degrees)
        heads.append((axis.x(day), f"{day:%a} {day.day}", *(room if room != before else ("", ""))))
        before = room
    return heads


def _spans(hours: BenchHours, begin: datetime, days: int) -> list[tuple[datetime, datetime]]:
    return [(begin + timedelta(minutes=a), begin + timedelta(minutes=b)) for a, b in hours.sessions(begin, days - 1)]


def _room(scene: Scene, noon: datetime, degrees: Callable[[float], str]) -> tuple[str, str]:
    """Degrees and humidity of a room, in words."""
    room = scene.room.since(noon)
    temp, rh = (room.series[0].temp_c, room.series[0].rh) if room.series else (room.temp_c, room.rh)
    return degrees(round(temp)), f"{rh * 100:.0f} %"


def _rows(scene: Scene, plan: Plan, timed: dict[str, Timed]) -> list[tuple[str, list[Step]]]:
    """Lanes from the top: forms, then patches in the order of the document, then what is put in and pulled."""
    there = [step for step in plan.steps if step.id in timed]
    rows = [("Forms", [step for step in there if step.form])]
    rows += [(patch.name, [step for step in there if step.patch == patch.id]) for patch in scene.patches]
    rows.append(("Joints, gates", [step for step in there if not step.form and not step.patch]))
    return [(name, steps) for name, steps in rows if steps]


def _post(timed: Timed, step: str, label: str, title: str, base: float, high: float, axis: Axis, pinned: bool) -> Post:
    at = datetime.fromisoformat(timed.start)
    gate = None
    if timed.window_to and timed.state == "planned":
        gate = axis.x(datetime.fromisoformat(timed.window_to))
    return Post(step, timed.state, axis.x(at), base - high, high, label, title, timed.start, gate, pinned)


@dataclass(frozen=True)
class _Filling:
    """Lanes of one scene, each as high as `each` px; `names` of its forms."""

    plan: Plan
    timed: dict[str, Timed]
    axis: Axis
    pins: Collection[str]
    each: float
    names: Mapping[str, str]

    def fill(self, lane: Lane, steps: list[Step]) -> None:
        """Blocks and posts of one lane, labels where there is room and over every post that they pass."""
        heights = [page_of_kind(step.kind).LANE_PX if step.lift else 0.0 for step in steps]
        fit = min(1.0, (self.each - 26) / max(sum(heights), 1.0))
        top, used = lane.base, -1e9
        leaving = {layer.entry.step for off in self.plan.off or () for layer, _ in off.parts}
        order = sorted(zip(steps, heights, strict=True), key=lambda one: self.timed[one[0].id].start)
        for step, height in order:
            timed_step = self.timed[step.id]
            starts, ready = datetime.fromisoformat(timed_step.start), datetime.fromisoformat(timed_step.ready)
            if timed_step.state == "skipped":
                continue
            high, at = height * fit, self.axis.x(starts)
            if step.lift:
                top -= high
                if starts <= self.axis.end:
                    page = page_of_kind(step.kind)
                    state = (
                        "off" if step.id in leaving else "built" if timed_step.state in ("done", "begun") else "planned"
                    )
                    hard = max(self.axis.x(ready), at)
                    lane.blocks.append(Block(page.HATCH, page.TONE, at, hard, top, high, step.do, state))
            if not self.axis.shows(starts):
                continue
            words = _words(step, self.names)
            label = words if at > used else ""
            if label:
                used = at + len(words) * CHARACTER + 6
            title = f"{step.do}: {starts:%a %d %b %H:%M}"
            reach = max(lane.base - top + 5, 14.0)
            pinned = timed_step.id in self.pins
            lane.posts.append(_post(timed_step, step.id, label, title, lane.base, reach, self.axis, pinned))
        lane.posts[:] = [replace(one, label_y=_over(one, lane.posts)) if one.label else one for one in lane.posts]


def _over(post: Post, posts: Sequence[Post]) -> float:
    """Where a post's label stands so that no post it passes strikes it, nor a gate."""
    end = post.x + len(post.label) * CHARACTER + 3
    passed = [one for one in posts if post.x <= one.x <= end]
    return min(one.y - (11 if one.gate is not None else 0) for one in passed) - 1


ALONE = {
    "pull": "pull", "mask": "mask", "bare": "bare", "separator": "separator", "trial-fit": "trial",
    "bubbles": "bubbles", "dam-off": "dam off", "scuff": "scuff", "mix": "mix", "dam": "dam", "smooth": "smooth",
    "waves": "waves", "seal": "seal", "wipe": "wipe", "battens": "battens", "off": "take off",
}  # fmt: skip


def _words(step: Step, names: Mapping[str, str]) -> str:
    """A step in a word or two, where its lane stands beside it."""
    if step.lift:
        return step.title
    if step.gate:
        return step.do
    if step.form:
        name = names.get(step.form, step.form.replace("-", " "))
        return f"{name} {step.course}" if step.kind == "cast" else name
    return ALONE.get(step.kind, step.kind.replace("-", " "))
