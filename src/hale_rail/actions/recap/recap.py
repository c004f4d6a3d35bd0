"""What a person says of positions and boards for the recap."""

from __future__ import annotations

from collections.abc import Mapping

from hale_rail.actions.change import changing
from hale_rail.case.recap.demands import ASKED, OLD_CAN, READ, capacitor_needs
from hale_rail.core.parts.ratings import FIELDS
from hale_rail.core.recap.needs import ROLES
from hale_rail.core.recap.rated_parts import WARES, Ware
from hale_rail.core.recap.rework import METHODS
from hale_rail.errors import InputError, NotFoundError
from hale_rail.formats.units.rated_fields import RATED_COLUMNS, read_ratings
from hale_rail.store.database import Store
from hale_rail.store.rework import RECAP_NOTES, RecapNote

#: what replaces a tantalum, as the case has it
TANTALUM = ("tantalum", "aluminium")
#: ratings in words, by column
_LABELS = {field.column: field.label for field in FIELDS.values()}


def save_demand(
    store: Store, number: str, part_id: int, typed: Mapping[str, str], at: str | None = None
) -> None:
    """Say what a position asks of its part, over what the sheet says; "" asks nothing.

    Raises InputError naming the field that cannot be used.
    """
    role = typed.get("role", "")
    if role and role not in ROLES:
        raise InputError("Choose what it does there.", field="role")
    body = {name: _checked(name, words, typed) for name, words in (*ASKED, *OLD_CAN)}
    with changing(store, number, at) as change:
        part = change.file.sheet.part(part_id)
        if part is None or capacitor_needs(change.file, part) is None:
            raise NotFoundError("There is no such capacitor on this unit, or its value is open.")
        known = change.file.rows.newest(RECAP_NOTES).get(part_id)
        kept = known.body if known else {}
        body |= {"role": role, "sku": kept.get("sku", ""), "named": kept.get("named", "")}
        told = ", ".join(f"{name} {text}" for name, text in body.items() if text)
        log_id = change.log("edited", f"{part.ref} asks: {told or 'what the sheet says'}")
        change.append(RECAP_NOTES, log_id, RecapNote(part_id, "", body))


def save_ratings(
    store: Store, number: str, part_id: int, typed: Mapping[str, str], at: str | None = None
) -> None:
    """Record the ratings of a part other than a capacitor; "" leaves what the sheet has.

    Raises InputError naming the column that cannot be used.
    """
    with changing(store, number, at) as change:
        part = change.file.sheet.part(part_id)
        if part is None or not part.kind.rules:
            raise NotFoundError("There is no such part on this unit.")
        ratings = {
            name: typed.get(name, "").strip() for name in ("value", "voltage", *RATED_COLUMNS)
        }
        ratings = {name: text for name, text in ratings.items() if text}
        for name, text in ratings.items():
            _check_rating(WARES[part.kind.code], name, text)
        known = change.file.rows.newest(RECAP_NOTES).get(part_id)
        body = {**(known.body if known else {}), "ratings": ratings}
        told = ", ".join(f"{_LABELS[name]} {text}" for name, text in ratings.items())
        log_id = change.log("edited", f"{part.ref} is rated: {told or 'what the sheet says'}")
        change.append(RECAP_NOTES, log_id, RecapNote(part_id, "", body))


def _check_rating(ware: Ware, name: str, text: str) -> None:
    try:
        read_ratings({name: text}, ware)
    except InputError as error:
        raise InputError(str(error).removeprefix(f"{name}: "), field=name) from error


def _checked(name: str, words: str, typed: Mapping[str, str]) -> str:
    """A field as typed, once it is understood; raises InputError naming it as the page does."""
    text = typed.get(name, "").strip()
    try:
        READ[name]({name: text}, name)
    except InputError as error:
        raise InputError(f"{words}: {str(error).removeprefix(f'{name}: ')}", field=name) from error
    return text


def choose_part(store: Store, number: str, part_id: int, sku: str) -> None:
    """Choose a part number for a position by hand; "" leaves it to the order again."""
    if len(sku) > 80:
        raise InputError("At most 80 characters.", field="sku")
    with changing(store, number) as change:
        part = change.file.sheet.part(part_id)
        if part is None:
            raise NotFoundError("There is no such part on this unit.")
        for mate in change.file.sheet.bank_of(part):
            known = change.file.rows.newest(RECAP_NOTES).get(mate.id)
            body = {**(known.body if known else {}), "sku": sku}
            text = f"{mate.ref}: {sku} chosen by hand" if sku else f"{mate.ref}: any part that fits"
            log_id = change.log("decision", text)
            change.append(RECAP_NOTES, log_id, RecapNote(mate.id, "", body))


def name_part(store: Store, number: str, part_id: int, what: str, at: str | None = None) -> None:
    """Name by hand what is bought for a part that no list matches, such as a fuse; "" for none."""
    if len(what) > 120:
        raise InputError("At most 120 characters.", field="named")
    with changing(store, number, at) as change:
        part = change.file.sheet.part(part_id)
        if part is None:
            raise NotFoundError("There is no such part on this unit.")
        known = change.file.rows.newest(RECAP_NOTES).get(part_id)
        body = {**(known.body if known else {}), "named": what.strip()}
        log_id = change.log("edited", f"{part.ref}: {what.strip() or 'nothing'} is bought for it")
        change.append(RECAP_NOTES, log_id, RecapNote(part_id, "", body))


def say_of_board(store: Store, number: str, board: str, values: Mapping[str, str]) -> None:
    """Say how parts are taken out of a board, or what replaces the case's tantalums.

    `method` a way of removal, `plane` "yes" for a board with heavy copper, `tantalum` a family.
    """
    if values.get("method", "") not in ("", *METHODS):
        raise InputError("Choose how parts are taken out.", field="method")
    if values.get("tantalum", "") not in ("", *TANTALUM):
        raise InputError("Tantalum, or aluminium.", field="tantalum")
    with changing(store, number) as change:
        if board and board not in {part.board for part in change.file.sheet.parts}:
            raise NotFoundError("There is no such board on this unit.")
        known = change.file.rows.newest(RECAP_NOTES).get(board)
        body = {**(known.body if known else {}), **values}
        told = ", ".join(f"{name} {text}" for name, text in values.items())
        log_id = change.log("edited", f"{board or 'supply'}: {told}")
        change.append(RECAP_NOTES, log_id, RecapNote(None, board, body))
