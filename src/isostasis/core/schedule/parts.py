"""Steps longer than any session are done by areas in several; short acts that nobody can be there for are left out."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import datetime, timedelta
from math import ceil

from ..plan import Step
from ..units import duration
from .marks import Marks

# What may be left half done; never a pour, or what is mixed in a bowl.
BY_AREAS = frozenset({"coat", "texture", "form"})
COVERED = {"bubbles": "; cover it from dust as soon as it is poured"}  # what goes with the act all the same


def in_parts(steps: Sequence[Step], longest_min: int, marks: Marks) -> tuple[list[Step], list[str]]:
    """The steps, those that no session holds in as many equal parts as it takes, and what is said of that."""
    counts = {
        step.id: ceil(step.hands_on_min / longest_min)
        for step in steps
        if longest_min > 0
        and step.hands_on_min > longest_min
        and step.kind in BY_AREAS
        and step.id not in {*marks.started, *marks.done, *marks.skipped}
    }
    last = {name: _part(name, count) for name, count in counts.items()}
    out: list[Step] = []
    for step in steps:
        after = tuple(last.get(one, one) for one in step.after)
        windows = tuple(replace(one, of=last.get(one.of, one.of)) for one in step.windows)
        count = counts.get(step.id, 1)
        for number in range(1, count + 1):
            out.append(
                replace(
                    step,
                    id=_part(step.id, number),
                    do=step.do + (f" (part {number} of {count})" if count > 1 else ""),
                    after=after if number == 1 else (_part(step.id, number - 1),),
                    windows=windows if number == 1 else (),
                    hands_on_min=step.hands_on_min / count,
                    wait_h=step.wait_h if number == count else 0.0,
                    local_id=step.own_id if count > 1 else step.local_id,
                )
            )
    dos = {step.id: step.do for step in steps}
    return out, [
        f"{dos[name]}: longer than any session, so it is done in {count} parts" for name, count in counts.items()
    ]


def _part(step_id: str, number: int) -> str:
    return step_id if number == 1 else f"{step_id}-part-{number}"


def attended(steps: Sequence[Step], longest_min: int, none: bool = False) -> tuple[list[Step], list[str]]:
    """The steps without the short acts that come sooner after their step than a session lasts, or without any of them
    (`none`), and what is said of that."""
    hands = {step.id: step.hands_on_min for step in steps}
    left = [
        step
        for step in steps
        if step.brief and (none or (_stretch(step, hands) > longest_min and (step.windows[0].to_h or 0) < 1))
    ]
    names = {step.id for step in left}
    said = []
    for step in left:
        window = step.windows[0]
        begins, ends = (" ".join(duration(hours)) for hours in (window.from_h, window.to_h or window.from_h))
        said.append(
            f"{step.do}: nobody will be there {begins} to {ends} after it was laid" + COVERED.get(step.kind, "")
        )
    return [step for step in steps if step.id not in names], said


def is_over(step: Step, start: datetime, marks: Marks) -> bool:
    """Whether a short act can come no more: what it goes with is done, and its window has passed."""
    if not step.brief or step.id in {*marks.started, *marks.done}:
        return False
    window = step.windows[0]
    done = marks.done.get(window.of)
    return done is not None and window.to_h is not None and done + timedelta(hours=window.to_h) < start


def _stretch(act: Step, hands: dict[str, float]) -> float:
    """Minutes from the start of a step to the end of the act that goes with it, at the least."""
    window = act.windows[0]
    return hands.get(window.of, 0.0) + window.from_h * 60 + act.hands_on_min
