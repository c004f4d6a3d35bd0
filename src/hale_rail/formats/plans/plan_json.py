"""Writes a plan as JSON, as the command prints it and the page hands it out."""

from __future__ import annotations

from collections.abc import Sequence
from decimal import Decimal
from typing import Any

from hale_rail.core.recap.orders import BuyingPlan, OrderLine


def plan_json(plan: BuyingPlan, problems: Sequence[dict[str, Any]] = ()) -> dict[str, Any]:
    """The contract of `hale-rail plan --json`; `total` is parts and shipping."""
    return {
        "order": [_order(line) for line in plan.order],
        "from_stock": [
            {"sku": line.drawer.sku, "qty": line.qty, "covers": list(line.covers)}
            for line in plan.from_stock
        ],
        "shipping": {vendor: number(cost) for vendor, cost in plan.shipping.items()},
        "total": number(plan.total),
        "unmet": [
            {
                "id": one.position,
                "reason": one.reason,
                "nearest": one.nearest.sku if one.nearest else None,
            }
            for one in plan.unmet
        ],
        "flags": [{"id": flag.position, "text": flag.text} for flag in plan.flags],
        "gap": plan.gap,
        "is_cut": plan.is_cut,
        "problems": list(problems),
    }


def _order(line: OrderLine) -> dict[str, Any]:
    inside = [{"sku": content.offer.sku, "qty": content.qty, "covers": list(content.covers)}
              for content in line.contents]  # fmt: skip
    return {
        "vendor": line.offer.vendor,
        "sku": line.offer.sku,
        "qty": line.qty,
        "unit_price": number(line.unit_price),
        "cost": number(line.cost),
        "covers": list(line.covers),
        "spares": line.spares,
        **({"contents": inside} if inside else {}),
    }


def number(price: Decimal) -> float:
    """Money for JSON, which has no decimals of its own: the float that prints alike."""
    return float(price)
