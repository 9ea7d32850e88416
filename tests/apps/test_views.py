"""Views of the register: kept, shared, kept anew, dropped, and put back."""

import pytest

from tarn.apps.estate.models import KeptView
from tarn.apps.people.models import AuditEntry

pytestmark = pytest.mark.django_db
SERVERS = {"name": "Servers by memory", "filter": "kind = server", "columns": ["name", "memory", "evidence"],
           "sort": "-memory", "bands": ["place"]}  # fmt: skip


def post(client, path, body):
    return client.post(f"/api/{path}", body, content_type="application/json")


def test_a_view_is_kept_and_kept_anew_under_its_name_and_each_can_be_undone(as_role):
    maker = as_role("operator")
    (held,) = post(maker, "views", SERVERS).json()
    assert {n: held[n] for n in SERVERS} == SERVERS
    (anew,) = post(maker, "views", {**SERVERS, "sort": "name"}).json()
    assert (anew["id"], anew["sort"]) == (held["id"], "name")
    manager = as_role("manager")
    assert post(manager, f"audit/{AuditEntry.objects.latest('pk').pk}/undo", {}).status_code == 200
    assert manager.get("/api/views").json()[0]["sort"] == "-memory"
    assert maker.delete(f"/api/views/{held['id']}").status_code == 204
    assert maker.get("/api/views").json() == []
    assert post(manager, f"audit/{AuditEntry.objects.latest('pk').pk}/undo", {}).status_code == 200
    assert [v["name"] for v in manager.get("/api/views").json()] == ["Servers by memory"]
    assert maker.delete("/api/views/999").status_code == 404


@pytest.mark.parametrize(
    ("change", "field", "says"),
    [
        ({"name": " "}, "name", "needs a name"),
        ({"filter": "kind ="}, "filter", "stops short"),
        ({"columns": ["shoe"]}, None, "There is no field “shoe”"),
        ({"sort": "-shoe"}, None, "There is no field “shoe”"),
        ({"bands": ["shoe"]}, "bands", "There is no band “shoe”"),
    ],
)
def test_a_view_that_cannot_be_is_refused_at_its_field(as_role, change, field, says):
    refused = post(as_role("operator"), "views", {**SERVERS, **change})
    assert (refused.status_code, refused.json().get("field")) == (422, field)
    assert says in refused.json()["detail"]
    assert not KeptView.objects.exists()


def test_what_is_somebody_s_own_is_seen_by_nobody_else_and_changed_by_nobody_else(as_role):
    maker, other, viewer = as_role("operator"), as_role("manager"), as_role("viewer")
    (own,) = post(maker, "views", {**SERVERS, "access": "own"}).json()
    assert other.get("/api/views").json() == []
    assert other.delete(f"/api/views/{own['id']}").status_code == 404
    assert post(other, "views", SERVERS).json()["detail"].startswith("There is a view")
    (read,) = post(maker, "views", {**SERVERS, "access": "read"}).json()
    assert viewer.get("/api/views").json()[0]["made_by"] == "operator"
    assert other.delete(f"/api/views/{read['id']}").status_code == 403
    assert post(viewer, "views", {**SERVERS, "name": "Mine"}).status_code == 403


def test_a_set_that_a_view_speaks_of_is_not_dropped(as_role):
    maker = as_role("operator")
    kept = post(maker, "sets", {"name": "Till desks", "filter": "kind = till"}).json()
    post(maker, "views", {**SERVERS, "filter": 'in set "Till desks"'})
    refused = maker.delete(f"/api/sets/{kept['id']}")
    assert refused.status_code == 409
    assert "the view “Servers by memory”" in refused.json()["detail"]
