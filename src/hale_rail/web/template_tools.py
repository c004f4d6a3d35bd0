"""What templates may call: addresses, figures, drawings, and forms with what was typed."""

from __future__ import annotations

import importlib
import json
import pkgutil
import re
from collections.abc import Mapping, MutableMapping, Sequence
from contextlib import suppress
from datetime import datetime
from functools import cache, lru_cache
from pathlib import Path
from typing import Any

import platformdirs
from flask import Flask, current_app
from flask.templating import Environment as TemplateEnvironment
from jinja2 import FileSystemBytecodeCache, Template
from jinja2.bccache import Bucket
from markupsafe import Markup
from wtforms.fields.choices import SelectChoice

from hale_rail import __version__
from hale_rail.case.file import CaseFile
from hale_rail.case.words import counted, show_reading
from hale_rail.core.chances import chance_words, ruled_out
from hale_rail.core.parts.polarity import BoardMark
from hale_rail.core.quantities import Unit, joules, show, show_duration, show_exact
from hale_rail.core.rails.judge import Tolerance
from hale_rail.core.recap.demand import RecapPolicy
from hale_rail.core.safety.energy import ENERGIES, Energy
from hale_rail.errors import StoreError
from hale_rail.formats.units.pasted_parts import Take
from hale_rail.stages.frame.bench import BenchRow
from hale_rail.stages.frame.next_step import ListedStage, NextStep
from hale_rail.stages.stage import Stage
from hale_rail.store.kept_files import private_folder
from hale_rail.store.unit_types import UnitType
from hale_rail.web import addresses
from hale_rail.web.assets import STYLES, assets
from hale_rail.web.csrf import csrf_field
from hale_rail.web.form_base import DRAWN_FORMS, Form, FormState
from hale_rail.web.frame.markers import badge
from hale_rail.web.frame.stage_line import stage_line

_HTMX = json.dumps(
    {
        "includeIndicatorStyles": False,
        # a part that is swapped in answers at once: a fast hand's next press is not a plain one
        "defaultSettleDelay": 0,
        "allowEval": False,
        "historyCacheSize": 0,
        "refreshOnHistoryMiss": True,
        "responseHandling": [{"code": "204", "swap": False}, {"code": "...", "swap": True}],
    }
)
#: a form that is drawn has its token beside it, once a page
_DRAWN = {"csrf": False}
_DRAWN_ONCE = "hale_rail_drawn_once"


class _Compiled(FileSystemBytecodeCache):
    """Templates as they were compiled, in the user's own cache: what lies there is run.

    Jinja compares each with its source. One that cannot be written is compiled again next time.
    """

    def dump_bytecode(self, bucket: Bucket) -> None:
        """Write a template's code, where there is room."""
        with suppress(OSError):
            super().dump_bytecode(bucket)


def options() -> dict[str, Any]:
    """How templates are kept: all at hand (the usual cache of 400 looks its whole row through at
    each import), and compiled from one start to the next where the user has a cache to write to."""
    compiled, folder = None, platformdirs.user_cache_path("hale-rail", appauthor=False)
    if folder.is_absolute():  # where the user has no home it is not
        with suppress(OSError, StoreError):
            private_folder(folder / "templates")
            compiled = _Compiled(str(folder / "templates"), f"{__version__}-%s.cache")
    return {"cache_size": -1, "bytecode_cache": compiled}


class Environment(TemplateEnvironment):
    """Templates without globals of their own share one mapping, in which a name is found at once.

    A page imports macros some twenty times, each time comparing all names of both mappings; and
    asks for a template more than thirty times, which is at hand after the first.
    """

    def __init__(self, *given: Any, **options: Any) -> None:
        super().__init__(*given, **options)
        self._at_hand: dict[str | Template, Template] = {}

    def get_template(
        self,
        name: str | Template,
        parent: str | None = None,
        globals: MutableMapping[str, Any] | None = None,  # noqa: A002  Jinja's own name
    ) -> Template:
        """A template by its name; raises TemplateNotFound."""
        template = None if globals else self._at_hand.get(name)
        if template is None:
            template = super().get_template(name, parent, globals)
            if not (globals or self.auto_reload):
                self._at_hand[name] = template
        return template

    def make_globals(self, d: MutableMapping[str, Any] | None) -> MutableMapping[str, Any]:
        """The globals of a template: the environment's, under its own where it has any."""
        return super().make_globals(d) if d else self.globals


