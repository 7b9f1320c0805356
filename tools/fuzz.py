"""Throws at the program whatever may be thrown at it: documents, requests, files, command lines; counts the answers.

    python -m tools.fuzz --seed 1 --seconds 600

Every answer must be a plain one: a plan or sentences, a status below 500, exit 0 to 2. Anything else is a finding,
printed with what was sent; so is an answer that takes longer than SLOW_S. Routes come from the application's own map,
fields from the forms on its own pages, so that new ones are met by themselves.
"""

from __future__ import annotations

import argparse
import copy
import http.client
import json
import random
import re
import string
import tempfile
import time
import traceback
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import chdir
from dataclasses import dataclass, field
from html import unescape
from pathlib import Path
from threading import Thread
from typing import Any
from urllib.parse import urlencode

SLOW_S = 10.0
NUMBERS: tuple[Any, ...] = (
    0, -0.0, 1, -1, 0.5, 1e-9, 1e-300, 1e300, -1e300, 1e9, 2**31, 2**63, 10**20, 37, 12.5, 0.1, 1000, 99999,
    float("inf"), float("nan"),
)  # fmt: skip
TEXTS = (
    "", " ", "x", "x" * 300, "\0", "\n", "\t", "9" * 20, "9" * 5000, "-1", "1e999", "nan", "0001-01-01",
    "9999-12-31T23:59", "2027-03-28T02:30", "2027-03-01T19:00", "mon-fri 19:00-22:00", "=1+1", "<script>", "../..",
    "%00", "🏔", "1/0", "1 1/2 in", "12.5 mm", "yes", "[[0,0],[9,9]]", "//evil.example", "casting-resin", "water",
    "hole", "tarn-water", "rest", "auto",
)  # fmt: skip

ASKED = (
    "x", "y", "cut", "lift", "level", "share", "path", "pick", "stage", "date", "foot", "number", "figure", "minutes",
    "days", "from", "height", "grade",
)  # fmt: skip


@dataclass
class Findings:
    """What was tried, how it was answered, and what was not a plain answer."""

    tried: Counter[str] = field(default_factory=Counter)
    answers: Counter[str] = field(default_factory=Counter)
    wrong: list[str] = field(default_factory=list)
    slow_s: float = SLOW_S

    def watch(self, kind: str, sent: object, act: Callable[[], str]) -> None:
        """Do it and count the answer; what is raised, and what is slow, is a finding."""
        self.tried[kind] += 1
        begin = time.perf_counter()
        try:
            answer = act()
        except Exception:
            answer = "traceback"
            self.wrong.append(f"{kind}: {str(sent)[:600]}\n{traceback.format_exc(limit=-4)}")
        took = time.perf_counter() - begin
        if took > self.slow_s:
            self.wrong.append(f"{kind}: {took:.1f} s for {str(sent)[:600]}")
        self.answers[f"{kind} {answer}"] += 1

    def __str__(self) -> str:
        counts = "\n".join(f"{count:7} {name}" for name, count in sorted(self.answers.items()))
        return f"{counts}\n{len(self.wrong)} findings\n" + "\n".join(self.wrong[:20])


def nasty(rng: random.Random) -> Any:
    """A value that is out of place nearly everywhere."""
    return rng.choice((rng.choice(NUMBERS), rng.choice(TEXTS), None, True, [], {}, [[]], [1, 2], {"id": "x"}))


