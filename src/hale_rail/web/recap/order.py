"""The order over all open cases or for one: as it will be sent, kit labels, bench sheets, files."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence

from flask import Blueprint, Response, redirect, render_template, request
from flask.typing import ResponseReturnValue
from markupsafe import Markup
from msgspec import Struct

from hale_rail.actions.intake import waiting
from hale_rail.case.places.places import Spot, spot_of
from hale_rail.case.recap import plans
from hale_rail.case.recap.kept_demands import all_demands, demand_of
from hale_rail.case.recap.plans import EMPTY_PLAN, OWN, Planned, order_plan
from hale_rail.case.recap.rework import jobs, ticks
from hale_rail.core.recap.orders import BuyingPlan, OrderLine
from hale_rail.core.recap.rated_parts import AnyBuild
from hale_rail.errors import InputError
from hale_rail.formats.codec import plain
from hale_rail.formats.plans.order_files import order_csv, order_rows, order_xlsx, spellings
from hale_rail.stages.recap.recap import build_words, from_whom, gap_words, money, of_words, ways
from hale_rail.stages.stage import is_part_id
from hale_rail.web import addresses
from hale_rail.web.form_base import FormState
from hale_rail.web.frame.case_page import case_of, rerender_on_error, store
from hale_rail.web.uploads import file_response

blueprint = Blueprint("order", __name__, url_prefix="/order")
_XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


class Bag(Struct, frozen=True):
    """A kit label: one value, its three spellings, how many, for which positions."""

    sku: str
    words: str
    spellings: tuple[str, ...]
    qty: int
    where: str
    positions: str
    link: str
    code: Markup
    boards: tuple[tuple[str, tuple[Spot, ...]], ...]


def _number() -> str:
    return request.args.get("case", "")[:20]


def _planned() -> Planned:
    number = _number()
    return order_plan(store(), [case_of(number).number] if number else ())


def _own(planned: Planned) -> BuyingPlan:
    return planned.plan(OWN) or EMPTY_PLAN


def names_of(planned: Planned) -> dict[str, str]:
    """What each position is called on lists: its case and designator."""
    return {i: f"{i.partition('/')[0]}:{needs.ref}" for i, needs in planned.needs.items()}


@blueprint.get("")
def page() -> ResponseReturnValue:
    """Every vendor's block as it will be sent, what comes from stock, what stays open."""
    return _page()


def rerender(typed: FormState, code: int) -> ResponseReturnValue:
    """The order, with what is wrong with what was typed."""
    return _page(typed.problem("wait")), code


@blueprint.post("/wait")
@rerender_on_error(rerender)
def wait() -> ResponseReturnValue:
    """Have every case of the order wait for it, until a day."""
    planned = _planned()
    cases = sorted({i.partition("/")[0] for i in planned.needs})
    if not cases:
        raise InputError("No case waits for a part of this order.", field="until")
    waiting.wait(store(), cases, request.form.get("until", ""), "the order")
    return redirect(addresses.bench(), 303)


def _page(wait_problem: str = "") -> str:
    planned = _planned()
    known = planned.shown_plan(OWN)
    plan = known or EMPTY_PLAN
    currency = planned.sources.buying.currency
    by_vendor: dict[str, list[OrderLine]] = {}
    for line in plan.order:
        by_vendor.setdefault(line.offer.vendor, []).append(line)
    cases = {i.partition("/")[0] for i in planned.needs}
    return render_template(
        "recap/order/page.html",
        wait_problem=wait_problem,
        number=_number(),
        planned=planned,
        plan=plan,
        by_vendor=by_vendor,
        names=_names(planned, plan),
        currency=currency,
        total=money(known.total if known else None, currency),
        gap_words=gap_words(known),
        of_words=of_words(planned, known),
        ways=ways(planned, currency),
        apart=_apart(planned, currency),
        minded=_minded(planned),
        by_hand=planned.by_hand,
        cases=sorted(cases),
        open_numbers=_numbers(planned),
        money=money,
        words=build_words,
    )


def _names(planned: Planned, plan: BuyingPlan) -> dict[str, str]:
    """What each position is called, those too that only the last order had."""
    shown = {i for line in plan.order for i in line.covers} | plan.open_positions.keys()
    return {i: i.replace("/", ":") for i in shown} | names_of(planned)


def _numbers(planned: Planned) -> list[str]:
    """The cases of which something is bought, and the one that is looked at."""
    known = all_demands(store(), 0.0).demands if _number() else planned.of
    return sorted({demand.number for demand in known} | ({_number()} - {""}))


def _minded(planned: Planned) -> dict[str, list[str]]:
    """What is to be minded, each thing once, with the positions that it is about."""
    names = names_of(planned)
    minded: dict[str, list[str]] = {}
    for position, texts in _own(planned).flags_by_position.items():
        for text in texts:
            minded.setdefault(text, []).append(names[position])
    return minded


