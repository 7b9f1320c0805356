"""What records say of a lift's hours and of the hands that it takes."""

from __future__ import annotations

from dataclasses import replace

from ..catalogue import Factor
from ..figure import Figure, Term
from .estimate import Act, Course, LiftEstimate, Window
from .labels import Labels

SOON_H = 1.0  # what opens before goes by the cup and the surface, not by how long it takes to harden


def learnt(estimate: LiftEstimate, labels: Labels) -> LiftEstimate:
    """An estimate with its waits and hands as the records of its mix have them."""
    hours, hands = (labels.factor(estimate.mix.id, quantity) for quantity in ("hours", "hands"))
    if hours:
        made = estimate.plan.hours
        later = replace(
            made, next=_times(made.next, hours), full=_times(made.full, hours), usable=_times(made.usable, hours)
        )
        windows = tuple(_later(one, hours.mean) for one in estimate.plan.windows)
        estimate = replace(
            estimate,
            plan=replace(estimate.plan, hours=later, windows=windows),
            courses=tuple(_course_later(one, hours.mean) for one in estimate.courses),
        )
    if hands:
        courses = tuple(replace(one, hands_on_min=one.hands_on_min * hands.mean) for one in estimate.courses)
        estimate = replace(estimate, courses=courses)
    return estimate


def _times(figure: Figure, factor: Factor) -> Figure:
    if figure.value is None:
        return figure
    term = Term("your records", factor.mean, "", f"× {factor.mean:.3g}, {factor.records} of them")
    value = figure.value
    return replace(
        figure, value=value * factor.mean, working=(*figure.working, term), low=value * factor.low,
        high=value * factor.high,
    )  # fmt: skip


def _later(window: Window, times: float) -> Window:
    if window.from_h < SOON_H:
        return window
    return replace(window, from_h=window.from_h * times, to_h=None if window.to_h is None else window.to_h * times)


def _course_later(course: Course, times: float) -> Course:
    return replace(
        course,
        wait_h=None if course.wait_h is None else course.wait_h * times,
        next_window=tuple(_later(one, times) for one in course.next_window),
        acts=tuple(_act_later(one, times) for one in course.acts),
    )


def _act_later(act: Act, times: float) -> Act:
    """A short act whose hours go by how far it has hardened: a dam off, a wave tried; not the looks at bubbles."""
    if act.from_h < SOON_H:
        return act
    until = None if act.to_h is None else act.to_h * times
    return replace(act, from_h=act.from_h * times, to_h=until, looks_h=tuple(one * times for one in act.looks_h))
