"""Every main page, and what grows with a case's length; then eight benches at once, over sockets.

Run by `make bench`. Pages are ratios against a bare Flask template route in the same rounds, the
long case's against the short one's, eight clients' time a request against one client's.
"""

from __future__ import annotations

import http.client
import statistics
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path

from waitress.server import create_server

from hale_rail.stages import BESIDE, STAGES
from hale_rail.store.database import Store
from hale_rail.web import create_app
from pages import Person, bare, open_case_of

ROUNDS, FEW, MANY = 25, 150, 2000
BENCHES, EACH = 8, 40
#: a page of a case of 2 000 readings, against the bare route; how it grows from one of 150
PAGE_LIMIT, GROWTH_EXPONENT = 60.0, 0.25
GROWTH_LIMIT = POST_LIMIT = (MANY / FEW) ** GROWTH_EXPONENT
NEWS_LIMIT = 3.0
#: time a request with eight at work against one alone, two machine cores at most
CLIENTS_LIMIT = 10.0
BESIDE_CASES = ("/", "/workshop", "/order", "/parts", "/ledger", "/practice", "/cases/new")


def median_ms(action: Callable[[], object], rounds: int = ROUNDS) -> float:
    """The median time of an action."""
    action()
    times = []
    for _ in range(rounds):
        start = time.perf_counter()
        action()
        times.append(time.perf_counter() - start)
    return statistics.median(times) * 1e3


def told(name: str, value: float, limit: float, against: str) -> bool:
    """Print a ratio beside its limit."""
    mark = "ok  " if value <= limit else "OVER"
    print(f"{mark} {value:6.1f} of {limit:g} × {against}: {name}")
    return value <= limit


def pages(store: Store) -> bool:
    """Every page of both cases, and what else there is."""
    points = {number: open_case_of(store, number, count)
              for number, count in (("G-1", FEW), ("G-2", MANY))}  # fmt: skip
    app = create_app(store)
    app.config["WTF_CSRF_ENABLED"] = False
    client, reference = app.test_client(), bare().test_client()
    bare_ms = median_ms(lambda: reference.get("/"), 4 * ROUNDS)
    keys = ["" if stage.key == "cold" else f"/{stage.key}" for stage in (*STAGES, *BESIDE)]
    within = True
    for key in (*keys, "/report"):
        few, many = (median_ms(partial(client.get, f"/cases/{n}{key}")) for n in points)
        within &= told(f"{key or '/cold'}, {MANY} readings", many / bare_ms, PAGE_LIMIT, "bare")
        within &= told(f"{key or '/cold'}", many / few, GROWTH_LIMIT, f"{FEW} readings")
    for path in BESIDE_CASES:
        within &= told(path, median_ms(partial(client.get, path)) / bare_ms, PAGE_LIMIT, "bare")
    news = median_ms(lambda: client.get("/cases/G-2/news?after=0"))
    newest = client.get("/cases/G-2/news?after=0").get_json()["newest"]
    quiet = median_ms(lambda: client.get(f"/cases/G-2/news?after={newest}"))
    print(f"     what a bench asks every 2 s: {quiet:.2f} ms, with news {news:.2f} ms")
    within &= told("asking for news, none", quiet / bare_ms, NEWS_LIMIT, "bare")
    return within & posts(app, points)


def posts(app: object, points: dict[str, list[object]]) -> bool:
    """Saving a reading, in the short case and in the long one, in turn."""
    people = [Person(app, number, found) for number, found in points.items()]  # type: ignore[arg-type]
    times: list[list[float]] = [[], []]
    for _ in range(ROUNDS):
        for person, kept in zip(people, times, strict=True):
            person.fill()
            start = time.perf_counter()
            person.post()
            kept.append(time.perf_counter() - start)
    few, many = (statistics.median(kept) for kept in times)
    return told("saving a reading", many / few, POST_LIMIT, f"{FEW} readings")


def clients(store: Store) -> bool:
    """One client alone, then eight at once, each getting pages of the long case."""
    server = create_server(create_app(store), host="127.0.0.1", port=0, threads=16, ident=None)
    threading.Thread(target=server.run, daemon=True).start()

    def work(times: list[float]) -> None:
        connection = http.client.HTTPConnection("127.0.0.1", server.effective_port)
        for _ in range(EACH):
            start = time.perf_counter()
            connection.request("GET", "/cases/G-2")
            connection.getresponse().read()
            times.append(time.perf_counter() - start)
        connection.close()

    alone: list[float] = []
    work(alone)
    together: list[float] = []
    threads = [threading.Thread(target=work, args=(together,)) for _ in range(BENCHES)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    one, many = statistics.median(alone), statistics.median(together)
    print(
        f"     a page for one client {one * 1e3:.1f} ms, for each of {BENCHES} {many * 1e3:.1f} ms"
    )
    return told(f"a page, {BENCHES} clients at once", many / one, CLIENTS_LIMIT, "one client")


def main() -> int:
    """Measure; 1 where a ratio is over its limit."""
    with tempfile.TemporaryDirectory() as folder:
        store = Store(Path(folder))
        within = pages(store)
        within &= clients(store)
        store.close()
    return 0 if within else 1


if __name__ == "__main__":
    sys.exit(main())
