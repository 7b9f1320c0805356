"""The benchmark's own arithmetic, and that it measures what it says (never how fast)."""

import json
import shutil
import urllib.request

import pytest
from click.testing import CliRunner

import benchmarks
from benchmarks import figures, marks
from isostasis.cli import main
from isostasis.core.stages import STAGES
from tools.browser import Served


def test_marks_are_ratios():
    within, over = marks.Mark("a", 5, 10, "ms"), marks.Mark("b", 20, 10, "ms")
    assert (within.ratio, over.ratio) == (0.5, 2)
    assert "within" in str(within)
    assert "OVER" in str(over)
    assert within.as_json() == {"name": "a", "measured": 5, "most": 10, "unit": "ms", "ratio": 0.5}


@pytest.mark.parametrize(("measured", "code"), [(5, 0), (20, 1)])
def test_the_verb_prints_and_tells_by_its_exit(monkeypatch, measured, code):
    monkeypatch.setattr(benchmarks, "run", lambda browser: [marks.Mark("a", measured, 10, "ms")])
    done = CliRunner().invoke(main, ["bench", "--json"])
    assert done.exit_code == code
    assert json.loads(done.stdout)[0]["ratio"] == measured / 10
    assert "ratio" in CliRunner().invoke(main, ["bench"]).stdout


def kept(stage):
    return next(count.entries for count in STAGES.status().stages if count.name == stage)


def test_a_warm_plan_starts_with_no_stage_kept():
    assert all(mark.measured > 0 for mark in figures._plans())
    assert kept("core.plan.plan") > 0
    marks.forget_stages()
    assert kept("core.plan.plan") == 0


def test_accuracy_marks_hold():
    for mark in figures._layer()[2:]:
        assert mark.ratio < 1, mark


def test_a_served_demo_answers(demo_file, tmp_path):
    shutil.copy(demo_file, tmp_path / "demo.db")
    with Served(str(tmp_path)) as served, urllib.request.urlopen(served.url + "/s/ember-pools/pour") as page:
        assert b"Ember Pools" in page.read()
    assert served.process.returncode is not None
