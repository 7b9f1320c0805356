"""Photographs in: JPEG, PNG, WebP, and HEIC where its package is there. What is kept is a WebP of the picture alone:
upright, no larger than is of use, without where and when it was taken.
"""

from __future__ import annotations

import io
import warnings
from dataclasses import dataclass
from typing import TYPE_CHECKING

from ..core.fault import Faults, fault

if TYPE_CHECKING:
    from PIL.Image import Image

MAX_BYTES = 30_000_000
MAX_PIXELS = 64_000_000
MAX_PX = 2400  # of the longer side as kept
SMALL_PX = 480  # of the longer side of a small one
MIN_PX = 200
QUALITY = 85
KINDS = "JPEG, PNG or WebP"
FOCUS_35MM, FRAME_MM = 41_989, 36.0  # EXIF: focal length as on a frame of 36 mm
EXIF_IFD = 0x8769


@dataclass(frozen=True)
class Picture:
    """A picture as it is kept: WebP, (width, height) in px, focal length in longer sides if its camera told it."""

    content: bytes
    size: tuple[int, int]
    focus: float | None = None


def opened(content: bytes) -> Image:
    """A kept picture, to work with."""
    from PIL import Image

    return Image.open(io.BytesIO(content))


def packed(image: Image) -> bytes:
    """A picture as WebP, with nothing in it but the picture."""
    out = io.BytesIO()
    image.convert("RGB").save(out, "WEBP", quality=QUALITY, method=4)
    return out.getvalue()


def small(picture: Picture) -> Picture:
    """The same picture, small enough to stand beside others."""
    from PIL import Image

    image = opened(picture.content)
    image.thumbnail((SMALL_PX, SMALL_PX), Image.Resampling.LANCZOS)
    return Picture(packed(image), image.size)


def take_in(name: str, data: bytes) -> Picture:
    """A photograph from a file. Raises Faults."""
    from PIL import Image, ImageOps, UnidentifiedImageError

    where = name[:80] or "photo"
    if not data:
        raise fault(where, "there is nothing in it", f"choose a photo ({KINDS})")
    if len(data) > MAX_BYTES:
        raise fault(where, f"it is larger than {MAX_BYTES / 1e6:g} MB", "save it smaller; 3,000 px across are plenty")
    heic = data[4:8] == b"ftyp" and data[8:12] in (b"heic", b"heix", b"mif1", b"msf1", b"hevc", b"heim")
    if heic and not _knows_heic():
        raise fault(
            where, "it is HEIC, which this installation cannot read",
            "set the phone's camera to the most compatible format (JPEG), or install isostasis[heic]",
        )  # fmt: skip
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)
            image = Image.open(io.BytesIO(data), formats=["JPEG", "PNG", "WEBP", *(["HEIF"] if heic else [])])
        width, height = image.size
        if width * height > MAX_PIXELS:
            raise _too_many(where)
        if min(width, height) < MIN_PX:
            raise fault(where, f"it is {width} x {height} px", f"at least {MIN_PX} px a side, better 2,000")
        focal_mm = image.getexif().get_ifd(EXIF_IFD).get(FOCUS_35MM)
        image.draft("RGB", (2 * MAX_PX, 2 * MAX_PX))
        upright = ImageOps.exif_transpose(image).convert("RGB")
    except Image.DecompressionBombError:
        raise _too_many(where) from None
    except UnidentifiedImageError:
        raise fault(where, f"it is no picture of a kind that is known here ({KINDS})", "choose a photo") from None
    except Faults:
        raise
    except (OSError, SyntaxError, ValueError, EOFError, MemoryError):
        raise fault(where, "it breaks off, or is damaged", "send it once more, or take another") from None
    upright.thumbnail((MAX_PX, MAX_PX), Image.Resampling.LANCZOS)
    focus = float(focal_mm) / FRAME_MM if isinstance(focal_mm, int | float) and 8 <= focal_mm <= 400 else None
    return Picture(packed(upright), upright.size, focus)


def _too_many(where: str) -> Faults:
    return fault(
        where, f"it has more than {MAX_PIXELS / 1e6:g} million px", "save it smaller; 3,000 px across are plenty"
    )


def as_kept(content: bytes) -> Picture:
    """A picture that was kept once and comes back from an archive: the same bytes, looked into first. Raises Faults."""
    from PIL import Image, UnidentifiedImageError

    try:
        image = Image.open(io.BytesIO(content), formats=["WEBP"])
        sound = max(image.size) <= MAX_PX and min(image.size) >= 1 and not {"exif", "xmp"} & set(image.info)
        if sound:
            image.load()
    except (UnidentifiedImageError, Image.DecompressionBombError, OSError, SyntaxError, ValueError):
        sound = False
    if not sound:
        raise fault("archive", "a picture in it is none that was kept here", "save the archive anew")
    return Picture(content, image.size)


def _knows_heic() -> bool:
    """Whether the optional package is there; makes its format known if so."""
    try:
        from pillow_heif import register_heif_opener
    except ImportError:
        return False
    register_heif_opener()
    return True
