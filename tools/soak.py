"""Keeps the program busy for long: servers killed while they save, browsers that look, memory and descriptors watched.

    python -m tools.soak --seconds 3600 --rounds 1000 --people 50
    python -m tools.soak --seconds 300 --rounds 0 --club

First kill rounds: a server is killed while somebody saves, and started again; every save that it acknowledged must be
there. Then people: each looks, drags, saves and marks over HTTP with a pause between, and the 95th percentile is told;
meanwhile two browsers open page after page, and the server's memory and open files are written down. With `--club`
the people are at two workers on PostgreSQL, as docs/security.md has them.
"""

from __future__ import annotations

import argparse
import http.client
import os
import random
import re
import signal
import subprocess
import sys
import tempfile
import threading
import time
from collections import Counter
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path
from urllib.parse import urlencode
from urllib.request import urlopen

from .browser import CHROMIUM, CHROMIUM_FLAGS, Served, free_port
from .postgres import Server

PAGES = ("ground", "layup", "pour", "mix", "clock", "history", "ground/patches", "layup/steps")
SLUGS = ("hollin-delf", "saltcote-pans", "ember-pools")


class Person:
    """Somebody with a browser of their own; `cookies` are those it comes with."""

    def __init__(self, port: int, cookies: dict[str, str] | None = None) -> None:
        self.port, self.cookies, self.token = port, dict(cookies or {}), ""
        self.headers: dict[str, str] = {}  # sent with every request

    def ask(self, method: str, url: str, **sent: object) -> tuple[int, str]:
        """Status and text of an answer. Raises OSError where there is no server."""
        talk = http.client.HTTPConnection("127.0.0.1", self.port, timeout=120)
        body = urlencode({"csrf_token": self.token, **sent}) if method == "POST" else None
        cookies = "; ".join(f"{name}={value}" for name, value in self.cookies.items())
        kind = "application/x-www-form-urlencoded"
        talk.request(method, url, body, {"Cookie": cookies, "Content-Type": kind, **self.headers})
        answer = talk.getresponse()
        for name, value in answer.getheaders():
            if name == "Set-Cookie":
                kept, _, content = value.partition(";")[0].partition("=")
                self.cookies[kept] = content
        text = answer.read().decode()
        talk.close()
        token = re.search(r'name="csrf-token" content="([^"]+)"', text)
        self.token = token[1] if token else self.token
        return answer.status, text


@dataclass
class Killed:
    """What became of saves while servers were killed."""

    rounds: int = 0
    acknowledged: int = 0
    lost: int = 0
    faults: list[str] = field(default_factory=list)


def kill_rounds(folder: Path, rounds: int, saves: int) -> Killed:
    """Kill a server in each round once N saves were acknowledged, while further ones go on, over the demo's database
    in a folder, which is made where there is none."""
    from isostasis.store import Database, scenes

    told, rng = Killed(), random.Random(1)
    if not (folder / "demo.db").exists():
        with Served(str(folder)):
            pass
    for number in range(rounds):
        acknowledged: list[str] = []
        with Served(str(folder)) as served:
            person = Person(served.port)
            person.ask("GET", "/")
            enough = threading.Event()

            def save(number: int = number, person: Person = person, acknowledged: list[str] = acknowledged,
                     enough: threading.Event = enough) -> None:  # fmt: skip
                try:
                    for count in range(10**6):
                        name = f"Ember {number} {count}"
                        base = re.search(r'name="base" value="(\d+)"', person.ask("GET", "/s/ember-pools/ground")[1])
                        status, _ = person.ask(
                            "POST", "/s/ember-pools/settings", base=base and base[1], name=name, copies=5, shape="disc",
                            width_mm=60, depth_mm=60, disc_mm=60,
                        )  # fmt: skip
                        if status == 303:
                            acknowledged.append(name)
                        if len(acknowledged) >= saves:
                            enough.set()
                except (OSError, http.client.HTTPException):
                    enough.set()

            saver = threading.Thread(target=save)
            saver.start()
            enough.wait()
            time.sleep(rng.random() / 20)  # some way into the next save
            assert served.process is not None
            served.process.send_signal(signal.SIGKILL)
            served.process.wait()
            saver.join()
        database = Database(folder / "demo.db")
        with database.reading() as session:
            kept = {scenes.name_of(row) for row in scenes.history(session, scenes.find(session, "ember-pools"))}
        with database.engine.connect() as connection:
            sound = connection.exec_driver_sql("pragma integrity_check").scalar()
        database.close()
        if sound != "ok":
            told.faults.append(f"round {number}: {sound}")
        told.rounds += 1
        told.acknowledged += len(acknowledged)
        told.lost += len(set(acknowledged) - kept)
    return told


