"""Bundles: any case survives export and import; what came from anywhere takes nothing in."""

from __future__ import annotations

import hashlib
import io
import json
import shutil
import tempfile
import zipfile
from collections.abc import Callable
from contextlib import closing
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from PIL import Image

from hale_rail.actions import readings
from hale_rail.actions.parts import decisions, looks, photos
from hale_rail.actions.places import boards, marks, places
from hale_rail.actions.report.closing import hand_back
from hale_rail.actions.safety import power
from hale_rail.actions.workshop import bundles
from hale_rail.actions.workshop.bundles import ImportedCase, export, next_free
from hale_rail.case.file import CaseFile, open_case
from hale_rail.case.history import issued_reports
from hale_rail.case.places.places import views
from hale_rail.case.report.report import Report
from hale_rail.core.places.marks import MarkShape
from hale_rail.core.places.place import Place, Side
from hale_rail.errors import HaleRailError, InputError, NotFoundError
from hale_rail.formats.codec import from_text
from hale_rail.stages.trial import look_at
from hale_rail.store import check_restore, unit_types
from hale_rail.store.database import Store
from tests.conftest import Bench, opened
from tests.sizes import examples

DEMO = ("LW-003", "LW-009", "LW-014", "LW-022", "LW-031")


def take_in(store: Store, source: io.BytesIO) -> ImportedCase:
    return bundles.take_in(store, source, look_at)


def packed(store: Store, number: str) -> bytes:
    out = io.BytesIO()
    export(store, number, out)
    return out.getvalue()


def told(bundle: bytes) -> dict[str, Any]:
    with zipfile.ZipFile(io.BytesIO(bundle)) as archive:
        found: dict[str, Any] = json.loads(archive.read("case.json"))
    return found


@pytest.mark.parametrize("order", [DEMO, pytest.param(DEMO[::-1], marks=pytest.mark.exhaustive)])
def test_every_case_of_the_demo_comes_out_of_another_workshop_as_it_went_in(
    demo: Store, store: Store, order: tuple[str, ...]
) -> None:
    bundles = {number: packed(demo, number) for number in order}
    for number, bundle in bundles.items():
        found = take_in(store, io.BytesIO(bundle))
        assert (found.case, found.was, found.added) == (number, None, True)
        assert found.parts == len(open_case(demo, number).sheet.parts)
    for number, bundle in bundles.items():
        assert told(packed(store, number)) == told(bundle)
    assert check_restore.problems(store.folder) == []
    for report in issued_reports(open_case(store, "LW-003")):
        assert from_text(report.body, Report).number == "LW-003"


def test_a_bundle_taken_in_twice_adds_nothing_and_a_taken_number_becomes_the_next(
    demo: Store,
) -> None:
    bundle = packed(demo, "LW-014")
    assert take_in(demo, io.BytesIO(bundle)) == take_in(demo, io.BytesIO(bundle))
    assert not take_in(demo, io.BytesIO(bundle)).added
    other = Store(demo.folder.parent / "other")
    with closing(other):
        Bench(other, number="LW-014")
        Bench(other, number="LW-015")
        found = take_in(other, io.BytesIO(bundle))
        assert (found.case, found.was, found.added) == ("LW-016", "LW-014", True)
        again = take_in(other, io.BytesIO(bundle))
        assert (again.case, again.was, again.added) == ("LW-016", "LW-014", False)
        out = told(packed(other, "LW-016"))
        assert out | {"number": "LW-014"} == told(bundle)


@pytest.mark.parametrize(("number", "taken", "free"), [
    ("LW-009", ["LW-009", "LW-010"], "LW-011"), ("LW-099", ["lw-099"], "LW-100"),
    ("Loom", ["Loom"], "Loom-2"), ("X", [], "X"), ("9" * 20, ["9" * 20], "1" + "0" * 20),
])  # fmt: skip
def test_the_next_free_number(number: str, taken: list[str], free: str) -> None:
    assert next_free(number, taken)[:20] == free[:20]


