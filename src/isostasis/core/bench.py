"""The bench: in what state each spot is, what to do now and next over all scenes, and what a visit takes."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Literal

from .document import ResolvedScene
from .lifts.labels import Labels
from .plan import Plan, Step
from .schedule.marks import Marks
from .schedule.vapour import CLEARS_MIN, HOT, VAPOUR
from .wet import LaidStep, OpenCup, UsedBowl, ready_at, share_of

SpotState = Literal["now", "wet", "ready", "blocked", "to do", "done"]
Urgency = Literal["cup", "begun", "due", "later"]
ORDER: dict[Urgency, int] = {"cup": 0, "begun": 1, "due": 2, "later": 3}
VISIT = timedelta(hours=4)  # what begins within it belongs to this visit
# What is washed up after work of a mess, and for how long that can wait; craft estimates.
WASH = {
    "plaster": ("bowl, spatulas and brushes in a bucket of water", timedelta(minutes=15)),
    "resin": ("scrape the cup, let what is left cure in it, wipe tools with a cloth", timedelta(minutes=30)),
    "dust": ("vacuum and wipe up wet", timedelta(hours=1)),
    "foam dust": ("vacuum the crumbs before anything sticky comes out", timedelta(hours=1)),
    "rubble": ("carry off what was chiselled away, then vacuum", timedelta(hours=1)),
}
# What is laid out for work of a kind, beside what is measured out; craft estimates.
TOOLS = {
    "form": ("knife or hot wire, rule, marker",),
    "glue": ("weights to lie overnight",),
    "skin": ("bowl, spatula, spray of water",),
    "shell": ("dipping tub, lukewarm water, scissors",),
    "texture": ("spoon or sieve, paper to catch what falls beside",),
    "fix": ("spray bottle, pipette, kitchen paper",),
    "coat": ("flat brush, jar of water",),
    "cast": ("moulds, strike-off bar",),
    "pour": ("spirit level, stick with the depth on it",),
    "mask": ("low-tack tape",),
    "separator": ("thin card or film",),
}


@dataclass(frozen=True)
class BenchScene:
    """A scene as the bench sees it: its plan and marks, when its steps come (by the newest forecast, or the rule),
    cups that are open, what was laid, bowls to wash."""

    slug: str
    name: str
    scene: ResolvedScene
    plan: Plan
    marks: Marks
    times: Mapping[str, datetime]
    cups: tuple[OpenCup, ...] = ()
    laid: tuple[LaidStep, ...] = ()
    bowls: tuple[UsedBowl, ...] = ()

    def spot(self, step: Step) -> str:
        """The name of a step's spot; of what has none the scene's."""
        return next((patch.name for patch in self.scene.patches if patch.id == step.patch), self.name)

    def beside(self, spot: str) -> str:
        """Its name, to stand beside a spot's; empty where it stands in for it."""
        return "" if spot == self.name else self.name

    def spot_of(self, lift: str) -> str:
        """The name of a lift's spot; of what lies on none the scene's."""
        return next(
            (patch.name for patch in self.scene.patches if any(one.id == lift for one in patch.lifts)), self.name
        )

    def lift_of(self, step: str) -> str:
        """The lift that a step lays or works on; empty for one that is about none, or is gone."""
        return next((one.lift or "" for one in self.plan.steps if one.id == step), "")

    def over(self, step: str) -> bool:
        """Whether a step needs nobody any more."""
        return step in self.marks.done or step in self.marks.skipped

    @property
    def open_steps(self) -> list[Step]:
        """Steps that wait for hands, in the plan's order, without short acts and what a missed window calls for."""
        return [
            step
            for step in self.plan.steps
            if not (step.built or step.gate or step.brief or step.only_if or self.over(step.id))
        ]


@dataclass(frozen=True, slots=True)
class Spot:
    """A spot and its state: `until` it is wet, `at` its next step comes, `waits_for` what holds it up."""

    patch: str
    name: str
    state: SpotState
    step: str = ""
    until: datetime | None = None
    at: datetime | None = None
    waits_for: str = ""


