"""Photos: smaller, the right way up, and nothing beside the picture."""

from __future__ import annotations

import contextlib
import io
import struct
import zlib

import pytest
from hypothesis import given
from hypothesis import strategies as st
from PIL import Image

from low_tide.formats.photo import LONGEST_SIDE, photo
from low_tide.formats.sentences import FormatError

GPS, ORIENTATION, MODEL = 0x8825, 0x0112, 0x0110


def encoded(picture: Image.Image, kind: str = "JPEG", **options: object) -> bytes:
    out = io.BytesIO()
    picture.save(out, kind, **options)
    return out.getvalue()


def told(data: bytes) -> str:
    with pytest.raises(FormatError) as refused:
        photo(data)
    return " ".join(refused.value.problems)


def test_position_date_and_model_stay_behind() -> None:
    about = Image.Exif()
    about[MODEL] = "a camera of the harbour"
    about.get_ifd(GPS).update({1: "N", 2: (54.0, 10.0, 30.0), 3: "E", 4: (7.0, 53.0, 0.0)})
    data = encoded(Image.new("RGB", (60, 40), "teal"), exif=about, comment=b"taken at sea")
    assert Image.open(io.BytesIO(data)).getexif().get_ifd(GPS)
    kept = photo(data)
    found = Image.open(io.BytesIO(kept))
    assert dict(found.getexif()) == {}
    assert not found.getexif().get_ifd(GPS)
    assert not {"exif", "comment", "icc_profile", "xmp"} & set(found.info)
    assert b"harbour" not in kept
    assert b"at sea" not in kept


def test_what_a_camera_held_sideways_stands_upright() -> None:
    about = Image.Exif()
    about[ORIENTATION] = 6  # turned a quarter to the right
    picture = Image.new("RGB", (80, 40), "black")
    picture.paste("white", (0, 0, 40, 40))
    found = Image.open(io.BytesIO(photo(encoded(picture, exif=about, quality=95))))
    assert found.size == (40, 80)
    assert found.getpixel((20, 10)) > (200, 200, 200)
    assert found.getpixel((20, 70)) < (50, 50, 50)


@given(
    width=st.integers(1, 5000),
    height=st.integers(1, 300),
    kind=st.sampled_from(["JPEG", "PNG", "WEBP"]),
    mode=st.sampled_from(["RGB", "L", "RGBA", "P", "CMYK", "1", "LA"]),
)
def test_any_picture_comes_out_small_and_in_its_proportions(width: int, height: int, kind: str, mode: str) -> None:
    if (kind, mode) in {("PNG", "CMYK"), ("JPEG", "RGBA"), ("JPEG", "P"), ("JPEG", "LA")}:
        return
    found = Image.open(io.BytesIO(photo(encoded(Image.new(mode, (width, height)), kind))))
    assert (found.format, found.mode) == ("JPEG", "RGB")
    longest = max(width, height)
    assert max(found.size) == min(longest, LONGEST_SIDE)
    shrunk = max(1.0, longest / LONGEST_SIDE)
    assert abs(found.width - width / shrunk) <= 1
    assert abs(found.height - height / shrunk) <= 1


def png_that_claims(width: int, height: int) -> bytes:
    """A few bytes that say they are a picture of that size."""

    def chunk(name: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))

    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)
    pixels = zlib.compress(b"\0" * 10_000)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", pixels) + chunk(b"IEND", b"")


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "is no picture"),
        (b"RIFF\0\0\0\0WAVE", "is no picture"),
        (b"<svg xmlns='http://www.w3.org/2000/svg'/>", "is no picture"),
        (png_that_claims(9_000, 9_000), "at most 80 megapixels are taken"),
        (png_that_claims(20_000, 10_000), "at most 80 megapixels are taken"),
        (png_that_claims(60_000, 60_000), "at most 80 megapixels are taken"),
        (png_that_claims(2_000, 2_000), "damaged or ends early"),
        (encoded(Image.effect_noise((400, 400), 80))[:9_000], "damaged or ends early"),
        (encoded(Image.new("RGB", (4, 4)), "GIF"), "is no picture"),
    ],
)
def test_what_is_no_photo_is_refused(data: bytes, says: str) -> None:
    assert says in told(data)


@given(at=st.integers(0, 3000), byte=st.integers(0, 255))
def test_a_byte_that_is_wrong_gives_a_picture_or_a_sentence(at: int, byte: int) -> None:
    data = bytearray(NOISE)
    data[at % len(data)] = byte
    with contextlib.suppress(FormatError):  # any other error fails
        assert Image.open(io.BytesIO(photo(bytes(data)))).format == "JPEG"


NOISE = encoded(Image.effect_noise((40, 30), 60), "PNG")
