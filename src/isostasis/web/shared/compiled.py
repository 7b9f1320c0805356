"""Templates compiled once a process, however many applications it makes."""

from __future__ import annotations

from jinja2 import BytecodeCache
from jinja2.bccache import Bucket


class CompiledOnce(BytecodeCache):
    """Keeps what templates were compiled to in memory, by name and content."""

    def __init__(self) -> None:
        self._kept: dict[str, bytes] = {}

    def load_bytecode(self, bucket: Bucket) -> None:
        """Fill in what was kept; what was compiled of another content is compiled anew."""
        if bucket.key in self._kept:
            bucket.bytecode_from_string(self._kept[bucket.key])

    def dump_bytecode(self, bucket: Bucket) -> None:
        """Keep it."""
        self._kept[bucket.key] = bucket.bytecode_to_string()


COMPILED = CompiledOnce()
