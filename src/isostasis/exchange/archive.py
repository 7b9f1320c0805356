"""Archives (.zip): a scene whole, with its photos; and everything that a database keeps, in a form of its own.

A scene: `scene.json`, its photo as `photo-taken.webp` and `photo-straight.webp`, the photos of its steps under
`steps/` with `steps.json`. Everything: `archive.json`, a file of JSON lines for each table, pictures by their SHA-256.
"""

from __future__ import annotations

import io
import json
import re
import zipfile
from collections.abc import Iterable, Iterator, Mapping, Sequence
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass
from hashlib import sha256
from pathlib import Path
from typing import IO, Any

from ..core.fault import Faults, fault
from .picture import MAX_BYTES, as_kept

SCENE, TAKEN, STRAIGHT, STEPS = "scene.json", "photo-taken.webp", "photo-straight.webp", "steps.json"
HEAD, FORMAT = "archive.json", 1
START = b"PK\x03\x04"
MAX_SCENE_BYTES, MAX_STEPS = 20_000_000, 4000
MAX_ENTRIES, MAX_TABLE_BYTES, MAX_WHOLE_BYTES = 100_000, 1_000_000_000, 3_000_000_000  # unpacked
MAX_LINE = 20_000_000
MAX_SENT_BYTES = 600_000_000  # packed, over the web
_STEP_PHOTO = re.compile(r"steps/[0-9a-f]{64}\.webp")
_TABLE = re.compile(r"tables/([a-z_]{1,40})\.jsonl")
_PICTURE = re.compile(r"pictures/([0-9a-f]{64})\.webp")
_BROKEN = (zipfile.BadZipFile, EOFError, NotImplementedError, RuntimeError, OSError)


@dataclass(frozen=True)
class StepPhoto:
    """A photo of a step as it travels: of which step, `before` or `after`, its note, when (ISO), the picture (WebP)."""

    step: str
    moment: str
    note: str
    at: str
    content: bytes


@dataclass(frozen=True)
class SceneArchive:
    """A scene as it came: its document's text, its pictures, the photos of its steps."""

    document: bytes
    pictures: tuple[bytes, ...]
    steps: tuple[StepPhoto, ...]


def _broken() -> Faults:
    return fault("archive", "it breaks off, or is damaged", "save it anew, and send it once more")


