"""Stages: what was worked out once and is kept, by its own inputs, in one registry for the whole process.

A stage is a pure function of hashable arguments. All of them share one store, bounded by the bytes of the arrays and
texts that it holds (each counted once, however many entries share it); what was not used for longest goes first.
"""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable
from dataclasses import dataclass, is_dataclass
from functools import wraps
from threading import Lock
from typing import Any, ParamSpec, TypeVar

import numpy as np

P = ParamSpec("P")
R = TypeVar("R")

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


class _Entry:
    """A value and the large parts that it and its key hold: (identity, bytes) of each."""

    __slots__ = ("parts", "value")

    def __init__(self, value: Any, parts: dict[int, int]) -> None:
        self.value, self.parts = value, parts


def large_parts(thing: Any) -> dict[int, int]:
    """Bytes of the arrays and texts inside `thing`, by identity, so that what is shared counts once.

    Looks into tuples, lists, dicts, sets and dataclasses; a view counts as the array that it looks at.
    """
    found: dict[int, int] = {}
    seen: set[int] = set()
    waiting = [thing]
    while waiting:
        part = waiting.pop()
        if isinstance(part, int | float | bool) or part is None:
            continue
        if isinstance(part, np.ndarray):
            owner = part
            while isinstance(owner.base, np.ndarray):
                owner = owner.base
            found[id(owner)] = owner.nbytes
        elif isinstance(part, str | bytes):
            if len(part) > 200:
                found[id(part)] = len(part)
        elif id(part) in seen:
            continue
        elif isinstance(part, tuple | list) and part and isinstance(part[0], float):
            found[id(part)] = len(part) * FLOAT_BYTES  # a series of numbers holds nothing else
        elif isinstance(part, tuple | list | set | frozenset):
            seen.add(id(part))
            waiting.extend(part)
        elif isinstance(part, dict):
            seen.add(id(part))
            waiting.extend(part.values())
        elif is_dataclass(part):
            seen.add(id(part))
            waiting.extend(getattr(part, name) for name in part.__dataclass_fields__)
    return found


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
            key: Hashable = (name, args, tuple(sorted(kwargs.items()))) if kwargs else (name, args)
            with self._lock:
                entry = self._kept.get(key)
                if entry is not None:
                    self._kept.move_to_end(key)
                    self._hits[name] += 1
                    found: R = entry.value
                    return found
                self._misses[name] += 1
            return self._keep(key, function(*args, **kwargs))

        return kept

    def _keep(self, key: Hashable, value: R) -> R:
        parts = large_parts((key, value))
        with self._lock:
            known = self._kept.get(key)
            if known is not None:  # another thread was sooner
                first: R = known.value
                return first
            if sum(parts.values()) + ENTRY_BYTES > self.max_bytes:
                return value
            self._kept[key] = _Entry(value, parts)
            self._bytes += ENTRY_BYTES
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
        self._bytes -= ENTRY_BYTES
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