@dataclass(frozen=True)
class Act:
    """Something for the hands: a cup to empty, a step under way, due or later; `since` it is mixed or begun, `until`
    the cup can be worked."""

    scene: BenchScene
    step: Step | None
    urgency: Urgency
    at: datetime | None = None
    since: datetime | None = None
    until: datetime | None = None
    into: str = ""

    @property
    def spot(self) -> str:
        """Where."""
        if self.step is not None:
            return self.scene.spot(self.step)
        return self.scene.spot_of(self.into)

    @property
    def beside(self) -> str:
        """The scene's name where the spot has another."""
        return self.scene.beside(self.spot)

    @property
    def where(self) -> str:
        """The scene and, where it has one, the spot."""
        return f"{self.beside}, {self.spot}" if self.beside else self.spot

    def share(self, at: datetime) -> float:
        """How much of a cup's working time is over, 0..1; 0 where none is known."""
        return share_of(self.since, self.until, at) if self.since and self.until else 0.0


def _ends(scene: BenchScene) -> dict[str, datetime]:
    """When the wait of each step that was laid is over; what never dries has no end."""
    return {
        one.step: ready_at(one.step, one.at, one.wait_h, scene.marks) for one in scene.laid if one.wait_h is not None
    }


def closed_gate(scene: BenchScene, step: Step, at: datetime) -> Step | None:
    """The gate that a step waits for at a moment; None where none is closed."""
    gates = (one for one in scene.plan.steps if one.gate and one.id in step.after)
    return next((one for one in gates if one.not_before is None or one.not_before > at), None)


def held_up_by(scene: BenchScene, step: Step, at: datetime) -> str:
    """What a step waits for at a moment, in a word or two: a gate, something to be done first or to harden; empty where
    it can begin."""
    gate = closed_gate(scene, step, at)
    if gate is not None:
        return gate.do
    steps, ends = {one.id: one for one in scene.plan.steps}, _ends(scene)
    for name in step.after:
        before = steps.get(name)
        if before is None or before.gate:
            continue
        if not (before.built or scene.over(name)):
            return f"{scene.spot(before)}, {before.title}" if before.patch != step.patch else before.title
        elif ends.get(name, at) > at:
            return f"{scene.spot(before)}, {before.title} to harden" if before.patch != step.patch else "it to harden"
    return ""


def spots(scene: BenchScene, at: datetime) -> list[Spot]:
    """Every spot of a scene with its state, in the order of the document."""
    ends, lifts = _ends(scene), {lift.id: patch.id for patch in scene.scene.patches for lift in patch.lifts}
    cups = {lifts.get(cup.into, "") for cup in scene.cups}
    begun = {step.patch for step in scene.open_steps if step.id in scene.marks.started}
    places = []
    for patch in scene.scene.patches:
        mine = [step for step in scene.open_steps if step.patch == patch.id]
        first = mine[0] if mine else None
        laid = [one for one in scene.laid if lifts.get(one.lift) == patch.id]
        until = ends.get(laid[-1].step) if laid else None
        wet = bool(laid) and (laid[-1].wait_h is None or (until is not None and until > at))
        step, due = first.id if first else "", scene.times.get(first.id) if first else None
        if patch.id in cups or patch.id in begun:
            places.append(Spot(patch.id, patch.name, "now", step, until, due))
        elif wet:
            places.append(Spot(patch.id, patch.name, "wet", laid[-1].step, until, due))
        elif first is None:
            places.append(Spot(patch.id, patch.name, "done"))
        else:
            why = held_up_by(scene, first, at)
            gate = closed_gate(scene, first, at)
            state: SpotState = "ready" if not why else "blocked" if gate else "to do"
            places.append(Spot(patch.id, patch.name, state, step, None, due, why))
    return places


def agenda(scenes: Iterable[BenchScene], at: datetime) -> list[Act]:
    """What there is for the hands, the most urgent first: cups, work under way, what is due, what comes in this
    visit."""
    entries = []
    for scene in scenes:
        for cup in scene.cups:
            until = None if cup.working_min is None else cup.since + timedelta(minutes=cup.working_min)
            entries.append(Act(scene, None, "cup", cup.since, cup.since, until, cup.into))
        for step in scene.open_steps:
            if step.id in scene.marks.started:
                begun = scene.marks.started[step.id]
                entries.append(Act(scene, step, "begun", begun, begun))
            elif (due := scene.times.get(step.id)) is not None and due <= at + VISIT:
                entries.append(
                    Act(scene, step, "due" if due <= at and not held_up_by(scene, step, at) else "later", due)
                )
    far = at + timedelta(days=4000)
    return sorted(entries, key=lambda one: (ORDER[one.urgency], one.until or far, one.at or far))