def write_archive(document: str, taken: bytes | None, straight: bytes | None, steps: Sequence[StepPhoto] = ()) -> bytes:
    """The archive of a document's text, its pictures, and the photos of its steps."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in ((SCENE, document), (TAKEN, taken), (STRAIGHT, straight)):
            if content is not None:
                archive.writestr(name, content)
        heads = []
        for shot in steps:
            name = f"steps/{sha256(shot.content).hexdigest()}.webp"
            if name not in archive.namelist():
                archive.writestr(name, shot.content, zipfile.ZIP_STORED)
            heads.append({"file": name, "step": shot.step, "moment": shot.moment, "note": shot.note, "at": shot.at})
        if heads:
            archive.writestr(STEPS, json.dumps(heads, ensure_ascii=False))
    return out.getvalue()


def read_archive(data: bytes) -> SceneArchive:
    """A scene as it was packed, its document checked by nobody yet, its pictures looked into. Raises Faults."""
    most: dict[str, Any] = {SCENE: MAX_SCENE_BYTES, TAKEN: MAX_BYTES, STRAIGHT: MAX_BYTES, STEPS: MAX_LINE}
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            inside = {info.filename: info for info in archive.infolist()[:MAX_ENTRIES]}
            if SCENE not in inside:
                raise fault("archive", f"there is no {SCENE} in it", "choose an archive that was saved here")
            wanted = [one for one in inside if one in most or _STEP_PHOTO.fullmatch(one)]
            for name in wanted:
                limit = most.get(name, MAX_BYTES)
                if inside[name].file_size > limit:
                    raise fault("archive", f"its {name} is larger than {limit / 1e6:g} MB", "save it anew")
            if sum(inside[name].file_size for name in wanted) > 20 * MAX_BYTES:
                raise fault("archive", f"it unpacks to more than {20 * MAX_BYTES / 1e6:g} MB", "save it anew")
            contents = {name: archive.read(inside[name]) for name in wanted}
    except _BROKEN:
        raise _broken() from None
    pictures = tuple(contents[name] for name in (TAKEN, STRAIGHT) if name in contents)
    return SceneArchive(contents[SCENE], pictures, _steps(contents))


def _steps(contents: Mapping[str, bytes]) -> tuple[StepPhoto, ...]:
    if STEPS not in contents:
        return ()
    try:
        heads = json.loads(contents[STEPS])
        steps = tuple(
            StepPhoto(str(one["step"]), str(one["moment"]), str(one["note"]), str(one["at"]), contents[one["file"]])
            for one in heads
        )
    except (ValueError, KeyError, TypeError):
        raise fault("archive", f"its {STEPS} names photos that are not in it", "save it anew") from None
    if len(steps) > MAX_STEPS:
        raise fault("archive", f"it has {len(steps)} photos of steps", f"{MAX_STEPS} at most")
    return steps


def holds_everything(data: IO[bytes]) -> bool:
    """Whether an archive is one of everything, by its names alone. Raises Faults for half a zip."""
    try:
        with zipfile.ZipFile(data) as archive:
            return HEAD in archive.namelist()
    except _BROKEN:
        raise _broken() from None


def write_whole(
    file: IO[bytes] | Path,
    head: Mapping[str, Any],
    tables: Iterable[tuple[str, Iterable[Mapping[str, Any]]]],
    pictures: Iterable[tuple[str, bytes]],
) -> None:
    """Everything, in one file: `head` says what is inside, `tables` the rows of each, `pictures` WebP by SHA-256."""
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr(HEAD, json.dumps({"isostasis_archive": FORMAT, **head}, ensure_ascii=False, indent=1))
        for name, rows in tables:
            with archive.open(f"tables/{name}.jsonl", "w", force_zip64=True) as out:
                for row in rows:
                    out.write(json.dumps(row, ensure_ascii=False, separators=(",", ":")).encode() + b"\n")
        for digest, content in pictures:
            archive.writestr(zipfile.ZipInfo(f"pictures/{digest}.webp"), content)


class Whole:
    """An archive of everything, open: its `head`, the rows of a table, a picture."""

    def __init__(self, archive: zipfile.ZipFile, head: dict[str, Any], names: frozenset[str]) -> None:
        self._archive, self.head, self._names = archive, head, names

    @property
    def tables(self) -> tuple[str, ...]:
        """The names of its tables."""
        found = (_TABLE.fullmatch(name) for name in sorted(self._names))
        return tuple(one[1] for one in found if one)

    def rows(self, table: str) -> Iterator[dict[str, Any]]:
        """The rows of a table. Raises Faults for a line that is none."""
        where = f"tables/{table}.jsonl"
        if where not in self._names:
            return
        with self._archive.open(where) as lines:
            number = 0
            while line := lines.readline(MAX_LINE + 1):
                number += 1
                try:
                    row = json.loads(line) if len(line) <= MAX_LINE else None
                except ValueError:
                    row = None
                if not isinstance(row, dict):
                    raise fault(f"{table}, line {number}", "it is no row of a table", "save the archive anew")
                yield row

    def picture(self, digest: str) -> bytes:
        """A picture by its SHA-256. Raises Faults for one that is missing, or none."""
        name = f"pictures/{digest}.webp"
        content = self._archive.read(name) if name in self._names else b""
        if sha256(content).hexdigest() != digest:
            raise fault("archive", f"the picture {digest[:12]} is missing or changed", "save it anew")
        return as_kept(content).content


@contextmanager
def opened(file: IO[bytes] | Path) -> Iterator[Whole]:
    """An archive of everything, every name, size and checksum in it looked at first. Raises Faults."""
    with ExitStack() as until:
        try:
            archive = until.enter_context(zipfile.ZipFile(file))
            names = _sound(archive)
            head = json.loads(archive.read(HEAD))
            _known(head)
            bad = archive.testzip()
        except Faults:
            raise
        except (*_BROKEN, ValueError):
            raise _broken() from None
        if bad is not None:
            raise _broken()
        yield Whole(archive, head, names)


def _sound(archive: zipfile.ZipFile) -> frozenset[str]:
    """The names in an archive, once none of them is strange, twice there, or too large. Raises Faults."""
    inside = archive.infolist()
    if len(inside) > MAX_ENTRIES:
        raise fault("archive", f"it holds {len(inside)} files", f"{MAX_ENTRIES} at most")
    names: set[str] = set()
    for info in inside:
        name = info.filename
        limit = MAX_TABLE_BYTES if _TABLE.fullmatch(name) else MAX_BYTES
        if name != HEAD and not _TABLE.fullmatch(name) and not _PICTURE.fullmatch(name):
            raise fault(
                "archive", f"it holds “{name[:60]}”, which no archive of ours has", "choose one that was saved here"
            )
        if name in names:
            raise fault("archive", f"“{name[:60]}” is in it twice", "choose one that was saved here")
        if info.file_size > limit:
            raise fault("archive", f"its “{name[:60]}” is larger than {limit / 1e6:g} MB", "save it anew")
        names.add(name)
    if sum(info.file_size for info in inside) > MAX_WHOLE_BYTES:
        raise fault("archive", f"it unpacks to more than {MAX_WHOLE_BYTES / 1e9:g} GB", "save it anew")
    if HEAD not in names:
        raise fault("archive", f"there is no {HEAD} in it", "choose an archive that was saved here")
    return frozenset(names)


def _known(head: Any) -> None:
    version = head.get("isostasis_archive") if isinstance(head, dict) else None
    if not isinstance(version, int) or not isinstance(head.get("schema"), str):
        raise fault("archive", f"its {HEAD} says nothing of Isostasis", "choose an archive that was saved here")
    scenes = head.get("scenes")
    if not isinstance(scenes, list) or not all(
        isinstance(one, dict) and isinstance(one.get("slug"), str) and isinstance(one.get("name"), str)
        for one in scenes
    ):
        raise fault("archive", f"its {HEAD} does not name its scenes", "save it anew where it was made")
    if version > FORMAT:
        raise fault("archive", f"a newer version of Isostasis wrote it ({version})", "bring this one up to date")
