"""When names were first seen: carried on from evidence to evidence, and from disk, it is what reading it whole says."""

from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tarn.apps.estate.door.entrance import forget, take_in
from tarn.apps.estate.software import first_sights as store
from tarn.apps.estate.software.first_sights import first_sights, keep_on_disk
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.remembered import forget as forget_states
from tests.documents import packages, sighting

pytestmark = pytest.mark.django_db(transaction=True)

# A device, the day it is read at (past ones, and one moment twice, among them), and what is on it.
readings = st.tuples(
    st.integers(0, 2), st.sampled_from([1.0, 2.0, 2.5, 3.0]), st.sets(st.sampled_from(["quill", "corvid", "tern"]))
)


def read(device: int, day: float, names: set[str], number: int) -> None:
    held = packages(**dict.fromkeys(sorted(names), "1"))
    told = sighting(
        f"d{device}", day, identity={"serial": f"S-{device}"}, packages=held, id=f"reading-{device}-{number}"
    )
    list(take_in([told]))


def whole() -> dict[int, int]:
    rows = raw_connection().execute("SELECT listing_id, min(valid_from) FROM estate_installspan GROUP BY listing_id")
    return dict(rows.fetchall())


@given(told=st.lists(readings, min_size=1, max_size=6))
@settings(max_examples=25, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_carried_on_it_is_what_reading_it_whole_says(told: list[tuple[int, float, set[str]]], db: Any) -> None:
    forget()
    forget_states()
    for table in ("estate_installspan", "estate_sectionstate"):
        raw_connection().execute(f"DELETE FROM {table}")
    for number, (device, day, names) in enumerate(told):
        read(device, day, names, raw_connection().execute("SELECT count(*) FROM estate_sighting").fetchone()[0])
        assert first_sights() == whole(), f"after reading {number}"


def test_another_process_begins_from_disk_and_adds_what_came_since(
    tmp_path: Path, settings: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    settings.TARN_STATES = str(tmp_path / "states")
    forget()
    read(1, 1.0, {"quill"}, 1)
    forget_states()
    assert keep_on_disk()
    assert not keep_on_disk(), "there is nothing new"
    read(2, 2.0, {"corvid"}, 2)
    forget_states()
    expected = whole()
    monkeypatch.setattr(store, "_among", counting := Counting(store._among))
    assert first_sights() == expected
    assert all(condition != "1" for condition in counting.asked), "nothing is read whole"


class Counting:
    """Hands questions on, and notes their conditions."""

    def __init__(self, asks: Any) -> None:
        self.asks, self.asked = asks, []

    def __call__(self, condition: str, *values: object) -> Any:
        self.asked.append(condition)
        return self.asks(condition, *values)
