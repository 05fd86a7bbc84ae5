"""Notes of a pack as square codes on the phone's screen: read from pictures, joined from several."""

import base64
import io
import re
import warnings
import zlib
from collections.abc import Iterable
from dataclasses import dataclass

import zxingcpp
from PIL import Image, UnidentifiedImageError

from stonechat.errors import TooLarge, UnreadableFile
from stonechat.formats.notes_json import MOST_BYTES

MOST_PICTURE_BYTES = 20_000_000
_MOST_PIXELS = 60_000_000
_LONG_SIDE = 2_400  # px a picture is made smaller to
_MOST_PARTS = 400
_CODE = re.compile(r"STONECHAT1:([0-9a-z]{1,12}):(\d{1,3})/(\d{1,3}):([zp]):([A-Za-z0-9_-]{1,4000})")


@dataclass(frozen=True, kw_only=True)
class Joined:
    """What the codes seen so far come to."""

    texts: tuple[str, ...]  # of the newest set, each once
    missing: tuple[int, ...]  # numbers of codes not seen yet
    count: int  # codes of the set; 0: none was seen
    data: bytes | None  # the notes' file, once all are there


def read_codes(picture: bytes) -> tuple[str, ...]:
    """Return the codes of ours on a picture."""
    if len(picture) > MOST_PICTURE_BYTES:
        raise TooLarge(f"The picture has {len(picture) / 1e6:.0f} MB; {MOST_PICTURE_BYTES / 1e6:.0f} MB is the most.")
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(picture), formats=("PNG", "JPEG", "WEBP", "BMP")) as opened:
                if opened.width * opened.height > _MOST_PIXELS:
                    raise TooLarge(f"The picture has {opened.width} × {opened.height} pixels. Take a smaller one.")
                opened.draft("L", (_LONG_SIDE, _LONG_SIDE))
                image = opened.convert("L")
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError, Image.DecompressionBombError,
            Image.DecompressionBombWarning) as wrong:  # fmt: skip
        raise UnreadableFile("The file is not readable as a picture. Take one as PNG or JPEG.") from wrong
    image.thumbnail((_LONG_SIDE, _LONG_SIDE))
    return tuple(found.text for found in zxingcpp.read_barcodes(image) if _CODE.fullmatch(found.text))


def join_codes(texts: Iterable[str]) -> Joined:
    """Return what codes come to; of several sets the one that was seen last counts."""
    parts = [(match, text) for text in texts if (match := _CODE.fullmatch(text.strip()))]
    if not parts:
        return Joined(texts=(), missing=(), count=0, data=None)
    name, count = parts[-1][0][1], int(parts[-1][0][3])
    own = {int(match[2]): (match, text) for match, text in parts if match[1] == name and int(match[3]) == count}
    missing = tuple(k for k in range(1, min(count, _MOST_PARTS) + 1) if k not in own)
    kept = tuple(text.strip() for _, text in own.values())
    if missing or not 0 < count <= _MOST_PARTS:
        return Joined(texts=kept, missing=missing, count=count, data=None)
    body = "".join(own[k][0][5] for k in range(1, count + 1))
    return Joined(texts=kept, missing=(), count=count, data=_unpacked(body, is_packed=own[1][0][4] == "z"))


def _unpacked(body: str, *, is_packed: bool) -> bytes:
    try:
        data = base64.urlsafe_b64decode(body + "=" * (-len(body) % 4))
        if not is_packed:
            return data
        opener = zlib.decompressobj(-zlib.MAX_WBITS)
        plain = opener.decompress(data, MOST_BYTES)
    except (ValueError, zlib.error) as wrong:
        raise UnreadableFile("The codes do not belong together. Show them on the phone again.") from wrong
    if opener.unconsumed_tail:
        raise TooLarge(f"The notes have more than {MOST_BYTES / 1e6:.0f} MB.")
    return plain
