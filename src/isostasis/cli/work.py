"""Verbs for the bench: what to do now, and marking it."""

from __future__ import annotations

import json
from datetime import datetime
from typing import TYPE_CHECKING, Any

import click

from ..core.fault import Faults
from . import clock
from .shared import db_option, existing_database, json_option, parse_moment, parse_zone, refuse, stop

if TYPE_CHECKING:
    from ..core.bench import Act

WHATS = ("started", "paused", "done", "part", "skipped", "not-yet", "ready", "cup-not-yet", "cup-ready", "undone")
zone_option = click.option("--zone", help="Zone of the clock on the wall; this machine's unless given.")


def _told(act: Act) -> dict[str, Any]:
    """An act as machines read it."""
    return {
        "scene": act.scene.slug, "spot": act.spot, "urgency": act.urgency,
        "step": act.step.id if act.step else None, "do": act.step.do if act.step else "Pour out the cup",
        "at": act.at.isoformat(timespec="minutes") if act.at else None,
        "until": act.until.isoformat(timespec="minutes") if act.until else None,
    }  # fmt: skip


@click.command("now")
@json_option
@zone_option
@db_option
def now_(as_json: bool, zone: str | None, db: str) -> None:
    """What to do now and next, over all scenes at work. And in what state each spot is."""
    from ..core.bench import after_visit, agenda, spots
    from ..store import bench

    where = parse_zone(zone)
    moment = clock.now().astimezone(where)
    with existing_database(db).reading() as session:
        scenes = bench.at_work(session, moment)
        acts = [_told(act) for act in agenda(scenes, moment)]
        later = [_told(act) for act in [after_visit(scenes, moment)] if act is not None]
        states = {one.slug: {spot.patch: spot.state for spot in spots(one, moment)} for one in scenes}
    if as_json:
        click.echo(json.dumps({"acts": acts, "spots": states}, indent=1, ensure_ascii=False))
        return
    if not acts:
        click.echo("Nothing is due in the next four hours.")
    for act in acts or later:
        until = (
            f", in the cup until {datetime.fromisoformat(act['until']).astimezone(where):%H:%M}" if act["until"] else ""
        )
        at = f"{datetime.fromisoformat(act['at']).astimezone(where):%a %H:%M}" if act["at"] else ""
        click.echo(f"{act['urgency']:6} {at:10} {act['scene']}, {act['spot']}: {act['do']}{until}" + (
            f"  [{act['step']}]" if act["step"] else ""))  # fmt: skip


@click.command()
@click.argument("scene")
@click.argument("step")
@click.argument("what", type=click.Choice(WHATS))
@click.option("--at", help="When; now unless given.")
@click.option("--note", default="", help="Why it is skipped, or what was seen.")
@click.option("--share", type=click.FloatRange(0.01, 1), default=1.0, help="Of a part: how much of it is done, 0 to 1.")
@zone_option
@db_option
def mark(scene: str, step: str, what: str, at: str | None, note: str, share: float, zone: str | None, db: str) -> None:
    """Mark a STEP of a SCENE as started, done, and so on. Also paused, skipped, touched (not-yet, ready; by its kept
    cup: cup-not-yet, cup-ready); done may be a part of it; or its last mark is taken back."""
    from ..core.plan import plan
    from ..store import NoSuchScene, logbook, marks, scenes
    from ..store.marking import refuse as refuse_mark
    from ..store.marking import wait_from

    where = parse_zone(zone)
    moment = parse_moment(at, "at", where) if at else clock.now().astimezone(where)
    if moment > clock.now().astimezone(where):
        stop(f"at: {moment:%a %d %b %H:%M} is yet to come; write when it happened")
    try:
        with existing_database(db).writing() as session:
            row = scenes.find(session, scene)
            resolved = scenes.resolve(session, row.head)
            planned = plan(resolved)
            step_named = next((one for one in planned.steps if one.id == step and not one.gate), None)
            if step_named is None:
                stop(f"{scene} has no step '{step}'; `isostasis now` names them")
            known = marks.marks(marks.events(session, row))
            refuse_mark(planned, step_named, what, moment, at is not None, note, known, where)
            wait_h = wait_from(resolved, step_named, moment) if what in marks.LAID else None
            logbook.add_event(
                session, row, (resolved, planned), step_named, what, moment, note=note, share=share, wait_h=wait_h
            )  # fmt: skip
    except NoSuchScene:
        stop(f"there is no scene '{scene}'")
    except Faults as faults:
        refuse(faults)
    click.echo(f"{what}: {step_named.do}")


@click.command()
@click.option("--at", required=True, help="HOST:PORT at which the scale speaks its lines (docs/formats.md).")
@click.option("--count", type=click.IntRange(1, 100_000), default=1, show_default=True, help="How many readings.")
def weigh(at: str, count: int) -> None:
    """Readings of a scale, a line each: g, and whether it is steady."""
    from ..standins.scale import scale_at

    try:
        scale = scale_at(at)
    except ValueError as problem:
        stop(f"at: {problem}")
    for _ in range(count):
        try:
            weight = scale.read(clock.now())
        except OSError as error:
            stop(f"{at}: {error.strerror or error}")
        click.echo(
            "overloaded" if weight.grams is None else f"{weight.grams:.1f} g" + ("" if weight.steady else ", unsteady")
        )
