"""The server as it is started: for this machine or the network, alone, never starved."""

from __future__ import annotations

import errno
import http.client
import queue
import re
import socket
import sqlite3
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import ExitStack, closing, contextmanager
from pathlib import Path
from urllib.parse import urlencode

import pytest
from click.testing import CliRunner, Result
from waitress import buffers, wasyncore

from hale_rail.actions.instruments import instruments
from hale_rail.bench.reach import REACH
from hale_rail.cli import main
from hale_rail.store import check_restore, passphrase
from hale_rail.store.database import Store
from hale_rail.web import create_app
from hale_rail.web.receiving import server_of
from tests.conftest import Bench

PHRASE = "four warm tubes glow"
BENCHES, NOTES = 8, 12
SOON_S = 60
MUTE = """
name = "Mute"
timeout_s = 15.0
[procedures.ohms]
command = "R?"
unit = "Ω"
"""


def run(*arguments: object, typed: str = "") -> Result:
    return CliRunner().invoke(main, [str(argument) for argument in arguments], input=typed)


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return int(probe.getsockname()[1])


@contextmanager
def serving(folder: Path, *more: str) -> Iterator[int]:
    """The real command in a process of its own; yields its port."""
    port = free_port()
    program = "from hale_rail.cli import main; main()"
    command = [sys.executable, "-c", program, "serve", "--port", str(port), "--data", str(folder)]
    with subprocess.Popen(
        [*command, *more], stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True
    ) as it:
        try:
            until = time.monotonic() + SOON_S
            while time.monotonic() < until and it.poll() is None:
                try:
                    socket.create_connection(("127.0.0.1", port), 1).close()
                    break
                except OSError:
                    time.sleep(0.05)
            yield port
        finally:
            it.terminate()


def get(port: int, path: str, **headers: str) -> http.client.HTTPResponse:
    connection = http.client.HTTPConnection("127.0.0.1", port, timeout=SOON_S)
    connection.request("GET", path, headers=headers)
    answer = connection.getresponse()
    answer.body = answer.read()  # type: ignore[attr-defined]
    connection.close()
    return answer


def test_to_the_network_only_with_a_passphrase(tmp_path: Path) -> None:
    for more in (("--host", "0.0.0.0"), ("--host", "192.0.2.7"), ("--name", "bench.local")):
        refused = run("serve", "--data", tmp_path, *more)
        assert (refused.exit_code, "set a passphrase first" in refused.output) == (2, True)
    assert not (tmp_path / "hale-rail.db").exists()


@pytest.mark.parametrize(
    ("typed", "code"), [("short\n", 2), ("", 2), ("x" * 201 + "\n", 2), (PHRASE + "\n", 0)]
)
def test_a_passphrase_is_set_from_a_pipe_and_taken_away(
    tmp_path: Path, typed: str, code: int
) -> None:
    found = run("passphrase", "--data", tmp_path, typed=typed)
    assert found.exit_code == code, found.output
    assert passphrase.is_set(tmp_path) == (code == 0)
    if code == 0:
        kept = (tmp_path / "passphrase.json").read_text()
        assert "$argon2id$" in kept
        assert PHRASE not in kept
        assert (tmp_path / "passphrase.json").stat().st_mode & 0o777 == 0o600
        assert passphrase.is_right(tmp_path, "  four warm tubes glow ")
        assert not passphrase.is_right(tmp_path, "four warm tubes")
        assert run("passphrase", "--remove", "--data", tmp_path).exit_code == 0
        assert not passphrase.is_set(tmp_path)


def newer(path: Path) -> None:
    with closing(sqlite3.connect(path)) as connection:
        connection.execute("INSERT INTO migration VALUES (99, 'later', 'x', 'then')")
        connection.commit()


@pytest.mark.parametrize(
    ("harm", "says"),
    [
        (lambda path: path.write_bytes(b""), "is empty (0 bytes)"),
        (lambda path: path.write_bytes(b"scribbled over " * 500), "not a database of this program"),
        (lambda path: path.unlink(), "is not there"),
        (newer, "newer Hale Rail"),
    ],
)
def test_what_cannot_be_served_is_told_with_the_backup(
    bench: Bench, harm: Callable[[Path], object], says: str
) -> None:
    copy = bench.store.backup()
    bench.store.close()
    harm(bench.store.path)
    refused = run("serve", "--port", free_port(), "--data", bench.store.folder)
    assert (refused.exit_code, says in refused.output) == (2, True), refused.output
    assert harm is newer or f"hale-rail restore {copy}" in refused.output
    assert "Traceback" not in refused.output


def test_one_server_serves_to_the_network_and_a_second_is_told(bench: Bench) -> None:
    folder = bench.store.folder
    passphrase.put(folder, PHRASE)
    with serving(folder, "--host", "0.0.0.0", "--name", "bench.example") as port:
        assert get(port, "/").status == 303
        assert get(port, "/healthz", Host="bench.example").status == 200
        assert get(port, "/healthz", Host="evil.example").status == 403
        with socket.create_connection(("127.0.0.1", port)) as plain:
            plain.sendall(b"GET /healthz HTTP/1.0\r\n\r\n")
            assert b" 400 " in plain.recv(4096).split(b"\r\n")[0]
        second = run("serve", "--port", free_port(), "--data", folder)
        assert second.exit_code == 2
        assert f"at http://0.0.0.0:{port}" in second.output
    assert list((folder / "backups").glob("hale-rail-*.db"))  # made as it started


