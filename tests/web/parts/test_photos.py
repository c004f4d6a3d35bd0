"""Photos: re-encoded without their tags, thumbnails, refusals; never served as anything else."""

from __future__ import annotations

import io
import struct
import subprocess
import sys
import textwrap
import zlib

import pytest
from PIL import Image

from hale_rail.case.file import open_case
from hale_rail.case.history import case_photos
from hale_rail.core.errors import InputError
from hale_rail.formats import photos as formats
from hale_rail.formats.photos import encode_photo
from hale_rail.store.database import Store
from tests.conftest import Client


def picture(size: tuple[int, int] = (800, 600), kind: str = "JPEG", **more: object) -> bytes:
    out = io.BytesIO()
    image = Image.new("RGB", size, "white")
    image.paste("red", (0, 0, size[0] // 2, size[1] // 2))
    image.save(out, kind, **more)
    return out.getvalue()


def with_location() -> bytes:
    """A photo from a phone: position, and turned by a quarter."""
    tags = Image.Exif()
    tags[0x0112] = 6
    tags.get_ifd(0x8825).update({1: "N", 2: (51.0, 30.0, 0.0)})
    return picture(exif=tags)


def bomb(width: int = 30_000, height: int = 30_000) -> bytes:
    """A small PNG that unfolds to so many pixels."""

    def chunk(name: bytes, data: bytes) -> bytes:
        body = name + data
        return struct.pack(">I", len(data)) + body + struct.pack(">I", zlib.crc32(body))

    head = struct.pack(">IIBBBBB", width, height, 1, 0, 0, 0, 0)
    data = zlib.compress(bytes(30_000 // 8 + 1) * 100)
    return b"\x89PNG\r\n\x1a\n" + b"".join(
        chunk(*c) for c in ((b"IHDR", head), (b"IDAT", data), (b"IEND", b""))
    )


def test_tags_stay_behind_and_the_turn_is_applied() -> None:
    original = with_location()
    assert Image.open(io.BytesIO(original)).getexif().get_ifd(0x8825)
    kept = encode_photo(original, "phone.jpg")
    image = Image.open(io.BytesIO(kept.full))
    assert not image.getexif()
    assert b"Exif" not in kept.full
    assert (image.size, kept.size) == ((600, 800), (600, 800))
    assert max(Image.open(io.BytesIO(kept.thumb)).size) <= 320


@pytest.mark.parametrize("kind", ["PNG", "WEBP", "JPEG"])
def test_large_pictures_are_brought_down(kind: str) -> None:
    kept = encode_photo(picture((3000, 1500), kind), "x")
    assert kept.size == (2400, 1200)
    assert Image.open(io.BytesIO(kept.full)).format == "JPEG"


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"", "not a photo"),
        (b"<script>alert(1)</script>", "not a photo"),
        (b"GIF89a" + b"\0" * 40, "not a photo"),
        (picture()[:400], "not a photo"),
        (bomb(), "pixels"),
        (bomb(49_000_000, 1), "49000000 × 1 pixels"),
        (bomb(1, 16_001), "16001 pixels"),
        (bomb(6000, 5000), "6000 × 5000 pixels"),
    ],
)
def test_what_is_no_photo_is_refused_by_name(data: bytes, says: str) -> None:
    with pytest.raises(InputError, match=says) as caught:
        encode_photo(data, "holiday.jpg")
    assert "holiday.jpg" in str(caught.value)


def test_a_jpeg_of_too_many_pixels_is_refused(monkeypatch: pytest.MonkeyPatch) -> None:
    """Also where it is unfolded in part: the limit is one that the library itself lets through."""
    assert formats.MAX_PIXELS < Image.MAX_IMAGE_PIXELS
    monkeypatch.setattr(formats, "MAX_PIXELS", 800 * 600 - 1)
    with pytest.raises(InputError, match="800 × 600 pixels"):
        encode_photo(picture(), "big.jpg")


def test_photos_take_little_room_and_give_it_back() -> None:
    """Six of 24 megapixels, unfolded in a process of its own: 96 MB each as they are."""
    code = textwrap.dedent(
        """
        import io, resource, sys
        from PIL import Image
        from hale_rail.formats.photos import encode_photo
        out = io.BytesIO()
        Image.new("L", (6000, 4000), 90).save(out, "JPEG")
        data = out.getvalue()
        before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
        for _ in range(6):
            assert encode_photo(data, "x").size == (2400, 1600)
        print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before)
        """
    )
    ran = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert int(ran.stdout) < 100_000  # kilobytes


def test_too_many_bytes_are_refused(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(formats, "MAX_BYTES", 1000)
    with pytest.raises(InputError, match="larger"):
        encode_photo(picture(), "big.jpg")


def test_photos_of_a_part_are_shown_and_served_as_jpeg(client: Client, demo: Store) -> None:
    fuse = next(p for p in open_case(demo, "LW-014").sheet.parts if p.ref == "F1")
    files = [(io.BytesIO(picture()), "a.jpg"), (io.BytesIO(with_location()), "b.jpg")]
    response = client.post(
        "/cases/LW-014/do/photo", view="look", part=fuse.id, photos=files, caption="glass <black>"
    )
    assert response.status_code == 303
    page = client.text("/cases/LW-014/look")
    photos = [p for p in case_photos(open_case(demo, "LW-014")) if p.caption == "glass <black>"]
    assert [photo.part_id for photo in photos] == [fuse.id, fuse.id]
    assert "glass &lt;black&gt;" in page
    for photo in photos:
        for thumb in ("", "?thumb=1"):
            served = client.get(f"/cases/LW-014/photos/{photo.sha256}.jpg{thumb}")
            assert (served.status_code, served.mimetype) == (200, "image/jpeg")
            assert served.headers["X-Content-Type-Options"] == "nosniff"
            served.close()
    assert client.get(f"/cases/LW-022/photos/{photos[0].sha256}.jpg").status_code == 404
    assert client.get(f"/cases/LW-014/photos/{'0' * 64}.jpg").status_code == 404


def test_one_bad_file_keeps_all_out_and_says_which(client: Client, demo: Store) -> None:
    before = len(case_photos(open_case(demo, "LW-014")))
    files = [(io.BytesIO(picture()), "good.jpg"), (io.BytesIO(b"not one"), "evil.html")]
    response = client.post("/cases/LW-014/do/photo", view="look", part="", photos=files)
    assert response.status_code == 422
    assert "evil.html is not a photo" in response.get_data(as_text=True)
    assert len(case_photos(open_case(demo, "LW-014"))) == before
    nothing = client.post("/cases/LW-014/do/photo", view="look", part="")
    assert "Choose one or more photos" in nothing.get_data(as_text=True)


def test_a_large_upload_is_allowed_here_only(client: Client, demo: Store) -> None:
    """With the limit for text lowered, a photo above it passes and a note above it does not."""
    client.flask.application.config["MAX_CONTENT_LENGTH"] = 20_000
    out = io.BytesIO()
    Image.effect_noise((200, 200), 90).convert("RGB").save(out, "PNG")
    assert len(out.getvalue()) > 25_000
    files = [(io.BytesIO(out.getvalue()), "noise.png")]
    response = client.post("/cases/LW-014/do/photo", view="look", part="", photos=files)
    assert response.status_code == 303
    too_much = client.post("/cases/LW-014/do/note", text="x" * 25_000)
    assert too_much.status_code == 413
