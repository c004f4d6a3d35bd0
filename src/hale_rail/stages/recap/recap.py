"""Recap: what each school replaces, what it costs, and which part stands where."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from decimal import Decimal

from msgspec import Struct

from hale_rail.case.file import CaseFile
from hale_rail.case.recap.demands import named, needs_id, prefers_aluminium
from hale_rail.case.recap.plans import EMPTY_PLAN, BuyingCost, Planned, case_plan
from hale_rail.case.recap.recap import (
    count_replaced,
    has_unread,
    kept,
    others,
    recap_lines,
    settled,
    to_replace,
)
from hale_rail.core.quantities import Unit, show_exact
from hale_rail.core.recap.demand import SCHOOLS, Position, RecapLine, RecapPolicy
from hale_rail.core.recap.orders import BuyingPlan, OrderLine, proof_words
from hale_rail.core.recap.other_parts import Other, OtherLine
from hale_rail.core.recap.rated_parts import AnyBuild, RatedBuild, rated_words
from hale_rail.formats.tables.money import show_price
from hale_rail.stages.stage import PageQuery, Stage, StageState, StageStep, Status, Urgency
from hale_rail.store.rework import REWORK_STEPS

#: what each school is about, for its heading
SCHOOL_WORDS = {
    RecapPolicy.PROVEN: "what was found bad",
    RecapPolicy.OFFENDERS: "and old suppressors, stressed tantalums",
    RecapPolicy.BLANKET: "every wet, tantalum and paper part",
}


class SchoolCount(Struct, frozen=True):
    """A school with how many parts it replaces, and what they cost ("" while not known)."""

    school: RecapPolicy
    words: str
    count: int
    is_own: bool
    total: str
    open_count: int


class ChosenPart(Struct, frozen=True):
    """One part for some positions of a line: what it is, from where, at what price, what to mind.

    `sku` "" for positions without a part; then `problem` says why.
    """

    sku: str
    words: str
    where: str
    price: str
    flags: tuple[str, ...]
    problem: str
    positions: tuple[Position | Other, ...]


class PlanLine(Struct, frozen=True):
    """A value of the list with the parts that are to be fitted there."""

    line: RecapLine
    choices: tuple[ChosenPart, ...]


class OtherPlan(Struct, frozen=True):
    """Other parts of one kind and rating, with those that are to be fitted there."""

    line: OtherLine
    choices: tuple[ChosenPart, ...]


class BuyingAlternative(Struct, frozen=True):
    """Another way to buy the same: its name, its total, what stays open, its bar's share."""

    name: str
    total: str
    open_count: int
    share: float


class RecapPage(Struct, frozen=True):
    """The list of the school that is looked at, with its plan; the others' counts; what is kept.

    `others`: what is replaced besides capacitors, the same under every school; `gap_words` how
    sure the order is the cheapest.
    """

    school: RecapPolicy
    schools: tuple[SchoolCount, ...]
    lines: tuple[PlanLine, ...]
    others: tuple[OtherPlan, ...]
    kept: tuple[Position, ...]
    planned: Planned
    total: str
    goods: str
    shipping: tuple[tuple[str, str], ...]
    gap_words: str
    of_words: str
    ways: tuple[BuyingAlternative, ...]
    named: Mapping[int, str]
    prefers_aluminium: bool

    @property
    def is_planned(self) -> bool:
        """True once the plan is computed."""
        return bool(self.total)


def state(case: CaseFile) -> StageState:
    """Open while something is to be replaced, or a capacitor was never read."""
    todo, done = to_replace(case), settled(case)
    if todo:
        return StageState(Status.OPEN, f"{todo} to replace, {done} done")
    return StageState(Status.OPEN if has_unread(case) else Status.DONE, f"{done} replaced")


def page(case: CaseFile, query: PageQuery) -> RecapPage:
    """The list by the school asked for, else the case's own."""
    school = SCHOOLS.get(query.by, case.school)
    planned = case_plan(case)
    known = planned.shown_plan(school.code)
    plan = known or EMPTY_PLAN
    currency = planned.sources.buying.currency
    return RecapPage(
        school,
        tuple(_school(case, s, planned) for s in RecapPolicy),
        tuple(_line(case, line, plan, currency) for line in recap_lines(case, school)),
        tuple(OtherPlan(o, _choices(case, o.others, plan, currency)) for o in others(case)),
        tuple(kept(case)),
        planned,
        money(known.total if known else None, currency),
        money(known.goods if known else None, currency),
        tuple((name, money(cost, currency)) for name, cost in plan.shipping.items()),
        gap_words(known),
        of_words(planned, known),
        ways(planned, currency) if school is case.school else (),
        {o.part.id: named(case, o.part) for line in others(case) for o in line.others},
        prefers_aluminium(case),
    )  # fmt: skip


def _school(case: CaseFile, school: RecapPolicy, planned: Planned) -> SchoolCount:
    plan = planned.shown_plan(school.code)
    return SchoolCount(
        school,
        SCHOOL_WORDS[school],
        count_replaced(case, school),
        school is case.school,
        money(plan.total if plan else None, planned.sources.buying.currency),
        len(plan.unmet) if plan else 0,
    )