def test_idle_connections_starve_nobody(bench: Bench) -> None:
    with serving(bench.store.folder) as port, ExitStack() as held:
        for _ in range(200):
            held.enter_context(socket.create_connection(("127.0.0.1", port)))
        for path in ("/healthz", "/", "/cases/T-1"):
            assert get(port, path).status == 200


def test_sixteen_silent_instruments_keep_no_page_waiting(bench: Bench) -> None:
    """As many as the server has threads: four are asked, who comes then is told at once."""
    told: queue.Queue[str] = queue.Queue()
    with socket.create_server(("127.0.0.1", 0)) as silent, ExitStack() as lines:
        address = silent.getsockname()[1]
        REACH.add_own([address])
        instruments.add_family(bench.store, "mute", MUTE)
        instruments.add(bench.store, "Mute", f"TCPIP0::127.0.0.1::{address}::SOCKET", "mute")
        with serving(bench.store.folder, "--reach", "127.0.0.1") as port:
            page = get(port, "/workshop/instruments")
            cookie = (page.getheader("Set-Cookie") or "").split(";")[0]
            token = re.search(r'name="csrf_token" value="([^"]+)"', page.body.decode())  # type: ignore[attr-defined]
            assert token
            fields = urlencode({"csrf_token": token[1], "instrument": 1})
            headers = {"Cookie": cookie, "Content-Type": "application/x-www-form-urlencoded"}

            def ask() -> None:
                connection = http.client.HTTPConnection("127.0.0.1", port, timeout=SOON_S)
                connection.request("POST", "/workshop/instruments/ask", fields, headers)
                told.put(connection.getresponse().read().decode())
                connection.close()

            threads = [threading.Thread(target=ask) for _ in range(16)]
            for thread in threads:
                thread.start()
            for _ in range(4):
                lines.enter_context(silent.accept()[0])
            assert all("Press again" in told.get(timeout=SOON_S) for _ in range(12))
            for path in ("/", "/cases/T-1", "/healthz"):
                assert get(port, path).status == 200
            assert told.empty()  # the four are still asked
            lines.close()
            for thread in threads:
                thread.join(SOON_S)
            assert sum("Press again" in told.get_nowait() for _ in range(4)) == 0


def test_eight_benches_write_at_once_and_every_acknowledged_note_is_kept(bench: Bench) -> None:
    """A press that is refused as busy is pressed again; nothing is kept twice or lost."""
    folder, failures = bench.store.folder, []
    with serving(folder) as port:

        def work(index: int) -> None:
            connection = http.client.HTTPConnection("127.0.0.1", port, timeout=SOON_S)
            connection.request("GET", "/cases/T-1/log")
            page = connection.getresponse()
            cookie = (page.getheader("Set-Cookie") or "").split(";")[0]
            token = re.search(r'name="csrf_token" value="([^"]+)"', page.read().decode())
            assert token
            headers = {"Cookie": cookie, "Content-Type": "application/x-www-form-urlencoded"}
            for number in range(NOTES):
                fields = {"csrf_token": token[1], "view": "log", "text": f"{index}-{number}"}
                status = 503
                while status == 503:
                    connection.request("POST", "/cases/T-1/do/note", urlencode(fields), headers)
                    answer = connection.getresponse()
                    answer.read()
                    status = answer.status
                if status != 303:
                    failures.append((index, number, status))
            connection.close()

        threads = [threading.Thread(target=work, args=(index,)) for index in range(BENCHES)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
    assert failures == []
    store = Store(folder)
    rows = store.read().execute("SELECT text FROM log WHERE kind = 'note'").fetchall()
    store.close()
    wanted = {f"{index}-{number}" for index in range(BENCHES) for number in range(NOTES)}
    assert sorted(row["text"] for row in rows) == sorted(wanted)
    assert check_restore.problems(folder) == []


def test_what_finds_no_room_on_the_temporary_disk_is_answered_by_a_page(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Above half a megabyte a body is laid down in a file first; the answer comes at its end."""

    class Full:
        def __init__(self, *_: object) -> None:
            raise OSError(errno.ENOSPC, "No space left on device")

    monkeypatch.setattr(buffers, "TempfileBasedBuffer", Full)
    with closing(Store(tmp_path / "data")) as store:
        server = server_of(create_app(store), host="127.0.0.1", port=0, ident=None)
        thread = threading.Thread(target=server.run, daemon=True)
        thread.start()
        port = server.effective_port
        for size, code in ((3 << 20, 507), (600 << 10, 507), (1000, 400)):
            connection = http.client.HTTPConnection("127.0.0.1", port, timeout=SOON_S)
            connection.request("POST", "/parts/look", body=b"x" * size)
            answer = connection.getresponse()
            told = answer.read().decode()
            assert answer.status == code
            assert ("There is no room" in told) == (code == 507)
            connection.close()
        assert get(port, "/healthz").status == 200
        server.trigger.pull_trigger(lambda: wasyncore.close_all(server._map))
        thread.join(SOON_S)
