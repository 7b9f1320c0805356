"""What is done once a minute for all who only look, since looking changes nothing: schedules that calendars fetched out
of date are planned anew, waits follow the room that a probe reads, it is kept when devices were there, and the bin is
emptied.
"""

from __future__ import annotations

from datetime import date, datetime
from threading import Event, Thread

from flask import Flask

from ...core.fault import Faults
from ...store import NoSuchScene, devices, logbook
from ...store.shelved import empty_bin
from ..shared.scenes import database, move_waits, now
from .asking import ask_if_stale, clock_of

EVERY_S = 60.0


class Keeper:
    """Since the last round: scenes whose calendar was `fetched`, when devices were `seen`, whether a probe has read the
    room; and the day on which the bin was emptied last."""

    def __init__(self, app: Flask) -> None:
        self.app = app
        self.fetched: set[str] = set()
        self.seen: dict[int, datetime] = {}
        self.room_read = False
        self._emptied: date | None = None
        self._over = Event()

    def start(self) -> None:
        """A round a minute, in a thread of its own, until `close`."""
        Thread(target=self._run, daemon=True).start()

    def close(self) -> None:
        """No further round."""
        self._over.set()

    def round(self) -> None:
        """Keep who was there, let go of what lay in the bin too long, and plan anew what is out of date; a scene that
        is gone or at fault is left alone."""
        with self.app.app_context():
            if self.seen:
                with database().writing() as session:
                    devices.seen(session, self.seen)
                self.seen = {}
            today = now().date()
            if self._emptied != today:
                with database().writing() as session:
                    empty_bin(session, now())
                self._emptied = today
            if self.room_read:
                self.room_read = False
                self._move_waits()
            while self.fetched:
                try:
                    ask_if_stale(clock_of(self.fetched.pop()))
                except (NoSuchScene, Faults):
                    continue

    def _move_waits(self) -> None:
        """Work out anew what is wet on every scene at work; one that is at fault is left alone."""
        with database().reading() as session:
            slugs = [row.slug for row in logbook.at_work(session)]
        for slug in slugs:
            try:
                move_waits(slug)
            except (NoSuchScene, Faults):
                continue

    def _run(self) -> None:
        while not self._over.wait(EVERY_S):
            try:
                self.round()
            except Exception:
                self.app.logger.exception("a round of the keeper")
