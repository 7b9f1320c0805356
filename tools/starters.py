"""Pictures of what a scene can be begun with, at the answers that stand there: `make starters` draws them anew."""

from __future__ import annotations

from pathlib import Path

from isostasis.core.catalogue import shipped
from isostasis.core.document import resolve
from isostasis.core.reading import read
from isostasis.core.starters import STARTERS, Starter
from isostasis.web.draw.block import block

FOLDER = Path(__file__).parents[1] / "src" / "isostasis" / "web" / "static" / "starters"


def picture(starter: Starter) -> bytes:
    """The starter's block (WebP), with nothing answered yet."""
    return block(resolve(read(starter.document({})), shipped())).picture


def main() -> None:
    """Draw them all."""
    FOLDER.mkdir(exist_ok=True)
    for starter in STARTERS:
        (FOLDER / f"{starter.id}.webp").write_bytes(picture(starter))


if __name__ == "__main__":
    main()
