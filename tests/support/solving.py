"""One solver for many tests."""

from datetime import UTC, datetime

from isostasis.solver import Solver
from isostasis.solver.question import SolverQuestion

NOTHING = SolverQuestion(scenes={}, hours="never", zone="UTC", start=datetime(2026, 1, 1, tzinfo=UTC))


class Resting(Solver):
    """Rests between tests: an answer to an earlier one would go into a database that now lies over another file, and a
    search that nobody waits for takes the time of those who do."""

    def __init__(self):
        super().__init__()
        self._keys = set()

    def ask(self, key, *question, **more):
        self._keys.add(key)
        return super().ask(key, *question, **more)

    def rest(self):
        """Whatever is searched for is superseded by a question that is refused at once."""
        for key in self._keys:
            super().ask(key, NOTHING, lambda _: None)
        self._keys.clear()
