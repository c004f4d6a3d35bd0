"""Re-encodes uploaded photos; what is no image, too large or a bomb is refused with a message."""

from __future__ import annotations

import io
import warnings
from dataclasses import dataclass

from hale_rail.core.errors import InputError

MAX_BYTES = 12 * 1024 * 1024
MAX_PIXELS = 50_000_000
_LONGEST, _THUMB = 2400, 320
_FORMATS = ("JPEG", "PNG", "WEBP")


@dataclass(frozen=True)
class Encoded:
    """A photo as kept: JPEG without metadata, its thumbnail, and its size in pixels."""

    full: bytes
    thumb: bytes
    size: tuple[int, int]


def encode_photo(data: bytes, name: str) -> Encoded:
    """Re-encode one upload; raises InputError naming the file and why.

    The pixels are copied into a new image, so location data and every other tag stay behind; the
    camera's turn is applied first.
    """
    from PIL import Image, ImageOps, UnidentifiedImageError

    shown = name[:60] or "The file"
    if len(data) > MAX_BYTES:
        raise InputError(f"{shown} is larger than {MAX_BYTES // 1024 // 1024} MB.")
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(data), formats=_FORMATS) as image:
                if image.width * image.height > MAX_PIXELS:
                    raise InputError(
                        f"{shown} unfolds to {image.width} × {image.height} pixels: too many."
                    )
                upright = ImageOps.exif_transpose(image).convert("RGB")
    except InputError:
        raise
    except (Image.DecompressionBombError, Image.DecompressionBombWarning) as error:
        raise InputError(f"{shown} unfolds to far too many pixels.") from error
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError) as error:
        raise InputError(f"{shown} is no photo: JPEG, PNG or WebP are.") from error
    clean = Image.new("RGB", upright.size)
    clean.paste(upright)
    clean.thumbnail((_LONGEST, _LONGEST))
    small = clean.copy()
    small.thumbnail((_THUMB, _THUMB))
    return Encoded(_jpeg(clean), _jpeg(small), clean.size)


def thumb_of(data: bytes, name: str) -> bytes:
    """The thumbnail of a photo as kept; raises InputError for what we would not have kept so."""
    from PIL import Image, UnidentifiedImageError

    try:
        with warnings.catch_warnings():
            warnings.simplefilter("error", Image.DecompressionBombWarning)
            with Image.open(io.BytesIO(data), formats=("JPEG",)) as image:
                if max(image.size) > _LONGEST or image.getexif():
                    raise InputError(f"{name} is no photo as a workshop keeps it.")
                small = image.convert("RGB")
    except (Image.DecompressionBombError, Image.DecompressionBombWarning) as error:
        raise InputError(f"{name} unfolds to far too many pixels.") from error
    except (UnidentifiedImageError, OSError, SyntaxError, ValueError) as error:
        raise InputError(f"{name} is no photo.") from error
    small.thumbnail((_THUMB, _THUMB))
    return _jpeg(small)


def _jpeg(image: object) -> bytes:
    out = io.BytesIO()
    image.save(out, "JPEG", quality=85, optimize=True)  # type: ignore[attr-defined]
    return out.getvalue()
