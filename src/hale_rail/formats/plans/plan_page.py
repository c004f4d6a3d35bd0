"""A plan as the pages show it: JSON with money as texts, so that it stays decimal."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from hale_rail.core.recap.buying import BuyingPlan, OrderLine, StockLine
from hale_rail.core.recap.matching import MarketItem
from hale_rail.formats.plans.plan_inputs import build_json


def plan_page(plan: BuyingPlan) -> dict[str, Any]:
    """Everything of a plan, by position where it is about one."""
    flags: dict[str, list[str]] = {}
    for flag in plan.flags:
        flags.setdefault(flag.needs.id, []).append(flag.text)
    return {
        "total": str(plan.total),
        "goods": str(plan.goods),
        "shipping": {vendor: str(cost) for vendor, cost in plan.shipping.items()},
        "gap": plan.gap,
        "is_cut": plan.is_cut,
        "order": [_order(line) for line in plan.order],
        "from_stock": [_stock(line) for line in plan.from_stock],
        "unmet": {
            one.needs.id: {"reason": one.reason, "nearest": _item(one.nearest)}
            for one in plan.unmet
        },
        "flags": flags,
        "chosen": {position: _item(item) for position, item in plan.chosen.items()},
    }


def _order(line: OrderLine) -> dict[str, Any]:
    return {
        "vendor": line.offer.vendor,
        "sku": line.offer.sku,
        "build": build_json(line.offer.build),
        "qty": line.qty,
        "spares": line.qty - line.fitted,
        "unit_price": str(line.unit_price),
        "cost": str(line.cost),
        "covers": list(line.covers),
        "contents": [
            {
                "sku": content.offer.sku,
                "build": build_json(content.offer.build),
                "qty": content.qty,
                "covers": list(content.covers),
            }
            for content in line.contents
        ],
    }


def _stock(line: StockLine) -> dict[str, Any]:
    return {
        "sku": line.drawer.sku,
        "build": build_json(line.drawer.build),
        "qty": line.qty,
        "covers": list(line.covers),
        "origin": line.drawer.origin.words,
        "lot": line.drawer.lot,
        "is_trusted": line.drawer.is_trusted,
    }


def _item(item: MarketItem | None) -> Mapping[str, Any] | None:
    return {"sku": item.sku, "build": build_json(item.build), "where": item.where} if item else None
