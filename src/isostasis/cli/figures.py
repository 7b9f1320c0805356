"""Verbs that work something out: plan, ground, schedule, incline."""

from __future__ import annotations

import json
from pathlib import Path

import click

from ..core.fault import Faults
from .shared import json_option, parse_moment, parse_zone, refuse, resolved_scene, stage_option, stop


@click.command()
@click.argument("scene")
@json_option
@click.option("--imperial", is_flag=True, help="Inches and fluid ounces in the readable plan.")
def plan(scene: str, as_json: bool, imperial: bool) -> None:
    """The plan of a scene file (- for standard input)."""
    from ..core.plan import plan as plan_of

    resolved = resolved_scene(scene)
    try:
        planned = plan_of(resolved)
    except Faults as faults:
        refuse(faults)
    if as_json:
        click.echo(json.dumps(planned.as_json(), indent=1, ensure_ascii=False))
        return
    from ..core.units import Measures
    from .readable import readable

    click.echo(readable(resolved, planned, Measures(system="imperial" if imperial else "metric")))


@click.command()
@click.argument("scene")
@json_option
@stage_option
@click.option("--slope", default=38.0, show_default=True, help="Slope for carve or fill, degrees.")
@click.option("--mix", default="paper-plaster", show_default=True, help="Compound for carve or fill.")
@click.option("--foot", type=float, help="Foot of a figure for the wobble test, mm; else that of your bench.")
def ground(scene: str, as_json: bool, stage: str, slope: float, mix: str, foot: float | None) -> None:
    """What is read off the ground of a scene. Areas, steps, joints, foam, flats."""
    from ..core.catalogue import shipped
    from ..core.plan import plan as plan_of
    from ..core.terrain.report import GroundQuery, report
    from .readable import readable_ground

    resolved = resolved_scene(scene)
    try:
        made = plan_of(resolved)
        answer = report(resolved, made.built, made.lifts, GroundQuery(stage, slope, mix, foot), shipped())
    except Faults as faults:
        refuse(faults)
    except KeyError:
        stop(f"stage: there is no form or lift '{stage}'; write bare, finished, or one of their ids")
    if as_json:
        click.echo(json.dumps(answer.as_json(), indent=1, ensure_ascii=False))
    else:
        click.echo(readable_ground(resolved, answer))


@click.command()
@click.argument("scenes", nargs=-1, required=True)
@click.option("--start", required=True, help="From when on, such as 2027-03-01T19:00+01:00.")
@click.option("--hours", required=True, help='Bench hours, such as "mon-fri 19:00-22:00; sat 09:00-17:00".')
@click.option("--deadline", help="By when it must be finished.")
@click.option("--zone", help="Zone of the clocks on the wall, such as Europe/Oslo [default: this machine's].")
@json_option
def schedule(
    scenes: tuple[str, ...], start: str, hours: str, deadline: str | None, zone: str | None, as_json: bool
) -> None:
    """When to do each step within your bench hours. Several scenes share one pair of hands."""
    from ..core.hours import parse_hours
    from ..core.schedule import ScheduleRequest
    from ..core.schedule.forecast import scheduled, steps_of

    resolved = {Path(scene).stem: resolved_scene(scene) for scene in scenes}
    wall = parse_zone(zone)
    begin = parse_moment(start, "start", wall)
    begin = begin.astimezone(wall) if zone else begin
    end = parse_moment(deadline, "deadline", wall) if deadline else None
    try:
        timetable = scheduled(resolved, ScheduleRequest(begin, parse_hours(hours), end))
        steps = steps_of(resolved)(begin)
    except Faults as faults:
        refuse(faults)
    if as_json:
        click.echo(json.dumps(timetable.as_json(), indent=1, ensure_ascii=False))
        return
    does = {step.id: step.do for step in steps}
    proved = {"optimal": "proved to be the earliest", "feasible": f"not before {timetable.bound}"}.get(
        timetable.status, ""
    )
    click.echo(
        f"finished {timetable.finish}, in {timetable.sessions} sessions; {proved}"
        if timetable.finish
        else "it cannot be kept"
    )
    for reason in timetable.why or ():
        click.echo(f"  ! {reason}")
    for one in sorted(timetable.steps, key=lambda timed: timed.start):
        until = f", before {one.window_to[11:16]}" if one.window_to else ""
        click.echo(f"  {one.start[:16].replace('T', ' ')} to {one.end[11:16]}{until}  {does[one.id]}")


@click.command()
@click.argument("height")
@click.option("--grade", default=2.5, show_default=True, help="Percent.")
def incline(height: str, grade: float) -> None:
    """Ways up to an odd HEIGHT (31 mm, 1 1/4 in). From stock risers, a wedge cut at the right place, or shims."""
    from ..core.catalogue import Bench
    from ..core.terrain.incline import solve
    from ..core.units import NotAMeasure, parse

    mine = Bench()
    try:
        answers = solve(parse(height, "length"), grade / 100, mine.risers_mm, mine.shims_mm, mine.grade_most)
    except NotAMeasure as problem:
        stop(f"height: {problem}")
    except Faults as faults:
        refuse(faults)
    for answer in answers:
        left = answer.left_over_mm.number
        click.echo(
            f"{answer.words()}; run {answer.run_mm.number:.4g} mm, {answer.pieces} pieces, {answer.cuts} cut"
            + (f", {left:.2g} mm short" if left > 0.05 else "")
        )
