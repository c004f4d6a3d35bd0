"""Draws the demo's photos, so that the look-over has something to show: no camera was there."""

from __future__ import annotations

import io
import random

from PIL import Image, ImageDraw, ImageFilter

_SIZE = (900, 600)
_BENCH, _BRASS, _GLASS = (92, 98, 94), (184, 154, 84), (205, 214, 212)


def blackened_fuse() -> bytes:
    """A glass fuse on the bench, sooty and silvered inside."""
    image = Image.new("RGB", _SIZE, _BENCH)
    draw = ImageDraw.Draw(image)
    draw.rounded_rectangle((170, 230, 730, 370), 18, fill=_GLASS)
    rng = random.Random("fuse")
    for _ in range(900):
        x, y = rng.gauss(450, 110), rng.uniform(236, 364)
        shade = rng.randint(10, 70)
        draw.ellipse((x - 16, y - 9, x + 16, y + 9), fill=(shade, shade, shade + 4))
    image = image.filter(ImageFilter.GaussianBlur(5))
    draw = ImageDraw.Draw(image)
    for left in (130, 690):
        draw.rounded_rectangle((left, 222, left + 90, 378), 12, fill=_BRASS)
    draw.line((190, 250, 710, 250), fill=(240, 244, 243), width=5)
    return _png(image)


def crazed_suppressor() -> bytes:
    """A paper suppressor in yellowed epoxy, crazed all over."""
    image = Image.new("RGB", _SIZE, (58, 92, 66))
    draw = ImageDraw.Draw(image)
    draw.rounded_rectangle((200, 150, 700, 450), 26, fill=(206, 168, 86))
    rng = random.Random("craze")
    for _ in range(46):
        x, y = rng.uniform(210, 690), rng.uniform(160, 440)
        points = [(x, y)]
        for _ in range(5):
            x, y = x + rng.uniform(-60, 60), y + rng.uniform(-45, 45)
            points.append((min(max(x, 206), 694), min(max(y, 156), 444)))
        draw.line(points, fill=(120, 84, 30), width=3)
    return _png(image.filter(ImageFilter.GaussianBlur(1)))


def drawing_pdf(title: str) -> bytes:
    """One page of a drawing with nothing but its title: no maker's sheet is copied."""
    fonts = "/Resources << /Font << /F1 5 0 R >> >>"
    text = f"BT /F1 24 Tf 60 740 Td ({title}) Tj ET"
    objects = [
        "<< /Type /Catalog /Pages 2 0 R >>",
        "<< /Type /Pages /Kids [3 0 R] /Count 1 >>",
        f"<< /Type /Page /Parent 2 0 R /MediaBox [0 0 595 842] /Contents 4 0 R {fonts} >>",
        f"<< /Length {len(text)} >> stream\n{text}\nendstream",
        "<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica >>",
    ]
    out = "%PDF-1.4\n"
    places = []
    for number, body in enumerate(objects, 1):
        places.append(len(out))
        out += f"{number} 0 obj {body} endobj\n"
    table = "".join(f"{place:010d} 00000 n \n" for place in places)
    start = len(out)
    out += f"xref\n0 {len(objects) + 1}\n0000000000 65535 f \n{table}"
    out += f"trailer << /Size {len(objects) + 1} /Root 1 0 R >>\nstartxref\n{start}\n%%EOF\n"
    return out.encode()


def _png(image: Image.Image) -> bytes:
    out = io.BytesIO()
    image.save(out, "PNG")
    return out.getvalue()
