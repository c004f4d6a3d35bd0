"""Plans of what to buy, for a case or for all open cases: computed beside the page and kept."""

from __future__ import annotations

import hashlib
import threading
import time
from collections import OrderedDict
from collections.abc import Mapping, Sequence
from decimal import Decimal
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
from hale_rail.core.recap.orders import BuyingPlan
from hale_rail.core.recap.rated_parts import AnyNeeds
from hale_rail.errors import InputError
from hale_rail.formats.codec import plain, record_of
from hale_rail.store.database import Store

#: how long one order is searched for beside a page, in seconds
_SEARCH_S = 10.0
#: how often a plan that is waited for is asked about, in seconds
_STEP_S = 0.02
#: how long a page gathers what cases want before it shows how far it is, in seconds
_GATHER_S = 0.4
#: with more cases than this, none is planned alone beside the order over all
_MOST_APART = 30
#: the name of the demand that is compared with other ways to buy it
OWN = "own"
#: lists and drawers by their hash, so that an analysis need not carry a long list about
_sources: OrderedDict[str, Sources] = OrderedDict()
_lock = threading.Lock()
_REMEMBERED = 4
#: the plan of which nothing is known yet
EMPTY_PLAN = BuyingPlan((), (), {}, (), (), {}, None)


class BuyingCost(Struct, frozen=True):
    """What a way of buying costs, and how many positions it leaves open."""

    total: Decimal
    open_count: int


class OrderPlans(Struct, frozen=True):
    """The plan of each demand by its name; of the first, what it costs from each vendor `alone`
    and bought line by line."""

    plans: Mapping[str, BuyingPlan] = {}
    alone: Mapping[str, BuyingCost] = {}
    by_line: BuyingCost | None = None


class PlanInputs(Struct, frozen=True):
    """What plans follow from: demands by name, the hash of lists and drawers, what is asked of an
    order, and the vendors of whom each alone is tried."""

    demands: Mapping[str, tuple[AnyNeeds, ...]]
    sources: str
    terms: Terms
    alone: tuple[str, ...]


def compute(inputs: Any, progress: Progress) -> OrderPlans:
    """The plan of each demand; of the first, what it costs elsewhere."""
    from hale_rail.core.recap.buying import by_line, from_alone, plan
    from hale_rail.core.recap.market import market

    wanted = record_of(inputs, PlanInputs)
    known = _remembered(wanted.sources)
    at, terms = market(known.offers, known.stock, known.terms), wanted.terms
    steps = len(wanted.demands) + len(wanted.alone) + 1
    plans: dict[str, BuyingPlan] = {}
    by_demand: dict[tuple[AnyNeeds, ...], BuyingPlan] = {}
    for done, (name, demand) in enumerate(wanted.demands.items()):
        progress(done / steps)
        if demand not in by_demand:
            by_demand[demand] = plan(demand, at, terms)
        plans[name] = by_demand[demand]
    first = next(iter(wanted.demands.values()))
    alone = {}
    for done, name in enumerate(wanted.alone, len(wanted.demands)):
        progress(done / steps)
        alone[name] = _cost(plan(first, from_alone(at, name), terms))
    return OrderPlans(plans, alone, _cost(by_line(first, at, terms)))


def _cost(plan: BuyingPlan) -> BuyingCost:
    return BuyingCost(plan.total, len(plan.unmet))


PLAN = Analysis("plan", 4, compute, OrderPlans)


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
    def result(self) -> OrderPlans | None:
        """The result, None while it is computed."""
        result: OrderPlans | None = self.outcome.result
        return result

    @property
    def shown(self) -> OrderPlans | None:
        """What a page shows: the result, or until it is there the last one."""
        shown: OrderPlans | None = self.outcome.shown
        return shown

    def plan(self, name: str) -> BuyingPlan | None:
        """One demand's plan, None while it is computed."""
        return self.result.plans.get(name) if self.result else None

    def shown_plan(self, name: str) -> BuyingPlan | None:
        """One demand's plan as a page shows it; None where none was ever computed."""
        return self.shown.plans.get(name) if self.shown else None


def case_plan(case: CaseFile) -> Planned:
    """What each school would buy for a case, its own compared with other ways."""
    own = case.school
    schools = [own, *(school for school in RecapPolicy if school is not own)]
    wanted = {school.code: to_buy(case, school) for school in schools}
    return _ask(case.store, wanted, case.case.uuid)


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
    each = {demand.number: list(demand.needs) for demand in told.demands}
    together = [needs for demand in each.values() for needs in demand]
    if told.share < 1:
        needs = {n.id: n for n in together}
        return Planned(sources(store), {}, AnalysisState(share=told.share), needs, told.demands)
    apart = {number: demand for number, demand in each.items() if demand}
    is_compared = 1 < len(apart) <= _MOST_APART
    demands = {OWN: together} | (apart if is_compared else {})
    return replace(_ask(store, demands, f"order {' '.join(numbers)}"), of=told.demands)


def stop_order(store: Store, planned: Planned) -> None:
    """End an order that is computed; one that is gathered still has nothing to end."""
    if planned.inputs:
        stop(store, planned)


def _ask(store: Store, demands: Mapping[str, Sequence[AnyNeeds]], about: str) -> Planned:
    all_sources = sources(store)
    needs = {n.id: n for demand in demands.values() for n in demand}
    wanted = PlanInputs(
        {name: tuple(demand) for name, demand in demands.items()},
        _remember(all_sources),
        _terms(all_sources),
        tuple(with_parts(all_sources)),
    )
    if all_sources.is_empty or not needs:
        return Planned(all_sources, plain(wanted), AnalysisState(result=OrderPlans()), needs)
    inputs = plain(wanted)
    return Planned(all_sources, inputs, worker.ask(store, PLAN, inputs, about=about), needs)


def _remember(sources: Sources) -> str:
    """Have lists and drawers at hand for the analyses that name them by their hash, the answer."""
    told = f"{sources.lists}{sources.stock}{sources.terms}"
    key = hashlib.sha256(told.encode()).hexdigest()
    with _lock:
        _sources[key] = sources
        _sources.move_to_end(key)
        while len(_sources) > _REMEMBERED:
            _sources.popitem(last=False)
    return key


def _remembered(key: str) -> Sources:
    with _lock:
        known = _sources.get(key)
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