#: the space between a figure and its unit
_BEFORE_UNIT = re.compile(r"(?<=\d) (?=(?:[pnµmkM]?(?:V|A|F|Ω|W|J|Hz|s)|mm|min|h|%|°C)(?!\w))")


def install(app: Flask) -> None:
    """Give the templates their tools: those of every page, and what each feature gives its own."""
    app.jinja_env.trim_blocks = True
    app.jinja_env.lstrip_blocks = True
    app.add_template_filter(_clock, "clock")
    app.add_template_filter(_day, "day")
    app.add_template_filter(ruled_out)
    app.add_template_filter(unbroken)
    app.jinja_env.globals.update(
        to=addresses,
        chance_words=chance_words,
        show=show,
        joules=joules,
        show_duration=show_duration,
        show_exact=show_exact,
        show_reading=show_reading,
        counted=counted,
        Unit=Unit,
        mark=badge,
        moment=_moment,
        board_marks=tuple(BoardMark),
        tolerances=tuple(Tolerance),
        takes=tuple(Take),
        stage_line=stage_line,
        form_of=form_of,
        csrf_field=csrf_field,
        quantity=quantity,
        keys_dialog=keys_dialog,
        head_case=head_case,
        head_choices=head_choices,
        head_links=head_links,
        beside_list=beside_list,
        case_lines=case_lines,
        field_marks=field_marks,
        choose=choose_type,
        within=within,
        energies=ENERGIES,
        styles=STYLES,
        modules=assets().modules,
        htmx_config=_HTMX,
        version=__version__,
        **_of_features(),
    )


@cache
def _of_features() -> dict[str, Any]:
    """What features give their templates: every `draw_…` of a module `…_drawing`, and `TOOLS`.

    Raises RuntimeError where two features give different things one name.
    """
    tools: dict[str, Any] = {}
    for listed in pkgutil.walk_packages([str(Path(__file__).parent)], "hale_rail.web."):
        if not listed.ispkg and listed.name.count(".") > 2:
            module = vars(importlib.import_module(listed.name))
            own = dict(module.get("TOOLS", {}))
            if listed.name.endswith("_drawing"):
                own |= {name: module[name] for name in module if name.startswith("draw_")}
            if any(tools.get(name, tool) is not tool for name, tool in own.items()):
                raise RuntimeError(f"{listed.name} gives templates a name that is another's")
            tools |= own
    return tools


def quantity(value: float, symbol: str) -> str:
    """A number of the command line's JSON with its unit's symbol."""
    unit = next((unit for unit in Unit if unit.symbol == symbol), None)
    return show(value, unit, 2) if unit else f"{value:.2g} {symbol}"


def field_marks(described: str, given: Mapping[str, Any]) -> dict[str, Any]:
    """Attributes of a field's element: those given, and what says that it is wrong."""
    field_marks = {
        name.replace("_", "-") if name.startswith("hx_") else name: value
        for name, value in given.items()
    }
    if described:
        field_marks |= {"aria-invalid": "true", "aria-describedby": described}
    return field_marks


def choose_type(field: Any, unit_types: Sequence[UnitType]) -> str:
    """Give a select the types of unit that the workshop knows."""
    known = [SelectChoice(str(t.id), t.name) for t in unit_types]
    field.choices = [SelectChoice("", "no other unit"), *known]
    field.data = str(field.data or "")
    return ""


def within(seconds: float) -> str:
    """A wait inside a sentence: `at once`, `in 12 s`."""
    words = show_duration(seconds)
    return words if words == "at once" else f"in {words}"


