"""What happened at the bench: batches mixed, and events of steps. Rows keep the plan as it stood."""

from __future__ import annotations

from datetime import datetime

from sqlalchemy import select, union
from sqlalchemy.orm import Session, joinedload

from ..core.built import kept_cup
from ..core.built.ratio import slowed
from ..core.document import ResolvedScene
from ..core.document.built import Built, BuiltBatch, BuiltPart
from ..core.fault import Faults, fault
from ..core.lifts.cast import CastPlan
from ..core.lifts.estimate import LiftPlan
from ..core.lifts.kinds.pour.course import KEPT_CUP
from ..core.plan import Batch, Plan, Step
from ..core.plan import plan as plan_of
from ..core.plan.record import leaves_something, record
from ..core.schedule import Schedule
from ..core.stock.asking import taken_by
from ..core.wet import ComingStep, LaidStep, OpenCup, SceneWork
from . import built, clock, labels, marks, settings, shelf
from . import scenes as documents
from .kept import kept, once
from .planned import PlannedBatch, PlannedPart, PlannedStep
from .tables import BatchRow, BuiltRow, ForecastRow, MovedWaitRow, RevisionRow, SceneRow, StepEventRow


class NoSuchBatch(LookupError):  # noqa: N818 - reads as what it is
    """There is no batch row of that number in this scene."""


def start_batch(
    session: Session,
    scene: SceneRow,
    batch: str,
    planned: PlannedBatch,
    room: tuple[float, float],
    now: datetime,
) -> BatchRow:
    """A batch whose working time runs from now; `planned` are its figures, `room` degC and humidity.

    A batch of that name that is already open is returned as it is: a second press starts no second clock.
    """
    running = session.scalar(
        select(BatchRow).where(BatchRow.scene_id == scene.id, BatchRow.batch == batch, BatchRow.finished_at.is_(None))
    )
    if running:
        return running
    row = BatchRow(
        scene_id=scene.id,
        revision_id=scene.head_id or 0,
        batch=batch,
        lift=planned.lift,
        planned=planned.model_dump(mode="json"),
        temp_c=room[0],
        rh=room[1],
        started_at=now,
    )
    session.add(row)
    session.flush()
    return row


def get_batch(session: Session, scene: SceneRow, row_id: int) -> BatchRow:
    """A batch row of this scene. Raises NoSuchBatch."""
    row = session.get(BatchRow, row_id)
    if row is None or row.scene_id != scene.id:
        raise NoSuchBatch(str(row_id))
    return row


def write_down(row: BatchRow, actual: dict[str, float]) -> None:
    """What really went in, by ingredient; keeps what was written before for the others."""
    row.actual = {**row.actual, **actual}


def finish_batch(session: Session, row: BatchRow, now: datetime, note: str = "") -> None:
    """The cup is empty, and what went in is off the shelf."""
    if row.finished_at is not None:
        return
    row.finished_at = now
    row.note = note[:500]
    materials = labels.labelled(session).materials
    parts = []
    for ingredient in batch_of(row).ingredients:
        if ingredient.material in materials:
            share = row.actual.get(ingredient.key, ingredient.mass_g) / (ingredient.mass_g or 1.0)
            parts.append(
                (
                    materials[ingredient.material],
                    ingredient.part,
                    ingredient.volume_ml * share,
                    ingredient.mass_g * share,
                )
            )
    shelf.book_batch(session, row, parts, now)


@once
def batches(session: Session, scene: SceneRow) -> list[BatchRow]:
    """All batches of a scene, the newest first."""
    return list(
        session.scalars(
            select(BatchRow)
            .where(BatchRow.scene_id == scene.id)
            .order_by(BatchRow.started_at.desc(), BatchRow.id.desc())
        )
    )


def noted(session: Session, scene: SceneRow) -> list[StepEventRow]:
    """The marks of a scene that say something in words, the oldest first."""
    wanted = select(StepEventRow).where(StepEventRow.scene_id == scene.id, StepEventRow.note != "")
    return list(session.scalars(wanted.order_by(StepEventRow.id)))


