"""16-bit greyscale pictures (.png) with a side file (.json) for their scale: height = low_mm + step_mm x grey.

65535 is no height. Out and in again is within half a step; the step is the finest that 16 bits hold.
"""

from __future__ import annotations

import io
import json
import struct
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import Field, ValidationError

from ..core.catalogue.model import Entry, Positive
from ..core.document.outline import Coordinate
from ..core.document.scene import MAX_CELLS
from ..core.fault import Faults, fault
from ..core.ground.field import Ground
from ..core.ground.forms.survey import Grid

SIGNATURE = b"\x89PNG\r\n\x1a\n"


class Side(Entry):
    """The side file: cell, heights and the south-west corner, all in mm."""

    heightmap: Literal[1] = 1
    cell_mm: Positive
    low_mm: Annotated[float, Field(ge=-1000, le=5000)]
    step_mm: Positive
    west_mm: Coordinate = 0.0
    south_mm: Coordinate = 0.0


def write_png(ground: Ground) -> tuple[bytes, str]:
    """The picture, north up, and its side file."""
    from PIL import Image

    z = np.where(ground.on_base, ground.z, np.nan)
    grid = Grid.of(z, ground.cell_mm)
    grey = np.where(np.isnan(z), 65_535, np.rint((z - grid.low_mm) / grid.step_mm)).astype(np.uint16)
    out = io.BytesIO()
    Image.fromarray(grey[::-1]).save(out, "PNG")
    side = Side(cell_mm=ground.cell_mm, low_mm=grid.low_mm, step_mm=grid.step_mm)
    return out.getvalue(), json.dumps(side.model_dump(), indent=1) + "\n"


def _side(text: str | None) -> Side:
    if text is None:
        raise fault(
            "picture",
            "it comes without its side file, so nothing tells how high its greys are",
            'choose the .json that goes with it: {"heightmap": 1, "cell_mm": 5, "low_mm": 0, "step_mm": 0.01}',
        )
    try:
        data: Any = json.loads(text)
        return Side.model_validate(data)
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(part) for part in first["loc"]) or "side file"
        raise fault(f"side file, {where}", first["msg"][:1].lower() + first["msg"][1:], "see docs/formats.md") from None
    except ValueError:
        raise fault("side file", "it is no JSON", 'write {"heightmap": 1, "cell_mm": 5, ...}') from None


def read_png(data: bytes, side: str | None) -> Grid:
    """A grid from a picture and its side file. The picture's size is judged before it is unpacked. Raises Faults."""
    from PIL import Image, UnidentifiedImageError

    def wrong(what: str, right: str) -> Faults:
        return fault("picture", what, right)

    if data[:8] == SIGNATURE and data[12:16] == b"IHDR" and len(data) >= 24:
        width, height = struct.unpack(">II", data[16:24])
        if width * height > MAX_CELLS:
            raise wrong(f"{width} × {height} are {width * height:,} heights, more than {MAX_CELLS:,}", "scale it down")
    try:
        image = Image.open(io.BytesIO(data), formats=["PNG"])
    except (UnidentifiedImageError, Image.DecompressionBombError, OSError, ValueError, SyntaxError):
        raise wrong("this is no PNG that can be read", "save it again as a 16-bit greyscale PNG") from None
    with image:
        width, height = image.size
        if image.mode not in ("I;16", "I;16B", "I"):
            raise wrong(
                f"it is not 16-bit greyscale (it is {image.mode})",
                "save it as 16-bit greyscale: 8 bits make steps of ground",
            )
        if min(width, height) < 2:
            raise wrong(f"{width} × {height} makes no ground", "at least 2 × 2")
        scale = _side(side)
        try:
            grey = np.asarray(image.convert("I"), dtype=np.int64)
        except (OSError, ValueError, SyntaxError):
            raise wrong("it is cut short or damaged", "save it again") from None
    if (grey == 65_535).all():
        raise wrong("it has no height at all", "65535 stands for none; use lower greys")
    return Grid.exactly(
        grey[::-1].astype(np.float64), scale.low_mm, scale.step_mm, scale.cell_mm, scale.west_mm, scale.south_mm
    )
