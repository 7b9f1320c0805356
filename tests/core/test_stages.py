"""The registry of stages: what is kept, what it weighs, what goes first."""

from dataclasses import dataclass
from typing import ClassVar

import numpy as np
import pytest

from isostasis.core.stages import ENTRY_BYTES, Stages, unkept, weigh


@dataclass(frozen=True)
class Holder:
    array: np.ndarray


@dataclass(frozen=True)
class Heavy:
    WEIGHT: ClassVar[int] = 5000
    array: np.ndarray


def test_what_is_shared_weighs_once():
    array = np.zeros(1000)
    parts, _ = weigh((array, Holder(array[:10]), [Holder(array)], {"a": array.reshape(10, 100)}))
    assert list(parts.values()) == [8000]
    series = tuple(float(number) for number in range(100))
    assert sum(weigh((series, series))[0].values()) == 3200
    assert weigh("x" * 1000)[0] != {}
    assert weigh(Heavy(array)) == ({}, 5000)


def test_a_stage_is_worked_out_once_by_its_arguments():
    stages, calls = Stages(), []

    @stages.stage
    def double(number, *, by=2):
        calls.append(number)
        if number < 0:
            raise ValueError
        return number * by

    assert [double(3), double(3), double(3, by=3), double(4)] == [6, 6, 9, 8]
    assert calls == [3, 3, 4]
    for _ in range(2):
        with pytest.raises(ValueError):
            double(-1)
    assert calls == [3, 3, 4, -1, -1]  # what is raised is not kept
    status = stages.status()
    assert (status.hits, status.misses, status.entries) == (1, 5, 3)
    assert status.stages[0].name.endswith("double")


def test_what_was_unused_for_longest_goes_first_and_bytes_are_held():
    stages = Stages(max_bytes=40_000)

    @stages.stage
    def zeros(name):
        return np.zeros(1000)

    for name in "abcd":
        zeros(name)
    zeros("a")
    zeros("e")  # lets b go
    assert stages.status().evicted == 1
    before = stages.status().misses
    zeros("a")
    assert stages.status().misses == before
    zeros("b")
    assert stages.status().misses == before + 1
    for number in range(100):
        zeros(number)
        assert stages.status().bytes <= 40_000
    assert stages.status().entries == 4
    stages.clear()
    assert (stages.status().entries, stages.status().bytes) == (0, 0)


def test_an_array_that_entries_share_goes_with_the_last_of_them():
    array = np.zeros(1000)
    stages = Stages(max_bytes=8000 + 10 * ENTRY_BYTES)

    @stages.stage
    def same(number):
        return array

    for number in range(50):
        same(number)
        assert 8000 <= stages.status().bytes <= stages.max_bytes
    assert stages.status().entries == 10


def test_what_is_too_large_is_given_and_not_kept():
    stages = Stages(max_bytes=1000)
    assert stages.stage(np.zeros)(1000).size == 1000
    assert stages.status().entries == 0


def test_what_is_large_and_asked_once_is_not_kept_meanwhile():
    stages = Stages()
    double = stages.stage(lambda number: 2 * number)
    assert double(1) == 2
    with unkept():
        assert (double(1), double(2)) == (2, 4)
    assert stages.status().entries == 1
    assert double(2) == 4 and stages.status().entries == 2