def add_event(
    session: Session,
    scene: SceneRow,
    opened: tuple[ResolvedScene, Plan],
    step: Step,
    what: str,
    at: datetime,
    *,
    note: str = "",
    share: float = 1.0,
    wait_h: float | None = None,
) -> StepEventRow:
    """Something that happened to a step at a moment; a note says why. What was done (`part`: a `share` of it) leaves
    its record, with the figures of the plan that is open; a later time for what was done leaves them as they were.
    Raises Faults for a touch of a kept cup that says nothing of the step."""
    plan = opened[1]
    planned = planned_step(plan, step)
    if what in marks.OF_CUP:
        planned = planned.model_copy(update={"stands_for": _of_cup(session, scene, opened[0], step, at)})
    row = StepEventRow(
        scene_id=scene.id,
        revision_id=scene.head_id or 0,
        step=step.id,
        lift=step.lift,
        what=what,
        planned=planned.model_dump(mode="json"),
        at=at,
        note=note[:500],
    )
    before = marks.holding(marks.events(session, scene)).get(step.id, [])
    session.add(row)
    session.flush()
    if what in marks.LAID:
        _book(session, scene, row, before, opened, step, share)
    if what in marks.LAID and leaves_something(step):
        begun = _begun(before)
        begun = begun if begun is not None and begun <= at else None
        built.add(session, row, _record(session, scene, row, before, opened, step, begun, share, wait_h))
    return row


def _begun(before: list[StepEventRow]) -> datetime | None:
    """When the work that ends now was begun first: a pause is no end."""
    begun = None
    for event in before:
        if event.what in marks.LAID:
            begun = None
        elif event.what == "started" and begun is None:
            begun = event.at
    return begun


def _book(
    session: Session,
    scene: SceneRow,
    event: StepEventRow,
    before: list[StepEventRow],
    opened: tuple[ResolvedScene, Plan],
    step: Step,
    share: float,
) -> None:
    """Take off the shelf what the step took; of one that was done already, what a mended share makes of it."""
    if not shelf.rows(session):
        return
    resolved, plan = opened
    last = next((one for one in reversed(before) if one.what in marks.LAID), None)
    if last is not None:
        known = built.row_of(session, last)
        was = built.record_of(known).share if known is not None else 1.0
        shelf.book_again(session, last, event, share / (was or 1.0) - 1, event.at)
        return
    mixed = {row.batch for row in batches(session, scene) if row.finished_at is not None}
    fed = [
        (batch.id in mixed, feed.volume_ml.number)
        for batch in plan.batches
        for feed in batch.feeds
        if feed.into == (step.lift or step.form) and feed.layer == step.course
    ]
    whole = sum(ml for _, ml in fed)
    by_card = sum(ml for done, ml in fed if done) / whole if whole else 0.0
    uses = taken_by(resolved, plan, step, labels.labelled(session))
    shelf.book_step(session, event, uses, by_card, share, event.at)
    strewn = plan.lifts[step.lift].strewn if step.lift in plan.lifts else None
    if strewn is not None and step.course is not None:
        courses = step.of or 1
        _sweep_up(session, event, plan, step, strewn.swept_ml.number * resolved.copies * share / courses)


def _sweep_up(session: Session, event: StepEventRow, plan: Plan, step: Step, swept_ml: float) -> None:
    """What fell beside and was swept up: of one material it goes back to its pack, of a blend into a jar of its own."""
    mixed = [use for use in plan.uses if use.step == step.id and use.mix]
    if swept_ml <= 0 or not mixed:
        return
    if len(mixed) > 1:
        shelf.into_jar(session, mixed[0].mix, swept_ml, event.at, event=event.id, note="swept up")
        return
    made = plan.lifts[step.lift or ""]
    part = next(one for one in made.ingredients if not one.aside)
    grams = swept_ml * part.mass_g.number / (part.volume_ml.number or 1.0)
    shelf.give_back(session, event, part.material, swept_ml, grams)


def _record(
    session: Session,
    scene: SceneRow,
    event: StepEventRow,
    before: list[StepEventRow],
    opened: tuple[ResolvedScene, Plan],
    step: Step,
    begun: datetime | None,
    share: float,
    wait_h: float | None,
) -> Built:
    resolved, plan = opened
    name = built.name_of(event)
    last = next((one for one in reversed(before) if one.what in marks.LAID), None)
    known = built.row_of(session, last) if last is not None and step.built else None
    if known is not None:
        # Its time or its share is mended: what was laid, and on what, is known from then.
        event.revision_id = known.revision_id
        was = built.record_of(known)
        amount = None if was.volume_ml is None else was.volume_ml * share / (was.share or 1.0)
        return was.model_copy(
            update={"id": name, "ended": event.at, "begun": begun, "share": share, "volume_ml": amount}
        )
    return record(
        resolved, plan, step, name=name, ground=built.ground_name(scene.head), ended=event.at, begun=begun, share=share,
        wait_h=wait_h, batches=_batches_in(session, scene, step), note=event.note,
    )  # fmt: skip


def _batches_in(session: Session, scene: SceneRow, step: Step) -> tuple[BuiltBatch, ...]:
    """The batches that went into a step, as they were planned and as they really went."""
    by_lift = {}
    for row in reversed(batches(session, scene)):
        if row.batch in step.batch:
            by_lift[row.batch] = built_batch(row)
    return tuple(by_lift.values())


