"""Reads prices as lists print them, exactly; what can mean two things is asked back."""

from __future__ import annotations

import re
from decimal import Decimal
from functools import lru_cache

from hale_rail.core.errors import InputError
from hale_rail.core.quantities import has_odd_figure, tidy

#: a sign or a code before or behind the figure
_CURRENCY = r"([€$£¥]|[A-Z]{3})?"
_PRICE = re.compile(rf"{_CURRENCY}\s*(-?)\s*([0-9][0-9., ']*|[.,][0-9]+)\s*{_CURRENCY}")
_SIGNS = {"€": "EUR", "$": "USD", "£": "GBP", "¥": "JPY"}
#: whole groups of three with one sign, then decimals with the other
_GROUPED = re.compile(r"([0-9]{1,3})(?:([ ',.])[0-9]{3})(?:\2[0-9]{3})*(?:([.,])[0-9]+)?")
_MOST = Decimal(1_000_000)


#: what a list writes where it has no price
_NO_PRICE = ("on request", "request", "call", "poa", "tbd", "n/a", "na", "-", "–", "—", "ask")


def is_price(text: str) -> bool:
    """False for an empty cell and for words that say that there is no price."""
    word = tidy(text).lower() if text.strip() else ""
    return bool(word) and word not in _NO_PRICE


@lru_cache(4096)
def read_price(text: str) -> Decimal:
    """A price, 0 or above; raises InputError for what is none and for what can mean two."""
    clean = tidy(text)
    if clean.startswith("="):
        raise InputError(f"“{clean[:20]}” is a formula: save the list with its values")
    match = _PRICE.fullmatch(clean)
    if match is None or has_odd_figure(text):
        raise InputError(f"“{clean[:20]}” is not a price")
    if match[2]:
        raise InputError(f"{clean[:20]} is below 0: not a price")
    price = Decimal(_plain(match[3].strip()))
    if price > _MOST:
        raise InputError(f"{clean[:20]} is more than any part costs")
    return price


@lru_cache(4096)
def currency_of(text: str) -> str:
    """The currency that a price is printed in, `EUR` for €; "" where none stands there."""
    match = _PRICE.fullmatch(tidy(text))
    currency = (match[1] or match[4] or "") if match else ""
    return _SIGNS.get(currency, currency)


def _plain(number: str) -> str:
    """The figure with a decimal point and nothing else."""
    if re.fullmatch(r"[1-9][0-9]{0,2},[0-9]{3}", number):
        plain, point = number.replace(",", ""), number.replace(",", ".")
        raise InputError(f"“{number}” can mean {point} or {plain}: write it without the comma")
    if re.fullmatch(r"[0-9]*[.,]?[0-9]+|[0-9]+[.,]", number):
        return number.replace(",", ".")
    grouped = _GROUPED.fullmatch(number)
    if grouped is None or grouped[3] == grouped[2]:
        raise InputError(f"“{number[:20]}” is not a price")
    whole, decimals = number, ""
    if grouped[3]:
        whole, _, decimals = number.rpartition(grouped[3])
    return f"{re.sub(r'[^0-9]', '', whole)}.{decimals or 0}"


def read_count(text: str, name: str, least: int = 0) -> int:
    """A count of pieces, such as `100` or `1000+`; raises InputError naming it."""
    clean = tidy(text).removeprefix(">").removesuffix("+").strip()
    grouped = re.fullmatch(r"[0-9]{1,3}(?:([ ,])[0-9]{3})(?:\1[0-9]{3})*", clean)
    plain = re.sub("[ ,]", "", clean) if grouped else re.sub(r"[.,]0+$", "", clean)
    if has_odd_figure(text) or not re.fullmatch(r"[0-9]{1,9}", plain):
        hint = "" if not re.fullmatch(r"[0-9]{1,3}[.,][0-9]{3}", clean) else ", without a separator"
        raise InputError(f"{name} is a whole number{hint}, not “{text[:20]}”")
    if int(plain) < least:
        raise InputError(f"{name} is {least} or more, not {plain}")
    return int(plain)


def show_price(price: Decimal, currency: str = "") -> str:
    """A price with at least two decimals, and its currency behind it."""
    exponent = price.normalize().as_tuple().exponent
    places = max(2, -exponent if isinstance(exponent, int) else 2)
    return f"{price:.{places}f}" + (f"\u00a0{currency}" if currency else "")
