"""A disk that is nearly full: it is said on screen and to whoever sends, nothing is half written, reading goes on."""

from types import SimpleNamespace

import pytest

from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.models import Sighting
from tarn.apps.people import room
from tarn.core.sightings import read_sighting
from tests.apps.test_senders import document


@pytest.fixture
def full(monkeypatch):
    """The disk as though only 3 % of it were left, and a way to make room again."""
    usage = SimpleNamespace(total=100 << 30, used=0, free=(3 << 30) // 10)
    monkeypatch.setattr(room.shutil, "disk_usage", lambda path: usage)
    room.forget_room()
    yield usage
    room.forget_room()


def test_writing_stops_in_order_and_goes_on_by_itself(as_role, estate, full, caplog):
    operator = as_role("operator")
    assert "nearly full" in operator.get("/api/me").json()["warning"]
    assert operator.get("/api/assets").json()["total"] == 4, "reading goes on"
    held = Sighting.objects.count()
    sent = document()
    for path, body in (("/api/sightings", sent), ("/api/decide", {"assets": estate[:1], "place": "Quay"})):
        answer = operator.post(path, body, content_type="application/json")
        assert (answer.status_code, answer["Retry-After"]) == (507, "60")
        assert "nearly full" in answer.json()["detail"]
    with pytest.raises(room.NoRoomError):
        list(take_in([read_sighting(sent)]))
    assert Sighting.objects.count() == held
    assert sum("nearly full" in r.message for r in caplog.records) == 1, "said once in the log, not with every request"
    full.free = 50 << 30
    room.forget_room()
    assert operator.post("/api/sightings", sent, content_type="application/json").status_code == 200
    assert operator.get("/api/me").json()["warning"] == ""


@pytest.mark.parametrize(("free", "total", "enough"), [(4, 100, True), (1, 100, False), (1, 10, True), (0, 10, False)])
def test_a_twentieth_or_two_gigabytes_are_room(free, total, enough):
    found = room.Room(free << 30, free * 100 // total)
    assert found.enough == enough
