"""Photographs as files, for the pages: what a phone sends."""

import io
from importlib.resources import files

from PIL import Image


def fen_photo():
    """The made-up photo of the demo's fen, as it was taken."""
    content = (files("isostasis.demo") / "scenes" / "kettle-fen-taken.webp").read_bytes()
    return Image.open(io.BytesIO(content)).convert("RGB")


def as_file(image, kind="JPEG", **more):
    """An image's bytes in a format."""
    out = io.BytesIO()
    image.save(out, kind, **more)
    return out.getvalue()


def with_place(image):
    """A JPEG that tells where it was taken, on its side, and with which focal length."""
    told = Image.Exif()
    told[0x0112] = 6  # turn it a quarter
    told.get_ifd(0x8825)[1] = "N"
    told.get_ifd(0x8825)[2] = (51.0, 2.0, 3.0)
    told.get_ifd(0x8769)[41_989] = 27
    return as_file(image, exif=told)