def built_batch(row: BatchRow) -> BuiltBatch:
    """A batch as the records of what was built have it: as it was planned, and as it really went."""
    planned = batch_of(row)
    parts = tuple(
        BuiltPart(material=one.material, part=one.part, planned_g=one.mass_g, actual_g=row.actual.get(one.key))
        for one in planned.ingredients
    )
    return BuiltBatch(batch=row.batch, mix=planned.mix, parts=parts)


def _of_cup(session: Session, scene: SceneRow, resolved: ResolvedScene, step: Step, at: datetime) -> datetime:
    """The moment of the layer for which a touch of its kept cup stands. Raises Faults where it says nothing of it."""
    entry = next((one for one in reversed(resolved.built) if one.step == step.id), None)
    rows = [row for row in batches(session, scene) if row.batch in step.batch and row.started_at <= at]
    stands = None
    if entry is not None:
        mixed = rows[0].started_at if rows else entry.ended
        kept_ml = resolved.bench.cup_ml * KEPT_CUP
        stands = kept_cup.stands_for(entry, min(mixed, at), at, kept_ml, resolved.room_of(step.place))
    if stands is None:
        raise fault("cup", f"no cup of “{step.do}” can tell how far it is", "touch the work itself")
    return stands


def record_old_marks(session: Session) -> None:
    """Records for marks of a database from before there were any, by the plans of their own revisions; a mark whose
    revision cannot be planned, or had no such step, stays a mark alone."""
    bench = settings.read(session).bench
    for scene in session.scalars(select(SceneRow)):
        for event in marks.laid(marks.events(session, scene)):
            revision = session.get(RevisionRow, event.revision_id)
            if revision is None or built.row_of(session, event) is not None:
                continue
            try:
                resolved = documents.resolve_as_written(session, revision, bench)
                planned = plan_of(resolved)
            except Faults:
                continue
            step = next((one for one in planned.steps if one.id == event.step and leaves_something(one)), None)
            if step is not None:
                ground = built.ground_name(revision)
                kept = record(resolved, planned, step, name=built.name_of(event), ground=ground, ended=event.at,
                              wait_h=step_of(event).wait_h, batches=_batches_in(session, scene, step))  # fmt: skip
                built.add(session, event, kept)


def step_of(event: StepEventRow) -> PlannedStep:
    """The figures that an event keeps."""
    return PlannedStep.model_validate(event.planned)


def batch_of(row: BatchRow) -> PlannedBatch:
    """The figures that a batch keeps."""
    return PlannedBatch.model_validate(row.planned)


def _names(scene: SceneRow) -> tuple[str, dict[str, str]]:
    """The scene's name and its lifts' patches; for a revision that this version cannot read, its address alone."""
    try:
        document = documents.document(scene.head)
    except Faults:
        return scene.slug, {}
    return document.name, {lift.id: patch.name for patch in document.patches for lift in patch.lifts}


def working_min(session: Session, row: BatchRow) -> float | None:
    """How long an open batch can be worked, as the room has moved it."""
    newest = select(MovedWaitRow.hours).where(MovedWaitRow.batch_id == row.id).order_by(MovedWaitRow.id.desc())
    found = session.execute(newest.limit(1)).first()
    return batch_of(row).working_min if found is None else None if found[0] is None else found[0] * 60


def at_work(session: Session) -> list[SceneRow]:
    """Scenes on which something was marked, mixed or scheduled: of others the wet line has nothing to say."""
    touched = (select(table.scene_id) for table in (StepEventRow, BatchRow, ForecastRow))
    known = (
        select(SceneRow)
        .options(joinedload(SceneRow.head))
        .where(SceneRow.id.in_(union(*touched)), SceneRow.archived_at.is_(None), SceneRow.binned_at.is_(None))
    )
    return list(session.scalars(known.order_by(SceneRow.id)))


@kept
def work_on(session: Session, scene: SceneRow) -> SceneWork:
    """What is known of the work on a scene, for the wet line."""
    name, spots = _names(scene)
    known = marks.marks(marks.events(session, scene))
    forecast = clock.latest(session, scene)
    gone = {*known.done, *known.skipped}
    timed = Schedule.of(forecast.made).steps if forecast is not None else ()
    laid = [record for _, record in built.in_force(session, scene)]
    return SceneWork(
        name,
        scene.slug,
        spots,
        tuple(
            OpenCup(planned.lift, row.started_at, working_min(session, row), row.id)
            for row in batches(session, scene)
            if row.finished_at is None
            for planned in [batch_of(row)]
        ),
        tuple(
            LaidStep(one.step, one.lift.id, one.title, one.ended, slowed(one, one.wait_h))
            for one in laid
            if one.lift is not None
        ),
        tuple(
            ComingStep(one.step, one.lift, one.title, datetime.fromisoformat(one.start))
            for one in timed
            if one.scene in ("", scene.slug) and one.step not in gone and one.state in ("planned", "begun")
        ),
        known,
    )


