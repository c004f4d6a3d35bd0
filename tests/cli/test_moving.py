"""`hale-rail export` and `import`: the contract, what is told, and that nothing half done stays."""

from __future__ import annotations

import json
import shutil
import zipfile
from pathlib import Path
from typing import Any

import pytest
from click.testing import CliRunner

from hale_rail.cli import main


def run(*words: str) -> tuple[int, str, str]:
    found = CliRunner().invoke(main, list(words))
    return found.exit_code, found.stdout, found.stderr


@pytest.fixture
def folder(demo_master: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    shutil.copytree(demo_master, tmp_path / "demo")
    monkeypatch.chdir(tmp_path)
    return tmp_path


def taken(*words: str) -> dict[str, Any]:
    code, out, err = run("import", *words, "--json")
    assert (code, err) == (0, "")
    found: dict[str, Any] = json.loads(out)
    return found


def test_a_case_goes_from_one_folder_to_another_and_comes_out_the_same(folder: Path) -> None:
    assert run("export", "LW-014", "--data", "demo") == (0, "LW-014 is in LW-014.zip\n", "")
    found = taken("LW-014.zip", "--data", "new")
    assert found == {
        "case": "LW-014", "was": None, "added": True, "parts": 31, "readings": 55, "photos": 4,
        "records": 0,
    }  # fmt: skip
    assert taken("LW-014.zip", "--data", "new") == {**found, "added": False}
    assert run("export", "LW-014", "-o", "again.zip", "--data", "new")[0] == 0
    assert (folder / "again.zip").read_bytes() == (folder / "LW-014.zip").read_bytes()
    assert run("check", "--data", "new")[0] == 0


@pytest.mark.usefixtures("folder")
def test_a_bundle_is_what_it_says(folder: Path) -> None:
    run("export", "LW-031", "-o", "out.zip", "--data", "demo")
    with zipfile.ZipFile(folder / "out.zip") as bundle:
        names = set(bundle.namelist())
        manifest = json.loads(bundle.read("manifest.json"))
        readings = bundle.read("readings.csv").decode()
        unit = json.loads(bundle.read("unit.json"))
    assert {"case.json", "readings.csv", "unit.json", "log.csv", "manifest.json"} <= names
    assert manifest["schema"] == 1 and set(manifest["files"]) == names - {"manifest.json"}
    assert all(entry.keys() == {"sha256", "bytes"} for entry in manifest["files"].values())
    assert readings.startswith("target,procedure,condition,value")
    assert unit["topology"] == "half-bridge"
    assert sum(name.startswith("records/") for name in names) == 4


@pytest.mark.usefixtures("folder")
def test_a_taken_number_becomes_the_next_free_one_and_it_is_said(folder: Path) -> None:
    run("export", "LW-014", "--data", "demo")
    run("export", "LW-009", "-o", "nine.zip", "--data", "demo")
    with zipfile.ZipFile("nine.zip") as bundle:
        files = {name: bundle.read(name) for name in bundle.namelist()}
    told = json.loads(files["case.json"])
    told["number"] = "LW-014"
    _repack(folder / "nine.zip", files, json.dumps(told).encode())
    taken("LW-014.zip", "--data", "other")
    found = taken("nine.zip", "--data", "other")
    assert (found["case"], found["was"], found["added"]) == ("LW-015", "LW-014", True)
    assert (
        "LW-015, LW-014 there: is here already" in run("import", "nine.zip", "--data", "other")[1]
    )


def _repack(path: Path, files: dict[str, bytes], case: bytes) -> None:
    import hashlib

    manifest = json.loads(files["manifest.json"])
    entry = {"sha256": hashlib.sha256(case).hexdigest(), "bytes": len(case)}
    manifest["files"]["case.json"] = entry
    changed = {**files, "case.json": case, "manifest.json": json.dumps(manifest).encode()}
    with zipfile.ZipFile(path, "w") as bundle:
        for name, data in changed.items():
            bundle.writestr(name, data)


@pytest.mark.parametrize(
    ("words", "told"),
    [
        (("export", "LW-999", "--data", "demo"), "no case LW-999"),
        (("export", "LW-014", "--data", "nowhere"), "no workshop's data"),
        (("export", "LW-014", "-o", "no/such/place.zip", "--data", "demo"), "cannot be written"),
        (("import", "no.zip", "--data", "new"), "no.zip cannot be read"),
        (("import", "demo", "--data", "new"), "demo cannot be read"),
        (("import", "text.zip", "--data", "new"), "text.zip: This is not a bundle"),
    ],
)
def test_what_cannot_be_is_told_on_stderr_and_leaves_nothing(
    folder: Path, words: tuple[str, ...], told: str
) -> None:
    (folder / "text.zip").write_text("no zip at all", encoding="utf-8")
    code, out, err = run(*words)
    assert (code, out) == (2, "") and told in err
    assert not list(folder.glob("*.part")) and not (folder / "LW-999.zip").exists()