def places(data: Any, path: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    """Every path into JSON data."""
    yield path
    items = data.items() if isinstance(data, dict) else enumerate(data) if isinstance(data, list) else ()
    for key, one in items:
        yield from places(one, (*path, key))


def mutated(data: Any, rng: random.Random) -> Any:
    """A document with one to four things in it changed: another value, a scaled number, something gone or twice."""
    made = copy.deepcopy(data)
    for _ in range(rng.choice((1, 1, 1, 2, 4))):
        *above, last = rng.choice([path for path in places(made) if path] or [("x",)])
        here = made
        for key in above:
            here = here[key]
        old = here[last] if (isinstance(here, list) or last in here) else None
        way = rng.randrange(5)
        if isinstance(old, int | float) and not isinstance(old, bool) and rng.random() < 0.7:
            here[last] = old * rng.choice((-1, 0, 0.01, 0.5, 0.9, 1.001, 1.3, 2, 100))
        elif way == 1:
            del here[last]
        elif way == 2 and isinstance(here, list):
            here.insert(last, copy.deepcopy(old))
        elif way == 3 and isinstance(old, str):
            others = [one for one in re.findall(r'"([\w-]+)"', json.dumps(data)) if one != old]
            here[last] = rng.choice(others) if others else "x"
        else:
            here[last] = nasty(rng)
    return made


def documents(findings: Findings, rng: random.Random, seeds: list[Any]) -> None:
    """One document, read and planned."""
    from isostasis.core.catalogue import shipped
    from isostasis.core.document import resolve
    from isostasis.core.fault import Faults
    from isostasis.core.plan import plan
    from isostasis.core.reading import read

    made = mutated(rng.choice(seeds), rng)

    def act() -> str:
        try:
            plan(resolve(read(json.dumps(made)), shipped()))
        except Faults:
            return "refused"
        return "planned"

    findings.watch("document", json.dumps(made), act)


class Site:
    """The pages served for real, and what their own map and forms say can be asked of them."""

    def __init__(self, folder: Path, seeds: list[Any]) -> None:
        import logging

        import waitress

        from isostasis.core.fault import Faults
        from isostasis.core.reading import read
        from isostasis.store import Database, scenes
        from isostasis.web import create_app

        logging.getLogger("isostasis.web").setLevel(logging.CRITICAL)
        logging.getLogger("waitress").setLevel(logging.CRITICAL)
        self.database = Database(folder / "fuzz.db")
        from datetime import UTC, datetime

        with self.database.writing() as session:
            for data in seeds:
                try:
                    scenes.create(session, read(json.dumps(data)), "new", datetime.now(UTC))
                except Faults:
                    continue
            self.slugs = [row.slug for row in scenes.all_scenes(session)]
        self.app = create_app(self.database, zone="Europe/Oslo")
        self.server = waitress.create_server(self.app, host="127.0.0.1", port=0, threads=4)
        Thread(target=self.server.run, daemon=True).start()
        apart = {"static", "live.stream"}  # a stream has no end to wait for
        self.rules = [rule for rule in self.app.url_map.iter_rules() if rule.endpoint not in apart]
        self.cookie = self.token = ""
        page = self.ask("GET", "/")[1]
        self.token = re.search(r'name="csrf-token" content="([^"]+)"', page)[1]  # type: ignore[index]
        self.fields: dict[str, list[tuple[str, str]]] = {}
        for rule in self.rules:
            if "GET" in (rule.methods or ()):
                self.learn(self.ask("GET", self.url_of(rule, random.Random(0)))[1])

    def ask(
        self, method: str, url: str, body: bytes = b"", kind: str = "application/x-www-form-urlencoded"
    ) -> tuple[int, str]:
        """Status and text of an answer."""
        talk = http.client.HTTPConnection("127.0.0.1", self.server.effective_port, timeout=120)
        talk.request(method, url, body, {"Cookie": self.cookie, "Content-Type": kind})
        answer = talk.getresponse()
        for name, value in answer.getheaders():
            if name == "Set-Cookie":
                self.cookie = value.partition(";")[0]
        text = answer.read().decode("utf-8", "replace")
        talk.close()
        return answer.status, text

    def learn(self, page: str) -> None:
        """Fields of the forms on a page, by the address that they are sent to."""
        for form in re.findall(r"<form[^>]*>.*?</form>", page, re.S):
            target = re.search(r'action="([^"]+)"', form)
            if target:
                named = re.findall(r'name="([^"]+)"(?:[^>]*?value="([^"]*)")?', form)
                key = re.sub(r"/s/[^/]+/", "/s/*/", unescape(target[1]).partition("?")[0])
                self.fields[key] = [(name, unescape(value)) for name, value in named if name != "csrf_token"]

    def url_of(self, rule: Any, rng: random.Random) -> str:
        """An address of a rule, mostly of what is there."""
        values: dict[str, Any] = {}
        for name in rule.arguments:
            known = self.slugs if name == "slug" else ["1", "2"] if "int:" in rule.rule else ["tarn-water", "hole", "x"]
            values[name] = rng.choice(known) if rng.random() < 0.9 else rng.choice(("x", "9" * 20, "%00", "a b", "é"))
        with self.app.test_request_context():
            try:
                return str(self.app.url_for(rule.endpoint, **values))
            except Exception:  # a value that this rule's addresses cannot hold
                return "/"


def requests(findings: Findings, rng: random.Random, site: Site) -> None:
    """One request: a form filled in with what does not belong there, or a page with such an address."""
    rule = rng.choice(site.rules)
    url = site.url_of(rule, rng)
    method = "POST" if "POST" in (rule.methods or ()) else "GET"
    named = site.fields.get(re.sub(r"/s/[^/]+/", "/s/*/", url)) or [(name, "") for name in rng.sample(ASKED, 4)]
    sent = [
        (name, value if value and rng.random() < 0.6 else str(rng.choice((*TEXTS, *NUMBERS)))) for name, value in named
    ]
    rng.shuffle(sent)
    sent = sent[: rng.randint(0, len(sent))] if rng.random() < 0.2 else sent
    if method == "GET":
        url += "?" + urlencode(sent)
        body = b""
    else:
        body = urlencode([("csrf_token", site.token), *sent]).encode("utf-8", "replace")

    def act() -> str:
        status, text = site.ask(method, url, body)
        assert status < 500, f"{status}: {text[-300:]}"
        if status == 200 and method == "GET" and rng.random() < 0.1:
            site.learn(text)
        return f"{method} {status}"

    findings.watch("request", f"{method} {url} {sent}", act)


def files(findings: Findings, rng: random.Random, site: Site) -> None:
    """One file in every format that can be taken in, bytes of it changed."""
    slug = rng.choice(site.slugs)
    kind = rng.choice(("asc", "csv", "png", "json"))
    address = f"/s/{slug}/export.json" if kind == "json" else f"/s/{slug}/ground/files/{kind}"
    talk = http.client.HTTPConnection("127.0.0.1", site.server.effective_port, timeout=120)
    talk.request("GET", address, headers={"Cookie": site.cookie})
    data = bytearray(talk.getresponse().read())
    talk.close()
    for _ in range(rng.randint(0, 6)):
        at = rng.randrange(max(len(data), 1))
        data[at : at + rng.choice((0, 1, 40))] = rng.choice(
            (b"", b"\0", b"-", b"9" * 30, b"nan", b"\xff\xfe", b"1e999 ")
        )
    target, name = ("/scenes/import", "x.json") if kind == "json" else (f"/s/{slug}/ground/survey", f"x.{kind}")
    edge = "".join(rng.choices(string.ascii_letters, k=20))
    parts = [("csrf_token", site.token), ("base", "1")]
    body = b"".join(
        f'--{edge}\r\nContent-Disposition: form-data; name="{key}"\r\n\r\n{value}\r\n'.encode() for key, value in parts
    )
    body += f'--{edge}\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\n\r\n'.encode() + bytes(data)
    body += f"\r\n--{edge}--\r\n".encode()

    def act() -> str:
        status, text = site.ask("POST", target, body, f"multipart/form-data; boundary={edge}")
        assert status < 500, f"{status}: {text[-300:]}"
        return f"{kind} {status}"

    findings.watch("file", f"{target} {bytes(data[:200])!r}", act)


def command_lines(findings: Findings, rng: random.Random, folder: Path, seeds: list[Any]) -> None:
    """One command line of a verb that ends by itself."""
    from click.testing import CliRunner

    from isostasis.cli import main

    verbs = sorted(set(main.commands) - {"serve", "demo", "bench"})
    path = folder / "scene.json"
    path.write_text(json.dumps(mutated(rng.choice(seeds), rng)))
    words = [rng.choice(verbs)]
    options = [
        name for one in main.commands[words[0]].params for name in (*one.opts, *one.secondary_opts) if name[0] == "-"
    ]
    paths = (str(path), str(folder), str(folder / "fuzz.db"), str(folder / "out"))
    for _ in range(rng.randint(0, 4)):
        words.append(rng.choice((*paths, *options, *options, *TEXTS[:8], "2027-03-01T19:00", "mon 19:00-22:00")))
    words = [word for word in words if "\0" not in word]  # no shell can send one

    def act() -> str:
        with chdir(folder):  # whatever it makes goes with the folder
            done = CliRunner().invoke(main, [*words, *(("--db", str(folder / "cli.db")) if "--db" in options else ())])
        assert done.exit_code in (0, 1, 2) and isinstance(done.exception, SystemExit | None), done.exception
        return f"{words[0]} exit {done.exit_code}"

    findings.watch("command", words, act)


def run(seed: int, seconds: float, most: int = 10**9, slow_s: float = SLOW_S) -> Findings:
    """Everything in turn until the time, or so many rounds, are over; what takes longer than `slow_s` is a finding."""
    from isostasis.demo import document

    root = Path(__file__).parents[1]
    tarn = json.loads((root / "tests" / "data" / "tarn-first-kinds.json").read_text())
    seeds = [tarn, tarn, *(document(name) for name in ("ember-pools", "saltcote-pans", "hollin-delf"))]
    rng, findings = random.Random(seed), Findings(slow_s=slow_s)
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        site = Site(folder, [tarn, document("ember-pools")])
        ends, rounds = time.monotonic() + seconds, 0
        while time.monotonic() < ends and rounds < most:
            rounds += 1
            documents(findings, rng, seeds)
            requests(findings, rng, site)
            requests(findings, rng, site)
            if rounds % 5 == 0:
                files(findings, rng, site)
                command_lines(findings, rng, folder, seeds)
        site.server.close()
        site.app.extensions["solver"].close()
    return findings


def main() -> None:
    """From the command line."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--seconds", type=float, default=600)
    asked = parser.parse_args()
    findings = run(asked.seed, asked.seconds)
    print(findings)
    raise SystemExit(bool(findings.wrong))


if __name__ == "__main__":
    main()