def used_ids(session: Session, scene: SceneRow) -> frozenset[str]:
    """Ids of all lifts, patches and forms of a scene on which work was ever done, and of its steps, whether they are
    still there or not."""
    marked = marks.events(session, scene)
    ids = {one for event in marked for one in (event.lift, event.step)}
    ids |= {row.lift for row in batches(session, scene)}
    for row in session.scalars(select(BuiltRow).where(BuiltRow.scene_id == scene.id)):
        entry = built.record_of(row)
        ids |= {entry.patch, *entry.forms}
    return frozenset(one for one in ids if one)


def mixed_for(plan: Plan, into: str) -> LiftPlan | CastPlan:
    """The figures of the lift, or of the casting's pieces, that a batch feeds."""
    if into in plan.lifts:
        return plan.lifts[into]
    made = plan.forms[into].cast
    assert made is not None
    return made


def planned_batch(plan: Plan, batch: Batch) -> PlannedBatch:
    """The figures of a batch as a row keeps them: what was planned when it was mixed."""
    first = batch.feeds[0]
    mixed = mixed_for(plan, first.into)
    whole = mixed.mixed_ml if isinstance(mixed, LiftPlan) else None
    share = batch.volume_ml.number / (whole or mixed.mix_ml.number)
    return PlannedBatch(
        lift=first.into,
        course=first.layer,
        mix=batch.mix,
        volume_ml=batch.volume_ml.number,
        working_min=batch.working_min,
        times=plan.times(batch.mix, "volume"),
        feeds=tuple((feed.into, feed.layer, feed.volume_ml.number) for feed in batch.feeds),
        ingredients=tuple(
            PlannedPart(
                key=f"{part.material}:{part.part or ''}",
                material=part.material,
                part=part.part,
                volume_ml=part.volume_ml.number * share,
                mass_g=part.mass_g.number * share,
                drops=None if part.drops is None else part.drops.number * share,
            )
            for part in mixed.ingredients
            if not part.aside
        ),
    )


def planned_step(plan: Plan, step: Step) -> PlannedStep:
    """The figures of a step as a row keeps them."""
    mix = next((batch.mix for batch in plan.batches if batch.id in step.batch), None)
    return PlannedStep(
        do=step.do,
        title=step.title,
        wait_h=step.wait_h,
        hands_on_min=step.hands_on_min,
        course=step.course,
        of=step.of,
        volume_ml=layer.volume_ml.number if (layer := plan.layer(step)) else None,
        mix=mix,
        hours_times=plan.times(mix, "hours") if mix else 1.0,
        hands_times=plan.times(mix, "hands") if mix else 1.0,
    )


def empty_cup(
    session: Session,
    scene: SceneRow,
    row: BatchRow,
    opened: tuple[ResolvedScene, Plan],
    now: datetime,
    note: str,
    kept_ml: float = 0.0,
) -> str:
    """The cup is empty, but for what is kept of a mix that does not harden by itself. With a course's last batch its
    step is done, and hardening starts. The batch that comes next: another of a course that this one feeds, else this
    one."""
    if kept_ml > 0 and row.finished_at is None:
        shelf.into_jar(session, batch_of(row).mix, kept_ml, now, batch=row.id, note="left over")
    finish_batch(session, row, now, note)
    plan = opened[1]
    emptied = {one.batch for one in batches(session, scene) if one.finished_at is not None}
    done = marks.marks(marks.events(session, scene)).done
    left: list[str] = []
    for into, course, _ in batch_of(row).feeds:
        wanted = [
            batch.id for batch in plan.batches if any((feed.into, feed.layer) == (into, course) for feed in batch.feeds)
        ]
        left += [batch for batch in wanted if batch not in emptied]
        step = laying(plan, into, course)
        if step and step.id not in done and emptied.issuperset(wanted):
            add_event(session, scene, opened, step, "done", now)
    return left[0] if left else row.batch


def laying(plan: Plan, into: str, course: int) -> Step | None:
    """The step in which a course of a lift is laid, or the moulds of a casting are filled."""
    known = [step for step in plan.steps if into in (step.lift, step.form) and step.course == course]
    return next((step for step in known if not step.built), known[0] if known else None)
