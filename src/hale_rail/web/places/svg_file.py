"""A board with its rings as a drawing of its own: the photo inside it, no style sheet needed."""

from __future__ import annotations

import base64

from markupsafe import Markup

from hale_rail.case.file import CaseFile
from hale_rail.case.places.pictures import picture
from hale_rail.formats.places.view_images import SMALL
from hale_rail.stages.places.where import WherePage
from hale_rail.web.frame import svg
from hale_rail.web.places.photo_drawing import draw_layer, pixel_mm

#: as the page has it, for paper
_STYLE = Markup(
    ".under{fill:none;stroke:#fff;stroke-width:5}"
    ".over,.due{fill:none;stroke:#111;stroke-width:2.4}"
    ".unseen .over{stroke-dasharray:4 3}.hit{fill:none}.leader{stroke:#111;stroke-width:1.2}"
    ".bare{fill:#f4f4f0;stroke:#111;stroke-width:.4}.head{fill:#111}"
    ".mark .under,.mark .over{vector-effect:non-scaling-stroke}"
    "text{font:700 13px sans-serif;text-anchor:middle;paint-order:stroke;"
    "stroke:#fff;stroke-width:4}"
)
_SHAPE = ("x", "y", "width", "height")


def placement_svg(case: CaseFile, page: WherePage) -> str:
    """The board that a page shows, in millimetres, with its photo and every part on it."""
    left, top, width, height = page.box
    shape = {name: f"{at:.3f}" for name, at in zip(_SHAPE, page.box, strict=True)}
    if page.view and page.view.frame:
        file = picture(case, page.view.photo.sha256, page.view.key, SMALL)
        data = base64.b64encode(file.read_bytes()).decode()
        ground = svg.element("image", "", **shape, href=f"data:image/jpeg;base64,{data}")
        if page.is_flipped:
            turn = f"translate({2 * left + width:.3f} 0) scale(-1 1)"
            ground = svg.group("", ground, transform=turn)
    else:
        ground = svg.element("rect", "bare", **shape)
    drawn = svg.element(
        "svg", "", svg.element("style", "", _STYLE), ground,
        draw_layer(case.number, page, pixel_mm(page), is_linked=False),
        xmlns="http://www.w3.org/2000/svg",
        viewBox=f"{left:.3f} {top:.3f} {width:.3f} {height:.3f}",
        width=f"{width:.1f}mm", height=f"{height:.1f}mm",
    )  # fmt: skip
    return f'<?xml version="1.0" encoding="UTF-8"?>\n{drawn}\n'
