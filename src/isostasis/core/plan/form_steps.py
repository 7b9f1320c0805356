"""Steps of the forms: cut, tried together dry, glued in one go, and what is cast or shaped after a lift."""

from __future__ import annotations

from dataclasses import replace
from itertools import groupby

from ..built.forms import FormsMade, free_step
from ..document import ResolvedScene
from ..document.resolve import BATTEN
from ..document.scene import Form
from ..ground.field import Shaped
from ..lifts.cast import CastPlan
from ..lifts.estimate import LiftEstimate
from ..lifts.fold import Build
from ..lifts.labels import Labels
from .model import Step, StepWindow

GLUE_LINE_H = 12.0
GLUE_CM2_PER_MIN = 200.0  # spread, set on and pressed; craft estimate
FORM_WORK = frozenset({"form", "glue", "cast"})
BATTEN_MIN = 8.0  # to cut, glue and screw one; craft estimate
IN_ONE_GO_MIN = 60.0  # of gluing at a stretch, craft estimate: then the rest has an evening of its own
SANDWICH = 3  # foams on one another, from which a water-based glue between them dries through their edges alone


def _hazards(labels: Labels, *names: str | None) -> frozenset[str]:
    return frozenset(hazard for name in names if name for hazard in labels.materials[name].hazards)


def _form_minutes(one: Shaped) -> float:
    """Cutting goes at 200 mm of edge a minute, shaping a face at 30 cm2 a minute, craft estimates."""
    return 10 + (one.edge_mm / 200 if one.form.by_edge else one.area_mm2 / 100 / 30)


def _form_step(shaped: Shaped, labels: Labels, after: tuple[str, ...], windows: tuple[StepWindow, ...] = ()) -> Step:
    form = shaped.form
    placed = form.kind in ("sheet", "ramp") and not form.glue
    do = form.do.format(form.title) + (" and set it in place" if placed else "")
    material = labels.materials[form.made_of] if form.made_of else None
    foam = material is None or material.family == "foam"
    return Step(
        id=f"form-{form.id}",
        do=do,
        after=after,
        hands_on_min=_form_minutes(shaped),
        wait_h=0.0,
        windows=windows,
        kind="form",
        form=form.id,
        place=form.place,
        hazards=(_hazards(labels, form.made_of) | {"cutting", "hot-wire"}) if foam else _hazards(labels, form.made_of),
        mess="foam dust" if foam else "",
    )


def _stacks(glued: list[Shaped]) -> list[list[Shaped]]:
    """Sheets that are glued in one go: one after the other, with the same glue, at the same place, and no more than
    can be glued at a stretch."""
    stacks: list[list[Shaped]] = []
    for shaped in glued:
        joins = bool(stacks) and shaped.form.kind == "sheet" and _alike(stacks[-1][-1], shaped)
        if joins and _glue_minutes([*stacks[-1], shaped]) <= IN_ONE_GO_MIN:
            stacks[-1].append(shaped)
        else:
            stacks.append([shaped])
    return stacks


def _alike(one: Shaped, other: Shaped) -> bool:
    mine, theirs = one.form, other.form
    return (mine.kind, mine.made_of, mine.glue, mine.place) == (theirs.kind, theirs.made_of, theirs.glue, theirs.place)


def _glue_minutes(stack: list[Shaped]) -> float:
    return 5 + sum(one.area_mm2 for one in stack) / 100 / GLUE_CM2_PER_MIN


def _names(stack: list[Shaped]) -> str:
    titles = [one.form.title for one in stack]
    return titles[0] if len(titles) == 1 else f"{', '.join(titles[:-1])} and {titles[-1]}"


def _cut_step(stack: list[Shaped], labels: Labels) -> Step:
    """One visit in which all sheets of a stack are cut."""
    step = _form_step(stack[0], labels, ())
    if len(stack) == 1:
        return step
    minutes = sum(_form_minutes(one) - 10 for one in stack) + 10
    also = tuple(one.form.id for one in stack[1:])
    return replace(step, do=f"Cut the sheets {_names(stack)}, all in one go", hands_on_min=minutes, forms=also)


