"""SVG elements: figures to a tenth of a unit, words escaped."""

from __future__ import annotations

from collections.abc import Iterable

from markupsafe import Markup, escape

Point = tuple[float, float]


def element(tag: str, name: str = "", *children: str, **attributes: str | float) -> Markup:
    """An element of the class `name`; an attribute's underscore stands for its hyphen.

    Children that are not markup yet are escaped.
    """
    written = f' class="{_escaped(name)}"' if name else ""
    for key, value in attributes.items():
        shown = _escaped(value) if isinstance(value, str) else _figure(value)
        written += f' {key.replace("_", "-")}="{shown}"'
    if not children:
        return Markup(f"<{tag}{written}/>")
    return Markup(f"<{tag}{written}>{''.join(map(_escaped, children))}</{tag}>")


def joined(parts: Iterable[str]) -> Markup:
    """Elements one after the other."""
    return Markup("".join(map(_escaped, parts)))


def drawing(
    name: str, box: tuple[float, ...], label: str, *children: str, role: str = "img", **more: str
) -> Markup:
    """A whole drawing; `box` is its width and height, or its left, top, width and height.

    Without a label it decorates: screen readers pass over it, and it has no paint in common with
    the others.
    """
    painted = f"{name} drawn" if label else name
    whole = box if len(box) == 4 else (0, 0, *box)
    spoken = {"role": role, "aria_label": label} if label else {"aria_hidden": "true"}
    return element("svg", painted, *children, viewBox=steps(*whole), **spoken, **more)


def steps(*d: str | float) -> str:
    """The text of a path: its letters and figures, in turn."""
    return " ".join([one if isinstance(one, str) else _figure(one) for one in d])


def through(points: Iterable[Point]) -> str:
    """The text of a path through points."""
    return "M" + "L".join([f"{_figure(x)} {_figure(y)}" for x, y in points])


def path(name: str, *d: str | float, **more: str | float) -> Markup:
    """A path of letters and figures."""
    return element("path", name, **more, d=steps(*d))


def rect(name: str, x: float, y: float, width: float, height: float, **more: str | float) -> Markup:
    """A rectangle by its upper left corner."""
    return element("rect", name, x=x, y=y, width=width, height=height, **more)


def circle(name: str, x: float, y: float, r: float, **more: str | float) -> Markup:
    """A circle round (x, y)."""
    return element("circle", name, cx=x, cy=y, r=r, **more)


def text(name: str, x: float, y: float, words: str, **more: str | float) -> Markup:
    """Words at (x, y)."""
    return element("text", name, words, x=x, y=y, **more)


def group(name: str, *children: str, **more: str | float) -> Markup:
    """Elements together."""
    return element("g", name, *children, **more)


def title(words: str) -> Markup:
    """What a pointer that rests on the element around it is told."""
    return element("title", "", words)


def link(address: str, label: str, *children: str, **more: str | float) -> Markup:
    """Elements that lead somewhere; the label says where."""
    return element("a", "", *children, href=address, aria_label=label, **more)


def _figure(value: float) -> str:
    return f"{value:.1f}".removesuffix(".0")


def _escaped(words: str) -> str:
    # most words are a class's name or markup already, and escaping takes longer than asking
    return words if type(words) is Markup or words.isalnum() else escape(words)
