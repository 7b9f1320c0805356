"""What a mark must be to hold: its step's order, its times; and the wait that follows from when it ended."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime, tzinfo

from ..core.document import ResolvedScene
from ..core.fault import fault
from ..core.plan import Plan, Step
from ..core.schedule import Marks
from ..core.schedule.forecast import steps_along
from .marks import LAID


def wait_from(scene: ResolvedScene, step: Step, at: datetime) -> float | None:
    """The wait of a step that ended at a moment, in the room as it is known from then on."""
    return next((one.wait_h for one in steps_along(scene)(at) if one.id == step.id), step.wait_h)


def refuse(plan: Plan, step: Step, what: str, at: datetime, timed: bool, note: str, known: Marks, zone: tzinfo) -> None:
    """Refuse a mark that cannot be; `timed`: its time was written, `zone` that of the clock on the wall. Raises
    Faults."""

    def when(moment: datetime) -> str:
        return f"{moment.astimezone(zone):%a %d %b %H:%M}"

    if what == "skipped" and not note:
        raise fault("skipped", f"it is not said why “{step.do}” is skipped", "write the reason in a few words")
    done = known.done.get(step.id)
    if what == "paused" and (step.id not in known.started or step.id in known.paused or done is not None):
        raise fault("pause", f"“{step.do}” is not under way", "begin it first")
    if what in ("not-yet", "ready", "cup-not-yet", "cup-ready"):
        if done is None:
            raise fault("touch-test", f"“{step.do}” is not marked as done", "mark it as done first")
        if at < done:
            raise fault("touch-test", f"{when(at)} is before it was done", "write when you touched it")
    elif what == "undone":
        if not any(step.id in marked for marked in (known.started, known.done, known.skipped)):
            raise fault("mark", f"“{step.do}” has no mark to take back", "reload the page")
    elif what in LAID:
        if done is not None and not timed and what == "done":
            said = f"“{step.do}” is done since {when(done)}"
            raise fault("mark", said, "write a time with it to mend that, or take it back first")
        if step.id in known.started and at < known.started[step.id]:
            raise fault("time", "that is before it was begun", "write when it was done")
        _refuse_order(plan, step, at, known, when)


def _refuse_order(plan: Plan, step: Step, at: datetime, known: Marks, when: Callable[[datetime], str]) -> None:
    """Refuse a time before what lies beneath was done, or after what lies on it. Raises Faults."""
    steps = {one.id: one for one in plan.steps}
    there = [one.id for one in steps.values() if one.built and one.lift and one.patch == step.patch]
    place = there.index(step.id) if step.id in there else len(there)
    below = [name for name in (*step.after, *there[:place]) if name in steps and name in known.done]
    for name in below:
        if at < known.done[name]:
            raise fault(
                "time", f"that is before “{steps[name].do}” was done, which comes before it",
                f"write a time after {when(known.done[name])}, or mend that of the other first",
            )  # fmt: skip
    for name in there[place + 1 :]:
        if name in known.done and at > known.done[name]:
            raise fault(
                "time", f"that is after “{steps[name].do}” was done, which lies on it",
                f"write a time before {when(known.done[name])}",
            )  # fmt: skip
