"""The same sum a little otherwise: deeper, half as much, a colder room, a week later."""

from __future__ import annotations

from collections.abc import Mapping

from ..units import show
from .model import Answer, Sum, SumRequest, Value

DEEPER_MM, COLDER_C = 2.0, 5.0
WEEK_H = 168.0
GOALS = {"hard after the last lift": "hard", "sealed or poured on": "dry", "dry through": "dry"}
AMOUNTS = ("total", "area", "length", "width", "have")


def what_ifs(one: Sum, values: Mapping[str, Value]) -> list[tuple[str, dict[str, Value]]]:
    """(words, values) of what people ask next, as far as the sum's fields let."""
    fields = {field.name: field for field in one.fields}
    asked: list[tuple[str, str, float]] = []
    for name in ("deep", "thick"):
        if name in fields:
            asked += [
                (f"{DEEPER_MM:g} mm deeper", name, float(values[name]) + DEEPER_MM),
                ("half as deep", name, float(values[name]) / 2),
            ]
    amount = next((name for name in AMOUNTS if name in fields), None)
    if amount is not None:
        asked.append(("half as much" if amount != "width" else "half as wide", amount, float(values[amount]) / 2))
    if "temp_c" in fields:
        colder = float(values["temp_c"]) - COLDER_C
        asked += [(f"the room at {colder:g} °C", "temp_c", colder)]
    return [
        (words, {**values, name: value})
        for words, name, value in asked
        if fields[name].low <= value <= fields[name].high
    ]


def week_later(asked: SumRequest, made: Answer) -> str:
    """What is done of it a week later, in words; empty for a sum that knows no hours."""
    reached = next(((GOALS[label], figure) for label, figure in made.others if label in GOALS), None)
    if reached is None:
        return ""
    goal, hours = reached
    if hours.value is None:
        return f"never {goal} in this room"
    if hours.value > WEEK_H:
        return f"not {goal} yet: {_told(hours.value - WEEK_H)} to go"
    mix = asked.catalogue.mixes.get(str(asked.values.get("mix", "")))
    last = mix.reacts.last_bond_h if mix is not None and mix.reacts is not None else None
    late = last is not None and last < WEEK_H
    bond = f"; it bonds by itself until {last:g} h: scuff it before the next lift" if late else ""
    return f"{goal} since {_told(WEEK_H - hours.value)}{bond}"


def _told(hours: float) -> str:
    return " ".join(show(hours, "h"))
