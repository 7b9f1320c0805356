"""One solver for all processes that serve a club's database: whoever holds the lease solves, all others ask by rows.

It is asked as `Solver` is. Whoever asked keeps the answer, so that a question is answered once however many look.
"""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime
from secrets import token_hex
from threading import Event, Thread
from typing import Any

from sqlalchemy.exc import DBAPIError

from ...solver import STOPPED, OnAnswer, OnOptions, Solver, SolverJob, Unwanted
from ...solver.question import SolverQuestion
from ...store import Database, jobs
from ...store.tables import SolverJobRow

LOOK_S = 0.4  # between two looks at the rows


class SharedSolver:
    """Asks through the database, and solves what is asked there while it holds the lease."""

    def __init__(
        self, database: Database, solver: Solver | None = None, now: Callable[[], datetime] = lambda: datetime.now(UTC)
    ) -> None:
        self.name = token_hex(8)
        self._database, self._solver, self._now = database, solver or Solver(), now
        self._over = Event()
        self._at: dict[str, tuple[int, SolverJob]] = {}  # what this process solves: number and job, by key

    def start(self) -> None:
        """Begin to look whether it is this process's turn to solve."""
        Thread(target=self._repeat, args=(self.turn,), daemon=True).start()

    def close(self) -> None:
        """Stop, and let another process solve."""
        self._over.set()
        self._solver.close()
        with self._database.writing() as session:
            jobs.release(session, self.name, self._now())

    def ask(
        self,
        key: str,
        question: SolverQuestion,
        on_answer: OnAnswer,
        on_options: OnOptions = lambda _: None,
        about: str = "",
    ) -> SolverJob:
        """Ask as of `Solver`."""
        with self._database.writing() as session:
            number = jobs.ask(session, key, question.model_dump(mode="json"), about)
        job = SolverJob(question, on_answer, on_options, about)
        Thread(target=self._follow, args=(key, number, job), daemon=True).start()
        return job

    def of(self, key: str) -> SolverJob | None:
        """What was asked last under a key, by any process."""
        with self._database.reading() as session:
            row = jobs.of(session, key)
        return None if row is None else _job_of(row)

    def cancel(self, key: str) -> None:
        """Stop searching."""
        with self._database.writing() as session:
            jobs.end(session, key, STOPPED)

    def turn(self) -> None:
        """One look: solve what is asked if the lease is ours, and tell how far it is."""
        with self._database.writing() as session:
            mine = jobs.holds_lease(session, self.name, self._now())
            rows = jobs.unanswered(session) if mine else []
        wanted = {row.key: row for row in rows}
        for key, (number, job) in list(self._at.items()):
            if key not in wanted or wanted[key].number != number:
                del self._at[key]
                if key not in wanted and not job.over:
                    self._solver.cancel(key)  # a newer question ends the search for an older one by itself
        for key, row in wanted.items():
            if key not in self._at:
                question = SolverQuestion.model_validate(row.question)
                self._at[key] = row.number, self._solver.ask(key, question, lambda _: None)
            number, job = self._at[key]
            with self._database.writing() as session:
                jobs.report_progress(
                    session, key, number, best=job.best, bound=job.bound, first=job.first, made=job.made,
                    options=list(job.options), wrong=job.wrong, over=job.over,
                )  # fmt: skip

    def _follow(self, key: str, number: int, job: SolverJob) -> None:
        """Hand an answer to whoever asked, once, and what would buy time when all is over."""

        def look() -> bool:
            with self._database.reading() as session:
                row = jobs.of(session, key)
            if row is None or row.number != number:
                job.over = True  # another question took its place
                return True
            try:
                for now_told, told in ((row.first, job.first), (row.made, job.made)):
                    if now_told is not None and told is None:
                        job.on_answer(now_told)
            except Unwanted as gone:
                with self._database.writing() as session:
                    jobs.refuse(session, key, number, str(gone))
                job.over = True
                return True
            job.best, job.bound, job.first, job.made = row.best, row.bound, row.first, row.made
            job.options = list(row.options)
            if row.over:
                if row.options:
                    job.on_options(list(row.options))
                job.wrong, job.over = row.wrong, True
            return bool(row.over)

        self._repeat(look)

    def _repeat(self, act: Callable[[], Any]) -> None:
        while not self._over.is_set():
            try:
                if act():
                    return
            except DBAPIError:
                pass  # the database is away: look again
            self._over.wait(LOOK_S)


def _job_of(row: SolverJobRow) -> SolverJob:
    question = SolverQuestion.model_validate(row.question)
    return SolverJob(
        question, lambda _: None, lambda _: None, row.about, row.best, row.bound, row.first, row.made,
        list(row.options), row.wrong, row.over,
    )  # fmt: skip
