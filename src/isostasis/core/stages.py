"""Stages: what was worked out once and is kept, by its own inputs, in one registry for the whole process.

A stage is a pure function of hashable arguments. All of them share one store, bounded by the bytes of the arrays and
texts that it holds (each counted once, however many entries share it); what was not used for longest goes first.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable, Iterable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass, fields, is_dataclass
from functools import wraps
from operator import attrgetter
from threading import Lock
from typing import Any, ParamSpec, TypeVar

import numpy as np

P = ParamSpec("P")
R = TypeVar("R")

# Called before anything is worked out: raises what ends the work, if whoever asked has waited too long or has left.
may_go_on: ContextVar[Callable[[], None] | None] = ContextVar("may_go_on", default=None)

_keeping: ContextVar[bool] = ContextVar("keeping", default=True)


@contextmanager
def unkept() -> Iterator[None]:
    """Meanwhile nothing that is worked out is kept: it is large, and only what is made of it is asked for again."""
    token = _keeping.set(False)
    try:
        yield
    finally:
        _keeping.reset(token)


MAX_BYTES = 256_000_000
ENTRY_BYTES = 400  # key, links and small fields of an entry, about


@dataclass(frozen=True, slots=True)
class StageCount:
    """How one stage fared: its name, entries kept, calls answered from them, calls worked out."""

    name: str
    entries: int
    hits: int
    misses: int


@dataclass(frozen=True, slots=True)
class StagesStatus:
    """What the registry holds: entries, bytes, the most bytes it may hold, entries let go, and each stage's counts."""

    entries: int
    bytes: int
    max_bytes: int
    evicted: int
    stages: tuple[StageCount, ...]

    @property
    def hits(self) -> int:
        """Calls that were answered from what is kept."""
        return sum(one.hits for one in self.stages)

    @property
    def misses(self) -> int:
        """Calls that had to be worked out."""
        return sum(one.misses for one in self.stages)


FLOAT_BYTES = 32  # a float and the place that holds it
OBJECT_BYTES = 100  # a small object of fields, about


class _Entry:
    """A value, the large parts that it and its key hold ((identity, bytes) of each), and bytes of all that is small."""

    __slots__ = ("parts", "small", "value")

    def __init__(self, value: Any, parts: dict[int, int], small: int) -> None:
        self.value, self.parts, self.small = value, parts, small


class _Inside:
    """What a class's objects weigh: bytes of all that is small in one, about, and what gives what is large in it."""

    __slots__ = ("parts", "small")

    def __init__(self, kind: type) -> None:
        self.small: int = getattr(kind, "WEIGHT", OBJECT_BYTES)
        names = [one.name for one in fields(kind)] if is_dataclass(kind) and not hasattr(kind, "WEIGHT") else []
        self.parts: Callable[[Any], Iterable[Any]] | None = None
        if hasattr(kind, "large"):
            self.parts = kind.large
        elif names:
            self.parts = attrgetter(*names, names[0])  # of a lone name it would give the field itself, not a tuple


_INSIDE: dict[type, _Inside] = {}
_NOTHING = (float, int, bool, type(None))


def _numbers_in(series: tuple[Any, ...] | list[Any]) -> int:
    """How many numbers a series of numbers or of points holds (it holds nothing else then); 0 for what is neither."""
    first = series[0] if series else None
    if isinstance(first, float):
        return len(series)
    point = isinstance(first, tuple) and 0 < len(first) <= 3 and all(isinstance(one, float) for one in first)
    return 3 * len(series) if point else 0


