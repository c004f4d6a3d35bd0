"""Where a page may make the server connect: instruments, serial lines, vendors' services."""

from __future__ import annotations

import socket
import threading
import time
from collections.abc import Iterator
from contextlib import contextmanager

import pytest

from hale_rail.bench import reach, vendor_link
from hale_rail.bench.reach import NetworkReach
from hale_rail.bench.vendor_link import ask
from hale_rail.bench.visa_link import checked_address
from hale_rail.errors import InputError, ServiceError


@pytest.mark.parametrize(
    ("host", "instrument", "vendor"),
    [
        ("192.168.0.20", True, True), ("10.1.2.3", True, True), ("172.31.0.1", True, True),
        ("172.32.0.1", False, True), ("fd00::5", True, True), ("127.0.0.1", False, False),
        ("::1", False, False), ("::ffff:127.0.0.1", False, False), ("0.0.0.0", False, False),
        ("169.254.169.254", False, False), ("224.0.0.1", False, False),
        ("198.51.100.7", False, True), ("127.9.9.9", False, False), ("2130706433", False, False),
    ],
)  # fmt: skip
def test_what_may_be_reached_by_default(host: str, instrument: bool, vendor: bool) -> None:
    found = NetworkReach()
    for may, way in ((instrument, found.instrument), (vendor, found.vendor)):
        if may:
            assert way(host, 80)
        else:
            with pytest.raises(InputError, match=r"may connect to|not known"):
                way(host, 80)


def test_the_owner_allows_more_and_ones_own_ports_are_reached() -> None:
    found = NetworkReach()
    found.allow(["127.0.0.0/8", "198.51.100.7"])
    assert found.instrument("127.0.0.1", 5025) == "127.0.0.1"
    assert found.instrument("198.51.100.7", 5025)
    own = NetworkReach()
    own.add_own([40_001])
    assert own.vendor("127.0.0.1", 40_001)
    with pytest.raises(InputError, match="serve --reach"):
        own.vendor("127.0.0.1", 40_002)
    with pytest.raises(InputError, match="not an address or a network"):
        own.allow(["everything"])


def test_a_name_is_looked_up_and_every_address_of_it_held_to_the_rule(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    def told(host: str, port: int, **_: object) -> list[tuple[object, ...]]:
        return [(2, 1, 6, "", ("127.0.0.1", port)), (2, 1, 6, "", ("192.168.7.7", port))]

    monkeypatch.setattr(reach.socket, "getaddrinfo", told)
    assert NetworkReach().instrument("meter.bench", 5025) == "192.168.7.7"


@pytest.mark.parametrize(
    ("device", "is_one"),
    [
        ("/dev/ttyUSB0", True), ("/dev/ttyACM12", True), ("/dev/ttyS1", True), ("COM3", True),
        ("/dev/serial/by-id/usb-Bench_Meter-if00", True), ("/dev/sda", False),
        ("/etc/passwd", False),
        ("/dev/serial/by-id/../../sda", False), ("/dev/tty", False), ("/dev/pts/0", False),
        ("/dev/null", False), ("/dev/ttyUSB0/x", False),
    ],
)  # fmt: skip
def test_a_serial_line_is_a_serial_device_of_the_system(device: str, is_one: bool) -> None:
    if is_one:
        assert checked_address(f"ASRL{device}::INSTR")
    else:
        with pytest.raises(InputError):
            checked_address(f"ASRL{device}::INSTR")


@contextmanager
def answering(answer: bytes, pause_s: float = 0.0) -> Iterator[int]:
    """A port that answers whoever connects with these bytes, one at a time where it pauses."""
    server = socket.create_server(("127.0.0.1", 0))
    port = int(server.getsockname()[1])

    def serve() -> None:
        while True:
            try:
                client, _ = server.accept()
            except OSError:
                return
            with client:
                try:
                    client.recv(4096)
                    if not pause_s:
                        client.sendall(answer)
                    for byte in answer if pause_s else b"":
                        client.sendall(bytes([byte]))
                        time.sleep(pause_s)
                except OSError:
                    pass

    threading.Thread(target=serve, daemon=True).start()
    vendor_link.REACH.add_own([port])
    yield port
    server.close()


@pytest.mark.parametrize(
    ("answer", "said"),
    [
        (b"SSH-2.0-Bench\r\n", "not HTTP"),
        (b"HTTP/1.1 302 Found\r\nLocation: http://198.51.100.7/\r\nContent-Length: 0\r\n\r\n",
         "another host"),
        (b"HTTP/1.1 302 Found\r\nLocation: http://127.0.0.1:1/x\r\nContent-Length: 0\r\n\r\n",
         "may connect to"),
        (b"HTTP/1.1 302 Found\r\nLocation: file:///etc/passwd\r\nContent-Length: 0\r\n\r\n",
         "not an address of a service"),
        (b"HTTP/1.1 302 Found\r\nLocation: /again\r\nContent-Length: 0\r\n\r\n", "without end"),
        (b"HTTP/1.1 404 Gone\r\nContent-Length: 0\r\n\r\n", "answered 404"),
        (b"HTTP/1.1 200 OK\r\nContent-Length: 9\r\n\r\n{}", "cannot be reached|list of parts"),
        (b"", "not HTTP"),
    ],
)  # fmt: skip
def test_what_a_service_answers_instead_is_told(answer: bytes, said: str) -> None:
    with answering(answer) as port, pytest.raises(ServiceError, match=said):
        ask(f"http://127.0.0.1:{port}/parts", 5.0)


@pytest.mark.parametrize(
    "address",
    ["http://127.0.0.1:1/x", "http://[::1/x", "ftp://a/x", "http://a:99999/x", "http://:80/",
     "http://localhost/x", "http://a:b/", "http:///x"],
)  # fmt: skip
def test_an_address_that_may_not_be_asked_is_told(address: str) -> None:
    with pytest.raises(ServiceError):
        ask(address, 1.0)


@pytest.mark.parametrize("answer", [b"HTTP/1.1 200 OK\r\n" + b"X: " + b"y" * 900, b"x" * 900])
def test_a_trickle_of_bytes_has_the_one_deadline(answer: bytes) -> None:
    """Each byte comes in time, the whole never does."""
    with (
        answering(answer, pause_s=0.02) as port,
        pytest.raises(ServiceError, match="No answer within"),
    ):
        ask(f"http://127.0.0.1:{port}/parts", 0.6)
