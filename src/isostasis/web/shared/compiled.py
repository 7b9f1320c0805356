"""Templates compiled once, however many applications and processes there are."""

from __future__ import annotations

from contextlib import suppress
from hashlib import sha256
from pathlib import Path

from jinja2 import BytecodeCache, FileSystemBytecodeCache
from jinja2.bccache import Bucket
from platformdirs import user_cache_path


class CompiledOnce(BytecodeCache):
    """Keeps what templates were compiled to, by name and content: in memory and, where it can be written, in a folder
    for the next process."""

    def __init__(self, folder: Path) -> None:
        self._kept: dict[str, bytes] = {}
        self._folder: FileSystemBytecodeCache | None = None
        with suppress(OSError):
            folder.mkdir(parents=True, exist_ok=True)
            self._folder = FileSystemBytecodeCache(str(folder))

    def get_cache_key(self, name: str, filename: str | None = None) -> str:
        """By the name alone, not where it lies: the folder does not grow with each place that this is installed at."""
        return sha256(name.encode()).hexdigest()

    def load_bytecode(self, bucket: Bucket) -> None:
        """Fill in what was kept; what was compiled of another content is compiled anew."""
        if bucket.key in self._kept:
            bucket.bytecode_from_string(self._kept[bucket.key])
        elif self._folder is not None:
            with suppress(OSError):
                self._folder.load_bytecode(bucket)
            if bucket.code is not None:
                self._kept[bucket.key] = bucket.bytecode_to_string()

    def dump_bytecode(self, bucket: Bucket) -> None:
        """Keep it."""
        self._kept[bucket.key] = bucket.bytecode_to_string()
        if self._folder is not None:
            with suppress(OSError):
                self._folder.dump_bytecode(bucket)


COMPILED = CompiledOnce(user_cache_path("isostasis") / "templates")
