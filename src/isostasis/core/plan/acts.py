"""Short acts beside and inside the waits: separators, masks and seals, looks at bubbles, dams off, what mends a passed
window."""

from __future__ import annotations

from dataclasses import dataclass

from ..built.remains import Work
from ..document import ResolvedScene
from ..lifts.estimate import Act, Course, Hours, LiftEstimate
from ..lifts.fold import Build
from ..lifts.hands import SETUP_MIN, brushing_minutes
from ..terrain.joints import crossing, joint_lines, separator
from ..terrain.keep import ProtectPlan, protections
from .model import Step, StepWindow

WIPE_MIN = 3.0
TAPE_H = 48.0  # from when it can be pulled until its glue bonds, craft estimate


@dataclass(frozen=True, slots=True)
class Laying:
    """The lifts as steps see them: their estimates as if nothing lay there, and what of each is to be done."""

    wholes: dict[str, LiftEstimate]
    works: dict[str, Work]

    def first(self, lift: str) -> str | None:
        """The first step of a lift, done or to be done; None for what cannot be laid."""
        work = self.works[lift]
        return work.there[0].entry.step if work.there else work.ids[0] if work.ids else None

    def end(self, lift: str) -> str | None:
        """The last step of a lift."""
        return self.works[lift].end

    def hours(self, lift: str) -> Hours:
        """Its hours from its last course on."""
        return self.wholes[lift].plan.hours


def separator_steps(
    scene: ResolvedScene, built: Build, laying: Laying, last_form: str | None
) -> tuple[list[Step], dict[str, list[str]]]:
    """Separators that go into joints before a skin and come out while it sets; and what each lift waits for by that."""
    steps: list[Step] = []
    before: dict[str, list[str]] = {}
    for axis, at in joint_lines(scene):
        out: dict[str, str] = {}  # by patch: the one before in the same joint comes out first
        for lift in crossing(scene, built, axis, at):
            stretch = separator(scene, built, lift, axis, at)
            name, first, end = f"{axis}{at:g}".replace(".", "_"), laying.first(lift.id), laying.end(lift.id)
            if first is None or end is None:
                continue
            put = f"separator-{name}-{lift.id}"
            size = f"{stretch.length_mm.number:.0f} × {stretch.height_mm.number:.0f} mm"
            do = f"Stand a separator in the joint at {axis} {at:g} mm: thin plastic card or cling film, {size}"
            patch = built.stages[lift.id].site.patch.id
            behind = tuple(one for one in (last_form, out.get(patch)) if one)
            steps.append(Step(put, do, behind, 5.0, 0.0, kind="separator", name="separator"))
            out[patch] = f"{put}-out"
            window = StepWindow("pull the separator", stretch.from_h, stretch.to_h, end)
            do = f"Pull the separator out of the joint at {axis} {at:g} mm, before {lift.title.lower()} is hard"
            steps.append(Step(f"{put}-out", do, (put,), 3.0, 0.0, (window,), kind="pull", name="separator out"))
            before.setdefault(first, []).append(put)
    return steps, before


def protect_steps(
    scene: ResolvedScene, built: Build, laying: Laying, last_form: str | None
) -> tuple[list[Step], dict[str, list[str]]]:
    """What keeps splashes off: masks on before any lift near what is protected and off after the last of them, seals
    before the first, edges wiped while each is wet; and what waits for that."""
    steps: list[Step] = []
    before: dict[str, list[str]] = {}
    for thing_id, protection in protections(scene, built).items():
        if not protection.near:
            continue
        if protection.how == "wipe":
            steps += _wiping(thing_id, protection, laying)
            continue
        near = {name for name in protection.near if laying.end(name)}
        by_patch = [[lift.id for lift in patch.lifts if lift.id in near] for patch in scene.patches]
        firsts, lasts = ([lifts[place] for lifts in by_patch if lifts] for place in (0, -1))
        behind = (last_form,) if last_form else ()
        if protection.seal_ml is not None and protection.seal_h is not None:
            seal = f"a clear matt coat, {protection.seal_ml.number:.3g} ml"
            do = f"Seal {protection.name} with {seal}: splashes then wipe off"
            minutes = SETUP_MIN + brushing_minutes(protection.area_mm2.number * scene.copies, scene.bench)
            steps.append(Step(f"seal-{thing_id}", do, behind, minutes, protection.seal_h.value, kind="seal"))
        elif protection.tape_mm is not None:
            tape, cover = protection.tape_mm.number / 1000, protection.area_mm2.number / 100
            do = f"Mask {protection.name}: {tape:.1f} m of low-tack tape, {cover:.0f} cm² covered"
            steps.append(Step(f"mask-{thing_id}", do, behind, 10.0, 0.0, kind="mask"))
        for lift_id in firsts:
            before.setdefault(laying.first(lift_id) or "", []).append(steps[-1].id)
        if protection.tape_mm is not None:
            steps += _baring(thing_id, protection, lasts, laying)
    return steps, before


