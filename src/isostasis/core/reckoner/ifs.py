"""The same sum a little otherwise: deeper, half as much, a colder room."""

from __future__ import annotations

from collections.abc import Mapping

from .model import Sum, Value

DEEPER_MM, COLDER_C = 2.0, 5.0
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
