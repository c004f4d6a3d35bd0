"""The blueprint of a stage: its page's address, and what its forms post."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from typing import TypeVar

from flask import Blueprint
from flask.typing import ResponseReturnValue
from msgspec import Struct

from hale_rail.stages.stage import Stage
from hale_rail.web.form_base import Form
from hale_rail.web.frame.case_page import (
    page_query,
    posted_stage,
    redirect_to_stage,
    rerender_on_error,
    rerender_stage,
    show_stage,
)

F = TypeVar("F", bound=Form)


class Onward(Struct, frozen=True):
    """Where a form leads once it is taken: to a point, with the reading just saved, and so on; of
    another stage than its own where one is named."""

    at: str = ""
    saved: int | None = None
    by: str = ""
    stage: Stage | None = None


FormHandler = Callable[[str, F], Onward | ResponseReturnValue | None]


class StageBlueprint(Blueprint):
    """The routes of a stage, or of a part of every stage's page."""

    def __init__(self, name: str, stage: Stage | None = None) -> None:
        super().__init__(name, __name__, url_prefix="/cases/<number>")
        self.stage = stage

    def form(self, name: str, form: type[F]) -> Callable[[FormHandler[F]], FormHandler[F]]:
        """Mark what handles a form posted under a name: it gets the case's number and the form.

        Where it or the form refuses, the page is shown again with what was typed. After it the
        stage is shown as its `Onward` says; without a stage of its own, the one it was posted from.
        """

        def mark(handler: FormHandler[F]) -> FormHandler[F]:
            @rerender_on_error(rerender_stage)
            @wraps(handler)
            def route(number: str) -> ResponseReturnValue:
                onward = handler(number, form.parsed())
                if not isinstance(onward, Onward | None):
                    return onward
                to = onward or Onward()
                stage = to.stage or self.stage or posted_stage()
                return redirect_to_stage(number, stage, to.at, to.saved, to.by)

            self.post(f"/do/{name}", endpoint=name)(route)
            return handler

        return mark


def stage_blueprint(stage: Stage) -> StageBlueprint:
    """A blueprint with the stage's page."""
    blueprint = StageBlueprint(stage.key.replace("-", "_"), stage)

    @blueprint.get(f"/{stage.key}")
    def page(number: str) -> ResponseReturnValue:
        return show_stage(number, stage, page_query())

    return blueprint