def _glue_step(stack: list[Shaped], labels: Labels, after: tuple[str, ...]) -> Step:
    """All sheets of a stack in one go; they wait once, after the last. Inside a stack of foams a water-based glue has
    no drying face, and takes twice as long."""
    form = stack[0].form
    glue = labels.materials[form.glue or ""]
    foam = labels.materials[form.made_of].family == "foam" if form.made_of else False
    inside = foam and glue.dries is not None and len(stack) >= SANDWICH
    together = ", one on the other in one go, then weights on all" if len(stack) > 1 else ""
    return Step(
        id=f"glue-{form.id}",
        do=f"Glue {_names(stack)} with {glue.name.lower()}{together}: {glue.glue_how}",
        after=after,
        hands_on_min=_glue_minutes(stack),
        wait_h=(glue.glue_line_h or GLUE_LINE_H) * (2 if inside else 1),
        kind="glue",
        form=form.id,
        forms=tuple(one.form.id for one in stack[1:]),
        place=form.place,
        hazards=_hazards(labels, form.glue),
    )


def _cast_steps(form: Form, cast: CastPlan) -> list[Step]:
    """One step a round of filling the moulds; the next round waits until they are free again."""
    steps: list[Step] = []
    demould = cast.hours.next.value
    for number, minutes in enumerate(cast.minutes, start=1):
        again = f", round {number} of {len(cast.minutes)}" if len(cast.minutes) > 1 else ""
        do = f"Cast {form.title}{again}: fill the moulds, tap the bubbles out, strike the backs level"
        after = (steps[-1].id,) if steps else ()
        steps.append(
            Step(
                f"cast-{form.id}-{number}", do, after, minutes, demould, kind="cast", form=form.id,
                place=form.place, course=number, of=len(cast.minutes), hazards=cast.hazards, mess="plaster",
            )
        )  # fmt: skip
    return steps


def _placed(
    shaped: Shaped,
    labels: Labels,
    casts: dict[str, CastPlan],
    after: tuple[str, ...],
    windows: tuple[StepWindow, ...] = (),
) -> list[Step]:
    """A form's steps; a casting's pieces are cast before it is set."""
    made = casts.get(shaped.form.id)
    casting = _cast_steps(shaped.form, made) if made else []
    return [*casting, _form_step(shaped, labels, (*after, *(step.id for step in casting[-1:])), windows)]


def form_steps(scene: ResolvedScene, built: Build, casts: dict[str, CastPlan]) -> tuple[list[Step], str | None]:
    """Steps of the forms that wait for no lift, and the last that must be done before the first lift.

    What is glued is cut first, then tried together dry, then glued, a stack in one go; cuts come when what they go into
    holds.
    """
    labels = Labels.of(scene)
    bare = [one for one in built.forms if not one.form.after]
    runs = [
        (glued, list(run)) for glued, run in groupby(bare, key=lambda one: bool(one.form.glue) and not one.form.cuts)
    ]
    stacks = {number: _stacks(run) for number, (glued, run) in enumerate(runs) if glued}
    steps = [_cut_step(stack, labels) for run in stacks.values() for stack in run]
    placed: tuple[str, ...] = ()
    if scene.base.battens:
        steps.insert(0, _batten_step(scene.base.battens * scene.copies, labels))
        placed = (steps[0].id,)
    fits = 0
    for number, (glued, run) in enumerate(runs):
        if glued:  # pieces on what is there by now: tried dry together before the first is glued
            fits += 1
            steps.append(_trial_fit(fits, stacks[number], placed))
            placed = (steps[-1].id,)
            for stack in stacks[number]:
                steps.append(_glue_step(stack, labels, placed))
                placed = (steps[-1].id,)
        else:
            for one in run:
                steps += _placed(one, labels, casts, placed)
                placed = (steps[-1].id,)
    return steps, placed[0] if placed else None


