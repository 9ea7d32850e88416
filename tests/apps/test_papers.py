"""Notes and files on assets: kept, fetched, taken away and brought back; they go where a merge takes their asset."""

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from tarn.apps.estate.papers import keep as actions
from tarn.apps.people.models import AuditEntry
from tests.apps.test_reports import body

pytestmark = pytest.mark.django_db


@pytest.fixture
def at_home(settings, tmp_path):
    settings.HOME = tmp_path
    return tmp_path


def add(client, asset, text="", file=None):
    return client.post(f"/api/assets/{asset}/papers", {"text": text, **({"file": file} if file else {})})


def test_a_file_comes_back_as_it_was_given_and_one_content_is_kept_once(as_role, estate, at_home):
    operator = as_role("operator")
    for asset in estate[:2]:
        added = add(operator, asset, "Its manual", SimpleUploadedFile("../Hand book.html", b"<script>x</script>"))
        assert added.status_code == 200, added.content
    (kept,) = as_role("viewer").get(f"/api/assets/{estate[0]}/papers").json()
    assert (kept["file_name"], kept["size"], kept["text"]) == ("Hand book.html", 18, "Its manual")
    answer = as_role("viewer").get(f"/api/papers/{kept['id']}/file")
    assert body(answer) == b"<script>x</script>"
    assert answer["Content-Type"] == "application/octet-stream", "never shown as a page of Tarn's own"
    assert answer["Content-Disposition"].startswith("attachment")
    assert len(list((at_home / "papers").iterdir())) == 1


def test_a_note_is_taken_away_brought_back_and_seen_in_the_past(as_role, estate, at_home):
    operator = as_role("operator")
    (kept,) = add(operator, estate[0], "Lent to the slipway").json()
    assert operator.delete(f"/api/papers/{kept['id']}").status_code == 204
    assert operator.get(f"/api/assets/{estate[0]}/papers").json() == []
    assert operator.get(f"/api/papers/{kept['id']}/file").status_code == 404
    assert operator.delete(f"/api/papers/{kept['id']}").status_code == 404
    entry = AuditEntry.objects.get(verb="took away a paper")
    assert operator.post(f"/api/audit/{entry.pk}/undo").status_code == 200
    assert [p["text"] for p in operator.get(f"/api/assets/{estate[0]}/papers").json()] == ["Lent to the slipway"]
    assert operator.get(f"/api/assets/{estate[0]}/papers", {"as_of": "2026-01-01"}).json() == []


def test_papers_go_where_a_merge_takes_their_asset_and_come_back(as_role, estate, at_home):
    manager = as_role("manager")
    add(manager, estate[2], "Of the laptop")
    merged = manager.post(
        f"/api/assets/{estate[3]}/merge", {"other": estate[2]}, content_type="application/json"
    ).json()
    assert [p["text"] for p in manager.get(f"/api/assets/{estate[3]}/papers").json()] == ["Of the laptop"]
    assert manager.post(f"/api/audit/{merged['entry']}/undo").status_code == 200
    assert manager.get(f"/api/assets/{estate[3]}/papers").json() == []


def test_what_cannot_be_kept_is_refused(as_role, estate, at_home, monkeypatch):
    operator = as_role("operator")
    assert add(operator, estate[0]).json()["field"] == "text"
    assert add(operator, 999, "x").status_code == 404
    assert add(as_role("viewer"), estate[0], "x").status_code == 403
    monkeypatch.setattr(actions, "MOST_BYTES", 10)
    large = add(operator, estate[0], "", SimpleUploadedFile("large.bin", b"x" * 11))
    assert (large.status_code, large.json()["field"]) == (422, "file")
    assert list((at_home / "papers").iterdir()) == [], "nothing half-written stays"
    assert add(operator, estate[0], "x" * 20_001).json()["field"] == "text"
