"""Taken home: a wheel that runs by itself without a network, the doctor, the front door's commands, an upgrade of any age."""

import json
import os
import re
import shlex
import shutil
import socket
import subprocess
import sys
import time
import urllib.request
from pathlib import Path

import pytest
from click.testing import CliRunner

from isostasis.cli import main
from isostasis.store.database import own_file
from tests.support.scenes import Clock

ROOT = Path(__file__).parents[1]
AT = Clock().at


def test_the_database_lies_in_ones_own_folder_unless_a_checkout_has_one(tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "home"))
    assert own_file() == tmp_path / "home" / "isostasis" / "isostasis.db"
    (tmp_path / "var").mkdir()
    (tmp_path / "var" / "isostasis.db").touch()
    assert own_file() == Path("var/isostasis.db")


@pytest.fixture(scope="module")
def installed(tmp_path_factory):
    """A folder with nothing in it but what the wheel brings."""
    folder = tmp_path_factory.mktemp("wheel")
    source = folder / "source"
    shutil.copytree(
        ROOT, source, ignore=shutil.ignore_patterns(".git", ".venv", "build", "var", "__pycache__", "*.egg-info")
    )
    pip = [sys.executable, "-m", "pip", "--quiet", "--disable-pip-version-check"]
    subprocess.run([*pip, "wheel", "--no-deps", "--no-build-isolation", "--wheel-dir", folder, source], check=True)
    (wheel,) = folder.glob("isostasis-*.whl")
    subprocess.run([*pip, "install", "--no-deps", "--no-index", "--target", folder / "there", wheel], check=True)
    shutil.rmtree(source)
    return folder / "there"


def test_a_wheel_serves_its_pages_by_itself(installed, tmp_path):
    """Installed without an index, run elsewhere, no name of another host in what it sends."""
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    here = {
        **os.environ,
        "PYTHONPATH": str(installed),
        "XDG_DATA_HOME": str(tmp_path),
        "HOME": str(tmp_path),
        "PORT": str(port),
    }
    here.pop("ISOSTASIS_DB", None)
    run = [sys.executable, "-m", "isostasis"]
    where = subprocess.run([sys.executable, "-c", "import isostasis; print(isostasis.__file__)"], env=here, cwd=tmp_path, check=True,
                           capture_output=True, text=True).stdout  # fmt: skip
    assert str(installed) in where
    serving = subprocess.Popen([*run, "demo"], env=here, cwd=tmp_path)
    try:
        url = f"http://127.0.0.1:{port}"
        while True:
            try:
                page = urllib.request.urlopen(f"{url}/", timeout=60).read().decode()
                break
            except OSError:
                assert serving.poll() is None
                time.sleep(0.2)
        assert (tmp_path / "isostasis" / "demo.db").exists() and "Kettle Fen" in page
        assert not re.findall(r'(?:href|src)="(?:https?:)?//(?!127)', page)
        for one in {*re.findall(r'(?:href|src)="(/static/[^"]+)"', page)}:
            assert urllib.request.urlopen(url + one.replace("&amp;", "&"), timeout=60).status == 200
        css = urllib.request.urlopen(f"{url}/static/css/all.css", timeout=60).read().decode()
        for font in re.findall(r'url\("([^)"#]+)', css):
            assert urllib.request.urlopen(f"{url}/static/css/{font}", timeout=60).status == 200
    finally:
        serving.terminate()
        serving.wait()
    told = subprocess.run([*run, "doctor", "--db", str(tmp_path / "isostasis" / "demo.db")], env=here, cwd=tmp_path, check=False,
                          capture_output=True, text=True).stdout  # fmt: skip
    assert "all 4 can be planned" in told and "fonts and scripts: all there" in told


def doctor(*arguments):
    result = CliRunner().invoke(main, ["doctor", *map(str, arguments)])
    return result.exit_code, result.output


def test_the_doctor_finds_nothing_amiss(demo_database):
    code, told = doctor("--db", demo_database.path)
    assert code == 0 and "AMISS" not in told and "all 5 can be planned" in told
    found = json.loads(doctor("--db", demo_database.path, "--json")[1])
    assert all(one["well"] for one in found) and {"Python", "packages", "solver"} <= {one["about"] for one in found}


def test_the_doctor_says_what_is_amiss(demo_database, tmp_path):
    from sqlalchemy import text

    with demo_database.engine.begin() as connection:
        connection.execute(text('update revision set document = \'{"isostasis": 1, "name": "Spoilt"}\' where id = 1'))
    code, told = doctor("--db", demo_database.path)
    assert code == 1 and "AMISS  scenes: Spoilt" in told and "its page says what to mend" in told
    broken = tmp_path / "broken.db"
    broken.write_bytes(demo_database.path.read_bytes()[:9000])
    code, told = doctor("--db", broken)
    assert code == 1 and "AMISS  database" in told and "isostasis restore" in told
    assert doctor("--db", tmp_path / "none.db")[0] == 0  # none yet is well


def front_door():
    """Each command of the README, as it is written, without what is said of it."""
    found = []
    for line in (ROOT / "README.md").read_text("utf-8").splitlines():
        if line.startswith("    isostasis "):
            command = line.split("#")[0].strip()
            head, _, rest = command.partition(" ")
            first, *others = [one.strip() for one in rest.split(" | ")]
            found += [f"{head} {one}" for one in (first, *others)]
    return found


RUNS_ON = {"serve", "demo", "pair", "bench", "status"}  # they serve, ask, or measure for minutes


@pytest.mark.parametrize("command", front_door())
def test_a_command_of_the_front_door_runs(command, demo_database, tmp_path, monkeypatch):
    monkeypatch.chdir(tmp_path)
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    monkeypatch.setattr("isostasis.cli.clock.now", lambda: AT)
    (tmp_path / "var").mkdir()
    (tmp_path / "copies").mkdir()
    shutil.copyfile(demo_database.path, tmp_path / "var" / "demo.db")
    shutil.copyfile(demo_database.path, tmp_path / "var" / "isostasis.db")
    shutil.copyfile(ROOT / "tests" / "data" / "tarn.json", tmp_path / "scene.json")
    (tmp_path / "dip.csv").write_text("x,y,z\n10,10,0\n60,10,4\n10,60,2\n")
    _, *arguments = shlex.split(command)
    if arguments[0] in RUNS_ON:
        arguments = [arguments[0], "--help"]
    result = CliRunner().invoke(main, arguments)
    assert result.exit_code == 0, result.output
    assert result.output.strip()


def test_the_container_runs_verbs_that_there_are():
    text = (ROOT / "Containerfile").read_text("utf-8")
    for words in re.findall(r'\["isostasis", ([^\]]+)\]', text):
        verb, *options = json.loads(f"[{words}]")
        known = {name for option in main.commands[verb].params for name in (*option.opts, *option.secondary_opts)}
        assert set(options) <= known
    assert "://" not in text  # no host of a registry