_TEXT = st.text(
    st.characters(codec="utf-8", exclude_categories=["Cs", "Cc"]), min_size=4, max_size=40
)
_WORK = st.one_of(
    st.tuples(st.just("note"), _TEXT),
    st.tuples(st.just("look"), st.sampled_from(["C10", "Q1", "F1"]),
              st.lists(st.sampled_from(["bulge", "leak", "burnt"]), max_size=2, unique=True)),
    st.tuples(st.just("read"), st.sampled_from(
        [("F1", "ohms", "0R2"), ("Q1", "ohms", "OL"), ("C10", "esr", "0.4"), ("C10", "c", "820u"),
         ("+5 V", "volts", "4.9..5.1"), ("+5 V", "ground", "short")])),
    st.tuples(st.just("decide"), st.sampled_from(["C10", "F1"]),
              st.sampled_from(["fitted", "keep", "left-out", "undone"]), _TEXT),
    st.tuples(st.just("power"), st.sampled_from(["mains", "off"])),
    st.tuples(st.just("strike")),
    st.tuples(st.just("photo"), st.integers(0, 255)),
    st.tuples(st.just("board"), st.integers(0, 255), st.sampled_from(Side)),
    st.tuples(st.just("place"), st.sampled_from(["C10", "F1"]), st.integers(0, 80),
              st.sampled_from(Side)),
    st.tuples(st.just("mark"), st.integers(5, 60), _TEXT),
    st.tuples(st.just("back")),
)  # fmt: skip


def _do(bench: Bench, work: tuple[Any, ...]) -> None:
    """One thing of many that a person does; what the program refuses was not done."""
    kind, rest = work[0], work[1:]
    store, number = bench.store, bench.number
    made = io.BytesIO()
    shade = rest[0] if kind in ("photo", "board") else 0
    Image.new("RGB", (40, 30), (shade, 9, 9)).save(made, "PNG")
    actions: dict[str, Callable[[], object]] = {
        "note": lambda: decisions.note(store, number, rest[0]),
        "look": lambda: looks.look(store, number, bench.id_of(rest[0]), rest[1]),
        "read": lambda: bench.read(*rest[0]),
        "decide": lambda: decisions.decide(store, number, bench.id_of(rest[0]), rest[1], rest[2]),
        "power": lambda: bench.make_safe() if rest[0] == "off" else power.apply_power(
            store, number, rest[0]),
        "strike": lambda: readings.strike(store, number, max(bench.file.rows.readings, default=0)),
        "photo": lambda: photos.add(
            store, number, bench.id_of("F1"), [("a.png", made.getvalue)], "seen"),
        "board": lambda: boards.add_photo(
            store, number, "Supply", rest[1], 80.0, "b.png", made.getvalue()),
        "place": lambda: places.place_part(
            store, number, bench.id_of(rest[0]), Place("supply", rest[2], rest[1], 7.5)),
        "mark": lambda: marks.draw_mark(
            store, number, views(bench.file)[0].photo.id if views(bench.file) else 0,
            MarkShape.WORD, ((rest[0], 9), (rest[0], 9)), rest[1]),
        "back": lambda: hand_back(store, number, bench.version, "repaired"),
    }  # fmt: skip
    try:
        actions[kind]()
    except HaleRailError:
        return


@settings(max_examples=examples(12, 4), suppress_health_check=[HealthCheck.too_slow])
@given(work=st.lists(_WORK, max_size=14), words=_TEXT)
def test_any_case_survives_export_and_import(
    empty_master: Path, work: list[tuple[Any, ...]], words: str
) -> None:
    with tempfile.TemporaryDirectory() as place:
        first, second = (opened(empty_master, Path(place) / name) for name in ("one", "two"))
        with closing(first), closing(second):
            bench = Bench(first, parts=f"C10 820u 10V +5 out {words[:4]}")
            bench.make_safe()
            for one in work:
                _do(bench, one)
            bundle = packed(first, bench.number)
            found = take_in(second, io.BytesIO(bundle))
            assert found.readings == len(bench.file.rows.readings)
            assert told(packed(second, found.case)) == told(bundle)
            assert check_restore.problems(second.folder) == []


def remade(bundle: bytes, change: Callable[[dict[str, bytes]], None]) -> bytes:
    """A bundle with its files changed, and a manifest that fits them again."""
    with zipfile.ZipFile(io.BytesIO(bundle)) as archive:
        files = {name: archive.read(name) for name in archive.namelist()}
    files.pop("manifest.json")
    change(files)
    manifest = files.pop("manifest.json", None) or json.dumps({
        "schema": 1,
        "files": {name: {"sha256": hashlib.sha256(data).hexdigest(), "bytes": len(data)}
                  for name, data in files.items()},
    }).encode()  # fmt: skip
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for name, data in {**files, "manifest.json": manifest}.items():
            archive.writestr(name, data)
    return out.getvalue()


def case_with(change: Callable[[dict[str, Any]], object]) -> Callable[[dict[str, bytes]], None]:
    """The same with case.json changed."""

    def changed(files: dict[str, bytes]) -> None:
        case = json.loads(files["case.json"])
        change(case)
        files["case.json"] = json.dumps(case).encode()

    return changed