def _line(case: CaseFile, line: RecapLine, plan: BuyingPlan, currency: str) -> PlanLine:
    return PlanLine(line, _choices(case, line.positions, plan, currency))


def _choices(
    case: CaseFile, of: Sequence[Position | Other], plan: BuyingPlan, currency: str
) -> tuple[ChosenPart, ...]:
    """A line's positions by the part that each gets, in order."""
    groups: dict[tuple[str, str], list[Position | Other]] = {}
    unmet_by_position = plan.open_positions
    for position in of:
        key = needs_id(case, position.part)
        chosen, unmet = plan.chosen.get(key), unmet_by_position.get(key)
        names = chosen.sku if chosen else "", unmet.reason if unmet else ""
        groups.setdefault(names, []).append(position)
    return tuple(
        _choice(case, plan, currency, sku, problem, members)
        for (sku, problem), members in groups.items()
    )


def _choice(
    case: CaseFile,
    plan: BuyingPlan,
    currency: str,
    sku: str,
    problem: str,
    members: Sequence[Position | Other],
) -> ChosenPart:
    ids = [needs_id(case, position.part) for position in members]
    chosen = next((c for i in ids if (c := plan.chosen.get(i))), None)
    bought = [line for line in plan.order if set(ids) & set(line.covers)]
    drawn = [line for line in plan.from_stock if set(ids) & set(line.covers)]
    where = [*(from_whom(line) for line in bought), *("stock" for _ in drawn[:1])]
    flags = dict.fromkeys(text for i in ids for text in plan.flags_by_position.get(i, ()))
    price = money(bought[0].unit_price, currency) if bought else ""
    price = f"{price} a kit" if bought and bought[0].contents else price
    words = build_words(chosen.build) if chosen else ""
    return ChosenPart(sku, words, ", ".join(where), price, tuple(flags), problem, tuple(members))


def from_whom(line: OrderLine) -> str:
    """The vendor, and the kit where the part comes in one."""
    kit = f", kit {line.offer.sku}" if line.contents else ""
    return f"{line.offer.vendor}{kit}"


def build_words(build: AnyBuild) -> str:
    """A part in a line: value, volts, class, family, size; another by its kind and ratings."""
    if isinstance(build, RatedBuild):
        return rated_words(build.ware, build.ratings)
    size = ""
    if build.diameter_mm and build.height_mm:
        size = f"{build.diameter_mm:g}\u00a0×\u00a0{build.height_mm:g}\u00a0mm"
    words = (
        show_exact(build.farad, Unit.FARAD),
        f"{build.volt:g}\u00a0V" if build.volt else "",
        build.safety_class,
        build.family.label,
        f"{build.temp_c:g}\u00a0°C" if build.temp_c else "",
        size,
    )
    return " ".join(word for word in words if word)


def money(price: Decimal | None, currency: str) -> str:
    """A price of a plan in words, "" where there is none."""
    return "" if price is None else show_price(price, currency)


def gap_words(plan: BuyingPlan | None) -> str:
    """How sure it is that no order is cheaper."""
    return proof_words(plan.gap, plan.is_cut) if plan else ""


def of_words(planned: Planned, plan: BuyingPlan | None) -> str:
    """What the figures follow from: each used vendor's price day, spares, vendors allowed."""
    if plan is None:
        return ""
    sources, buying = planned.sources, planned.sources.buying
    used = [row for row in sources.vendors if row.name in plan.shipping]
    words = [f"{row.name}'s prices of {row.priced_at[:10]}" for row in used]
    words += ["what is in the drawers now"] if sources.stock else []
    words.append(f"{float(100 * buying.spares):g}\u00a0% spares below {buying.spares_below}")
    if buying.max_vendors is not None:
        words.append(f"at most {buying.max_vendors} vendors")
    return "By " + ", ".join(words) + "."


def ways(planned: Planned, currency: str) -> tuple[BuyingAlternative, ...]:
    """The first demand from each vendor alone and line by line, with bars to one scale."""
    result = planned.shown
    if result is None or result.by_line is None:
        return ()
    first = next(iter(result.plans.values()))
    ways = [("this order", BuyingCost(first.total, len(first.unmet)))]
    ways += [(f"only {name}", cost) for name, cost in result.alone.items()]
    ways.append(("line by line", result.by_line))
    most = max(cost.total for _, cost in ways) or Decimal(1)
    return tuple(
        BuyingAlternative(
            name, money(cost.total, currency), cost.open_count, float(cost.total / most)
        )
        for name, cost in ways
    )


def next_step(case: CaseFile) -> StageStep | None:
    """What is still to be replaced."""
    todo = to_replace(case)
    text = f"Recap: {todo} to replace, {settled(case)} done"
    is_begun = any(step.part_id is not None for step in case.rows.active(REWORK_STEPS))
    return StageStep(text, Urgency.REPAIR, stage_key="rework" if is_begun else "") if todo else None


STAGE = Stage(key="recap", name="Recap", state=state, page=page, next_step=next_step)