def weigh(thing: Any) -> tuple[dict[int, int], int]:
    """Bytes of the arrays, texts and series of numbers inside `thing`, by identity, so that what is shared counts once;
    and bytes of all that is small in it, about.

    Looks into tuples, lists, dicts, sets and dataclasses, but not into a class that says its own WEIGHT in bytes, and
    into one that says what of it is `large` just there; a view counts as the array that it looks at.
    """
    sizes: dict[int, int] = {}
    seen: set[int] = set()
    waiting = [thing]
    small = 0
    while waiting:
        part = waiting.pop()
        kind = type(part)
        if kind in _NOTHING:
            continue
        if kind is str or kind is bytes:
            if len(part) > 200:
                sizes[id(part)] = len(part)
        elif kind is np.ndarray:
            owner = part
            while isinstance(owner.base, np.ndarray):
                owner = owner.base
            sizes[id(owner)] = owner.nbytes
        elif id(part) not in seen:
            seen.add(id(part))
            if isinstance(part, (tuple, list)):
                numbers = _numbers_in(part)
                if numbers:
                    sizes[id(part)] = numbers * FLOAT_BYTES
                else:
                    waiting.extend(part)
            elif isinstance(part, (set, frozenset)):
                waiting.extend(part)
            elif isinstance(part, dict):
                waiting.extend(part.values())
            else:
                inside = _INSIDE.get(kind)
                if inside is None:
                    inside = _INSIDE[kind] = _Inside(kind)
                small += inside.small
                if inside.parts is not None:
                    waiting.extend(inside.parts(part))
    return sizes, small


class Stages:
    """A registry of stages. Safe to use from several threads; two that ask for the same at once get the same value."""

    def __init__(self, max_bytes: int = MAX_BYTES) -> None:
        self.max_bytes = max_bytes
        self._lock = Lock()
        self._kept: OrderedDict[Hashable, _Entry] = OrderedDict()
        self._holders: dict[int, int] = {}  # by how many entries a large part is held
        self._bytes = 0
        self._evicted = 0
        self._hits: dict[str, int] = {}
        self._misses: dict[str, int] = {}

    def stage(self, function: Callable[P, R]) -> Callable[P, R]:
        """`function` with its results kept by its arguments, which must be hashable. What it raises is not kept."""
        name = f"{function.__module__.removeprefix('isostasis.')}.{function.__qualname__}"
        self._hits.setdefault(name, 0)
        self._misses.setdefault(name, 0)

        @wraps(function)
        def kept(*args: P.args, **kwargs: P.kwargs) -> R:
            about = (args, tuple(sorted(kwargs.items()))) if kwargs else args
            return self.once(name, about, lambda: function(*args, **kwargs))

        return kept

    def once(self, name: str, about: Hashable, make: Callable[[], R]) -> R:
        """What the stage of that name has kept of `about`, else what `make` makes of it now."""
        key = (name, about)
        with self._lock:
            entry = self._kept.get(key)
            if entry is not None:
                self._kept.move_to_end(key)
                self._hits[name] += 1
                found: R = entry.value
                return found
            self._misses[name] = self._misses.get(name, 0) + 1
            self._hits.setdefault(name, 0)
        go_on = may_go_on.get()
        if go_on is not None:
            go_on()
        made = make()
        return self._keep(key, made) if _keeping.get() else made

    def _keep(self, key: Hashable, value: R) -> R:
        parts, small = weigh((key, value))
        small += ENTRY_BYTES
        with self._lock:
            known = self._kept.get(key)
            if known is not None:  # another thread was sooner
                first: R = known.value
                return first
            if sum(parts.values()) + small > self.max_bytes:
                return value
            self._kept[key] = _Entry(value, parts, small)
            self._bytes += small
            for part, size in parts.items():
                self._holders[part] = self._holders.get(part, 0) + 1
                if self._holders[part] == 1:
                    self._bytes += size
            while self._bytes > self.max_bytes:
                self._let_go(next(iter(self._kept)))
        return value

    def _let_go(self, key: Hashable) -> None:
        entry = self._kept.pop(key)
        self._evicted += 1
        self._bytes -= entry.small
        for part, size in entry.parts.items():
            self._holders[part] -= 1
            if not self._holders[part]:
                del self._holders[part]
                self._bytes -= size

    def clear(self) -> None:
        """Forget everything that is kept; counts go on."""
        with self._lock:
            self._kept.clear()
            self._holders.clear()
            self._bytes = 0

    def status(self) -> StagesStatus:
        """What is held now, stage by stage."""
        with self._lock:
            entries: dict[str, int] = dict.fromkeys(self._hits, 0)
            for key in self._kept:
                entries[key[0]] += 1  # type: ignore[index]
            counts = tuple(
                StageCount(name, entries[name], self._hits[name], self._misses[name]) for name in sorted(self._hits)
            )
            return StagesStatus(len(self._kept), self._bytes, self.max_bytes, self._evicted, counts)


STAGES = Stages()
cached_stage = STAGES.stage
