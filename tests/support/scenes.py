"""Scenes as data, resolved as the program does it, and a clock that tests turn."""

import copy
import json
from datetime import UTC, datetime, timedelta
from pathlib import Path

from isostasis.core.catalogue import shipped
from isostasis.core.document import resolve
from isostasis.core.reading import read

DATA = Path(__file__).parents[1] / "data"


def scene_data(name="tarn-first-kinds"):
    return json.loads((DATA / f"{name}.json").read_text("utf-8"))


def square(west, south, east, north):
    return [[west, south], [east, south], [east, north], [west, north]]


def resolved(data):
    return resolve(read(copy.deepcopy(data)), shipped())


class Clock:
    """A clock that tests turn."""

    def __init__(self):
        self.at = datetime(2026, 3, 4, 19, 0, tzinfo=UTC)

    def __call__(self):
        return self.at

    def pass_by(self, **span):
        self.at += timedelta(**span)


def written(data):
    """A document as the program reads it."""
    return read(copy.deepcopy(data))
