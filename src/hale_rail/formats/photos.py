"""Re-encodes uploaded photos; refuses files that are not images, too large or a bomb."""

from __future__ import annotations

import ctypes
import io
import threading
import warnings
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from typing import Any

from msgspec import Struct

from hale_rail.core.errors import InputError

MAX_BYTES = 20 * 1024 * 1024
#: of a JPEG; of what cannot be unfolded in part; and the longest side of either
MAX_PIXELS, MAX_FLAT_PIXELS, MAX_SIDE = 50_000_000, 25_000_000, 16_000
#: pixels that a photo keeps of its longest side, one that shows a board, and a thumbnail
_LONGEST, BOARD_LONGEST, _THUMB = 2400, 6400, 320
_FORMATS = ("JPEG", "PNG", "WEBP")
#: modes of a picture that can be made smaller as they are
_SHRINKABLE = ("RGB", "RGBA", "L", "LA", "CMYK")
#: how a JPEG and each of its scans begin; pixels of all scans together, some twelve of the largest
_JPEG, _SCAN = b"\xff\xd8", b"\xff\xda"
_MOST_SCANNED = 600_000_000
_ONE = threading.Lock()


class Encoded(Struct, frozen=True):
    """A photo as kept: JPEG without metadata, its thumbnail, and its size in pixels."""

    full: bytes
    thumb: bytes
    size: tuple[int, int]


def encode_photo(data: bytes, name: str, longest: int = _LONGEST) -> Encoded:
    """Re-encode one upload, at most `longest` pixels a side; raises InputError naming the file and
    why.

    The pixels are copied into a new image, so location data and every other tag stay behind; the
    camera's turn is applied first. One is unfolded at a time, and a JPEG no larger than needed, so
    that photos never take more room than one of them.
    """
    shown = name[:60] or "The file"
    if len(data) > MAX_BYTES:
        raise InputError(f"{shown} is larger than {MAX_BYTES // 1024 // 1024} MB.")
    with one_at_a_time(), _readable(shown):
        return _encoded(data, shown, longest)


@contextmanager
def one_at_a_time() -> Iterator[None]:
    """Photos are unfolded in turn, and the room that one took is given back."""
    with _ONE:
        try:
            yield
        finally:
            _give_back()


def _encoded(data: bytes, shown: str, longest: int) -> Encoded:
    clean = _clean(data, shown, longest)
    return Encoded(_jpeg(clean), _jpeg(_thumb(clean)), clean.size)


def _clean(data: bytes, shown: str, longest: int) -> Any:
    """The picture without anything but its pixels; what it was made of is given back."""
    from PIL import Image

    with Image.open(io.BytesIO(data), formats=_FORMATS) as image:
        _check_size(image.size, shown, is_jpeg=image.format == "JPEG")
        _check_scans(data, image.size, shown)
        upright = _upright(image, longest)
    clean = Image.new("RGB", upright.size)
    clean.paste(upright)
    return clean


def _thumb(image: Any) -> Any:
    """A small copy of a picture."""
    from PIL import Image

    share = min(1.0, _THUMB / max(image.size))
    size = tuple(max(round(side * share), 1) for side in image.size)
    return image.resize(size, Image.Resampling.BICUBIC, reducing_gap=2.0)


def _give_back() -> None:
    """Have the C library hand freed memory back to the machine, where it has a way to (glibc)."""
    with suppress(OSError, AttributeError):
        ctypes.CDLL(None).malloc_trim(0)


@contextmanager
def _readable(shown: str) -> Iterator[None]:
    """What cannot be unfolded is told by its name."""
    from PIL import Image, UnidentifiedImageError

    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            yield
    except InputError:
        raise
    except (Image.DecompressionBombError, Image.DecompressionBombWarning, MemoryError) as error:
        raise InputError(f"{shown} unfolds to far too many pixels.") from error
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError) as error:
        raise InputError(f"{shown} is not a photo: JPEG, PNG or WebP are.") from error


def _check_size(size: tuple[int, int], shown: str, *, is_jpeg: bool) -> None:
    """Raise InputError for a picture that would take too much room; a JPEG is unfolded in part."""
    width, height = size
    if width * height > (MAX_PIXELS if is_jpeg else MAX_FLAT_PIXELS) or max(size) > MAX_SIDE:
        raise InputError(f"{shown} unfolds to {width} × {height} pixels: too many.")


def _check_scans(data: bytes, size: tuple[int, int], shown: str) -> None:
    """Raise InputError for a JPEG that is laid over itself so often that it would take minutes.

    Each scan of a progressive one passes over all pixels; within a scan 0xFF is never followed by
    the marker's second byte (ITU-T T.81, B.1.1.5).
    """
    if data.startswith(_JPEG) and data.count(_SCAN) * size[0] * size[1] > _MOST_SCANNED:
        raise InputError(f"{shown} has {data.count(_SCAN)} scans: save it again as a plain JPEG.")


def _upright(image: Any, longest: int) -> Any:
    """A picture turned as the camera was held, no side longer than is kept, in RGB."""
    from PIL import ImageOps

    image.draft("RGB", (longest, longest))
    if image.mode not in _SHRINKABLE:
        image = image.convert("RGB")
    image.thumbnail((longest, longest), reducing_gap=2.0)
    ImageOps.exif_transpose(image, in_place=True)
    return image if image.mode == "RGB" else image.convert("RGB")


def thumb_of(data: bytes, name: str) -> bytes:
    """The thumbnail of a photo as kept; raises InputError for what we would not have kept so."""
    from PIL import Image

    with one_at_a_time(), _readable(name), Image.open(io.BytesIO(data), formats=("JPEG",)) as image:
        if max(image.size) > BOARD_LONGEST or image.getexif():
            raise InputError(f"{name} is not a photo as a workshop keeps it.")
        _check_scans(data, image.size, name)
        image.draft("RGB", (2 * _THUMB, 2 * _THUMB))
        return _jpeg(_thumb(image.convert("RGB")))


def _jpeg(image: object) -> bytes:
    out = io.BytesIO()
    image.save(out, "JPEG", quality=85, optimize=True)  # type: ignore[attr-defined]
    return out.getvalue()
