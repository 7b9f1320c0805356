"""A scene whole, in one file: its document and its photo (.zip with scene.json and the pictures as .webp)."""

from __future__ import annotations

import io
import zipfile
from typing import Any

from ..core.fault import fault
from .picture import MAX_BYTES

SCENE, TAKEN, STRAIGHT = "scene.json", "photo-taken.webp", "photo-straight.webp"
MAX_SCENE_BYTES = 20_000_000
START = b"PK\x03\x04"


def write_archive(document: str, taken: bytes | None, straight: bytes | None) -> bytes:
    """The archive of a document's text and its pictures."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in ((SCENE, document), (TAKEN, taken), (STRAIGHT, straight)):
            if content is not None:
                archive.writestr(name, content)
    return out.getvalue()


def read_archive(data: bytes) -> tuple[bytes, list[bytes]]:
    """The document's text and its pictures as they were packed, checked by nobody yet. Raises Faults."""
    most: dict[str, Any] = {SCENE: MAX_SCENE_BYTES, TAKEN: MAX_BYTES, STRAIGHT: MAX_BYTES}
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            inside = {info.filename: info for info in archive.infolist() if info.filename in most}
            if SCENE not in inside:
                raise fault("archive", f"there is no {SCENE} in it", "choose an archive that was saved here")
            for name, info in inside.items():
                if info.file_size > most[name]:
                    raise fault("archive", f"its {name} is larger than {most[name] / 1e6:g} MB", "save it anew")
            found = {name: archive.read(info) for name, info in inside.items()}
    except (zipfile.BadZipFile, EOFError, NotImplementedError, RuntimeError, OSError):
        raise fault("archive", "it breaks off, or is damaged", "save it anew, and send it once more") from None
    return found[SCENE], [found[name] for name in (TAKEN, STRAIGHT) if name in found]
