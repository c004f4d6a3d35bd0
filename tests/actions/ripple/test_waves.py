"""Taking records in: kept as they came, all or nothing, and making the unit live."""

from __future__ import annotations

import hashlib
import io

import numpy as np
import pytest

from hale_rail.actions.ripple import waves
from hale_rail.actions.safety import power
from hale_rail.case.file import forget, open_case
from hale_rail.case.ripple.waves import analysis_of, split_of, wave_records
from hale_rail.case.safety.energy import energy
from hale_rail.core.ripple.bands import split
from hale_rail.core.safety.energy import Energy
from hale_rail.errors import InputError, NotFoundError
from hale_rail.formats.records.waves import read_wave
from hale_rail.store import check_restore
from hale_rail.store import waves as rows
from hale_rail.store.database import Store
from hale_rail.store.power_events import POWER_EVENTS
from hale_rail.store.waves import WAVE_RECORDS, WAVE_SETTINGS
from tests.conftest import Bench

DATA = "".join(f"{i * 1e-5:.5f},{5 + 0.01 * (i % 7):.3f}\n" for i in range(3000)).encode()
SAID = {"load": "dummy", "load_a": 1.5}


@pytest.fixture
def bench(store: Store) -> Bench:
    made = Bench(store, "template:flyback")
    made.make_safe()
    return made


def take(bench: Bench, data: bytes = DATA, said: dict | None = None, rail: str = "+5 V") -> int:
    source = io.BytesIO(data)
    return waves.take(bench.store, bench.number, rail, "../../scope.csv", source, said or SAID)


def test_the_file_is_kept_under_its_hash_and_read_back_as_it_came(bench: Bench) -> None:
    take(bench)
    (record,) = wave_records(bench.file)
    assert record.row.sha256 == hashlib.sha256(DATA).hexdigest()
    assert rows.path_of(bench.store.folder, record.row.sha256).read_bytes() == DATA
    assert record.row.name == "scope.csv"  # no path of another machine
    assert not list((bench.store.folder / "records").glob("*.part"))
    assert check_restore.problems(bench.store.folder) == []
    rows.path_of(bench.store.folder, record.row.sha256).unlink()
    assert "wave record" in check_restore.problems(bench.store.folder)[0]


def test_a_record_that_was_kept_has_the_spikes_that_were_analysed(bench: Bench) -> None:
    rng = np.random.default_rng(5)
    volts = 5 + 0.01 * rng.normal(size=4000)
    volts[rng.integers(0, 4000, 12)] += 0.2
    text = "Time,CH1\ns,V\n" + "".join(f"{n * 1e-6:.7g},{v:.6g}\n" for n, v in enumerate(volts))
    take(bench, text.encode())
    (record,) = wave_records(bench.file)
    assert analysis_of(bench.file, record, patience_s=60).result
    kept = split_of(bench.file, record)
    fresh = split(read_wave(rows.path_of(bench.store.folder, record.row.sha256)))
    assert kept is not None
    assert kept.kurtosis == pytest.approx(fresh.kurtosis, rel=1e-3)
    assert fresh.kurtosis > 10  # bursts, not noise


def test_a_record_makes_the_unit_live_until_power_is_removed(bench: Bench) -> None:
    assert energy(bench.file).energy is Energy.DEAD
    take(bench)
    assert energy(bench.file).energy is Energy.LIVE
    power.remove_power(bench.store, bench.number)
    assert energy(bench.file).energy is Energy.WAITING


@pytest.mark.parametrize(("data", "said", "rail", "error", "says"), [
    (b"hello\nworld\n", SAID, "+5 V", InputError, "not a wave record"),
    (DATA.replace(b"5.010", b"x", 1), SAID, "+5 V", InputError, "line 2"),
    (DATA, {"load": "heavy"}, "+5 V", InputError, "Say the load"),
    (DATA, SAID | {"channel": 3}, "+5 V", InputError, "no channel 3"),
    (DATA, SAID, "+99 V", NotFoundError, "no such rail"),
])  # fmt: skip
def test_all_or_nothing(
    bench: Bench, data: bytes, said: dict, rail: str, error: type[Exception], says: str
) -> None:
    log = len(bench.file.rows.all(POWER_EVENTS))
    with pytest.raises(error, match=f"(?i){says}"):
        take(bench, data, said, rail)
    assert bench.file.rows.all(WAVE_RECORDS) == ()
    assert len(bench.file.rows.all(POWER_EVENTS)) == log
    assert energy(bench.file).energy is Energy.DEAD
    kept = [path for path in (bench.store.folder / "records").rglob("*") if path.is_file()]
    assert kept == []
    take(bench)  # a file that a record names stays, however often it is refused elsewhere
    with pytest.raises(NotFoundError):
        take(bench, rail="+99 V")
    assert check_restore.problems(bench.store.folder) == []


def test_what_is_said_of_a_record_is_appended_and_the_newest_stands(bench: Bench) -> None:
    record_id = take(bench)
    waves.say(bench.store, bench.number, record_id, {"load": "machine", "limit_v": 0.2})
    forget()
    (record,) = wave_records(bench.file)
    assert (record.load, record.question.limit_v, record.question.load_a) == ("machine", 0.2, None)
    with pytest.raises(InputError):
        waves.say(bench.store, bench.number, record_id, {"load": "dummy", "first_line": 99_999})
    assert wave_records(bench.file)[0].load == "machine"
    with pytest.raises(NotFoundError):
        waves.say(bench.store, bench.number, 77, SAID)


def test_a_record_put_aside_no_longer_counts_and_its_file_stays(bench: Bench) -> None:
    record_id = take(bench)
    waves.put_aside(bench.store, bench.number, record_id)
    assert wave_records(bench.file) == ()
    assert energy(bench.file).energy is Energy.DEAD
    assert (
        bench.file.rows.newest(WAVE_SETTINGS)[record_id].body["aside"] == "taken at the wrong place"
    )
    assert rows.path_of(bench.store.folder, bench.file.rows.all(WAVE_RECORDS)[0].sha256).exists()


def test_the_same_file_twice_is_two_records_of_one_file(bench: Bench) -> None:
    first, second = take(bench), take(bench, said={"load": "machine"})
    assert first != second
    one, other = wave_records(bench.file)
    assert one.row.sha256 == other.row.sha256
    assert one.inputs != other.inputs or one.question == other.question


def test_the_analysis_is_computed_once_and_kept(bench: Bench) -> None:
    take(bench)
    (record,) = wave_records(bench.file)
    while (found := analysis_of(bench.file, record)).is_waiting:
        pass
    assert found.result.ripple.record.samples == 3000
    split = split_of(open_case(bench.store, bench.number), record)
    assert split is not None
    assert split_of(bench.file, record) is split
    assert len(split.wave.volt) == 3000
