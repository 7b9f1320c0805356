"""Keeps the program busy for long: servers killed while they save, browsers that look, memory and descriptors watched.

    python -m tools.soak --seconds 3600 --rounds 1000 --people 50

First kill rounds: a server is killed while somebody saves, and started again; every save that it acknowledged must be
there. Then people: each looks, drags, saves and marks over HTTP with a pause between, and the 95th percentile is told;
meanwhile a browser opens page after page, and the server's memory and open files are written down.
"""

from __future__ import annotations

import argparse
import http.client
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
from pathlib import Path
from urllib.parse import urlencode

from .browser import CHROMIUM, CHROMIUM_FLAGS, Served

PAGES = ("ground", "layup", "pour", "mix", "clock", "history", "ground/patches", "layup/steps")
SLUGS = ("hollin-delf", "saltcote-pans", "ember-pools")


class Person:
    """Somebody with a browser of their own."""

    def __init__(self, port: int) -> None:
        self.port, self.cookie, self.token = port, "", ""

    def ask(self, method: str, url: str, **sent: object) -> tuple[int, str]:
        """Status and text of an answer. Raises OSError where there is no server."""
        talk = http.client.HTTPConnection("127.0.0.1", self.port, timeout=120)
        body = urlencode({"csrf_token": self.token, **sent}) if method == "POST" else None
        talk.request(method, url, body, {"Cookie": self.cookie, "Content-Type": "application/x-www-form-urlencoded"})
        answer = talk.getresponse()
        for name, value in answer.getheaders():
            if name == "Set-Cookie":
                self.cookie = value.partition(";")[0]
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
    """Kill a server in each round once so many saves were acknowledged, while further ones go on."""
    from isostasis.store import Database, scenes

    told, rng = Killed(), random.Random(1)
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
                        status, _ = person.ask("POST", "/s/ember-pools/rename", base=base and base[1], name=name)
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
    """MB resident and open descriptors of a process."""
    status = Path(f"/proc/{process.pid}/status").read_text()
    kilobytes = re.search(r"VmRSS:\s+(\d+)", status)
    return int(kilobytes[1]) / 1000 if kilobytes else 0.0, len(list(Path(f"/proc/{process.pid}/fd").iterdir()))


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
            sent = {"step": step[1] if step else "none", "what": rng.choice(("started", "done", "undone"))}
            status, _ = person.ask("POST", f"/s/{slug}/clock/mark", **sent)
        with lock:
            load.seconds.setdefault(what, []).append(time.perf_counter() - begin)
            load.statuses[status] += 1
        time.sleep(rng.random() * 2 * pause_s)


def people(folder: Path, count: int, seconds: float, pause_s: float) -> Load:
    """So many people at one server, two browsers that open page after page, and what the server holds."""
    from playwright.sync_api import sync_playwright

    load, lock = Load(), threading.Lock()
    with Served(str(folder)) as served, sync_playwright() as driver:
        assert served.process is not None
        ends = time.monotonic() + seconds
        crowd = [
            threading.Thread(target=_live, args=(Person(served.port), load, lock, ends, pause_s, seed))
            for seed in range(count)
        ]
        for one in crowd:
            one.start()
        browser = driver.chromium.launch(executable_path=CHROMIUM, args=list(CHROMIUM_FLAGS))
        pages = [browser.new_page() for _ in range(2)]
        while time.monotonic() < ends:
            for page in pages:
                page.goto(f"{served.url}/s/{SLUGS[load.views % 3]}/{PAGES[load.views % len(PAGES)]}", timeout=120_000)
                load.views += 1
            load.held.append((time.monotonic(), *_held(served.process)))
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
    asked = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        told = kill_rounds(Path(folder), asked.rounds, saves=5)
        print(
            f"{told.rounds} servers killed, {told.acknowledged} saves acknowledged, {told.lost} lost",
            *told.faults,
            sep="\n",
        )
        load = people(Path(folder), asked.people, asked.seconds, asked.pause)
    print(load)
    broken = [status for status in load.statuses if status >= 500]
    sys.exit(bool(told.lost or told.faults or broken))


if __name__ == "__main__":
    main()
