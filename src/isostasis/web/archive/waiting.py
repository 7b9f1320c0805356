"""Archives that were sent and wait until it is said what to do with them: files of this user's alone, for a day."""

from __future__ import annotations

import os
import tempfile
import time
from contextlib import suppress
from hashlib import sha256
from pathlib import Path
from typing import IO

from ...core.fault import fault

FOR_S = 24 * 3600
MOST = 3  # that wait at once
CHUNK = 1 << 20


def _folder() -> Path:
    """Where they lie. Raises Faults for a folder that belongs to somebody else."""
    folder = Path(tempfile.gettempdir()) / f"isostasis-incoming-{os.getuid() if hasattr(os, 'getuid') else 'own'}"
    folder.mkdir(mode=0o700, exist_ok=True)
    if hasattr(os, "getuid") and folder.stat().st_uid != os.getuid():
        raise fault("archive", f"{folder} belongs to somebody else", "take it away, or name another TMPDIR")
    return folder


def keep(data: IO[bytes]) -> str:
    """Keep what was sent; gives the SHA-256 by which it is found again. Lets go of old ones. Raises Faults, OSError."""
    folder = _folder()
    digest, part = sha256(), folder / f"{os.getpid()}-{time.monotonic_ns()}.part"
    try:
        with part.open("wb") as out:
            while chunk := data.read(CHUNK):
                digest.update(chunk)
                out.write(chunk)
        part.replace(folder / f"{digest.hexdigest()}.zip")
    finally:
        part.unlink(missing_ok=True)
    there = sorted(folder.glob("*.zip"), key=lambda one: one.stat().st_mtime, reverse=True)
    for number, old in enumerate(there):
        if number >= MOST or time.time() - old.stat().st_mtime > FOR_S:
            old.unlink(missing_ok=True)
    return digest.hexdigest()


def find(digest: str) -> Path:
    """The file that waits. Raises Faults where it is gone."""
    path = _folder() / f"{digest}.zip"
    if len(digest) != 64 or not all(one in "0123456789abcdef" for one in digest) or not path.exists():
        raise fault("archive", "it waits no more", "send it once more")
    return path


def let_go(digest: str) -> None:
    """It was taken in, or is not wanted."""
    with suppress(OSError):
        find(digest).unlink()
