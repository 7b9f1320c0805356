"""Photographs from files: what is kept of them, and what is refused with one sentence."""

import struct
import zlib

import pytest
from PIL import Image

from isostasis.core.fault import Faults
from isostasis.exchange.archive import read_archive, write_archive
from isostasis.exchange.picture import MAX_BYTES, MAX_PX, as_kept, opened, take_in
from tests.support.photos import as_file, fen_photo, with_place


@pytest.mark.parametrize("kind", ["JPEG", "PNG", "WEBP"])
def test_every_kind_is_kept_as_a_webp_of_useful_size(kind):
    large = Image.linear_gradient("L").resize((3000, 1500)).convert("RGB")
    made = take_in("large", as_file(large, kind))
    image = opened(made.content)
    assert image.format == "WEBP" and made.size == image.size == (MAX_PX, MAX_PX // 2) and made.focus is None
    assert as_kept(made.content).size == made.size


def test_where_it_was_taken_is_not_kept_and_it_stands_upright():
    sent = with_place(fen_photo())
    assert b"Exif" in sent
    made = take_in("fen.jpg", sent)
    assert made.size == (1200, 1600) and made.focus == pytest.approx(0.75)
    assert b"EXIF" not in made.content and not opened(made.content).getexif()


def _bomb(side):
    """A PNG of a few bytes that says it is huge."""

    def chunk(kind, data):
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    header = struct.pack(">IIBBBBB", side, side, 8, 2, 0, 0, 0)
    return (
        b"\x89PNG\r\n\x1a\n"
        + chunk(b"IHDR", header)
        + chunk(b"IDAT", zlib.compress(b"\0" * 1000))
        + chunk(b"IEND", b"")
    )


@pytest.mark.parametrize(("data", "sentence"), [
    (b"", "there is nothing in it"),
    (b"solid thing\n", "no picture of a kind that is known"),
    (b"GIF89a" + b"\0" * 50, "no picture of a kind that is known"),
    (b"\0\0\0\x18ftypheic" + b"\0" * 40, "HEIC|damaged|no picture"),
    (b"\0" * (MAX_BYTES + 1), "larger than 30 MB"),
    (_bomb(30_000), "more than 64 million"),
    (_bomb(9_000), "more than 64 million"),
    (_bomb(7_000), "breaks off, or is damaged"),
    (as_file(Image.new("RGB", (90, 400))), "at least 200 px"),
    (as_file(fen_photo())[:9_000], "breaks off, or is damaged"),
])  # fmt: skip
def test_what_is_no_photo_is_told(data, sentence):
    with pytest.raises(Faults, match=sentence):
        take_in("board.jpg", data)


def test_an_archive_goes_out_and_in():
    photo = take_in("fen", as_file(fen_photo())).content
    found = read_archive(write_archive('{"a": 1}', photo, None))
    assert (found.document, found.pictures, found.steps) == (b'{"a": 1}', (photo,), ())


@pytest.mark.parametrize(("data", "sentence"), [
    (b"PK\x03\x04" + b"\0" * 30, "breaks off"),
    (write_archive("{}", b"x" * 100, None)[:150], "breaks off"),
    (write_archive("{}", None, None).replace(b"scene.json", b"other.json"), "there is no scene.json"),
])  # fmt: skip
def test_what_is_no_archive_is_told(data, sentence):
    with pytest.raises(Faults, match=sentence):
        read_archive(data)


@pytest.mark.parametrize("content", [b"", b"RIFF", as_file(fen_photo()), with_place(fen_photo())])
def test_a_picture_of_an_archive_that_was_never_kept_here_is_refused(content):
    with pytest.raises(Faults, match="none that was kept here"):
        as_kept(content)