def form_of(name: str, typed: FormState, **usual: Any) -> Form:
    """A form to be drawn: with what was typed and its problems, else with the usual values."""
    made = DRAWN_FORMS[name]
    if typed.form != name or not typed.values:
        return _named(name, made(formdata=None, meta=_DRAWN, **usual)) if usual else _blank(name)
    form = _named(name, made(meta=_DRAWN))
    for field in typed.problems:
        if field in form:
            form[field].errors = [typed.problem(name, field)]
    return form


@lru_cache
def _blank(name: str) -> Form:
    """An empty form, the same on every page."""
    return _named(name, DRAWN_FORMS[name](formdata=None, meta=_DRAWN))


def _named(name: str, form: Form) -> Form:
    """The form, its fields' ids its own where another of such fields stands on its page."""
    if form.has_own_ids:
        for field in form:
            field.id = f"{name}-{field.id}"
    return form


def keys_dialog() -> Markup:
    """The list of keys, which every page carries."""
    return _once("_keys.html")


def head_links() -> Markup:
    """What every page's head names: styles, scripts, icons."""
    return _once("_head.html")


@lru_cache(256)
def head_case(number: str, machine: str, symptom: str, state: Energy, charged: str = "") -> Markup:
    """What a case's header says of it, drawn again where that changed."""
    return _drawn(
        "frame/_head_case.html", number=number, machine=machine, symptom=symptom, state=state,
        charged=charged,
    )  # fmt: skip


@lru_cache(16)
def head_choices(chosen: str, held_to: str) -> Markup:
    """The choices of a case's header: its school and its tolerance by their codes."""
    return _drawn(
        "frame/_head_choices.html", schools=tuple(RecapPolicy), chosen=chosen, held_to=held_to
    )


def _drawn(name: str, **says: object) -> Markup:
    text = current_app.jinja_env.get_template(name).render(**says)
    return Markup(text)  # noqa: S704  a template's own markup


def _once(name: str) -> Markup:
    """What a template says that is the same on every page, drawn once."""
    drawn = current_app.extensions.setdefault(_DRAWN_ONCE, {})
    if name not in drawn:
        drawn[name] = _drawn(name)
    markup: Markup = drawn[name]
    return markup


def beside_list(
    case: CaseFile, stage: Stage, side: Sequence[ListedStage], step: NextStep
) -> Markup:
    """The side list and the next step, drawn again where one of them says something else."""

    def draw() -> Markup:
        return _drawn(
            "frame/_side_list.html", number=case.number, stage=stage, side=side, step=step
        )

    states = [listed.state for listed in side]
    says = (case.number, states, step.text, step.stage.key, step.point_key)
    return case.keep(("side list", stage.key), says, draw)


@lru_cache(16)
def case_lines(lines: tuple[BenchRow, ...]) -> Markup:
    """The cases' lines on the bench page."""
    return Markup("\n").join(map(_case_line, lines))


@lru_cache(1024)
def _case_line(shown: BenchRow) -> Markup:
    """A case's line on the bench page: drawn once for as long as it says the same."""
    return _drawn("frame/bench/_line.html", shown=shown)


def unbroken(text: str) -> str:
    """A sentence in which no line ends between a figure and its unit."""
    return type(text)(_BEFORE_UNIT.sub("\u00a0", text))


def _clock(at: str) -> str:
    """A stored moment as the bench reads it: local date and time."""
    return datetime.fromisoformat(at).astimezone().strftime("%Y-%m-%d %H:%M")


def _moment(at_s: float) -> str:
    """A moment in seconds since 1970 as the bench reads it; the seconds where no clock shows it."""
    try:
        return datetime.fromtimestamp(at_s).astimezone().strftime("%Y-%m-%d %H:%M")
    except (OverflowError, ValueError, OSError):
        return f"{at_s:.0f} s"


def _day(at: str) -> str:
    return datetime.fromisoformat(at).astimezone().strftime("%Y-%m-%d")