def after_visit(scenes: Iterable[BenchScene], at: datetime) -> Act | None:
    """The first step that comes after this visit; None where none has a time."""
    coming = [
        (due, scene, step)
        for scene in scenes
        for step in scene.open_steps
        if step.id not in scene.marks.started and (due := scene.times.get(step.id)) is not None and due > at + VISIT
    ]
    due, scene, step = min(coming, key=lambda one: one[0], default=(None, None, None))
    return Act(scene, step, "later", due) if scene else None


def fitting(scenes: Iterable[BenchScene], at: datetime, minutes: float) -> list[Act]:
    """What could be begun and done in so many minutes, of all that nothing holds up, the longest first."""
    fits = [
        Act(scene, step, "later", scene.times.get(step.id))
        for scene in scenes
        for step in scene.open_steps
        if step.id not in scene.marks.started and step.hands_on_min <= minutes and not held_up_by(scene, step, at)
    ]
    return sorted(fits, key=lambda one: -(one.step.hands_on_min if one.step else 0.0))


@dataclass(frozen=True, slots=True)
class Vapour:
    """What may stand in the room: whose, since when, until when it has cleared (None: it is under way), and what with a
    flame or heat comes too soon: the act, and its moment."""

    scene: BenchScene
    step: Step
    since: datetime
    clears: datetime | None
    flames: tuple[tuple[Act, datetime], ...] = ()


def vapours(scenes: Sequence[BenchScene], at: datetime) -> list[Vapour]:
    """The vapour that may stand in the room now, over all scenes, by what is really going on."""
    clear = timedelta(minutes=CLEARS_MIN)
    hot = [
        (Act(one, step, "due", due), due)
        for one in scenes
        for step in one.plan.steps
        if step.hazards & HOT and not (step.built or step.gate or one.over(step.id))
        for due in [one.marks.started.get(step.id) or one.times.get(step.id)]
        if due is not None and due <= at + VISIT
    ]
    breathed = []
    for scene in scenes:
        for step in scene.plan.steps:
            if not step.hazards & VAPOUR:
                continue
            begun, done = scene.marks.started.get(step.id), scene.marks.done.get(step.id)
            since = begun or (done - timedelta(minutes=step.hands_on_min) if done else None)
            clears = None if done is None else done + clear
            if since is None or since > at or (clears is not None and clears <= at):
                continue
            ends = clears or at + timedelta(minutes=step.hands_on_min) + clear
            soon = tuple((act, due) for act, due in hot if due < ends and act.step is not step)
            breathed.append(Vapour(scene, step, since, clears, soon))
    return breathed


@dataclass(frozen=True, slots=True)
class Visit:
    """What to lay out before the work of a visit and to wash up after it: (what, of which scene and spot), and (what,
    at the latest, minutes after the work)."""

    lay_out: tuple[tuple[str, str], ...]
    wash: tuple[tuple[str, int], ...]


def visit(acts: Sequence[Act]) -> Visit:
    """What a visit takes, by the steps in it: materials first, then tools, each once."""
    things: dict[str, str] = {}
    tools: dict[str, str] = {}
    washing: dict[str, int] = {}
    for act in acts:
        step = act.step or next((one for one in act.scene.plan.steps if one.lift == act.into), None)
        if step is None:
            continue
        labels = Labels.of(act.scene.scene)
        for use in act.scene.plan.uses if act.step is not None else ():
            if use.step == step.id and use.material in labels.materials:
                things.setdefault(labels.materials[use.material].name, act.where)
        for tool in TOOLS.get(step.kind, ()):
            tools.setdefault(tool, act.where)
        if {"resin", "caustic"} & step.hazards:
            tools.setdefault("gloves, glasses, an open window", act.where)
        if step.mess in WASH:
            what, within = WASH[step.mess]
            washing[what] = min(washing.get(what, 10_000), round(within.total_seconds() / 60))
    return Visit((*things.items(), *tools.items()), tuple(sorted(washing.items(), key=lambda one: one[1])))
