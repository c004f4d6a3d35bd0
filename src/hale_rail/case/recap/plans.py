"""Plans of what to buy, for a case or for all open cases: computed beside the page and kept."""

from __future__ import annotations

import threading
import time
from collections import OrderedDict
from collections.abc import Mapping, Sequence
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from hale_rail.case import worker
from hale_rail.case.file import CaseFile
from hale_rail.case.recap.demands import to_buy
from hale_rail.case.recap.kept_demands import ByHand, Demand, all_demands, demands_of
from hale_rail.case.recap.sourcing import Sources, sources, with_parts
from hale_rail.case.worker import Analysis, AnalysisState, Progress
from hale_rail.core.recap.demand import RecapPolicy
from hale_rail.core.recap.market import Terms
from hale_rail.core.recap.offers import Offer
from hale_rail.core.recap.rated_parts import AnyNeeds
from hale_rail.errors import InputError
from hale_rail.formats.plans.plan_inputs import (
    needs_json,
    needs_of,
    sources_json,
    sources_of,
    terms_json,
    terms_of,
)
from hale_rail.store.database import Store

#: how long one order is searched for beside a page, in seconds
_SEARCH_S = 10.0
#: how often a plan that is waited for is asked about, in seconds
_STEP_S = 0.02
#: how long a page gathers what cases want before it shows how far it is, in seconds
_GATHER_S = 0.4
#: of more cases than this none is planned alone beside the order over all
_MOST_APART = 30
#: the name of the demand that is compared with other ways to buy it
OWN = "own"
#: offers by the hash of their lists, so that an analysis need not carry a long list about
_lists: OrderedDict[str, Sequence[Offer]] = OrderedDict()
_lock = threading.Lock()
_REMEMBERED = 4


def compute(inputs: Any, progress: Progress) -> Any:
    """The plan of each demand; of the first, what it costs elsewhere."""
    from hale_rail.core.recap.buying import by_line, from_alone, plan
    from hale_rail.core.recap.market import market
    from hale_rail.formats.plans.plan_page import plan_page

    _, stock, vendors = sources_of(inputs["sources"])
    offers = _remembered(inputs["lists"])
    terms = terms_of(inputs["terms"])
    at = market(offers, stock, vendors)
    demands = {name: [needs_of(n) for n in asked] for name, asked in inputs["demands"].items()}
    steps = len(demands) + len(inputs["alone"]) + 1
    plans: dict[str, Any] = {}
    known: dict[tuple[AnyNeeds, ...], Any] = {}
    for done, (name, demand) in enumerate(demands.items()):
        progress(done / steps)
        if tuple(demand) not in known:
            known[tuple(demand)] = plan_page(plan(demand, at, terms))
        plans[name] = known[tuple(demand)]
    first = next(iter(demands.values()))
    alone = {}
    for done, name in enumerate(inputs["alone"], len(demands)):
        progress(done / steps)
        alone[name] = _cost(plan(first, from_alone(at, name), terms))
    return {"plans": plans, "alone": alone, "by_line": _cost(by_line(first, at, terms))}


def _cost(result: Any) -> dict[str, Any]:
    return {"total": str(result.total), "open": len(result.unmet)}


PLAN = Analysis("plan", 3, compute)


class Planned(Struct, frozen=True):
    """A plan asked for: what it follows from, and its outcome."""

    sources: Sources
    inputs: Mapping[str, Any]
    outcome: AnalysisState
    #: positions of every demand, by id
    needs: Mapping[str, AnyNeeds]
    #: of an order, what each case wants
    of: tuple[Demand, ...] = ()

    @property
    def by_hand(self) -> list[ByHand]:
        """Of an order, what no list matches."""
        return [part for demand in self.of for part in demand.by_hand]

    @property
    def result(self) -> Mapping[str, Any]:
        """The result, empty while it is computed."""
        return self.outcome.result or {}

    def plan(self, name: str) -> Mapping[str, Any]:
        """One demand's plan, empty while it is computed."""
        fields: Mapping[str, Any] = self.result.get("plans", {}).get(name, {})
        return fields


def case_plan(case: CaseFile) -> Planned:
    """What each school would buy for a case, its own compared with other ways."""
    own = case.school
    schools = [own, *(school for school in RecapPolicy if school is not own)]
    return _ask(case.store, {school.code: to_buy(case, school) for school in schools})


def wait_for_plan(case: CaseFile, patience_s: float) -> bool:
    """Wait so long for a case's plan; False while it is still computed then."""
    ends = time.monotonic() + patience_s
    while case_plan(case).outcome.is_waiting:
        if time.monotonic() > ends:
            return False
        time.sleep(_STEP_S)
    return True


def order_plan(store: Store, numbers: Sequence[str] = ()) -> Planned:
    """One order for all open cases, or for some of them; each alone beside it, where they are few.

    Where many cases changed it waits until what they want is gathered.
    """
    told = demands_of(store, numbers) if numbers else all_demands(store, _GATHER_S)
    each = {demand.number: list(demand.needs) for demand in told.found}
    together = [needs for demand in each.values() for needs in demand]
    if told.share < 1:
        needs = {n.id: n for n in together}
        return Planned(sources(store), {}, AnalysisState(share=told.share), needs, told.found)
    apart = {number: demand for number, demand in each.items() if demand}
    is_compared = 1 < len(apart) <= _MOST_APART
    return replace(_ask(store, {OWN: together} | (apart if is_compared else {})), of=told.found)


def stop_order(store: Store, planned: Planned) -> None:
    """End an order that is computed; one that is gathered still has nothing to end."""
    if planned.inputs:
        stop(store, planned)


def _ask(store: Store, demands: Mapping[str, Sequence[AnyNeeds]]) -> Planned:
    all_sources = sources(store)
    needs = {n.id: n for demand in demands.values() for n in demand}
    inputs = {
        "demands": {name: [needs_json(n) for n in demand] for name, demand in demands.items()},
        "lists": all_sources.lists,
        "sources": sources_json((), all_sources.stock, all_sources.terms),
        "terms": terms_json(_terms(all_sources)),
        "alone": list(with_parts(all_sources)),
    }
    _remember(all_sources)
    if all_sources.is_empty or not needs:
        return Planned(all_sources, inputs, AnalysisState(result={}), needs)
    return Planned(all_sources, inputs, worker.ask(store, PLAN, inputs), needs)


def _remember(sources: Sources) -> None:
    """Have the lists at hand for the analyses that name them by their hash."""
    with _lock:
        _lists[sources.lists] = sources.offers
        _lists.move_to_end(sources.lists)
        while len(_lists) > _REMEMBERED:
            _lists.popitem(last=False)


def _remembered(lists: str) -> Sequence[Offer]:
    with _lock:
        known = _lists.get(lists)
    if known is None:
        raise InputError("The price lists changed meanwhile.")
    return known


def _terms(sources: Sources) -> Terms:
    buying = sources.buying
    return Terms(buying.max_vendors, buying.spares, buying.spares_below, _SEARCH_S)


def stop(store: Store, planned: Planned) -> None:
    """End a plan that is computed."""
    worker.stop(store, PLAN, planned.inputs)


def again(store: Store, planned: Planned) -> None:
    """Begin a stopped plan again."""
    worker.again(store, PLAN, planned.inputs)
