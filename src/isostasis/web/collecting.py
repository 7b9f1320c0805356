"""When unused memory is looked for while pages are served: less often than Python does by itself, for a page waits
meanwhile; and never again through what the program itself has loaded."""

from __future__ import annotations

import gc

# New objects before they are looked through, and how often that happens before older ones are (Python: 700, 10, 10).
YOUNG, OLDER, OLDEST = 20_000, 20, 20


def settle() -> None:
    """What is loaded by now stays, and is looked through no more."""
    gc.collect()
    gc.freeze()
    gc.set_threshold(YOUNG, OLDER, OLDEST)
