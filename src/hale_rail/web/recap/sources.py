"""Where parts come from: drawers, vendors, price lists and live prices, orders that came in."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from decimal import Decimal
from fractions import Fraction

from flask import Blueprint, redirect, render_template, request
from flask.typing import ResponseReturnValue

from hale_rail.actions.recap import refresh as refreshing
from hale_rail.actions.recap import sourcing as actions
from hale_rail.case.recap import sourcing as known
from hale_rail.case.workshop.workshop import Buying
from hale_rail.core.errors import at_field
from hale_rail.core.parts.families import Family
from hale_rail.core.recap.needs import CLASSES, MOUNTS
from hale_rail.errors import InputError
from hale_rail.formats.plans import sources_csv
from hale_rail.formats.plans.price_lists import FIELD_WORDS
from hale_rail.formats.tables.money import read_count, read_price
from hale_rail.store.database import Store
from hale_rail.store.vendors import VendorRow
from hale_rail.web import addresses
from hale_rail.web.form_base import FormState
from hale_rail.web.frame.case_page import rerender_on_error, store
from hale_rail.web.recap.forms import BuyingForm, MappingForm
from hale_rail.web.uploads import needed_text, sent_bytes
from hale_rail.web.workshop.lists import (
    NOTHING_OPEN,
    ListKind,
    OpenRow,
    add_lists,
    shown_lists,
)

blueprint = Blueprint("sources", __name__, url_prefix="/parts")
NONE: Mapping[str, str] = {}
#: how many rows of a list that is looked at are shown, read and not read
_SHOWN = 200


def _vendors(of: Store) -> list[sources_csv.VendorLine]:
    return [(v.terms, v.currency, v.rate, v.service) for v in known.sources(of).vendors]


def _save_vendors(of: Store, wanted: list[sources_csv.VendorLine]) -> None:
    actions.save_vendors(of, [VendorRow(*line) for line in wanted])


LISTS = (
    ListKind(
        "vendors",
        "sources",
        "Vendors",
        "Shipping is free where the goods there reach “free from”. “One costs here” is what one of "
        "its currency costs in the workshop's; empty for the same currency.",
        sources_csv.VENDOR_COLUMNS,
        sources_csv.VENDOR_HEADINGS,
        sources_csv.read_vendor_list,
        sources_csv.vendor_cells,
        _vendors,
        _save_vendors,  # type: ignore[arg-type]
    ),
    ListKind(
        "drawers",
        "sources",
        "Drawers",
        "Origin is new, old-stock or salvaged; what is not new is tested before it is fitted. "
        "Family is a capacitor's, or a kind such as fuse or diode; other ratings as “amps 3 A; "
        "case TO-220”.",
        sources_csv.DRAWER_COLUMNS,
        sources_csv.DRAWER_HEADINGS,
        sources_csv.read_drawer_list,
        sources_csv.drawer_cells,
        known.drawers,
        actions.save_drawers,
    ),
)


@blueprint.get("")
def page() -> ResponseReturnValue:
    """Lists, vendors and how the workshop buys, as they are kept."""
    return _page()


def _kept_form() -> BuyingForm:
    buying = known.sources(store()).buying
    return BuyingForm(
        formdata=None,
        currency=buying.currency,
        max_vendors=str(buying.max_vendors or ""),
        spares=f"{float(100 * buying.spares):g}",
        spares_below=str(buying.spares_below),
    )


def _page(
    opened: Mapping[str, OpenRow] = NOTHING_OPEN,
    problems: Mapping[str, str] = NONE,
    form: BuyingForm | None = None,
    looked: actions.PriceListReading | None = None,
) -> str:
    running = refreshing.progress(store())
    return render_template(
        "recap/sources/page.html",
        sources=known.sources(store()),
        bad=known.bad_sources(store()),
        form=form or _kept_form(),
        lists=shown_lists(LISTS, opened),
        problems=problems,
        looked=looked,
        list_fields=FIELD_WORDS,
        shown=_SHOWN,
        running=running,
        is_running=any(not state.is_done for state in running.values()),
        saved=request.args.get("saved", ""),
    )


add_lists(blueprint, LISTS, _page, "/parts")


def rerender_buying(typed: FormState, code: int) -> ResponseReturnValue:
    """The page with what was typed of buying, and what is wrong with it."""
    form = BuyingForm()
    for name, text in typed.problems.items():
        if name in form:
            form[name].errors = [text]
    return _page(form=form), code


@blueprint.post("/buying")
@rerender_on_error(rerender_buying)
def buying() -> ResponseReturnValue:
    """Save how the workshop buys."""
    form = BuyingForm.parsed()
    most = _read("max_vendors", form.max_vendors.data)
    spares = _price("spares", form.spares.data or "0")
    if spares > 100:
        raise InputError("0 to 100 per cent.", field="spares")
    currency = (form.currency.data).upper()
    if not currency:
        raise InputError("Name the currency that is counted in, such as EUR.", field="currency")
    below = _price("spares_below", form.spares_below.data or "0")
    wanted = Buying(currency, most, Fraction(spares) / 100, below)
    actions.save_buying(store(), wanted)
    return redirect(f"{addresses.sources()}?saved=buying#buying", 303)


def _read(name: str, text: str | None) -> int | None:
    with at_field(name):
        return read_count(text, "It", 1) if text else None


def _price(name: str, text: str) -> Decimal:
    with at_field(name):
        return read_price(text)


def rerender_problem(typed: FormState, code: int) -> ResponseReturnValue:
    """The page with what is wrong with a file or a refresh, beside where it was chosen."""
    text = next(iter(typed.problems.values()), "")
    return _page(problems={typed.form: text}), code


@blueprint.post("/look", endpoint="look")
@rerender_on_error(rerender_problem)
def look() -> ResponseReturnValue:
    """Read a price list; nothing is taken yet."""
    vendor = request.form.get("vendor", "")
    name, data = sent_bytes("list", "CSV or XLSX price list", actions.MOST_BYTES)
    return _page(looked=actions.look_at_list(store(), vendor, name[:120], data))


def rerender_mapping(typed: FormState, code: int) -> ResponseReturnValue:
    """The list as it would be taken by the columns chosen, and what is wrong with them."""
    values = typed.values
    try:
        looked = actions.read_list_by(
            store(), values.get("vendor", ""), values.get("token", ""), values.get("name", ""),
            values,
        )  # fmt: skip
    except InputError as error:
        return _page(problems={"look": str(error)}), code
    return _page(problems={"mapping": next(iter(typed.problems.values()), "")}, looked=looked), code


@blueprint.post("/mapping")
@rerender_on_error(rerender_mapping)
def mapping() -> ResponseReturnValue:
    """Read the list again by other columns, or take it."""
    form = MappingForm.parsed()
    vendor, token = form.vendor.data, form.token.data
    columns = request.form.to_dict()
    looked = actions.read_list_by(store(), vendor, token, form.name.data, columns)
    is_other_sheet = columns.get("sheet", "") != columns.get("sheet_read", "")
    if request.form.get("do") != "take" or is_other_sheet:
        return _page(looked=looked)
    actions.take_list(store(), looked)
    return redirect(f"{addresses.sources()}?saved=list#prices", 303)


@blueprint.post("/refresh")
@rerender_on_error(rerender_problem)
def refresh() -> ResponseReturnValue:
    """Ask the vendors' services for their live prices."""
    vendor = request.form.get("vendor", "")
    refreshing.begin(store(), [vendor] if vendor else ())
    return redirect(f"{addresses.sources()}#prices", 303)


@blueprint.get("/prices")
def prices() -> ResponseReturnValue:
    """How old each vendor's prices are and the state of the refresh; the page asks by itself."""
    running = refreshing.progress(store())
    return render_template(
        "recap/sources/_prices.html",
        sources=known.sources(store()),
        running=running,
        is_running=any(not state.is_done for state in running.values()),
        problems=NONE,
    )


@blueprint.post("/received")
@rerender_on_error(rerender_problem)
def received() -> ResponseReturnValue:
    """Read a filled-in order back: what came in goes into the drawers."""
    actions.take_received(store(), needed_text("order", "filled-in order as CSV"))
    return redirect(f"{addresses.sources()}?saved=received#drawers", 303)


def always_of(name: str) -> Sequence[str]:
    """What every row of a price list may have, where the list has no column for it."""
    known = {"family": [f.value for f in Family], "mount": list(MOUNTS), "class": CLASSES}
    return known.get(name, ())


#: what its templates call
TOOLS = {"always_of": always_of}
