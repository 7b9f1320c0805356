"""The plan as text for a terminal: the same figures as the JSON and the screen."""

from __future__ import annotations

from ..core.document import Scene
from ..core.figure import Figure
from ..core.plan import Plan
from ..core.terrain.report import Report
from ..core.units import Measures, show


def _text(figure: Figure, measures: Measures) -> str:
    return " ".join(show(figure.value, figure.unit, measures, figure.code)).strip()


def readable(scene: Scene, plan: Plan, measures: Measures) -> str:
    """The plan, patch by patch, then what to buy and the steps in order."""
    room = scene.room
    lines = [
        f"{plan.scene}: room {' '.join(show(room.temp_c, 'degC', measures))}, {room.rh:.0%}"
        + (f"; {scene.copies} copies, amounts are for one" if scene.copies > 1 else "")
    ]
    for patch in scene.patches:
        area = plan.patches[patch.id]
        lines.append(f"\n{patch.name}  ({_text(area.true_area_mm2, measures)} of ground)")
        for lift in patch.lifts:
            lift_plan = plan.lifts[lift.id]
            hours = lift_plan.hours
            if lift_plan.state == "done":
                lines.append(
                    f"  {lift.title:24} {lift_plan.kind:5} {_text(lift_plan.volume_ml, measures):>10} in place, done"
                )
                continue
            lines.append(
                f"  {lift.title:24} {lift_plan.kind:5} {_text(lift_plan.volume_ml, measures):>10} in place, "
                + (
                    f"{_text(lift_plan.strips.count, measures)} from {_text(lift_plan.strips.rolls, measures)}"
                    if lift_plan.strips
                    else f"mix {_text(lift_plan.mix_ml, measures)} ({_text(lift_plan.mass_g, measures)})"
                )
            )
            if lift_plan.state == "part" and lift_plan.remains_ml is not None:
                lines.append(f"    part done     {_text(lift_plan.remains_ml, measures)} still to be laid")
            parts = ", ".join(
                f"{part.material}{' ' + part.part if part.part else ''} {_text(part.drops or part.volume_ml, measures)}"
                + ("" if part.drops else f" = {_text(part.mass_g, measures)}")
                for part in lift_plan.ingredients
            )
            lines.append(f"    measure out   {parts}")
            if lift_plan.kind == "pour":
                layers = " + ".join(" ".join(show(layer.depth_mm.value, "mm", measures)) for layer in lift_plan.layers)
                peaks = [layer.peak_c for layer in lift_plan.layers if layer.peak_c]
                hot = ""
                if peaks:
                    most = max(peaks, key=lambda peak: peak.number)
                    high = " ".join(show(most.high, "degC", measures))
                    hot = f", hottest {_text(most, measures)} ({show(most.low, 'degC', measures)[0]} to {high})"
                lines.append(f"    {'lifts' if peaks else 'coats'}         {layers}{hot}")
            lines.append(
                f"    hours         work {_text(hours.workable, measures)}, next after {_text(hours.next, measures)}, "
                f"full after {_text(hours.full, measures)}"
            )
            lines += [f"    ! {notice.text}" for notice in lift_plan.warnings]
    lines.append("\nTo have at hand")
    lines += [f"  {need.material:24} {_text(need.need, measures)}" for need in plan.buy]
    lines.append("\nSteps")
    for step in plan.steps:
        if step.built:
            continue
        wait = "" if not step.wait_h else f", then wait {' '.join(show(step.wait_h, 'h', measures))}"
        lines.append(f"  {step.id:24} {step.do} ({round(step.hands_on_min)} min{wait})")
    lines.append("\nTake care")
    lines += [f"  {caution.text} [{', '.join(caution.steps)}]" for caution in plan.cautions]
    return "\n".join(lines)


def readable_ground(scene: Scene, report: Report) -> str:
    """What is read off the ground, section by section."""
    measures = Measures()
    lines = [scene.name]
    if report.reading:
        read = report.reading
        lines += [
            f"  true area {_text(read.true_area_mm2, measures)} over {_text(read.plan_area_mm2, measures)}",
            f"  from {_text(read.lowest_mm, measures)} to {_text(read.highest_mm, measures)}, "
            f"steepest {_text(read.steepest_deg, measures)}, {_text(read.weight_g, measures)}",
        ]
    for name, flight in (report.flights or {}).items():
        lines.append(
            f"  {name}: {flight.name}, to {flight.slope_deg:g}°: fill {_text(flight.fill_ml, measures)} "
            f"({_text(flight.fill_h, measures)} to dry), or carve {_text(flight.carve_ml, measures)} "
            f"({_text(flight.carve_min, measures)})"
        )
    for joint in (report.joints or {}).values():
        lines.append(
            f"  {joint.name}: sides differ by {_text(joint.mismatch_mm, measures)}, "
            f"{_text(joint.length_mm, measures)} long"
        )
        lines += [f"    separator for {one.lift}: {_text(one.length_mm, measures)}" for one in joint.separators]
    for foam in (report.foam or {}).values():
        lines.append(f"  {foam.name}: {foam.count.number:g} panels (area alone {foam.bound.number:g})")
        lines += [f"    {note}" for note in foam.notes]
    for flat in (report.flats or {}).values():
        broken = flat.broken_at
        said = f"off by {_text(broken.off_mm, measures)} after {broken.name}" if broken else "stays flat"
        lines.append(f"  {flat.name}: {said}")
    for thing in (report.protect or {}).values():
        amount = thing.tape_mm or thing.seal_ml
        lines.append(
            f"  {thing.how} {thing.name}: {_text(thing.area_mm2, measures)}"
            + (f", {_text(amount, measures)} of {'tape' if thing.tape_mm else 'clear coat'}" if amount else "")
        )
    if report.wobble:
        lines.append(
            f"  a foot of {report.wobble.foot_mm:g} mm stands on {_text(report.wobble.stands, measures)} of it"
        )
    lines += [f"  {one.owner} over {one.loser}: {_text(one.area_mm2, measures)}" for one in report.overlaps]
    return "\n".join(lines)
