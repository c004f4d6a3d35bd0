"""How long the program takes to start: a command, the server's first answer, the demo's.

Run by `make bench`. Ratios against a bare interpreter that imports Flask, started in turn with
them, since a machine's speed drifts. Templates were compiled by a start before: a user's first
takes some 0.1 s longer.
"""

from __future__ import annotations

import http.client
import socket
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

ROUNDS = 5
COMMAND = Path(sys.executable).with_name("hale-rail")
EXAMPLES = Path(__file__).parents[1] / "docs" / "examples"
#: times a bare start with Flask: what is asked for, at most
HELP, JUDGE, SERVE, DEMO = "--help", "judge", "serve, first page", "demo made again, first page"
LIMITS = {HELP: 0.7, JUDGE: 2.0, SERVE: 3.3, DEMO: 4.5}


def ran(*words: str) -> float:
    start = time.perf_counter()
    subprocess.run(words, check=True, stdout=subprocess.DEVNULL)
    return time.perf_counter() - start


def served(command: str) -> float:
    """Seconds until the first page of a server that is started in an empty folder."""
    with tempfile.TemporaryDirectory() as folder, socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
        free.close()
        start = time.perf_counter()
        server = subprocess.Popen(
            [COMMAND, command, "--port", str(port), "--data", f"{folder}/data"],
            stdout=subprocess.DEVNULL,
        )
        try:
            while server.poll() is None:
                with suppress(OSError):
                    connection = http.client.HTTPConnection("127.0.0.1", port, timeout=20)
                    connection.request("GET", "/")
                    if connection.getresponse().status == 200:
                        return time.perf_counter() - start
                time.sleep(0.01)
        finally:
            server.terminate()
            server.wait(20)
    raise RuntimeError(f"{command} ended by itself")


def main() -> int:
    judge = (str(COMMAND), "judge", str(EXAMPLES / "unit.json"), str(EXAMPLES / "readings.csv"))
    measured: dict[str, Callable[[], float]] = {
        "bare": lambda: ran(sys.executable, "-c", "import flask"),
        HELP: lambda: ran(str(COMMAND), "--help"),
        JUDGE: lambda: ran(*judge),
        SERVE: lambda: served("serve"),
        DEMO: lambda: served("demo"),
    }
    times: dict[str, list[float]] = {name: [] for name in measured}
    for _ in range(ROUNDS):
        for name, action in measured.items():
            times[name].append(action())
    bare = statistics.median(times.pop("bare"))
    print(f"     an interpreter that imports Flask: {bare:.2f} s")
    within = True
    for name, values in times.items():
        taken = statistics.median(values)
        ratio = taken / bare
        within &= ratio <= LIMITS[name]
        mark = "ok  " if ratio <= LIMITS[name] else "OVER"
        print(f"{mark} {ratio:6.1f} of {LIMITS[name]:g} × bare: {name}, {taken:.2f} s")
    return 0 if within else 1


if __name__ == "__main__":
    sys.exit(main())
