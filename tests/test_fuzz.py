"""A short slice of `make fuzz`, and of `make soak`: the same rounds every time, however long they take."""

import shutil

from tools import fuzz, soak


def test_nothing_that_is_thrown_at_it_ends_in_a_traceback():
    findings = fuzz.run(seed=2028, seconds=10**6, most=40, slow_s=10**6)
    assert findings.wrong == [], str(findings)
    assert findings.tried["document"] == 40 and findings.tried["request"] == 80 and findings.tried["command"] == 8
    assert findings.answers["document planned"] >= 3  # not all of it is refused at the door


def test_a_server_that_is_killed_loses_nothing_that_it_acknowledged(demo_file, tmp_path):
    shutil.copy(demo_file, tmp_path / "demo.db")
    told = soak.kill_rounds(tmp_path, rounds=2, saves=4)
    assert told.acknowledged >= 8 and told.lost == 0 and told.faults == []
