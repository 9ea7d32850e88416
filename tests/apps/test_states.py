"""States on disk: what one process wrote, another reads; what is wrong with a file is told and made anew."""

import logging
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from django.db import transaction

from tarn.apps.estate.door.entrance import forget, take_in
from tarn.apps.estate.software import installs as store
from tarn.apps.estate.software.installs import installs, keep_on_disk
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.remembered import forget as forget_states
from tarn.apps.estate.store.shelf import clear, shelves
from tests.documents import packages, sighting

pytestmark = pytest.mark.django_db(transaction=True)
DEVICES = 12


@pytest.fixture
def shelf(tmp_path: Path, settings: Any) -> Path:
    """An estate whose states lie on disk; returns the file of what is installed."""
    settings.TARN_STATES = str(tmp_path / "states")
    forget()
    tell.day = 0.0
    for n in range(DEVICES):
        tell(n, quill="1", corvid="2")
    forget_states()
    return store._SHELF.path


def tell(number: int, **versions: str) -> None:
    """Have a device read again, with other software."""
    list(take_in([sighting(f"d{number}", tell.day, identity={"serial": f"S-{number}"}, packages=packages(**versions))]))
    tell.day += 0.01


tell.day = 0.0


def pairs() -> list[tuple[int, int, int]]:
    """What is installed, as this process has it: asset, release and product."""
    held = installs(None)
    whole = np.ones(held.most, dtype=bool)
    found = []
    for part, wanted in held.parts(whole):
        mask = wanted[part.asset]
        found += zip(*(c[mask].tolist() for c in (part.asset, part.release, part.product)), strict=True)
    return sorted(found)


def counts() -> dict[str, Any]:
    """The figures that are told of it, over all and over every second asset."""
    held = installs(None)
    some = np.arange(held.most) % 2 == 0
    whole = np.ones(held.most, dtype=bool)
    return {
        f"{roles} {name}": held.counted(roles, wanted, 60).tolist()
        for roles in ((), ("product",), ("product", "component"))
        for name, wanted in (("all", whole), ("some", some))
    } | {
        "devices": held.devices.tolist(),
        "releases": sorted(held.devices_by("release", some).items()),
        "listed": sorted(held.devices_by("listing", whole).items()),
        "of a product": [held.devices_of(whole, product) for product in range(1, 6)],
    }


def read_anew(settings: Any) -> tuple[Any, Any]:
    """The same without any state: from the tables alone."""
    where, settings.TARN_STATES = settings.TARN_STATES, ""
    forget_states()
    told = pairs(), counts()
    settings.TARN_STATES = where
    forget_states()
    return told


def test_a_state_that_lies_there_is_told_as_the_tables_are(shelf: Path, settings: Any) -> None:
    expected = read_anew(settings)
    assert (pairs(), counts()) == expected
    assert shelf.exists()
    assert [name for name, size in shelves() if size] == ["installations"]
    forget_states()  # another process
    assert (pairs(), counts()) == expected
    assert installs(None).sighting > 0, "it is read where it lies"


def test_what_comes_after_is_beside_it_until_it_is_exchanged(shelf: Path, settings: Any) -> None:
    pairs()
    written = shelf.stat().st_mtime_ns
    for number, versions in (
        (3, {"quill": "2"}),
        (5, {}),
        (DEVICES + 4, {"auk": "1", "corvid": "2"}),
        (3, {"quill": "3"}),
    ):
        tell(number, **versions)
        expected = read_anew(settings)
        assert (pairs(), counts()) == expected, "in a process that begins now"
        assert shelf.stat().st_mtime_ns == written, "nothing was written for it"
    held = installs(None)
    assert len(held.gone) == 3
    assert keep_on_disk()
    assert not keep_on_disk(), "there is nothing new"
    assert (pairs(), counts()) == expected, "the process that had read it before"
    forget_states()
    assert (pairs(), counts()) == expected
    assert not len(installs(None).gone)


def test_a_process_that_has_it_goes_over_to_the_newer_one(shelf: Path, settings: Any) -> None:
    before = installs(None)
    tell(2, quill="9")
    installs(None)
    forget_states()
    keep_on_disk()
    newer = store._from_shelf(after=before.sighting)
    assert newer is not None
    assert newer.sighting > before.sighting


@pytest.mark.parametrize(
    ("harm", "said"),
    [
        (lambda data: data[: len(data) // 2], "cut short"),
        (lambda data: b"", "cut short"),
        (lambda data: b"else" + data[4:], "no state of this form"),
        (lambda data: data[:70] + bytes([data[70] ^ 1]) + data[71:], "check sum"),
        (lambda data: data.replace(b'"release": "', b'"release": "9'), "cut short"),
    ],
)
def test_a_harmed_file_is_told_and_made_anew(
    shelf: Path, settings: Any, caplog: pytest.LogCaptureFixture, harm: Any, said: str
) -> None:
    expected = read_anew(settings)
    pairs()
    shelf.write_bytes(harm(shelf.read_bytes()))
    forget_states()
    with caplog.at_level(logging.WARNING):
        assert (pairs(), counts()) == expected
    assert said in caplog.text
    assert "installations" in caplog.text
    caplog.clear()
    forget_states()
    assert pairs() == expected[0]
    assert not caplog.records, "it lies there whole again"


def test_one_of_another_release_is_made_anew(
    shelf: Path, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    pairs()
    forget_states()
    store._SHELF._read = None
    monkeypatch.setattr("tarn.apps.estate.store.shelf._release", lambda: "9.9")
    with caplog.at_level(logging.WARNING):
        pairs()
    assert "this is 9.9" in caplog.text


def test_a_full_disk_costs_time_alone(
    shelf: Path, settings: Any, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    expected = read_anew(settings)

    def full(*given: Any) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("tarn.apps.estate.store.shelf._write", full)
    assert (pairs(), counts()) == expected
    assert "no room" in caplog.text
    assert list(shelf.parent.glob("*.state*")) == []


def test_where_a_backup_was_put_in_place_the_state_is_of_other_data(shelf: Path, settings: Any) -> None:
    pairs()
    kept = shelf.read_bytes()
    raw_connection().execute(
        "UPDATE estate_sighting SET document = 'another' WHERE id = (SELECT max(id) FROM estate_sighting)"
    )
    forget_states()
    expected = read_anew(settings)
    assert pairs() == expected[0]
    assert shelf.read_bytes() != kept
    clear()
    assert not shelf.exists()


def test_what_is_not_kept_yet_is_no_state(shelf: Path, settings: Any) -> None:
    clear()
    with transaction.atomic():
        forget_states()
        pairs()
    assert not shelf.exists()
