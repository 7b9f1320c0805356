"""Timers of the bench: what rings when, until when it can be done, and what is lost by leaving it.

They follow from what was mixed, laid, touched and measured, and are kept nowhere: whoever asks later finds them where
they then are. Only what people did to them is kept: put off, or stopped.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Literal

from .bench import WASH, BenchScene
from .hours import BenchHours
from .plan import Step, StepWindow
from .wet import LaidStep, ready_at, share_of

State = Literal["runs", "rings", "late"]
MINUTE = timedelta(minutes=1)
LEAD = timedelta(minutes=5)  # before something closes that was open from the start
LEAD_SHARE = 0.2  # of its time, where that is less
STALE = timedelta(hours=1)  # after which anything else rings no more: what is lost is lost
KEEPS_ON = timedelta(hours=12)  # for which what is ready goes on ringing: till after the night
SLACK = timedelta(minutes=1)  # clocks and hands

# By kind: what it is called, and what is lost by leaving it; craft estimates.
WORDS: dict[str, tuple[str, str]] = {
    "cup": ("working time", "it thickens, no longer levels, and sets in the cup"),
    "bowl": ("clean-up", "what is left sets hard in the bowl and on the tools"),
    "bubbles": ("bubbles", "it thickens round them and they stay for good"),
    "waves": ("waves", "it tears where it is pushed"),
    "smooth": ("second smoothing", "the weave shows through"),
    "press-in": ("press in", "what is pressed in breaks the face and sits loose"),
    "strew": ("strew into it", "what is strewn does not hold"),
    "gel": ("gel", "from here nothing moves any more"),
    "recoat": ("recoat", "it must be scuffed and wiped before it bonds"),
    "dam-off": ("dam off", "it lifts the edge when it is pulled"),
    "bare": ("tape off", "its glue bonds, and takes paint with it"),
    "pull": ("separator out", "it sticks in the joint"),
    "wipe": ("wipe", "it dries on"),
    "rest": ("rested, pour it", "it no longer runs"),
    "window": ("in its time", "it must be done in another way"),
    "set": ("set", "nothing is lost by waiting"),
    "ready": ("ready", "nothing is lost by waiting"),
}


@dataclass(frozen=True, slots=True)
class Timer:
    """Something that rings at a moment: `key` names it in its scene for good; it runs since `since`, and can be done
    until `until` (None: nothing is lost by waiting). `step` is done by it, or was laid; `look`: what to look at."""

    key: str
    kind: str
    scene: BenchScene
    spot: str
    since: datetime
    rings: datetime
    until: datetime | None
    step: str = ""
    do: str = ""
    look: str = ""

    @property
    def word(self) -> str:
        """What people call it."""
        return WORDS[self.kind][0]

    @property
    def risk(self) -> str:
        """What is lost by leaving it."""
        return WORDS[self.kind][1]

    def state(self, at: datetime) -> State:
        """Whether it runs, rings, or has rung in vain."""
        if at < self.rings:
            return "runs"
        return "late" if self.until is not None and at > self.until + SLACK else "rings"

    def share(self, at: datetime) -> float:
        """How far along to its ring, 0..1."""
        return share_of(self.since, self.rings, at)

    def risked_by(self, until: datetime) -> str:
        """What putting it off until a moment risks, as a sentence."""
        if self.until is None:
            return "Nothing is lost by waiting."
        if until > self.until:
            return f"That is too late: {self.risk}."
        left = round((self.until - until) / MINUTE)
        return f"Then {left} min are left. After that {self.risk}."


@dataclass(frozen=True, slots=True)
class Note:
    """What a person did to a timer: put it off until a moment, or (None) heard it."""

    until: datetime | None


def timers(scene: BenchScene) -> list[Timer]:
    """Every timer of a scene, the soonest first; also those that are long over."""
    found = [*_cups(scene), *_bowls(scene), *_waits(scene), *_acts(scene), *_soft(scene)]
    return sorted({one.key: one for one in found}.values(), key=lambda one: (one.rings, one.key))


def ringing(
    running: Iterable[Timer], notes: Mapping[str, Note], at: datetime, hours: BenchHours | None = None
) -> list[Timer]:
    """Of some timers those that ring now, the most pressing first: what was put off rings again later, what was heard
    no more; what loses nothing by waiting keeps still in quiet hours. `at` has the zone of the clock on the wall."""
    far = at + timedelta(days=4000)
    rung = []
    for timer in running:
        note = notes.get(timer.key)
        if timer.state(at) == "runs" or (note is not None and (note.until is None or note.until > at)):
            continue
        quiet = hours is not None and timer.until is None and hours.is_quiet(at)
        if quiet or at > (timer.until or timer.rings) + (KEEPS_ON if timer.kind == "ready" else STALE):
            continue
        rung.append(timer)
    return sorted(rung, key=lambda one: (one.until or far, one.rings, one.key))


def ahead(
    running: Iterable[Timer], notes: Mapping[str, Note], at: datetime, span: timedelta
) -> list[tuple[datetime, Timer]]:
    """(moment, timer) of what rings within a span from now, what was put off at its later moment."""
    coming = []
    for timer in running:
        note = notes.get(timer.key)
        if note is not None and note.until is None:
            continue
        rings = max(timer.rings, note.until) if note is not None and note.until is not None else timer.rings
        if at < rings <= at + span:
            coming.append((rings, timer))
    return sorted(coming, key=lambda pair: (pair[0], pair[1].key))


def _last_minutes(since: datetime, until: datetime) -> datetime:
    """When what was open from the start should ring: some minutes before it closes."""
    return until - min(LEAD, LEAD_SHARE * (until - since))


def _cups(scene: BenchScene) -> Iterator[Timer]:
    for cup in scene.cups:
        if cup.working_min is None:
            continue
        until = cup.since + timedelta(minutes=cup.working_min)
        spot = scene.spot_of(cup.into)
        rings = _last_minutes(cup.since, until)
        yield Timer(f"cup:{cup.row}", "cup", scene, spot, cup.since, rings, until, do="Pour the cup out")


def _bowls(scene: BenchScene) -> Iterator[Timer]:
    for bowl in scene.bowls:
        if bowl.mess not in WASH:
            continue
        what, within = WASH[bowl.mess]
        until = bowl.emptied + within if bowl.sets_at is None else min(bowl.emptied + within, bowl.sets_at)
        spot = scene.spot_of(bowl.into)
        until = max(until, bowl.emptied)
        yield Timer(f"bowl:{bowl.row}", "bowl", scene, spot, bowl.emptied, bowl.emptied, until, do=what.capitalize())


def _waits(scene: BenchScene) -> Iterator[Timer]:
    """The last thing laid on each spot, until what follows may go on."""
    steps = {one.id: one for one in scene.plan.steps}
    spots = {one.step: scene.spot(steps[one.step]) for one in scene.laid if one.step in steps}
    for laid in {spots.get(one.step, one.lift): one for one in scene.laid}.values():
        if laid.wait_h:
            at = ready_at(laid.step, laid.at, laid.wait_h, scene.marks)
            spot = spots.get(laid.step, scene.name)
            do = f"{laid.title} is ready".capitalize()
            yield Timer(f"ready:{laid.step}", "ready", scene, spot, laid.at, at, None, laid.step, do)


def _times(scene: BenchScene, laid: LaidStep | None) -> float:
    """What the windows after a step are multiplied by, as its wait is moved by touch."""
    if laid is None or not laid.wait_h:
        return 1.0
    return (ready_at(laid.step, laid.at, laid.wait_h, scene.marks) - laid.at) / timedelta(hours=laid.wait_h)


def _acts(scene: BenchScene) -> Iterator[Timer]:
    """What is to be done within hours of something that is done: bubbles, waves, dam and tape off, the next lift."""
    laid, steps = {one.step: one for one in scene.laid}, {one.id: one for one in scene.plan.steps}
    for step in scene.plan.steps:
        if step.gate or step.built or step.only_if or scene.over(step.id):
            continue
        for number, window in enumerate(step.windows):
            end = scene.marks.done.get(window.of)
            if end is not None:
                rests = window.of in steps and steps[window.of].kind == "mix"
                ofs = "rest" if rests else "recoat" if step.kind == "pour" else "window"
                yield from _in_window(scene, step, number, window, end, _times(scene, laid.get(window.of)), ofs)


def _in_window(
    scene: BenchScene, step: Step, number: int, window: StepWindow, end: datetime, times: float, ofs: str
) -> Iterator[Timer]:
    opens = end + timedelta(hours=window.from_h * times)
    until = None if window.to_h is None else end + timedelta(hours=window.to_h * times)
    kind = step.kind if step.kind in WORDS else "ready" if until is None else ofs
    spot, key = scene.spot(step), f"{step.id}:{number}"
    if window.looks_h:
        looks = [end + timedelta(hours=hours * times) for hours in window.looks_h]
        for place, (rings, after) in enumerate(zip(looks, [*looks[1:], until or looks[-1]], strict=True)):
            yield Timer(f"{key}.{place}", kind, scene, spot, end, rings, max(after, rings), step.id, step.do)
        return
    rings = opens if window.from_h > 0 or until is None else _last_minutes(end, until)
    yield Timer(key, kind, scene, spot, end, rings, until, step.id, step.do)


def _soft(scene: BenchScene) -> Iterator[Timer]:
    """What else the face of a lift allows while it hardens, after its last course."""
    steps = {one.id: one for one in scene.plan.steps}
    for laid in {one.lift: one for one in scene.laid}.values():
        step, lift_plan = steps.get(laid.step), scene.plan.lifts.get(laid.lift)
        if step is None or lift_plan is None or step.course != step.of:
            continue
        times = _times(scene, laid)
        for window in lift_plan.windows:
            if window.code not in WORDS:
                continue
            opens = laid.at + timedelta(hours=window.from_h * times)
            until = None if window.to_h is None else laid.at + timedelta(hours=window.to_h * times)
            rings = opens if window.from_h > 0 or until is None else _last_minutes(laid.at, until)
            yield Timer(
                f"{window.code}:{laid.step}", window.code, scene, scene.spot(step), laid.at, rings,
                until if window.from_h == 0 else None, laid.step, window.what.capitalize(), window.look,
            )  # fmt: skip
