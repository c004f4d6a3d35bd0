"""Analyses that cost more than a moment: computed once, in the background, and kept.

A result is kept under the hash of what it follows from, so that the same question never is computed
twice, in whatever case it is asked. A page asks, gets the result or how far it is, and asks again.
"""

from __future__ import annotations

import hashlib
import json
import logging
import threading
from collections import OrderedDict
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import suppress
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from hale_rail import clock
from hale_rail.errors import HaleRailError, StoreError
from hale_rail.formats.codec import from_text, to_text
from hale_rail.store import analyses
from hale_rail.store.database import Store

_LOG = logging.getLogger("hale_rail")
#: how long a page waits for a result before it shows progress, in seconds
PATIENCE_S = 0.05
_AT_ONCE = 2
_REMEMBERED = 64
STOPPED = "Stopped before it was done."
_FAILED = "This could not be computed; the program's log says why."

Progress = Callable[[float], None]


class Analysis(Struct, frozen=True):
    """A costly computation.

    `compute` takes the inputs and a function that it tells how far it is (0 to 1); the inputs are
    what JSON can say, and it reads nothing else. Its result is a record of `kind`, which a page
    gets as it is. `version` goes up when the same inputs come to give another result.
    """

    name: str
    version: int
    compute: Callable[[Any, Progress], Any]
    kind: Any = Any

    def key(self, inputs: object) -> str:
        """The hash of the analysis and its inputs; raises ValueError for what JSON cannot say."""
        given = [self.name, self.version, inputs]
        text = json.dumps(given, sort_keys=True, allow_nan=False, ensure_ascii=False)
        return hashlib.sha256(text.encode()).hexdigest()


class AnalysisState(Struct, frozen=True):
    """A result, or how far it is (`share`, 0 to 1), or why there is none; stopped by a person.

    `previous`: while it is computed, the last result about the same thing.
    """

    result: Any = None
    share: float = 0.0
    problem: str = ""
    is_stopped: bool = False
    previous: Any = None

    @property
    def shown(self) -> Any:
        """What a page shows: the result, or until it is there the last one."""
        return self.previous if self.result is None else self.result

    @property
    def is_waiting(self) -> bool:
        """True while it is being computed."""
        return self.result is None and not self.problem and not self.is_stopped


class _Stopped(Exception):  # noqa: N818  no error: a person wanted it so
    """An analysis ends early."""


class _Job:
    """An analysis under way."""

    def __init__(self) -> None:
        self.share = 0.0
        self.is_stopped = False
        self.future: Future[AnalysisState]

    def tell(self, share: float) -> None:
        """Note how far it is; it never goes back. Raises _Stopped once it is to end."""
        if self.is_stopped:
            raise _Stopped
        self.share = max(self.share, min(share, 1.0))


_pool = ThreadPoolExecutor(_AT_ONCE, thread_name_prefix="analysis")
_jobs: OrderedDict[tuple[str, str], _Job] = OrderedDict()
#: the last results by store, analysis, and what they are about
_last: OrderedDict[tuple[str, str, str], Any] = OrderedDict()
_lock = threading.Lock()


def ask(
    store: Store,
    analysis: Analysis,
    inputs: object,
    patience_s: float = PATIENCE_S,
    about: str = "",
) -> AnalysisState:
    """The result of an analysis, begun when it is first asked for; waits no longer than a moment,
    or not at all.

    `about` names what it is about, so that meanwhile the last result about that can be shown.
    Beside a trial nothing is computed, since it does not last. Raises ValueError for inputs that
    JSON cannot say.
    """
    state = _asked(store, analysis, inputs, patience_s)
    if not about:
        return state
    place = (store.token, analysis.name, about)
    with _lock:
        if state.result is not None:
            _last[place] = state.result
            _last.move_to_end(place)
            while len(_last) > _REMEMBERED:
                _last.popitem(last=False)
        return replace(state, previous=_last.get(place)) if state.is_waiting else state


def _asked(store: Store, analysis: Analysis, inputs: object, patience_s: float) -> AnalysisState:
    key = analysis.key(inputs)
    kept = analyses.get(store.read(), key)
    if kept is not None:
        with suppress(ValueError):  # it was kept as something else: it is computed again
            return AnalysisState(from_text(kept, analysis.kind), 1.0)
    if store.is_trial:
        return AnalysisState(problem=STOPPED, is_stopped=True)
    job = _job(store, analysis, key, inputs)
    if job.is_stopped:
        return AnalysisState(problem=STOPPED, is_stopped=True)
    try:
        return job.future.result(patience_s)
    except TimeoutError:
        return AnalysisState(share=job.share)


def stop(store: Store, analysis: Analysis, inputs: object) -> None:
    """End an analysis that is under way: at once for whoever asks, soon for the machine."""
    with _lock:
        known = _jobs.get((store.token, analysis.key(inputs)))
        if known and not known.future.done():
            known.is_stopped = True
            known.future.cancel()


def again(store: Store, analysis: Analysis, inputs: object) -> None:
    """Let an analysis that was stopped, or failed, start over when it is next asked for."""
    with _lock:
        _jobs.pop((store.token, analysis.key(inputs)), None)


def _job(store: Store, analysis: Analysis, key: str, inputs: object) -> _Job:
    """The job of a key, begun if it is not under way."""
    with _lock:
        known = _jobs.get((store.token, key))
        if known is None:
            known = _jobs[(store.token, key)] = _Job()
            known.future = _pool.submit(_compute, store, analysis, key, inputs, known.tell)
        done = [name for name, job in _jobs.items() if job.future.done()]
        for name in done[:-_REMEMBERED]:
            del _jobs[name]
    return known


def _compute(
    store: Store, analysis: Analysis, key: str, inputs: object, progress: Progress
) -> AnalysisState:
    """Compute outside any transaction, then keep the result; what fails is told, not raised."""
    try:
        result = analysis.compute(inputs, progress)
        text = to_text(result)
        with suppress(StoreError), store.jot() as connection:  # it is right though it is not kept
            analyses.put(connection, key, analysis.name, text, clock.now())
        return AnalysisState(from_text(text, analysis.kind), 1.0)
    except HaleRailError as error:
        return AnalysisState(problem=str(error))
    except _Stopped:
        return AnalysisState(problem=STOPPED, is_stopped=True)
    except Exception:  # noqa: BLE001  it is logged, and the page says so
        _LOG.exception("analysis %s failed", analysis.name)
        return AnalysisState(problem=_FAILED)
    finally:
        store.close()
