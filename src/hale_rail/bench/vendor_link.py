"""Asks a vendor's service for its live stock and prices, over HTTP, with limits on time and size.

Answer: JSON `{"currency", "parts": [{columns of a catalogue}]}`; whatever else comes is told.
"""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any
from urllib.error import HTTPError, URLError
from urllib.request import Request, urlopen

from hale_rail.errors import ServiceError

TIMEOUT_S = 20.0
_MOST_BYTES = 32 * 1024 * 1024
_CHUNK = 64 * 1024

#: opens an address for so many seconds; stands in for the network in tests
Opener = Callable[[str, float], Any]


@dataclass(frozen=True)
class Answer:
    """What a service told: its currency, and its parts as rows of a catalogue."""

    currency: str
    parts: Sequence[Mapping[str, str]]


def _open(address: str, timeout_s: float) -> Any:
    request = Request(address, headers={"Accept": "application/json"})  # noqa: S310  checked
    return urlopen(request, timeout=timeout_s)  # noqa: S310  the scheme was checked


def ask(address: str, timeout_s: float = TIMEOUT_S, opener: Opener = _open) -> Answer:
    """A service's answer; raises ServiceError with what went wrong and what that may mean."""
    if not address.startswith(("http://", "https://")):
        raise ServiceError(f"{address} is no address of a service.")
    try:
        with opener(address, timeout_s) as response:
            data = _read(response)
    except HTTPError as error:
        raise ServiceError(f"The service answered {error.code}: try again later.") from error
    except TimeoutError as error:
        raise ServiceError(f"No answer within {timeout_s:g} s: try again later.") from error
    except (URLError, OSError, ValueError) as error:
        reason = getattr(error, "reason", None) or error
        if isinstance(reason, TimeoutError):
            raise ServiceError(f"No answer within {timeout_s:g} s: try again later.") from error
        raise ServiceError(f"The service cannot be reached: {reason}.") from error
    return parsed(data)


def _read(response: Any) -> bytes:
    found = bytearray()
    while chunk := response.read(_CHUNK):
        found += chunk
        if len(found) > _MOST_BYTES:
            raise ServiceError("The answer is far too large: it is left alone.")
    return bytes(found)


def parsed(data: bytes) -> Answer:
    """The answer of a service; raises ServiceError for none, for no JSON and for another shape."""
    if not data.strip():
        raise ServiceError("The answer is empty.")
    try:
        found = json.loads(data)
    except (ValueError, RecursionError) as error:
        raise ServiceError("The answer is no JSON that can be read.") from error
    parts = found.get("parts") if isinstance(found, dict) else None
    if not isinstance(parts, list) or not all(isinstance(part, dict) for part in parts):
        raise ServiceError("The answer has no list of parts.")
    if not parts:
        raise ServiceError("The answer lists no part at all: the old prices stay.")
    rows = [{str(k): "" if v is None else str(v) for k, v in part.items()} for part in parts]
    return Answer(str(found.get("currency") or ""), rows)