def _first(table: str, **values: object) -> Callable[[dict[str, bytes]], None]:
    return case_with(lambda case: case["tables"][table][0].update(values))


HOSTILE: list[tuple[str, Callable[[dict[str, bytes]], None], str]] = [
    ("out of the folder", lambda f: f.update({"../evil.txt": b"x"}), "not a file of a bundle"),
    ("from the root", lambda f: f.update({"/etc/passwd": b"x"}), "not a file of a bundle"),
    ("of another system", lambda f: f.update({"photos\\..\\x.jpg": b""}), "not a file of a bundle"),
    ("named by no hash", lambda f: f.update({f"photos/{'0' * 64}.jpg": b"x"}), "not named by"),
    ("named by nothing", lambda f: f.update(
        {f"records/{hashlib.sha256(b'x').hexdigest()}.wave": b"x"}), "nothing in it names"),
    ("without a photo", lambda f: f.pop(next(n for n in f if n.startswith("photos/"))), "lacks"),
    ("without a case", lambda f: f.pop("case.json"), "lacks case.json"),
    ("newer", lambda f: f.update({"manifest.json": b'{"schema": 2, "files": {}}'}), "newer"),
    ("no manifest", lambda f: f.update({"manifest.json": b"[]"}), "not an object"),
    ("a lying size", lambda f: f.update({"manifest.json": json.dumps({"schema": 1, "files": {
        n: {"sha256": hashlib.sha256(d).hexdigest(), "bytes": len(d) + 1} for n, d in f.items()
    }}).encode()}), "size"),
    ("an absurd size", lambda f: f.update({"manifest.json": json.dumps({"schema": 1, "files": {
        n: {"sha256": hashlib.sha256(d).hexdigest(), "bytes": 1 << 50} for n, d in f.items()
    }}).encode()}), "at most"),
    ("a lying hash", lambda f: f.update({"manifest.json": json.dumps({"schema": 1, "files": {
        n: {"sha256": "0" * 64, "bytes": len(d)} for n, d in f.items()}}).encode()}), "damaged"),
    ("newer case", case_with(lambda c: c.update(schema=9)), "newer"),
    ("no JSON", lambda f: f.update({"case.json": b"{"}), "not JSON"),
    ("not a number", lambda f: f.update({"case.json": b'{"schema": NaN}'}), "not JSON"),
    ("deep", lambda f: f.update({"case.json": b"[" * 100_000}), "not JSON"),
    ("a hostile number", case_with(lambda c: c.update(number="<script>")), "Letters, digits"),
    ("no tables", case_with(lambda c: c.update(tables=[])), "not a bundle.s"),
    ("an unknown table", case_with(lambda c: c["tables"].update(sqlite_master=[])), "not known"),
    ("an unknown column", _first("reading", colour="red"), "not known here"),
    ("SQL for a column", _first("reading", **{"value) --": 1}), "not known here"),
    ("a row that is not there", _first("reading", target_id=9999), "not there"),
    ("a row before the first", _first("reading", target_id=0), "not there"),
    ("an object for a text", _first("reading", typed={"a": 1}), "neither text nor a number"),
    ("a huge number", _first("log", text=1 << 80), "log, row 1"),
    ("half a letter", _first("log", text="\ud800"), "log, row 1"),
    ("an unknown kind", _first("log", kind="drop"), "log, row 1"),
    ("an unknown procedure", _first("reading", procedure="xyz"), "reading, row 1"),
    ("no sheet", case_with(lambda c: c["tables"].update(sheet=[])), "sheet has one row"),
    ("two cases", case_with(lambda c: c["tables"]["bench_case"].append({})), "identity"),
    ("a body of another shape", case_with(lambda c: c["tables"]["recap_note"][0].update(body="[]")),
     "looked at"),
    ("a moment that is none", _first("reading", taken_at="soon"), "looked at"),
    ("a line that is none", _first("part_marking", line="+99 V"), ""),
]  # fmt: skip


@pytest.mark.parametrize(
    ("change", "words"), [row[1:] for row in HOSTILE], ids=[r[0] for r in HOSTILE]
)
def test_a_hostile_bundle_takes_nothing_in(
    demo_master: Path, store: Store, change: Callable[[dict[str, bytes]], None], words: str
) -> None:
    bundle = remade(_of_demo(demo_master), change)
    before = _everything(store)
    if not words:  # odd, yet nothing that cannot be looked at: it may come in, or be refused
        try:
            take_in(store, io.BytesIO(bundle))
        except InputError:
            assert _everything(store) == before
        return
    with pytest.raises(InputError, match=words):
        take_in(store, io.BytesIO(bundle))
    assert _everything(store) == before


