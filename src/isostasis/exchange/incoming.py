"""What a file of heights is, by what stands in it, and the survey form that it makes."""

from __future__ import annotations

from typing import Any

from pydantic import ValidationError

from ..core.document.read import faults_of
from ..core.fault import fault
from .asc import read_asc
from .heightmap import read_png
from .spots import read_csv

MAX_BYTES = 64_000_000


def survey_form(name: str, data: bytes, side: str | None = None) -> dict[str, Any]:
    """A form (without id) from an .asc, a 16-bit .png with its side file, or a .csv. Raises Faults."""
    if len(data) > MAX_BYTES:
        raise fault(name, f"it is larger than {MAX_BYTES / 1e6:g} MB", "thin it out first")
    ending = name.rpartition(".")[2].lower()
    title = name.rpartition("/")[2].rpartition(".")[0][:60] or "Survey"
    form: dict[str, Any] = {"kind": "survey", "name": title}
    if data.startswith(b"\x89PNG") or ending == "png":
        return {**form, "grid": read_png(data, side).model_dump()}
    if ending not in ("asc", "csv", "txt"):
        raise fault(
            name, "its ending tells no kind of heights that is known", "choose an .asc, .png (16-bit grey) or .csv"
        )
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError:
        raise fault(
            name, "it is no text, so no grid or list of heights (an STL, perhaps)", "export it as .asc or .csv"
        ) from None
    if ending == "asc":
        try:
            return {**form, "grid": read_asc(text).model_dump()}
        except ValidationError as error:  # heights, or a corner, where no board lies
            raise faults_of(error, {}, where=name) from None
    return {**form, "points": read_csv(text)}