@dataclass
class Load:
    """How requests were answered: seconds by what was done, statuses, and what the server held by and by."""

    seconds: dict[str, list[float]] = field(default_factory=dict)
    statuses: Counter[int] = field(default_factory=Counter)
    held: list[tuple[float, float, int]] = field(default_factory=list)  # seconds, MB resident, descriptors
    views: int = 0

    def __str__(self) -> str:
        lines = [f"{'doing':10} {'times':>7} {'median':>8} {'95th':>8}  s"]
        for name, spans in sorted(self.seconds.items()):
            ordered = sorted(spans)
            middle, late = ordered[len(ordered) // 2], ordered[min(int(len(ordered) * 0.95), len(ordered) - 1)]
            lines.append(f"{name:10} {len(spans):7} {middle:8.3f} {late:8.3f}")
        lines.append("statuses " + ", ".join(f"{status}: {count}" for status, count in sorted(self.statuses.items())))
        first, last = self.held[0], self.held[-1]
        most = max(mb for _, mb, _ in self.held)
        lines.append(f"{self.views} pages in the browser; resident {first[1]:.0f} MB, at most {most:.0f}, at the end "
                     f"{last[1]:.0f}; open files {first[2]}, at the end {last[2]}")  # fmt: skip
        return "\n".join(lines)


def _held(process: subprocess.Popen[bytes]) -> tuple[float, int]:
    """MB resident and open descriptors of a process and its workers; not of their solver."""
    children = Path(f"/proc/{process.pid}/task/{process.pid}/children").read_text().split()
    workers = [one for one in children if b"solver" not in Path(f"/proc/{one}/cmdline").read_bytes()]
    kilobytes = files = 0
    for one in (str(process.pid), *workers):
        resident = re.search(r"VmRSS:\s+(\d+)", Path(f"/proc/{one}/status").read_text())
        kilobytes += int(resident[1]) if resident else 0
        files += len(list(Path(f"/proc/{one}/fd").iterdir()))
    return kilobytes / 1000, files


class Club:
    """Two gunicorn workers on a PostgreSQL database with the demo scenes, of which one paired device knows the key."""

    def __init__(self, folder: str) -> None:
        self.folder, self.port = folder, free_port()
        self.url = f"http://127.0.0.1:{self.port}"
        self.cookies: dict[str, str] = {}

    def __enter__(self) -> Club:
        from isostasis.demo import fill
        from isostasis.store import Database, devices

        base = Path(self.folder, "postgres")
        base.mkdir()
        self.server = Server(base)
        address = self.server.address()
        database = Database(address)
        fill(database)
        with database.writing() as session:
            key = devices.pair(session, "Laptop", "all", datetime.now(UTC))
        database.close()
        command = [sys.executable, "-m", "gunicorn", "-w", "2", "--threads", "8", "-b", f"127.0.0.1:{self.port}",
                   "--log-level", "error", "isostasis.web.wsgi:create()"]  # fmt: skip
        known = {"ISOSTASIS_DB": address, "ISOSTASIS_NAMES": f"127.0.0.1:{self.port}"}
        self.process = subprocess.Popen(command, env={**os.environ, **known})
        while self.process.poll() is None:
            try:
                page = urlopen(self.url + "/", timeout=60)
                break
            except OSError:
                time.sleep(0.1)
        (name,) = {one.partition("=")[0] for one in page.headers.get_all("Set-Cookie")}
        self.cookies = {f"{name}-key": key}
        return self

    def __exit__(self, *_: object) -> None:
        self.process.terminate()
        self.process.wait()
        self.server.close()


def _live(person: Person, load: Load, lock: threading.Lock, ends: float, pause_s: float, seed: int) -> None:
    """Look, drag, save and mark until the time is over."""
    rng = random.Random(seed)
    person.ask("GET", "/")
    while time.monotonic() < ends:
        slug, what = rng.choice(SLUGS), rng.choices(("look", "drag", "save", "mark"), (6, 6, 1, 1))[0]
        begin = time.perf_counter()
        if what == "look":
            status, _ = person.ask("GET", f"/s/{slug}/{rng.choice(PAGES)}")
        elif what == "drag":
            level = 25 + rng.random() * 20
            status, _ = person.ask("GET", f"/s/hollin-delf/pour/preview?lift=lake-water&cut=160&level={level:.2f}")
        elif what == "save":
            page = person.ask("GET", f"/s/{slug}/ground")[1]
            base = re.search(r'name="base" value="(\d+)"', page)
            begin = time.perf_counter()
            sent = {"base": base[1] if base else 1, "temp_c": f"{rng.uniform(16, 24):.1f}", "rh_percent": "55"}
            status, _ = person.ask("POST", f"/s/{slug}/room", **sent)
        else:
            page = person.ask("GET", f"/s/{slug}/clock/list")[1]
            step = re.search(r'name="step" value="([^"]+)"', page)
            begin = time.perf_counter()
            if step:
                sent = {"step": step[1], "what": rng.choice(("started", "done"))}
                status, _ = person.ask("POST", f"/s/{slug}/clock/mark", **sent)
            else:  # nothing is scheduled yet: the page asks for it by itself
                what, (status, _) = "schedule", person.ask("POST", f"/s/{slug}/clock/look")
        with lock:
            load.seconds.setdefault(what, []).append(time.perf_counter() - begin)
            load.statuses[status] += 1
        time.sleep(rng.random() * 2 * pause_s)


def people(serving: Served | Club, count: int, seconds: float, pause_s: float) -> Load:
    """So many people at one server, two browsers that open page after page, and what the server holds."""
    from playwright.sync_api import sync_playwright

    load, lock = Load(), threading.Lock()
    with serving as served, sync_playwright() as driver:
        assert served.process is not None
        ends = time.monotonic() + seconds
        crowd = [
            threading.Thread(target=_live, args=(Person(served.port, served.cookies), load, lock, ends, pause_s, seed))
            for seed in range(count)
        ]
        for one in crowd:
            one.start()
        browsers = [driver.chromium.launch(executable_path=CHROMIUM, args=list(CHROMIUM_FLAGS)) for _ in range(2)]
        pages = [one.new_page() for one in browsers]
        for page in pages:
            kept = [{"name": name, "value": value, "url": served.url} for name, value in served.cookies.items()]
            page.context.add_cookies(kept)  # type: ignore[arg-type]
        while time.monotonic() < ends:
            for page in pages:
                page.goto(f"{served.url}/s/{SLUGS[load.views % 3]}/{PAGES[load.views % len(PAGES)]}", timeout=120_000)
                load.views += 1
            load.held.append((time.monotonic(), *_held(served.process)))
        for browser in browsers:
            browser.close()
        for one in crowd:
            one.join()
    return load


def main() -> None:
    """From the command line."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--seconds", type=float, default=3600)
    parser.add_argument("--rounds", type=int, default=100)
    parser.add_argument("--people", type=int, default=50)
    parser.add_argument("--pause", type=float, default=2.0, help="seconds between two things that a person does, about")
    parser.add_argument("--club", action="store_true", help="two workers on PostgreSQL instead of one on SQLite")
    asked = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        told = kill_rounds(Path(folder), asked.rounds, saves=5)
        print(
            f"{told.rounds} servers killed, {told.acknowledged} saves acknowledged, {told.lost} lost",
            *told.faults,
            sep="\n",
        )
        load = people((Club if asked.club else Served)(folder), asked.people, asked.seconds, asked.pause)
    print(load)
    broken = [status for status in load.statuses if status >= 500]
    sys.exit(bool(told.lost or told.faults or broken))


if __name__ == "__main__":
    main()
