"""Steps of a plan: what is done in which order, how long it takes, how long it waits, and within which windows."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise, takewhile

from ..document import ResolvedScene
from ..document.scene import Lift, Patch
from ..fault import fault
from ..judging.neighbours import damp_beds
from ..lifts.cast import CastPlan
from ..lifts.estimate import LiftEstimate, Window
from ..lifts.fold import Build
from ..lifts.kinds import kind_of
from .acts import (
    act_steps,
    mending_step,
    preparing_step,
    protect_steps,
    rested_window,
    resting_step,
    separator_steps,
    step_ids,
)
from .batches import Shared
from .form_steps import form_steps, later_form_steps
from .model import Step, StepWindow

SAME_DAY_H = 24.0  # a colour still soaks into a skin of that day, craft estimate
WALK_MIN = 1.0  # from one spot to the next, craft estimate


def steps_of(
    scene: ResolvedScene,
    built: Build,
    estimates: dict[str, LiftEstimate],
    casts: dict[str, CastPlan],
    groups: tuple[Shared, ...],
) -> tuple[Step, ...]:
    """All steps of a scene: gates, forms, then lifts with what is put in and pulled beside them."""
    of_forms, last_form = form_steps(scene, built, casts)
    lift_steps = _sharing(scene, groups, estimates, _lift_steps(scene, built, estimates, casts, last_form))
    return _gated(scene, (*of_forms, *lift_steps))


def _sharing(
    scene: ResolvedScene, groups: tuple[Shared, ...], estimates: dict[str, LiftEstimate], steps: list[Step]
) -> list[Step]:
    """The steps, each with those whose bowl it uses up: it must begin early enough to be done within working time."""
    bowls: dict[str, dict[str, float]] = {}
    for group in groups:
        if len(group.shares) < 2 or group.working_min is None:
            continue
        for number in range(group.batches.count):
            feeds = group.feeds(number)
            ids = [step_ids(share.lift, estimates[share.lift])[share.layer - 1] for share, _ in feeds]
            pairs = [(first, second) for first, second in pairwise(ids) if first != second]
            used = sum(part for _, part in feeds) / scene.bench.spread_ml_per_min + WALK_MIN * len(pairs)
            for first, second in pairs:
                # All that is left over, shared out: together the gaps stay within the bowl's working time.
                bowls.setdefault(second, {})[first] = max((group.working_min - used) / len(pairs), 0.0)
    return [replace(step, bowl=tuple(bowls[step.id].items())) if step.id in bowls else step for step in steps]


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
    made = casts.get(getattr(patch.area, "on", ""))
    if made is None or made.hours.full.value is None:
        return ()
    last = f"cast-{getattr(patch.area, 'on', '')}-{len(made.minutes)}"
    return (StepWindow("the pieces are dry", made.hours.full.value, None, last),)


def _while_soft(
    lift: Lift, bed: Lift | None, estimates: dict[str, LiftEstimate], ends: dict[str, str], where: str
) -> tuple[StepWindow, ...]:
    """When a lift that goes into something soft must come. Raises Faults where nothing beneath it is."""
    under = estimates[bed.id] if bed else None
    if getattr(lift, "into", None) is None:
        if getattr(lift, "how", "") != "blot" or bed is None or under is None or under.damp_h is None:
            return ()
        return (StepWindow(f"the same day as {bed.title.lower()}", under.damp_h[0], SAME_DAY_H, ends[bed.id]),)
    washed = under.damp_h if under and lift.kind == "coat" else None
    if bed is None or under is None or (washed is None and under.soft_h is None):
        right = "lay it on a skin, a paste or a gel, or leave `into` out"
        raise fault(f"{where}.into", "nothing beneath it is ever soft", right)
    if washed is not None:
        return (StepWindow(f"{bed.title} is damp", *washed, ends[bed.id]),)
    return (StepWindow(f"{bed.title} is soft", 0.0, under.soft_h, ends[bed.id]),)


def _lift_steps(
    scene: ResolvedScene,
    built: Build,
    estimates: dict[str, LiftEstimate],
    casts: dict[str, CastPlan],
    last_form: str | None,
) -> list[Step]:
    ends = {name: step_ids(name, estimate)[-1] for name, estimate in estimates.items()}
    separating, separated = separator_steps(scene, built, estimates, ends, last_form)
    masking, masked = protect_steps(scene, built, estimates, ends, last_form)
    aside = separating + masking
    steps = [step for step in aside if not any(window.of in ends.values() for window in step.windows)]
    for patch in scene.patches:
        below = [last_form] if last_form else []
        for place, lift in enumerate(patch.lifts):
            estimate = estimates[lift.id]
            bed = patch.lifts[place - 1] if place else None
            soft = _while_soft(lift, bed, estimates, ends, built.stages[lift.id].site.where)
            waits_for = [one for one in below if not any(one == window.of for window in soft)]
            waits_for += [ends[name] for name in lift.after]
            for other in scene.patches:
                if other.id in estimate.touches and other.id != patch.id:
                    before = list(takewhile(lambda one: not one.levels_itself, other.lifts))
                    waits_for += [ends[before[-1].id]] if before else []
            window: tuple[Window, ...] = ()
            mends = ""
            damp = tuple(
                StepWindow(f"{top.title} on {other.name} dry", hours, None, ends[top.id])
                for other, top, hours in damp_beds(scene, estimates, lift)
            )
            if lift is patch.lifts[0]:
                damp += _casting_dry(patch, casts)
            first = step_ids(lift.id, estimate)[0]
            after = tuple(dict.fromkeys([*waits_for, *separated.get(first, []), *masked.get(first, [])]))
            for number, (step_id, course) in enumerate(
                zip(step_ids(lift.id, estimate), estimate.courses, strict=True), start=1
            ):
                if course.before:
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
                            *((*soft, *damp) if number == 1 else ()),
                            *(StepWindow(one.what, one.from_h, one.to_h, after[0], mends) for one in window),
                            *(rested_window(course, one) for one in mixing),
                        ),
                        kind=lift.kind,
                        lift=lift.id,
                        place=lift.place,
                        patch=patch.id,
                        course=number,
                        of=len(estimate.courses),
                        name=lift.short_title + (f" {number}" if len(estimate.courses) > 1 else ""),
                        hazards=estimate.hazards,
                        mess=kind_of(lift).mess(lift, estimate.mix),
                        takes_cup=estimate.mix.family == "resin",
                    )
                )
                steps += act_steps(course, step_id, patch.id, lift.place)
                after, window, mends = (step_id,), course.next_window, ""
                if course.mend:
                    mending = mending_step(course.mend, step_id, patch.id, lift.place)
                    steps.append(mending)
                    mends = mending.id
            below = [ends[lift.id], *(window.of for window in soft)]
            later = later_form_steps(scene, built, estimate, casts, lift.id, ends[lift.id])
            steps += later
            below = [later[-1].id] if later else below
    return steps + [step for step in aside if step not in steps]
