"""Edits Hollin Delf 200 times at a 2 mm grid, plans each, and prints the most MB that were resident meanwhile."""

from __future__ import annotations

import resource

from isostasis.core.catalogue import shipped
from isostasis.core.document import edit, resolve
from isostasis.core.plan import plan
from isostasis.core.reading import read
from isostasis.demo import document

MOVED = ("lower-bench", "middle-bench", "top-bench")


def main() -> None:
    """A corner of one bench after the other is moved by half a millimetre."""
    catalogue = shipped()
    scene = read({**document("hollin-delf"), "grid_mm": 2})
    for number in range(200):
        form = edit.find(scene, "forms", MOVED[number % len(MOVED)])
        (x, y), *others = form.outline
        scene = edit.update(scene, "forms", form.id, {"outline": [[x + 0.5, y], *others]})
        plan(resolve(scene, catalogue))
    print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1000)


if __name__ == "__main__":
    main()
