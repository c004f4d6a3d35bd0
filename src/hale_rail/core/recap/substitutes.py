"""What may replace what: a table of rules by role, each answered with what it found and why.

Source: docs/formulas.md, “What may replace what”. A finding refuses or flags; a candidate without
one is allowed. Figures that a list does not give cannot be held against a demand: they are flagged.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable

from hale_rail.core.parts.families import Family, Grade
from hale_rail.core.quantities import Unit, show, show_exact
from hale_rail.core.recap.findings import OTHER_KIND, RuleFinding, flag, refuse
from hale_rail.core.recap.needs import Build, Mount, Needs, Role

#: shares below and above the marked value, by role
CAPACITANCE = {
    Role.BULK: (0.0, 0.5),
    Role.RAW_FILTER: (0.0, 0.5),
    Role.OUTPUT_FILTER: (0.0, 1.0),
    Role.START_UP: (0.2, 0.2),
    Role.TIMING: (0.2, 0.2),
    Role.COUPLING: (0.2, 0.2),
    Role.DECOUPLING: (0.0, 1.2),
    Role.SUPPRESSOR_X: (0.2, 0.2),
    Role.SUPPRESSOR_Y: (0.2, 0.2),
    Role.SNUBBER: (0.1, 0.1),
    Role.ACROSS_SWITCH: (0.2, 0.2),
}
_TOO_MUCH = {
    Role.BULK: "its inrush would be too high",
    Role.RAW_FILTER: "its inrush would be too high",
    Role.SUPPRESSOR_Y: "more leaks to earth",
}
#: classes that may replace a safety class
CLASSES = {
    "X2": ("X2", "X1", "Y2", "Y1"),
    "X1": ("X1", "Y1"),
    "Y2": ("Y2", "Y1"),
    "Y1": ("Y1",),
}
#: roles in which an aluminium part is rated for this much
_HOT_ROLES = (Role.BULK, Role.RAW_FILTER, Role.START_UP, Role.DECOUPLING)
HOT_C = 105.0
#: ESR against the old part's when it was new
ESR_LOW, ESR_HIGH = 0.3, 1.2
#: times the marked volts above which an aluminium part is flagged
VOLT_MUCH = 3.0
#: times its rail's volts that a tantalum part is rated at
TANTALUM_RAIL = 2.0
RADIAL_MM, AXIAL_MM = 2.5, 2.0
_BOXED = (Role.SUPPRESSOR_X, Role.ACROSS_SWITCH)
#: leads of 5 mm and of 5.08 mm go through the same holes
_SAME_PITCH_MM, _SAME_PITCH_SHARE = 0.1, 0.02
_SAME = 1e-6
#: how far off a part is that mounts otherwise
_OTHER_MOUNT = 5.0
SUPPRESSORS = (Role.SUPPRESSOR_X, Role.SUPPRESSOR_Y, Role.ACROSS_SWITCH)


Rule = Callable[[Needs, Build], Iterable[RuleFinding]]


def _family(needs: Needs, build: Build) -> Iterable[RuleFinding]:
    if needs.role in SUPPRESSORS:
        if build.family is Family.SUPPRESSION_PAPER:
            text = "paper takes in moisture with the years"
            by_hand = f"{text}: only by hand"
            yield flag("paper", text) if needs.sku else refuse("paper", by_hand, OTHER_KIND)
        return
    name = build.family.label
    if build.family is not needs.family:
        if (needs.family, build.family) not in _OTHER_FAMILIES.get(needs.role, ()):
            yield refuse("family", _family_words(needs, build.family), OTHER_KIND)
        elif build.family is Family.POLYMER:
            yield flag("polymer", "polymer: its far lower ESR may upset an old loop")
        elif not (build.family is Family.ALUMINIUM and needs.prefers_aluminium):
            marks = "its mark differs from the old part's: never reverse it"
            yield flag("family", f"{name} in place of {needs.family.label}; {marks}")
    if needs.role is Role.SNUBBER and build.family not in (Family.FILM, Family.CERAMIC):
        yield refuse("family", "a snubber is film or ceramic", OTHER_KIND)
    if needs.role in (Role.TIMING, Role.COUPLING) and build.family.is_wet:
        yield flag("leakage", "low leakage is wanted: look it up")


_AL, _TA, _PO = Family.ALUMINIUM, Family.TANTALUM, Family.POLYMER
#: (old, new) families that may change, by role; in all other cases the family stays
_OTHER_FAMILIES = {
    Role.OUTPUT_FILTER: ((_AL, _PO), (_TA, _AL), (_TA, _PO)),
    Role.DECOUPLING: ((_TA, _AL), (_AL, _TA)),
}


def _family_words(needs: Needs, new: Family) -> str:
    name = new.label
    if needs.family is Family.ALUMINIUM_BIPOLAR:
        return f"{name}: only a bipolar part stands in for a bipolar one"
    if new.is_suppressor:
        return f"a {name} is for the mains, not for a {needs.role.words}"
    return f"{name}, not {needs.family.label}"


def _safety_class(needs: Needs, build: Build) -> Iterable[RuleFinding]:
    if needs.role not in SUPPRESSORS:
        return
    is_across = needs.role is not Role.SUPPRESSOR_Y
    kind = "X2" if is_across else "Y2"
    is_known = is_across or needs.safety_class.startswith("Y")
    wanted = (needs.safety_class if is_known else "") or kind
    if not build.classes:
        text = f"no approved class: only an approved {wanted} part goes there"
        yield refuse("class", text, OTHER_KIND)
    elif not build.classes.intersection(CLASSES[wanted]):
        text = f"class {build.safety_class} does not stand in for {wanted}"
        yield refuse("class", text, OTHER_KIND)
    elif not needs.safety_class:
        yield flag("class", f"the old part's class is not known: {kind} is taken")


def _capacitance(needs: Needs, build: Build) -> Iterable[RuleFinding]:
    low, high = CAPACITANCE[needs.role]
    share = build.farad / needs.farad - 1
    if -low - _SAME <= share <= high + _SAME:
        return
    limit = f"−{low:.0%} to +{high:.0%}".replace("−0%", "0").replace("%", "\u00a0%")
    if share < 0:
        text = f"{_percent(-share)} too small: {show_exact(build.farad, Unit.FARAD)}"
        yield refuse("capacitance", f"{text} ({limit} allowed)", -share - low)
        return
    why = _TOO_MUCH.get(needs.role)
    text = f"{_percent(share)} larger: {show_exact(build.farad, Unit.FARAD)} ({limit} allowed"
    yield refuse("capacitance", f"{text}{'; ' + why if why else ''})", share - high)


def _percent(share: float) -> str:
    return f"{100 * share:.3g}\u00a0%" if share < 10 else "far"


def _voltage(needs: Needs, build: Build) -> Iterable[RuleFinding]:
    if build.volt is None and needs.role in SUPPRESSORS:
        yield refuse("voltage", "its list gives no AC volts", OTHER_KIND)
        return
    if build.volt is None:
        yield flag("voltage", "its rated volts are not given")
        return
    if needs.volt is None:
        yield from _unmarked_voltage(needs, build.volt)
    elif build.volt < needs.volt * (1 - _SAME):
        text = f"{build.volt:g}\u00a0V, {needs.volt:g}\u00a0V is marked"
        yield refuse("voltage", text, 1 - build.volt / needs.volt)
    elif build.family.is_wet and build.volt > VOLT_MUCH * needs.volt * (1 + _SAME):
        text = f"{build.volt:g}\u00a0V, above three times the marked {needs.volt:g}\u00a0V"
        yield flag("voltage-high", text)
    if build.family is Family.TANTALUM:
        yield from _tantalum_voltage(needs, build.volt)


def _unmarked_voltage(needs: Needs, volt: float) -> Iterable[RuleFinding]:
    if needs.rail_v and volt <= abs(needs.rail_v):
        text = f"{volt:g}\u00a0V on a rail of {abs(needs.rail_v):g}\u00a0V"
        yield refuse("voltage", text, 1)
    else:
        yield flag("voltage", "the old part's rated volts are not known: read them off it")


def _tantalum_voltage(needs: Needs, volt: float) -> Iterable[RuleFinding]:
    if not needs.rail_v:
        yield flag("rail", "tantalum: its rail's volts are not known, twice them is wanted")
        return
    wanted = TANTALUM_RAIL * abs(needs.rail_v)
    if volt < wanted * (1 - _SAME):
        rail = f"{abs(needs.rail_v):g}\u00a0V"
        text = (
            f"tantalum of {volt:g}\u00a0V on {rail}: twice the rail, {wanted:g}\u00a0V, is wanted"
        )
        yield refuse("rail", text, 1 - volt / wanted)


def _temperature(needs: Needs, build: Build) -> Iterable[RuleFinding]:
    wanted = needs.temp_c or 0.0
    if needs.role in _HOT_ROLES and build.family.is_wet:
        wanted = max(wanted, HOT_C)
    if not wanted:
        return
    if build.temp_c is None:
        yield flag("temperature", f"its temperature is not given: {wanted:g}\u00a0°C is wanted")
    elif build.temp_c < wanted:
        text = f"{build.temp_c:g}\u00a0°C, {wanted:g}\u00a0°C is wanted"
        yield refuse("temperature", text, 1 - build.temp_c / wanted)


def _esr(needs: Needs, build: Build) -> Iterable[RuleFinding]:
    highest = needs.esr_max_ohm
    typical = needs.typical_esr
    is_low = needs.role is Role.OUTPUT_FILTER or needs.grade is Grade.LOW
    if is_low and typical:
        highest = min(highest or ESR_HIGH * typical.ohm, ESR_HIGH * typical.ohm)
    if highest is None:
        return
    if build.esr_ohm is None:
        if build.family is not Family.POLYMER:
            text = f"its ESR is not given: at most {show(highest, Unit.OHM, 2)} is wanted"
            yield flag("esr", text)
    elif build.esr_ohm > highest * (1 + _SAME):
        text = f"ESR {show(build.esr_ohm, Unit.OHM, 2)}, at most {show(highest, Unit.OHM, 2)}"
        yield refuse("esr", text, build.esr_ohm / highest - 1)
    elif _is_too_low(needs, build):
        text = f"ESR {show(build.esr_ohm, Unit.OHM, 2)}, far below the old part's"
        yield flag("esr-low", f"{text}: it may upset an old loop")


def _is_too_low(needs: Needs, build: Build) -> bool:
    typical = needs.typical_esr
    if needs.role is not Role.OUTPUT_FILTER or typical is None or build.esr_ohm is None:
        return False
    is_named = build.family is Family.POLYMER and needs.family is not Family.POLYMER
    return not is_named and build.esr_ohm < ESR_LOW * typical.ohm * (1 - _SAME)


def _ripple(needs: Needs, build: Build) -> Iterable[RuleFinding]:
    if not needs.ripple_a:
        return
    wanted = show(needs.ripple_a, Unit.AMPERE)
    if build.ripple_a is None:
        yield flag("ripple", f"its ripple current is not given: {wanted} is wanted")
    elif build.ripple_a < needs.ripple_a * (1 - _SAME):
        text = f"ripple current {show(build.ripple_a, Unit.AMPERE)}, {wanted} is wanted"
        yield refuse("ripple", text, 1 - build.ripple_a / needs.ripple_a)


def _mount(needs: Needs, build: Build) -> Iterable[RuleFinding]:
    if needs.mount is None:
        return
    if build.mount is None:
        yield flag("mount", f"how it mounts is not given: {needs.mount.words} is wanted")
    elif build.mount is not needs.mount:
        yield refuse("mount", f"{build.mount.words}, not {needs.mount.words}", _OTHER_MOUNT)


def _pitch(needs: Needs, build: Build) -> Iterable[RuleFinding]:
    mount = needs.mount or build.mount
    if needs.pitch_mm is None or build.mount not in (None, mount):
        return
    if mount is Mount.AXIAL:
        yield from _axial_length(needs.pitch_mm, build)
    elif build.pitch_mm is None:
        yield flag("pitch", f"its pitch is not given: {_mm(needs.pitch_mm)} is wanted")
    elif not _is_same_pitch(needs.pitch_mm, build.pitch_mm):
        yield _other_pitch(needs, mount, build.pitch_mm)


def _other_pitch(needs: Needs, mount: Mount | None, pitch_mm: float) -> RuleFinding:
    wanted = needs.pitch_mm or 0.0
    off = abs(pitch_mm - wanted)
    text = f"pitch {_mm(pitch_mm)}, the holes are at {_mm(wanted)}"
    bends = mount in (Mount.RADIAL, None) and needs.role not in _BOXED
    if bends and off <= RADIAL_MM + _SAME_PITCH_MM:
        return flag("pitch", f"{text}: the leads are bent")
    return refuse("pitch", text, off / max(wanted, 1.0))


def _is_same_pitch(one: float, other: float) -> bool:
    return abs(one - other) <= max(_SAME_PITCH_MM, _SAME_PITCH_SHARE * max(one, other))


def _axial_length(pitch_mm: float, build: Build) -> Iterable[RuleFinding]:
    longest = pitch_mm - AXIAL_MM
    if build.height_mm is None:
        yield flag("length", f"its body's length is not given: at most {_mm(longest)}")
    elif build.height_mm > longest + _SAME:
        off = build.height_mm - longest
        text = f"{_mm(off)} too long: a body of {_mm(build.height_mm)} between holes at "
        yield refuse("length", f"{text}{_mm(pitch_mm)}", off / max(longest, 1.0))


def _size(needs: Needs, build: Build) -> Iterable[RuleFinding]:
    pairs = (
        ("diameter", needs.max_diameter_mm, build.diameter_mm, "wide"),
        ("height", needs.max_height_mm, build.height_mm, "tall"),
    )
    for name, most, is_mm, word in pairs:
        if most is None:
            continue
        if is_mm is None:
            yield flag(name, f"its {name} is not given: at most {_mm(most)}")
        elif is_mm > most + _SAME:
            over = is_mm - most
            yield refuse(name, f"{_mm(over)} too {word}", over / max(most, 1.0))


def _mm(length: float) -> str:
    return f"{round(length, 2):g}\u00a0mm"


def _assumed(needs: Needs, build: Build) -> Iterable[RuleFinding]:
    is_plain = build.family in (Family.FILM, Family.CERAMIC) and not build.classes
    if needs.is_role_assumed and needs.is_primary and is_plain:
        text = f"an ordinary {build.family.label} part on the mains side: say what it does there"
        yield refuse("role", text, OTHER_KIND)
    elif needs.is_role_assumed:
        yield flag("role", f"its role is not known: judged as {needs.role.words}")


#: every rule, in the order in which its words are told
RULES: tuple[Rule, ...] = (
    _safety_class,
    _family,
    _capacitance,
    _voltage,
    _mount,
    _size,
    _pitch,
    _temperature,
    _esr,
    _ripple,
    _assumed,
)
