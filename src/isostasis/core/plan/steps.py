"""Steps of a plan: what is done in which order, how long it takes, how long it waits, and within which windows."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise, takewhile

from ..built.forms import FormsMade
from ..built.ratio import slowed
from ..built.remains import Work
from ..built.removals import Off
from ..document import ResolvedScene
from ..document.built import Built
from ..document.scene import Lift, Patch
from ..fault import fault
from ..judging.neighbours import damp_beds
from ..lifts.cast import CastPlan
from ..lifts.estimate import LiftEstimate, Window
from ..lifts.fold import Build
from ..lifts.kinds import kind_of
from .acts import (
    Laying,
    act_steps,
    mending_step,
    preparing_step,
    protect_steps,
    rested_window,
    resting_step,
    separator_steps,
)
from .batches import Shared
from .form_steps import as_made, form_steps, later_form_steps
from .model import Step, StepWindow

SAME_DAY_H = 24.0  # a colour still soaks into a skin of that day, craft estimate
OFF_HAZARDS = frozenset({"dust", "cutting"})
WALK_MIN = 1.0  # from one spot to the next, craft estimate


def steps_of(
    scene: ResolvedScene,
    built: Build,
    laying: Laying,
    casts: dict[str, CastPlan],
    groups: tuple[Shared, ...],
    offs: tuple[Off, ...],
) -> tuple[Step, ...]:
    """All steps of a scene: gates, what comes off, forms, then lifts with what is put in and pulled beside them. What
    was done stands among them as it was done."""
    of_forms, last_form = form_steps(scene, built, casts)
    lift_steps = _sharing(scene, groups, laying, _lift_steps(scene, built, laying, casts, last_form))
    steps = [*of_forms, *lift_steps]
    if scene.built:
        removing, lift_steps = _removing(offs, lift_steps)
        off_steps = tuple(step.id for step in removing)
        first = {step.id for step in lift_steps if last_form in step.after}
        made = as_made(scene, [*of_forms, *lift_steps], FormsMade.of(scene), off_steps)
        steps = [*removing, *_behind_forms(scene, made, first)]
    return _gated(scene, tuple(steps))


def _behind_forms(scene: ResolvedScene, steps: list[Step], first: set[str]) -> list[Step]:
    """The steps, the `first` on the forms behind all that is still to be made of these: what is made anew may come
    after what stood already."""
    bare = {form.id for form in scene.forms if not form.after}
    pending = tuple(step.id for step in steps if step.form in bare and not step.built)
    return [
        replace(step, after=tuple(dict.fromkeys((*step.after, *pending))))
        if step.id in first and not step.built
        else step
        for step in steps
    ]


def _removing(offs: tuple[Off, ...], steps: list[Step]) -> tuple[list[Step], list[Step]]:
    """What comes off, and the steps of the lifts, those on the same spot after it."""
    removing = {
        off.patch: Step(
            off.step, off.do, (), off.hands_on_min, 0.0, kind="off", patch=off.patch, hazards=OFF_HAZARDS, mess="rubble"
        )
        for off in offs
    }
    return list(removing.values()), [
        replace(step, after=(*step.after, removing[step.patch].id))
        if step.lift and not step.built and step.patch in removing
        else step
        for step in steps
    ]


def _sharing(scene: ResolvedScene, groups: tuple[Shared, ...], laying: Laying, steps: list[Step]) -> list[Step]:
    """The steps, each with those whose bowl it uses up: it must begin early enough to be done within working time."""
    bowls: dict[str, dict[str, float]] = {}
    spots = {step.id: step.patch for step in steps}
    names = {patch.id: patch.name for patch in scene.patches}
    for group in groups:
        if len(group.shares) < 2 or group.working_min is None:
            continue
        for number in range(group.batches.count):
            feeds = group.feeds(number)
            works = [(laying.works[share.lift], share.layer) for share, _ in feeds]
            ids = [work.ids[layer - work.first] for work, layer in works]
            pairs = [(first, second) for first, second in pairwise(ids) if first != second]
            used = sum(part for _, part in feeds) / scene.bench.spread_ml_per_min + WALK_MIN * len(pairs)
            for first, second in pairs:
                # All that is left over, shared out: together the gaps stay within the bowl's working time.
                bowls.setdefault(second, {})[first] = max((group.working_min - used) / len(pairs), 0.0)
    return [
        replace(
            step,
            bowl=tuple(bowls[step.id].items()),
            do=f"{step.do}, in one go with {' and '.join(names[spots[one] or ''] for one in bowls[step.id])}",
        )
        if step.id in bowls
        else step
        for step in steps
    ]


def _gated(scene: ResolvedScene, steps: tuple[Step, ...]) -> tuple[Step, ...]:
    """The steps behind their gates: a gate that is not done stands before the first step of what it blocks."""
    closed = [gate for gate in scene.gates if not gate.done]
    if not closed:
        return steps
    first: dict[str, str] = {}
    for step in steps:
        for name in (step.lift, step.form, *step.forms):
            if name:
                first.setdefault(name, step.id)
    behind: dict[str, tuple[str, ...]] = {}
    for gate in closed:
        for name in gate.blocks:
            if name in first:
                behind[first[name]] = (*behind.get(first[name], ()), f"gate-{gate.id}")
    gates = tuple(
        Step(f"gate-{gate.id}", gate.name, (), 0.0, 0.0, kind="gate", gate=gate.id, not_before=gate.not_before)
        for gate in closed
    )
    return (*gates, *(replace(step, after=(*step.after, *behind.get(step.id, ()))) for step in steps))


def _casting_dry(patch: Patch, casts: dict[str, CastPlan]) -> tuple[StepWindow, ...]:
    """What lies on cast pieces waits until they are dry through."""
    cast = casts.get(getattr(patch.area, "on", ""))
    if cast is None or cast.hours.full.value is None:
        return ()
    last = f"cast-{getattr(patch.area, 'on', '')}-{len(cast.minutes)}"
    return (StepWindow("the pieces are dry", cast.hours.full.value, None, last),)


def _while_soft(lift: Lift, bed: Lift | None, laying: Laying, where: str) -> tuple[StepWindow, ...]:
    """When a lift that goes into something soft must come. Raises Faults where nothing beneath it is."""
    under = laying.wholes[bed.id] if bed else None
    end = laying.end(bed.id) if bed else None
    if getattr(lift, "into", None) is None:
        if getattr(lift, "how", "") != "blot" or bed is None or under is None or under.damp_h is None or end is None:
            return ()
        return (StepWindow(f"the same day as {bed.title.lower()}", under.damp_h[0], SAME_DAY_H, end),)
    washed = under.damp_h if under and lift.kind == "coat" else None
    if bed is None or under is None or (washed is None and under.soft_h is None):
        right = "lay it on a skin, a paste or a gel, or leave `into` out"
        raise fault(f"{where}.into", "nothing beneath it is ever soft", right)
    if end is None:
        return ()
    if washed is not None:
        return (StepWindow(f"{bed.title} is damp", *washed, end),)
    return (StepWindow(f"{bed.title} is soft", 0.0, under.soft_h, end),)


def _built_steps(lift: Lift, work: Work, whole: LiftEstimate, above: Lift | None) -> list[Step]:
    """What was done of a lift, each with the wait that its own label and room give it, and the short acts that still
    belong to it."""
    steps = []
    for layer in work.there:
        entry = layer.entry
        last = layer is work.there[-1] and not work.ids
        steps.append(
            Step(
                entry.step,
                entry.do,
                (),
                entry.hands_on_min,
                slowed(entry, wait_of(entry, above if last else lift, last)),
                kind=entry.kind,
                lift=lift.id,
                place=entry.lift.place,
                patch=layer.patch,
                course=entry.course,
                of=entry.of,
                name=entry.title,
                hazards=whole.hazards,
                takes_cup=bool(entry.mix and entry.mix.family == "resin"),
                built=True,
            )
        )
        if entry.course <= len(whole.courses) and entry.of == len(whole.courses):
            steps += act_steps(whole.courses[entry.course - 1], entry.step, layer.patch, entry.lift.place)
    return steps


def wait_of(entry: Built, above: Lift | None, last: bool) -> float | None:
    """Hours after something was built until what follows may go on, or until it can be used where nothing does; by the
    label and the room of then."""
    if not last or (above.id if above else None) == entry.above:
        return entry.wait_h
    if above is None:
        return entry.usable_h
    reacts = entry.mix is not None and entry.mix.reacts is not None
    if not reacts and (above.levels_itself or above.kind == "coat"):
        return entry.full_h
    return entry.next_h


def _lift_steps(
    scene: ResolvedScene, built: Build, laying: Laying, casts: dict[str, CastPlan], last_form: str | None
) -> list[Step]:
    separating, separated = separator_steps(scene, built, laying, last_form)
    masking, masked = protect_steps(scene, built, laying, last_form)
    aside = separating + masking
    ends = {laying.end(lift.id) for patch in scene.patches for lift in patch.lifts}
    steps = [step for step in aside if not any(window.of in ends for window in step.windows)]
    for patch in scene.patches:
        below = [last_form] if last_form else []
        for place, lift in enumerate(patch.lifts):
            work, whole = laying.works[lift.id], laying.wholes[lift.id]
            end = work.end
            if end is None:
                continue
            bed = patch.lifts[place - 1] if place else None
            above = patch.lifts[place + 1] if place + 1 < len(patch.lifts) else None
            steps += _built_steps(lift, work, whole, above)
            soft: tuple[StepWindow, ...] = ()
            if work.estimate is not None:
                soft = _while_soft(lift, bed, laying, built.stages[lift.id].site.where) if not work.there else ()
                waits_for = [one for one in below if not any(one == window.of for window in soft)]
                waits_for += _waited_for(scene, patch, lift, laying)
                damp = tuple(
                    StepWindow(f"{top.title} on {other.name} dry", hours, None, laying.end(top.id) or "")
                    for other, top, hours in damp_beds(scene, laying.wholes, lift)
                    if laying.end(top.id)
                )
                if lift is patch.lifts[0]:
                    damp += _casting_dry(patch, casts)
                beside = [*separated.get(work.ids[0], []), *masked.get(work.ids[0], [])]
                after = tuple(dict.fromkeys([*waits_for, *beside]))
                steps += _course_steps(patch, lift, work, work.estimate, after, (*soft, *damp))
            below = [end, *(window.of for window in soft)]
            later = later_form_steps(scene, built, whole, casts, lift.id, end)
            steps += later
            below = [later[-1].id] if later else below
    return steps + [step for step in aside if step not in steps]


def _waited_for(scene: ResolvedScene, patch: Patch, lift: Lift, laying: Laying) -> list[str]:
    """Steps in other lay-ups that a lift waits for."""
    names = [end for name in lift.after if (end := laying.end(name))]
    for other in scene.patches:
        if other.id in laying.wholes[lift.id].touches and other.id != patch.id:
            before = [one for one in takewhile(lambda one: not one.levels_itself, other.lifts) if laying.end(one.id)]
            names += [laying.end(before[-1].id) or ""] if before else []
    return names


def _course_steps(
    patch: Patch,
    lift: Lift,
    work: Work,
    estimate: LiftEstimate,
    after: tuple[str, ...],
    windows: tuple[StepWindow, ...],
) -> list[Step]:
    """The steps of the courses that are to be laid, each after the one before; the first after what lies there."""
    steps: list[Step] = []
    mends = ""
    window: tuple[Window, ...] = ()
    of = work.first - 1 + len(estimate.courses)
    if work.there:
        last = work.there[-1].entry
        after = (*after, last.step)
        window = tuple(Window(one.what, one.from_h, one.to_h) for one in last.windows)
        if window and work.mend:
            steps.append(mending_step(work.mend, last.step, patch.id, lift.place))
            mends = steps[-1].id
    bond = work.there[-1].entry.step if work.there else ""
    for number, (step_id, course) in enumerate(zip(work.ids, estimate.courses, strict=True), start=work.first):
        if course.before and number == 1:
            put_up = preparing_step(course.before, step_id, after, patch.id, lift.place)
            steps.append(put_up)
            after = (*after, put_up.id)
        mixing = resting_step(course, step_id, after, patch.id, lift.place, estimate.hazards)
        steps += mixing
        steps.append(
            Step(
                id=step_id,
                do=course.do,
                after=(*after, *(one.id for one in mixing)),
                hands_on_min=course.hands_on_min,
                wait_h=course.wait_h,
                windows=(
                    *(windows if number == work.first else ()),
                    *(StepWindow(one.what, one.from_h, one.to_h, bond, mends) for one in window),
                    *(rested_window(course, one) for one in mixing),
                ),
                kind=lift.kind,
                lift=lift.id,
                place=lift.place,
                patch=patch.id,
                course=number,
                of=of,
                name=patch.short(lift) + (f" {number}" if of > 1 else ""),
                hazards=estimate.hazards,
                mess=kind_of(lift).mess(lift, estimate.mix),
                takes_cup=estimate.mix.family == "resin",
            )
        )
        steps += act_steps(course, step_id, patch.id, lift.place)
        after, window, mends, bond = (step_id,), course.next_window, "", step_id
        if course.mend:
            mending = mending_step(course.mend, step_id, patch.id, lift.place)
            steps.append(mending)
            mends = mending.id
    return steps
