"""A report as blocks, in the order in which it is read: what matters first, evidence after it."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from datetime import datetime

from msgspec.structs import replace

from hale_rail.case.report.report import Report
from hale_rail.case.report.report_end import READS
from hale_rail.core.charts import Chart
from hale_rail.core.report.document import (
    Block,
    Bullets,
    Crops,
    DocumentCrop,
    DocumentFigure,
    DocumentPhoto,
    DocumentTable,
    Facts,
    Heading,
    Map,
    Paragraph,
    Pictures,
    Title,
)
from hale_rail.core.safety.energy import ENERGIES
from hale_rail.core.supply.linemap import line_map
from hale_rail.core.supply.linemap.on_paper import map_chart
from hale_rail.core.supply.reach import PowerReach
from hale_rail.core.supply.sheet import Sheet

_RAIL_COLUMNS = ("Rail", "Load", "Read", "Is", "Against")
_NOW_COLUMNS = ("Rail", "Reads", "At its worst place", "Is")
_GROUND_COLUMNS = ("Rail", "Attached", "Isolated", "Says")
_PARTS = (0.12, 0.2, 0.34, 0.34)


def blocks(report: Report) -> list[Block]:
    """The whole report."""
    makers: tuple[Callable[[Report], Iterable[Block]], ...] = (
        _first, _rails, _parts, _spots, _closing, _figures, _evidence,
    )  # fmt: skip
    return [block for make in makers for block in make(report)]


def plain_map(report: Report, sheet: Sheet) -> Chart:
    """The line map of a report as plain shapes, of the sheet as it was then."""
    states = states_of(report, sheet)
    reach = PowerReach(
        {key: live for key, (live, _) in report.reach.items()},
        {key: cold for key, (_, cold) in report.reach.items()},
    )
    return map_chart(line_map(sheet), states, report.plates, reach)


def states_of(report: Report, sheet: Sheet) -> dict[int, str]:
    """Each part's state by its id here."""
    return {p.id: report.states.get(p.uid, "unseen") for p in sheet.parts}


def _first(report: Report) -> Iterable[Block]:
    """The first page: for someone who was not there."""
    yield Title(report.number, report.machine, _line(report))
    for name, text in report.summary:
        yield Heading(name)
        if name == READS and report.rails_now:
            yield DocumentTable(_NOW_COLUMNS, report.rails_now, (0.16, 0.24, 0.36, 0.24))
        lines = tuple(line for line in text.split("\n") if line)
        if len(lines) > 1:
            yield Bullets(lines)
        else:
            yield from map(Paragraph, lines)
    day, why = report.next_inspection
    more = (
        ("Done before it came", report.before),
        ("Look at it again by", f"{day}: {why}." if day else ""),
    )
    yield Facts(tuple((name, text) for name, text in more if text))
    yield Heading("Cautions")
    yield Bullets(report.cautions)


def _line(report: Report) -> str:
    opened = f"{report.unit}. Opened {_day(report.opened_at)}"
    if report.closed_at:
        return f"{opened}, handed back {_day(report.closed_at)}, {report.outcome}."
    return f"{opened}; work not finished."


def _rails(report: Report) -> Iterable[Block]:
    when = "when it was handed back" if report.closed_at else "now"
    yield Heading(f"State {when}")
    yield Paragraph(f"Energy: {ENERGIES[report.energy].words}. {report.earth}".rstrip())
    yield Map()
    yield Heading("Rails")
    yield DocumentTable(_RAIL_COLUMNS, report.rails, (0.14, 0.2, 0.22, 0.16, 0.28))
    yield from map(Paragraph, report.patterns)
    if report.rails_since:
        yield DocumentTable(
            ("Rail", "Before the work", "After it"), report.rails_since, (0.2, 0.4, 0.4)
        )
    yield Heading("Rails to ground, cold")
    yield DocumentTable(_GROUND_COLUMNS, report.grounds, (0.14, 0.24, 0.24, 0.38))


def _parts(report: Report) -> Iterable[Block]:
    for section in report.sections:
        yield Heading(section.title)
        yield DocumentTable(("Part", "What", "Read", "Why"), section.rows, _PARTS)


def _spots(report: Report) -> Iterable[Block]:
    """Before and after of one spot side by side, then where the others are."""
    spots = [replace(one, crops=tuple(map(_dated, one.crops))) for one in report.spots]
    both = tuple(one for one in spots if len(one.crops) > 1)
    rest = tuple(one for one in spots if len(one.crops) == 1)
    for title, parts in (("Before and after", both), ("Where they are", rest)):
        if parts:
            yield Heading(title)
            yield Crops(parts)


def _dated(crop: DocumentCrop) -> DocumentCrop:
    word = f"{crop.word}, " if crop.word else ""
    return replace(crop, word=f"{word}{_day(crop.at)}")


def _closing(report: Report) -> Iterable[Block]:
    for title, rows in report.closing:
        yield Heading(title)
        yield DocumentTable((), rows, (0.22, 0.24, 0.27, 0.27))


def _figures(report: Report) -> Iterable[Block]:
    for figure in report.figures:
        yield Heading(figure.title)
        yield DocumentFigure(figure.title, figure.text, figure.chart)


def _evidence(report: Report) -> Iterable[Block]:
    if report.photos:
        yield Heading("Photos")
        yield Pictures(tuple(
            DocumentPhoto(
                p.sha256, f"{f'{p.of} {p.caption}'.strip()}, {_day(p.at)}", p.size, p.marks
            )
            for p in report.photos
        ))  # fmt: skip
    yield Heading("Left undone")
    yield Bullets(report.undone or ("Nothing known.",))
    listed = (
        ("Guard passed without a reading", [f"{_clock(at)}: “{t}”" for at, t in
                                            report.guard_reasons]),
        ("Notes", [f"{_day(at)}: {text}" for at, text in report.notes]),
        ("Readings struck out", [f"{figure}: {why}" for figure, why in report.struck]),
    )  # fmt: skip
    for title, texts in listed:
        if texts:
            yield Heading(title)
            yield Bullets(tuple(texts))


def _day(at: str) -> str:
    return datetime.fromisoformat(at).astimezone().strftime("%Y-%m-%d")


def _clock(at: str) -> str:
    return datetime.fromisoformat(at).astimezone().strftime("%Y-%m-%d %H:%M")
