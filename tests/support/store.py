"""Work marked straight in the store, as the pages mark it; and one database over many files."""

from functools import cache
from pathlib import Path
from tempfile import TemporaryDirectory

from isostasis.core.plan import plan
from isostasis.store import Database, logbook, scenes


def do(session, scene, step, at, what="done", **more):
    """Mark a step of a scene by its id."""
    resolved = scenes.resolve(session, scene.head)
    made = plan(resolved)
    found = next(one for one in made.steps if one.id == step)
    return logbook.add_event(session, scene, (resolved, made), found, what, at, **more)


@cache
def _empty():
    with TemporaryDirectory() as folder:
        path = Path(folder) / "empty.db"
        Database(path).close()
        return path.read_bytes()


def fresh(path):
    """A file with nothing in it yet, at this path, its tables up to date: to bring them there takes longer than a test."""
    path.write_bytes(_empty())
    return path


class SharedEngine:
    """One database for many tests, with a file of its own under it for each: what is asked of it is compiled to SQL
    once, which otherwise takes a test longer than the asking."""

    def __init__(self, folder):
        self.link = folder / "here.db"
        self.opened = None

    def over(self, file):
        """The database over this file, as if it had just been opened."""
        following = self.link.with_suffix(".next")
        following.symlink_to(file)
        following.replace(self.link)
        if self.opened is None:
            self.opened = Database(self.link)
        self.opened.close()  # what an earlier test's threads have opened since
        self.opened.path, self.opened.address, self.opened.name = file, str(file), str(file)
        return self.opened