def _baring(thing_id: str, protection: ProtectPlan, lasts: list[str], laying: Laying) -> list[Step]:
    """The tape off after the last lifts near it; none where one of them never hardens."""
    windows = []
    for lift_id in lasts:
        from_h = laying.hours(lift_id).next.value
        if from_h is not None:
            # Of several spots nobody knows yet which is the last: then it comes off when all may be touched.
            to_h = from_h + TAPE_H if len(lasts) == 1 else None
            windows.append(StepWindow("pull the tape before it bonds", from_h, to_h, laying.end(lift_id) or ""))
    laid = tuple(laying.end(lift_id) or "" for lift_id in lasts)
    do = f"Pull the tape off {protection.name}, back on itself"
    return [Step(f"bare-{thing_id}", do, laid, 5.0, 0.0, tuple(windows), kind="bare")] if windows else []


def _wiping(thing_id: str, protection: ProtectPlan, laying: Laying) -> list[Step]:
    """Wiping it while each lift near it is wet."""
    steps = []
    for lift_id in protection.near:
        workable, end = laying.hours(lift_id).workable.value, laying.end(lift_id)
        if end is not None and workable is not None and workable * 60 >= WIPE_MIN:
            window = StepWindow("still wet", 0.0, workable, end)
            do = f"Wipe {protection.name} with a damp cloth while it is wet"
            steps.append(Step(f"wipe-{thing_id}-{lift_id}", do, (), WIPE_MIN, 0.0, (window,), kind="wipe", brief=True))
    return steps


def act_steps(course: Course, step_id: str, patch: str, place: str | None) -> list[Step]:
    """The short acts inside the wait of a course."""
    return [
        Step(
            f"{step_id}-{act.kind}", act.do, (), act.minutes, 0.0,
            (StepWindow(act.what, act.from_h, act.to_h, step_id, looks_h=act.looks_h),), kind=act.kind,
            patch=patch, place=place, hazards=act.hazards, brief=True,
        )
        for act in course.acts
    ]  # fmt: skip


def mending_step(mend: Act, step_id: str, patch: str, place: str | None) -> Step:
    """What is done only if a window has passed, before the course that follows `step_id`."""
    return Step(
        f"{step_id}-{mend.kind}", mend.do, (step_id,), mend.minutes, 0.0, kind=mend.kind, patch=patch, place=place,
        hazards=mend.hazards, only_if=mend.what,
    )  # fmt: skip


def resting_step(
    course: Course, step_id: str, after: tuple[str, ...], patch: str, place: str | None, hazards: frozenset[str]
) -> list[Step]:
    """The mixing of what rests in the cup before it is poured; none for what is poured at once."""
    rest = course.rest
    if rest is None:
        return []
    name = f"{step_id}-{rest.kind}"
    return [
        Step(name, rest.do, after, rest.minutes, 0.0, kind=rest.kind, patch=patch, place=place, hazards=hazards,
             mess="resin")
    ]  # fmt: skip


def rested_window(course: Course, mixing: Step) -> StepWindow:
    """When what has rested is poured. Raises ValueError for a course that does not rest."""
    if course.rest is None:
        raise ValueError("this course is poured at once")
    return StepWindow(course.rest.what, course.rest.from_h, course.rest.to_h, mixing.id)


def preparing_step(act: Act, step_id: str, after: tuple[str, ...], patch: str, place: str | None) -> Step:
    """What is put up before a course."""
    return Step(
        f"{step_id}-{act.kind}", act.do, after, act.minutes, 0.0, kind=act.kind, patch=patch, place=place,
        tape_mm=act.tape_mm,
    )  # fmt: skip
