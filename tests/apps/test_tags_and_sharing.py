"""Tags given and taken away; and who may see and change what a person keeps."""

import json

import pytest

from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.people.actions.accounts import make_person
from tarn.apps.people.models import AuditEntry

pytestmark = pytest.mark.django_db


def send(client, path, body, method="post"):
    return getattr(client, method)(f"/api/{path}", json.dumps(body), content_type="application/json")


def tagged(text):
    return sorted(ids(question(text)))


def test_tags_are_given_asked_taken_away_and_undone(as_role, estate, people):
    operator = as_role("operator")
    assert send(operator, "tags", {"assets": estate[:2], "add": ["Lent", "urgent "]}).json()["assets"] == 2
    assert send(operator, "tags", {"assets": estate[1:3], "add": ["lent", "to sell"]}).status_code == 200
    assert tagged("tags = lent") == estate[:3]
    assert tagged("tags = len") == [], "a tag is met whole"
    assert tagged("tags ~ sell") == estate[1:3]
    assert tagged("tags in (urgent, nothing)") == estate[:2]
    assert tagged("not tags = lent") == estate[3:]
    assert tagged("tags = none") == estate[3:]
    assert operator.get("/api/tags").json() == {"Lent": 2, "lent": 1, "to sell": 2, "urgent": 2}
    other = as_role("manager")
    assert send(other, "tags", {"filter": "tags = lent", "expected": 3, "remove": ["LENT"]}).status_code == 200
    assert tagged("tags = lent") == [], "another's word does not come back"
    assert tagged("tags = urgent") == estate[:2]
    entry = AuditEntry.objects.filter(verb="tagged").latest("pk")
    assert other.post(f"/api/audit/{entry.pk}/undo").status_code == 200
    assert tagged("tags = lent") == estate[:3]


def test_what_cannot_be_tagged_is_refused_and_changes_nothing(as_role, estate):
    operator = as_role("operator")
    assert send(operator, "tags", {"assets": estate[:1]}).json()["field"] == "add"
    assert send(operator, "tags", {"filter": "kind = server", "expected": 5, "add": ["x"]}).status_code == 409
    assert send(as_role("viewer"), "tags", {"assets": estate[:1], "add": ["x"]}).status_code == 403
    send(operator, "tags", {"assets": estate[:1], "add": ["x"]})
    assert "tagged so already" in send(operator, "tags", {"assets": estate[:1], "add": ["X"]}).json()["detail"]
    made = send(as_role("manager"), "own-fields", {"name": "Tags"})
    assert (made.status_code, made.json()["field"]) == (422, "name")


@pytest.fixture
def wren_and_piet(db, client):
    from django.test import Client

    out = []
    for name in ("wren", "piet"):
        made = Client()
        made.force_login(
            make_person(None, name, "low-water-1234", "manager"), backend="django.contrib.auth.backends.ModelBackend"
        )
        out.append(made)
    return out


DEFINITION = {"columns": [{"field": "name"}], "filter": "kind = server"}


@pytest.mark.parametrize(
    ("path", "body", "listed"),
    [
        ("sets", {"name": "Servers", "filter": "kind = server"}, "sets"),
        ("reports/composed", {"name": "Servers", "definition": DEFINITION}, "reports/list"),
    ],
)
def test_what_is_kept_for_oneself_nobody_else_sees(wren_and_piet, as_role, estate, path, body, listed):
    wren, piet = wren_and_piet
    made = send(wren, path, {**body, "access": "own"}).json()
    number = made.get("id") or int(made["key"])
    change = {**body, "name": "Theirs", "access": "read", "version": 1}

    def names(client):
        return {r["name"] for r in client.get(f"/api/{listed}").json()}

    assert "Servers" in names(wren)
    assert "Servers" not in names(piet)
    assert send(piet, f"{path}/{number}", change, "put").status_code == 404
    assert "Servers" in names(as_role("administrator"))
    assert send(wren, f"{path}/{number}", change, "put").status_code == 200
    assert "Theirs" in names(piet)
    refused = send(piet, f"{path}/{number}", {**change, "version": 2}, "put")
    assert (refused.status_code, "Only wren" in refused.json()["detail"]) == (403, True)
    assert piet.delete(f"/api/{path}/{number}").status_code == 403
    odd = send(wren, f"{path}/{number}", {**change, "version": 2, "access": "some"}, "put")
    assert odd.status_code == 422
    assert send(wren, f"{path}/{number}", {**change, "version": 2, "access": "all"}, "put").status_code == 200
    assert piet.delete(f"/api/{path}/{number}").status_code == 204


def test_a_filter_cannot_look_into_a_set_that_is_someone_elses(wren_and_piet, estate):
    wren, piet = wren_and_piet
    send(wren, "sets", {"name": "Mine", "filter": "kind = server", "access": "own"})
    question_ = {"filter": 'in set "Mine"'}
    assert wren.get("/api/assets", question_).json()["total"] == 2
    refused = piet.get("/api/assets", question_)
    assert (refused.status_code, "Mine" in json.dumps(refused.json().get("tries"))) == (422, False)
