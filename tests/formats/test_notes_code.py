"""Codes on a phone's screen: pictures made by another encoder, in any order, blurred, turned; and what is none."""

import base64
import io
import json
import random
import zlib

import numpy as np
import pytest
import zxingcpp
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, ImageFilter

from stonechat.errors import TooLarge, UnreadableFile
from stonechat.formats.notes_code import join_codes, read_codes


def codes_of(data: bytes, name: str = "a1", size: int = 360) -> list[str]:
    packer = zlib.compressobj(9, zlib.DEFLATED, -zlib.MAX_WBITS)
    body = base64.urlsafe_b64encode(packer.compress(data) + packer.flush()).decode().rstrip("=")
    pieces = [body[k : k + size] for k in range(0, len(body), size)]
    return [f"STONECHAT1:{name}:{k}/{len(pieces)}:z:{piece}" for k, piece in enumerate(pieces, start=1)]


def picture(text: str, *, turned: float = 0.0, blur: float = 0.0) -> bytes:
    made = np.array(zxingcpp.write_barcode_to_image(
        zxingcpp.create_barcode(text, zxingcpp.BarcodeFormat.QRCode), scale=6))  # fmt: skip
    image = Image.fromarray(made).convert("L").rotate(turned, expand=True, fillcolor=255)
    out = io.BytesIO()
    image.filter(ImageFilter.GaussianBlur(blur)).save(out, "JPEG", quality=70)
    return out.getvalue()


NOTES = json.dumps({"format": "stonechat-notes", "notes": [
    {"kind": "eaten", "km": 3.0 * k, "text": f"bun {k} – 🥐"} for k in range(60)]}).encode()  # fmt: skip


def test_pictures_of_codes_make_the_file_again() -> None:
    codes = codes_of(NOTES)
    assert len(codes) > 1
    seen: list[str] = []
    for number in (*range(1, len(codes)), 0):
        seen += read_codes(picture(codes[number], turned=17.0 * number, blur=1.5))
        joined = join_codes(seen)
        assert (joined.data == NOTES) == (number == 0)
        assert len(joined.texts) + len(joined.missing) == joined.count == len(codes)


@settings(max_examples=60, deadline=None)
@given(data=st.binary(max_size=4_000), seed=st.integers(0, 99))
def test_in_any_order_and_twice_they_are_the_same(data: bytes, seed: int) -> None:
    codes = codes_of(data or b"0")
    shuffled = codes * 2
    random.Random(seed).shuffle(shuffled)
    assert join_codes(["", "else", *shuffled]).data == (data or b"0")
    assert join_codes(codes[1:]).data is None


def test_a_newer_set_counts_alone() -> None:
    old, new = codes_of(NOTES, "old"), codes_of(b"{}", "new")
    assert join_codes([*old, *new]).data == b"{}"
    assert join_codes([*new, old[0]]).missing == tuple(range(2, len(old) + 1))


def test_what_is_no_code_of_ours_is_passed_over() -> None:
    assert read_codes(picture("https://example.org/")) == ()
    assert join_codes(["STONECHAT1:a:0/0:z:AAAA", "STONECHAT1:a:1/1:q:AAAA"]).data is None


@pytest.mark.parametrize(
    "data", [b"", b"no picture", NOTES, picture("x")[:200], b"<svg/>", b"\x89PNG\r\n\x1a\n" + b"0" * 80]
)
def test_what_is_no_picture_is_told(data: bytes) -> None:
    with pytest.raises(UnreadableFile, match="not readable as a picture"):
        read_codes(data)


def test_codes_that_open_without_end_or_not_at_all_are_told() -> None:
    with pytest.raises(TooLarge):
        join_codes(codes_of(b"0" * 50_000_000, size=4_000)).data  # noqa: B018
    with pytest.raises(UnreadableFile, match="do not belong together"):
        join_codes(["STONECHAT1:a:1/1:z:AAAA____"])
    with pytest.raises(TooLarge):
        read_codes(b"0" * 20_000_001)
    wide = io.BytesIO()
    Image.new("1", (20_000, 9_000)).save(wide, "PNG")
    with pytest.raises((TooLarge, UnreadableFile)):
        read_codes(wide.getvalue())