def _apart(planned: Planned, currency: str) -> list[tuple[str, str]]:
    """What each case would cost by itself, where several are bought for."""
    apart = planned.shown.plans if planned.shown else {}
    return [(name, money(p.total, currency)) for name, p in apart.items() if name != OWN]


@blueprint.post("/stop")
@rerender_on_error(rerender)
def stop() -> ResponseReturnValue:
    """End the order that is computed."""
    plans.stop_order(store(), _planned())
    return redirect(addresses.order(_number()), 303)


@blueprint.post("/again")
@rerender_on_error(rerender)
def again() -> ResponseReturnValue:
    """Compute a stopped order again."""
    plans.again(store(), _planned())
    return redirect(addresses.order(_number()), 303)


def _rows() -> list[tuple[str, ...]]:
    planned = _planned()
    order = _own(planned).order
    currency = planned.sources.buying.currency
    return order_rows(order, names_of(planned), currency, request.args.get("vendor", ""))


@blueprint.get("/order.csv")
def as_csv() -> ResponseReturnValue:
    """The order as CSV, of one vendor or of all."""
    return file_response(order_csv(_rows()), "text/csv", "order.csv")


@blueprint.get("/order.xlsx")
def as_xlsx() -> ResponseReturnValue:
    """The order as a workbook, a sheet a vendor."""
    headers = {"Content-Disposition": 'attachment; filename="order.xlsx"'}
    return Response(order_xlsx(_rows()), mimetype=_XLSX, headers=headers)


@blueprint.get("/plan.json")
def as_json() -> ResponseReturnValue:
    """The whole plan as JSON."""
    planned = _planned()
    positions = planned.inputs.get("demands", {}).get(OWN, [])
    fields = plain({"plan": planned.plan(OWN), "positions": positions})
    text = json.dumps(fields, ensure_ascii=False, indent=2)
    return file_response(text, "application/json", "plan.json")


@blueprint.get("/labels")
def labels() -> ResponseReturnValue:
    """Kit labels as they are cut: one bag a value, with a code that leads to its position."""
    planned = _planned()
    return render_template(
        "recap/order/labels.html",
        number=_number(),
        bags=_bags(planned),
        is_waiting=planned.outcome.is_waiting,
    )


def _bags(planned: Planned) -> list[Bag]:
    plan, names = _own(planned), names_of(planned)
    bags: dict[str, list[_Bagged]] = {}
    for drawn in plan.from_stock:
        bagged = _Bagged(drawn.drawer.build, drawn.covers, "stock")
        bags.setdefault(drawn.drawer.sku, []).append(bagged)
    for line in plan.order:
        for inside in line.contents or (line,):
            bagged = _Bagged(inside.offer.build, inside.covers, from_whom(line))
            bags.setdefault(inside.offer.sku, []).append(bagged)
    return [_bag(sku, lines, names, planned) for sku, lines in sorted(bags.items())]


class _Bagged(Struct, frozen=True):
    """What one line of a plan puts into a bag: a part, its positions, where it comes from."""

    build: AnyBuild
    covers: tuple[str, ...]
    whom: str


def _bag(sku: str, lines: list[_Bagged], names: Mapping[str, str], planned: Planned) -> Bag:
    build = lines[0].build
    covers = list(dict.fromkeys(i for line in lines for i in line.covers))
    number, _, part = covers[0].partition("/")
    link = request.host_url.rstrip("/") + addresses.stage(number, "position", part)
    return Bag(
        sku,
        build_words(build),
        tuple(s for s in spellings(build) if s),
        sum(planned.needs[i].qty for i in covers),
        ", ".join(dict.fromkeys(line.whom for line in lines)),
        " ".join(names[i] for i in covers),
        link,
        qr_code(link),
        tuple(_boards(covers)),
    )


def _boards(covers: Sequence[str]) -> list[tuple[str, tuple[Spot, ...]]]:
    """Where a bag's positions stand: the case's number with the spots of one board."""
    of_board: dict[tuple[str, str], list[Spot]] = {}
    for position in covers:
        number, _, part = position.partition("/")
        spot = spot_of(case_of(number), int(part)) if is_part_id(part) else None
        if spot:
            of_board.setdefault((number, spot.board.name), []).append(spot)
    return [(number, tuple(spots)) for (number, _), spots in of_board.items()]


def qr_code(text: str) -> Markup:
    """A text as a QR code, drawn."""
    import segno

    drawn = segno.make(text, micro=False).svg_inline(scale=1, border=2, omitsize=True)
    return Markup(drawn)  # noqa: S704  drawn by the library from numbers alone


@blueprint.get("/bench/<number>")
def bench(number: str) -> ResponseReturnValue:
    """A case's positions in working order, to be ticked off at the bench."""
    case = case_of(number)
    return render_template(
        "recap/order/bench.html",
        number=case.number,
        case=case,
        own=case.case,
        jobs=[job for job in jobs(case) if not job.is_left_out],
        words=build_words,
        ticks=lambda job: ticks(case, job),
        named={o.part_id: o.named for o in demand_of(case).by_hand},
        is_waiting=plans.case_plan(case).outcome.is_waiting,
    )