_KEPT: dict[Path, bytes] = {}


def _of_demo(master: Path) -> bytes:
    """A bundle of the demo, made once."""
    if master not in _KEPT:
        with tempfile.TemporaryDirectory() as place:
            folder = Path(place) / "demo"
            shutil.copytree(master, folder)
            with closing(Store(folder)) as demo:
                _KEPT[master] = packed(demo, "LW-014")
    return _KEPT[master]


def _everything(store: Store) -> tuple[int, list[str]]:
    count = store.read().execute("SELECT count(*) FROM bench_case").fetchone()[0]
    return count, sorted(str(path) for path in store.folder.rglob("*.[jw][pa][gv]*"))


@pytest.mark.parametrize("cut", [0, 1, 40, 5000, -30])
def test_a_file_that_is_no_whole_zip_is_refused(demo_master: Path, store: Store, cut: int) -> None:
    with pytest.raises(InputError):
        take_in(store, io.BytesIO(_of_demo(demo_master)[:cut]))


def test_an_encrypted_a_doubled_and_a_swelling_archive_are_refused(
    demo_master: Path, store: Store
) -> None:
    whole = _of_demo(demo_master)
    locked = bytearray(whole)
    place = locked.rindex(b"PK\x01\x02")
    locked[place + 8] |= 1
    with pytest.raises(InputError, match="encrypted"):
        take_in(store, io.BytesIO(bytes(locked)))
    doubled = io.BytesIO(whole)
    with pytest.warns(UserWarning, match="Duplicate"), zipfile.ZipFile(doubled, "a") as archive:
        archive.writestr("log.csv", "x")
    with pytest.raises(InputError, match="is listed twice"):
        take_in(store, doubled)
    bomb = remade(whole, lambda f: f.update({"log.csv": b"0" * (1 << 20)}))
    shrunk = bomb.replace((1 << 20).to_bytes(4, "little"), (9).to_bytes(4, "little"))
    with pytest.raises(InputError):
        take_in(store, io.BytesIO(shrunk))


def test_a_case_whose_photo_is_gone_does_not_go_out_as_if_it_were_whole(demo: Store) -> None:
    for path in (demo.folder / "photos").rglob("*.jpg"):
        path.unlink()
    with pytest.raises(NotFoundError, match="is missing from the data folder"):
        packed(demo, "LW-014")


def test_a_failure_midway_leaves_no_file_behind(
    demo_master: Path, store: Store, monkeypatch: pytest.MonkeyPatch
) -> None:
    before = _everything(store)
    real = store.write

    def failing() -> object:
        raise RuntimeError("the disk went away")

    monkeypatch.setattr(store, "write", failing)
    with pytest.raises(RuntimeError, match="disk"):
        take_in(store, io.BytesIO(_of_demo(demo_master)))
    monkeypatch.setattr(store, "write", real)
    assert _everything(store) == before


def test_a_drawing_that_was_proven_goes_along_though_the_type_of_unit_changed(
    demo: Store, empty_master: Path, tmp_path: Path
) -> None:
    """Its check still names it, though the case's type has other drawings now."""
    case = open_case(demo, "LW-022")
    assert demo.read().execute("SELECT 1 FROM drawing_check WHERE case_id = ?", (case.case.id,))
    other = next(t for t in unit_types.listed(demo.read()) if t.id != case.case.unit_type_id)
    with demo.write() as connection:
        connection.execute(
            "UPDATE bench_case SET unit_type_id = ?, revision = revision + 1 WHERE id = ?",
            (other.id, case.case.id),
        )
    bundle = packed(demo, "LW-022")
    with closing(opened(empty_master, tmp_path / "other")) as second:
        assert take_in(second, io.BytesIO(bundle)).added
        assert told(packed(second, "LW-022")) == told(bundle)
        assert check_restore.problems(second.folder) == []


def test_what_a_kill_leaves_of_a_rehearsal_is_swept_at_the_next_start(
    demo: Store, empty_master: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    bundle = packed(demo, "LW-009")
    folder = tmp_path / "second"
    with closing(opened(empty_master, folder)) as second:
        found = []

        def look(_: CaseFile) -> None:
            found.extend(folder.glob("rehearsal*"))
            shutil.copytree(found[0], folder / f"rehearsal.0123abcd.{2**22 - 1}.part")

        bundles.take_in(second, io.BytesIO(bundle), look)
    assert len(found) == 1
    assert not found[0].exists()
    assert list(folder.glob("rehearsal*"))
    Store(folder).close()
    assert not list(folder.glob("rehearsal*"))
