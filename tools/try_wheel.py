"""Builds the wheel, installs it in an empty environment, and asks the demo there for its pages.

Run by `make package`. What the wheel needs is what its own metadata says, at the pinned versions:
a dependency that `pyproject.toml` lacks, or a file that is not packed, ends this with 1.
"""

from __future__ import annotations

import os
import re
import shutil
import socket
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from urllib.error import URLError
from urllib.request import urlopen

ROOT = Path(__file__).parents[1]
UV = Path(sys.executable).parent / "uv"
#: what is asked for: pages, and what they are drawn with, found on the first
PAGES = ("/", "/cases/LW-014", "/ledger", "/order")
_WAIT_S = 30.0


def main() -> int:
    """Build, install, ask; 0 where every page was answered."""
    with tempfile.TemporaryDirectory() as folder:
        place = Path(folder)
        wheel = build(place)
        command = install(place, wheel)
        return ask(place, command)


def build(place: Path) -> Path:
    """The wheel, built of a copy of the sources, so that nothing of an older build gets in."""
    source = place / "source"
    left = shutil.ignore_patterns("__pycache__", "*.egg-info")
    shutil.copytree(ROOT / "src", source / "src", ignore=left)
    for name in ("pyproject.toml", "README.md"):
        shutil.copy(ROOT / name, source)
    run(str(UV), "build", "--quiet", "--wheel", "--no-build-isolation", "--python", sys.executable,
        "--out-dir", str(place), str(source))  # fmt: skip
    wheel = next(place.glob("*.whl"))
    say(f"built {wheel.name}, {wheel.stat().st_size / 1e6:.1f} MB")
    return wheel


def install(place: Path, wheel: Path) -> Path:
    """The command in an environment that holds the wheel and what it asks for."""
    run(str(UV), "venv", "--quiet", "--python", sys.executable, str(place / "venv"))
    python = place / "venv" / "bin" / "python"
    pins = place / "pins.txt"
    names = re.findall(r"^[a-z0-9][^ ]*==[^ ]+", (ROOT / "requirements/base.txt").read_text(), re.M)
    pins.write_text("\n".join(names) + "\n", encoding="utf-8")
    run(str(UV), "pip", "install", "--quiet", "--python", str(python), "-c", str(pins), str(wheel))
    return python.with_name("hale-rail")


def ask(place: Path, command: Path) -> int:
    """Serve the demo and ask for its pages and the files they name."""
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    start = time.monotonic()
    clean = {k: v for k, v in os.environ.items() if not k.startswith("PYTHON")}
    served = subprocess.Popen(
        [command, "demo", "--port", str(port), "--data", place / "data"], cwd=place, env=clean
    )
    base = f"http://127.0.0.1:{port}"
    try:
        first = wait_for(base, served)
        say(f"the first page after {time.monotonic() - start:.1f} s")
        linked = set(re.findall(r'(?:href|src)="(/static/[^"]+)"', first))
        for path in (*PAGES, *sorted(linked)):
            with urlopen(base + path, timeout=_WAIT_S) as answer:
                answer.read()
        say(f"{len(PAGES)} pages and {len(linked)} files answered")
    finally:
        served.terminate()
        served.wait(_WAIT_S)
    return 0


def wait_for(base: str, served: subprocess.Popen[bytes]) -> str:
    """The first page, once it is answered; raises RuntimeError where the server ends instead."""
    until = time.monotonic() + _WAIT_S
    while time.monotonic() < until:
        if served.poll() is not None:
            raise RuntimeError(f"the server ended with {served.returncode}")
        try:
            with urlopen(base + "/", timeout=_WAIT_S) as answer:
                return str(answer.read().decode())
        except (URLError, ConnectionError):
            time.sleep(0.05)
    raise RuntimeError(f"no page within {_WAIT_S:g} s")


def run(*command: str) -> None:
    """Run a command; raises CalledProcessError where it fails."""
    subprocess.run(command, check=True)


def say(text: str) -> None:
    """Print at once, before what the server prints."""
    print(text, flush=True)


if __name__ == "__main__":
    sys.exit(main())