def _batten_step(count: int, labels: Labels) -> Step:
    """Battens under the board before anything wet can bend it."""
    do = f"Glue and screw {count} batten{'s' if count > 1 else ''} across under the board, before anything is wet"
    hazards = _hazards(labels, BATTEN)
    return Step("battens", do, (), 5 + BATTEN_MIN * count, GLUE_LINE_H, kind="battens", hazards=hazards)


def _trial_fit(number: int, stacks: list[list[Shaped]], placed: tuple[str, ...]) -> Step:
    """Cut pieces put together dry, on what lies under them already."""
    cut = tuple(f"form-{stack[0].form.id}" for stack in stacks)
    pieces = sum(len(stack) for stack in stacks)
    do = "Put the cut pieces together dry: heights, edges, joints"
    name = "trial-fit" if number == 1 else f"trial-fit-{number}"
    return Step(name, do, (*placed, *cut), 5 + 2 * pieces, 0.0, kind="trial-fit")


def later_form_steps(
    scene: ResolvedScene, built: Build, estimate: LiftEstimate, casts: dict[str, CastPlan], lift_id: str, laid: str
) -> list[Step]:
    """Steps of the forms that come once a lift is hard; its last step is `laid`."""
    labels = Labels.of(scene)
    hard = estimate.plan.hours.full.value
    after, windows = (laid,), () if hard is None else (StepWindow("hard", hard, None, laid),)
    steps: list[Step] = []
    for shaped in built.forms:
        if shaped.form.after == lift_id:
            steps += _placed(shaped, labels, casts, after, windows)
            if shaped.form.glue:
                steps.append(_glue_step([shaped], labels, (steps[-1].id,)))
            after, windows = (steps[-1].id,), ()
    return steps


def as_made(scene: ResolvedScene, steps: list[Step], forms_made: FormsMade, offs: tuple[str, ...]) -> list[Step]:
    """The steps, those of forms that were made just so as they were done; of what was made otherwise as new steps,
    which come once what must come off (`offs`) is off."""
    forms = {form.id: form for form in scene.forms}
    renamed: dict[str, str] = {}
    left: list[Step] = []
    taken = {*forms_made.used, *(step.id for step in steps)}  # a form may be called as another's second cut would be
    for step in steps:
        names = [name for name in (step.form, *step.forms) if name in forms]
        if step.kind not in FORM_WORK or not names:
            left.append(step)
            continue
        records = [forms_made.record(step.kind, forms[name], step.course or 1) for name in names]
        known = [record for record in records if record is not None]
        if len(known) == len(names):
            done = replace(step, id=known[0].step, after=(), windows=(), wait_h=known[0].wait_h, built=True)
            if all(one.id != done.id for one in left):
                left.append(done)
            renamed[step.id] = done.id
            continue
        if known:
            there = ", ".join(forms[name].title for name, one in zip(names, records, strict=True) if one)
            part = 1 - len(known) / len(names)
            do, minutes = f"{step.do} ({there}: done)", step.hands_on_min * part
        else:
            do, minutes = step.do, step.hands_on_min
        renamed[step.id] = free_step(step.id, taken) if step.id in forms_made.used else step.id
        taken.add(renamed[step.id])
        left.append(replace(step, id=renamed[step.id], do=do, hands_on_min=minutes, after=(*step.after, *offs)))
    return [
        replace(
            step,
            after=tuple(dict.fromkeys(renamed.get(one, one) for one in step.after)),
            windows=tuple(replace(one, of=renamed.get(one.of, one.of)) for one in step.windows),
        )
        if any(one in renamed for one in (*step.after, *(window.of for window in step.windows)))
        else step
        for step in left
    ]
