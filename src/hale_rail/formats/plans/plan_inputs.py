"""What a plan follows from, as JSON can say it, and back: an analysis is kept under its hash."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from decimal import Decimal
from fractions import Fraction
from typing import Any

from msgspec.structs import asdict, astuple

from hale_rail.core.parts.families import Family, Grade
from hale_rail.core.parts.ratings import Ratings
from hale_rail.core.recap.market import Terms
from hale_rail.core.recap.needs import MOUNTS, ROLES, Build, Needs
from hale_rail.core.recap.offers import ORIGINS, Drawer, Offer, Vendor
from hale_rail.core.recap.rated_parts import WARES, AnyBuild, AnyNeeds, RatedBuild, RatedNeeds

#: what a description begins with that is not a capacitor's
_RATED = "rated"
_GRADES = {grade.value: grade for grade in Grade}


def needs_json(needs: AnyNeeds) -> dict[str, Any]:
    """A position's demand, by field."""
    needs_json = asdict(needs)
    if isinstance(needs, RatedNeeds):
        return needs_json | {"ware": needs.ware.code, "ratings": asdict(needs.ratings)}
    return needs_json | {
        "role": needs.role.code,
        "family": needs.family.value,
        "mount": needs.mount.code if needs.mount else None,
        "grade": needs.grade.value if needs.grade else None,
    }


def needs_of(data: Mapping[str, Any]) -> AnyNeeds:
    """The same back."""
    if "ware" in data:
        ratings = Ratings(**data["ratings"])
        return RatedNeeds(**{**data, "ware": WARES[data["ware"]], "ratings": ratings})
    return Needs(
        **{
            **data,
            "role": ROLES[data["role"]],
            "family": Family(data["family"]),
            "mount": MOUNTS.get(data["mount"]),
            "grade": _GRADES.get(data["grade"]),
        }
    )


def build_json(build: AnyBuild) -> list[Any]:
    """A part's description, its fields in order."""
    if isinstance(build, RatedBuild):
        return [_RATED, build.ware.code, *astuple(build.ratings)]
    json = list(astuple(build))
    json[0] = build.family.value
    json[5] = build.mount.code if build.mount else None
    return json


def build_of(data: Sequence[Any]) -> AnyBuild:
    """The same back."""
    if data[0] == _RATED:
        return RatedBuild(WARES[data[1]], Ratings(*data[2:]))
    known = dict(zip(Build.__struct_fields__, data, strict=True))
    return Build(**{**known, "family": Family(data[0]), "mount": MOUNTS.get(data[5])})


def sources_json(
    offers: Iterable[Offer], stock: Iterable[Drawer], vendors: Iterable[Vendor]
) -> dict[str, Any]:
    """Lists, drawers and terms."""
    return {
        "offers": [
            [o.vendor, o.sku, build_json(o.build), [[n, str(p)] for n, p in o.prices], o.moq,
             o.pack, o.available, o.kit, o.per_kit]
            for o in offers
        ],
        "stock": [
            [d.sku, build_json(d.build), d.qty, d.origin.code, d.is_tested, d.lot] for d in stock
        ],
        "vendors": [
            [v.name, str(v.shipping), None if v.free_above is None else str(v.free_above)]
            for v in vendors
        ],
    }  # fmt: skip


def sources_of(
    data: Mapping[str, Any],
) -> tuple[list[Offer], list[Drawer], list[Vendor]]:
    """The same back."""
    offers = [
        Offer(o[0], o[1], build_of(o[2]), tuple((n, Decimal(p)) for n, p in o[3]), *o[4:])
        for o in data["offers"]
    ]
    stock = [Drawer(d[0], build_of(d[1]), d[2], ORIGINS[d[3]], *d[4:]) for d in data["stock"]]
    vendors = [
        Vendor(v[0], Decimal(v[1]), None if v[2] is None else Decimal(v[2]))
        for v in data["vendors"]
    ]
    return offers, stock, vendors


def terms_json(terms: Terms) -> dict[str, Any]:
    """What is asked of an order."""
    return {
        "max_vendors": terms.max_vendors,
        "spares": str(terms.spares),
        "spares_below": str(terms.spares_below),
        "time_limit_s": terms.time_limit_s,
    }


def terms_of(data: Mapping[str, Any]) -> Terms:
    """The same back."""
    return Terms(
        data["max_vendors"],
        Fraction(data["spares"]),
        Decimal(data["spares_below"]),
        data["time_limit_s"],
    )
