"""Plans anew, by itself, what calendars have fetched and found out of date: a fetch alone changes nothing."""

from __future__ import annotations

from threading import Event, Thread

from flask import Flask

from ...core.fault import Faults
from ...store import NoSuchScene
from .asking import clock_of
from .views import ask_if_stale

EVERY_S = 60.0


class Keeper:
    """Scenes whose calendar was fetched since the last round; each round plans anew those that are out of date."""

    def __init__(self, app: Flask) -> None:
        self.app = app
        self.fetched: set[str] = set()
        self._over = Event()

    def start(self) -> None:
        """A round a minute, in a thread of its own, until `close`."""
        Thread(target=self._run, daemon=True).start()

    def close(self) -> None:
        """No further round."""
        self._over.set()

    def round(self) -> None:
        """Plan anew what is out of date; a scene that is gone or at fault waits for its own page."""
        with self.app.app_context():
            while self.fetched:
                try:
                    ask_if_stale(clock_of(self.fetched.pop()))
                except (NoSuchScene, Faults):
                    continue

    def _run(self) -> None:
        while not self._over.wait(EVERY_S):
            try:
                self.round()
            except Exception:
                self.app.logger.exception("a round of the keeper")
