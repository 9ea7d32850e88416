"""The API: roles, refusals as problem details, tokens, undo, export."""

import csv
import io
import json

import pytest
from asgiref.sync import async_to_sync
from django.test import Client

from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.models import Asset
from tarn.apps.people.models import AuditEntry
from tests.documents import DAY, START, packages, reading, sighting

pytestmark = pytest.mark.django_db


async def whole(answer):
    return b"".join([piece async for piece in answer.streaming_content]).decode()


def post(client, path, body, method="post"):
    return getattr(client, method)(path, json.dumps(body), content_type="application/json")


def test_nobody_gets_in_without_signing_in(estate):
    client = Client()
    for path in ("/api/assets", "/api/credentials", "/api/intake", "/api/audit", f"/api/assets/{estate[0]}"):
        answer = client.get(path)
        assert answer.status_code == 401
        assert answer["Content-Type"] == "application/problem+json"
    assert client.get("/api/me").json() is None
    assert client.get("/api/nonsense").status_code == 404


def test_a_session_needs_the_csrf_token(people):
    client = Client(enforce_csrf_checks=True)
    client.get("/api/csrf")
    client.force_login(people["manager"], backend="django.contrib.auth.backends.ModelBackend")
    assert post(client, "/api/sets", {"name": "x", "filter": ""}).status_code == 403


REFUSED = [
    ("viewer", "post", "/api/decide", {"assets": [1], "kind": "server"}),
    ("viewer", "post", "/api/sets", {"name": "x", "filter": "kind = server"}),
    ("viewer", "get", "/api/audit", None),
    (
        "operator",
        "post",
        "/api/credentials",
        {"name": "c", "protocol": "ssh", "reach": ["10.60.0.0/16"], "user": "u", "secrets": {"password": "p"}},
    ),
    ("operator", "post", "/api/sweeps", {"name": "s", "ranges": ["10.0.0.1"]}),
    ("viewer", "post", "/api/sightings", {}),
]


@pytest.mark.parametrize(("role", "method", "path", "body"), REFUSED)
def test_what_a_role_may_not_do_is_refused_and_changes_nothing(as_role, estate, role, method, path, body):
    before = AuditEntry.objects.count()
    answer = as_role(role).get(path) if method == "get" else post(as_role(role), path, body)
    assert answer.status_code == 403
    assert "needs the role" in answer.json()["detail"]
    assert AuditEntry.objects.count() == before


def test_asking_gives_rows_total_and_sentence(as_role, estate):
    got = (
        as_role("viewer")
        .get("/api/assets", {"filter": "kind = server", "fields": "name,memory", "sort": "-memory"})
        .json()
    )
    assert (got["total"], got["of"], got["sentence"]) == (2, 4, "assets whose kind is server")
    assert [(r["name"], r["memory"]) for r in got["rows"]] == [("salt-tix-01", 32 << 30), ("avrn-gate-01", 8 << 30)]
    assert "sweep" in got["rows"][0]["marks"]


def test_a_filter_with_an_error_names_its_place(as_role, estate):
    answer = as_role("viewer").get("/api/assets", {"filter": "knid = server"})
    assert answer.status_code == 422
    problem = answer.json()
    assert (problem["start"], problem["end"], problem["tries"]) == (0, 4, ["kind"])
    for query in ({"fields": "nam"}, {"as_of": "soon"}, {"sort": "nam"}):
        refused = as_role("viewer").get("/api/assets", query)
        assert refused.status_code == 422
        assert refused.json()["detail"]


def test_the_faces_of_a_filter(as_role, estate):
    got = post(as_role("viewer"), "/api/filter", {"text": "kind=server  and not name~tix"}).json()
    assert got["text"] == "kind = server and not name ~ tix"
    assert post(as_role("viewer"), "/api/filter", {"tree": got["tree"]}).json() == got
    assert post(as_role("viewer"), "/api/filter", {"tree": {"is": "nonsense"}}).status_code == 422


def test_a_filter_is_drafted_written_and_narrowed(as_role, estate):
    viewer = as_role("viewer")
    draft = post(viewer, "/api/filter/draft", {"text": "kind = server and unread accounts"}).json()
    assert [item["type"] for item in draft["items"]] == ["rule", "written"]
    draft["items"][0]["text"] = "till"
    written = post(viewer, "/api/filter/written", draft).json()
    assert written == {"text": "kind = till and unread accounts", "problems": []}
    draft["items"][0]["text"] = "sever"
    [problem] = post(viewer, "/api/filter/written", draft).json()["problems"]
    assert problem["id"] == draft["items"][0]["id"]
    assert "sever" in problem["detail"]
    nested = {"type": "group", "id": 1, "mode": "none", "items": []}
    for number in range(2, 300):
        nested = {"type": "group", "id": number, "mode": "none", "items": [nested, dict(draft["items"][1], id=900)]}
    refused = post(viewer, "/api/filter/written", nested)
    assert refused.status_code == 422
    asked = {"filter": "name ~ tix or name ~ a", "condition": "kind = server", "how": "narrow"}
    narrowed = post(viewer, "/api/filter/narrowed", asked).json()["text"]
    assert narrowed == "(name ~ tix or name ~ a) and kind = server"
    held = {
        part["filter"]: part["held"]
        for part in viewer.get("/api/strata", {"filter": narrowed, "bands": "kind"}).json()[0]["parts"]
    }
    assert held == {"kind = server": True}
    assert post(viewer, "/api/filter/narrowed", {**asked, "how": "widen", "filter": narrowed}).json() == {
        "text": "name ~ tix or name ~ a"
    }
    refused = post(viewer, "/api/filter/narrowed", {**asked, "condition": "knid = server"})
    assert refused.status_code == 422


def test_export_has_every_row_and_runs_no_formula(as_role, estate):
    client = as_role("operator")
    post(client, "/api/decide", {"assets": [estate[0]], "note": "=1+1"})
    answer = client.get("/api/assets.csv", {"fields": "name,note", "filter": "kind = server"})
    rows = list(csv.reader(io.StringIO(async_to_sync(whole)(answer))))
    assert rows == [["name", "note"], ["avrn-gate-01", ""], ["salt-tix-01", "'=1+1"]]


def test_adopt_set_aside_and_undo(as_role, people):
    operator = as_role("operator")
    documents = [
        sighting(f"new-{i}", identity={"serial": f"NEW-{i}"}).model_dump(mode="json", by_alias=True, exclude_none=True)
        for i in range(3)
    ]
    for document in documents:
        assert post(operator, "/api/sightings", document).json()[0]["verdict"] == "new"
    waiting = operator.get("/api/intake").json()
    assert waiting["total"] == 3
    found = [d["id"] for g in waiting["groups"] for d in g["devices"]]
    adopted = post(operator, "/api/decide", {"assets": found[:2], "standing": "register", "kind": "server"}).json()
    assert operator.get("/api/assets").json()["total"] == 2
    assert post(operator, "/api/decide", {"assets": found[2:], "standing": "set aside"}).status_code == 422
    post(operator, "/api/decide", {"assets": found[2:], "standing": "set aside", "aside_reason": "a guest's"})
    assert operator.get("/api/intake").json()["total"] == 0
    assert operator.get("/api/set-aside").json()[0]["aside_reason"] == "a guest's"
    undone = post(operator, f"/api/audit/{adopted['entry']}/undo", {}).json()
    assert operator.get("/api/assets").json()["total"] == 0
    assert post(operator, f"/api/audit/{adopted['entry']}/undo", {}).status_code == 409
    post(operator, f"/api/audit/{undone['id']}/undo", {})
    assert operator.get("/api/assets").json()["total"] == 2


def test_a_word_taken_back_lets_the_machine_speak_again(as_role, estate):
    operator = as_role("operator")
    post(operator, "/api/decide", {"assets": [estate[0]], "place": "Workshop"})
    assert operator.get("/api/assets", {"filter": "place = Workshop"}).json()["total"] == 1
    post(operator, "/api/decide", {"assets": [estate[0]], "place": None})
    assert operator.get(f"/api/assets/{estate[0]}").json()["plate"]["place"] == "Saltholm"


def test_a_bad_sighting_is_refused_whole_with_its_places(as_role, people):
    bad = sighting("x").model_dump(mode="json", by_alias=True, exclude_none=True)
    bad["readings"].append(reading("packages", [*packages(ok="1"), {"name": ""}]))
    answer = post(as_role("operator"), "/api/sightings", bad)
    assert answer.status_code == 422
    assert any("items[1].name" in f["place"] for f in answer.json()["faults"])
    assert not Asset.objects.exists()


def test_tokens_speak_for_their_person_until_withdrawn(as_role, estate):
    made = post(as_role("viewer"), "/api/tokens", {"name": "report"}).json()
    script = Client(headers={"Authorization": f"Bearer {made['token']}"})
    assert script.get("/api/assets").json()["total"] == 4
    assert post(script, "/api/decide", {"assets": [1], "kind": "server"}).status_code == 403
    as_role("viewer").delete(f"/api/tokens/{made['id']}")
    assert script.get("/api/assets").status_code == 401
    assert as_role("manager").delete(f"/api/tokens/{made['id']}").status_code == 404


def test_secrets_never_come_back(as_role, people):
    manager = as_role("manager")
    secret = "tidewater-7781"
    body = {
        "name": "c",
        "protocol": "ssh",
        "reach": ["10.60.0.0/16"],
        "user": "reader",
        "secrets": {"password": secret},
    }
    made = post(manager, "/api/credentials", body).json()
    from tarn.apps.discovery.credentials.sealing import opened
    from tarn.apps.discovery.models import Credential

    held = Credential.objects.get()
    assert secret.encode() not in bytes(held.sealed)
    assert opened(held).password == secret
    assert secret not in repr(opened(held))
    assert secret not in manager.get("/api/credentials").content.decode() + json.dumps(
        list(AuditEntry.objects.values("detail"))
    )
    kept = post(
        manager, f"/api/credentials/{made['id']}", {**body, "secrets": {}, "preference": 7, "version": 1}, "put"
    )
    assert kept.status_code == 200
    assert opened(Credential.objects.get()).password == secret
    stale = post(manager, f"/api/credentials/{made['id']}", {**body, "version": 1}, "put")
    assert stale.status_code == 409


@pytest.mark.parametrize(
    ("change", "field"),
    [
        ({"name": " "}, "name"),
        ({"secrets": {}}, "password"),
        ({"port": 70000}, "port"),
        ({"user": ""}, "user"),
        ({"protocol": "snmp-v3", "reach": ["10.60.0.0/16"], "user": "u", "secrets": {"auth": "short"}}, "auth"),
        ({"protocol": "snmp-v2c", "reach": ["10.60.0.0/16"], "secrets": {"password": "x"}}, "password"),
    ],
)
def test_credentials_that_cannot_stand_are_refused_at_their_field(as_role, people, change, field):
    body = {
        "name": "c",
        "protocol": "ssh",
        "reach": ["10.60.0.0/16"],
        "user": "reader",
        "secrets": {"password": "p"},
        **change,
    }
    answer = post(as_role("manager"), "/api/credentials", body)
    assert (answer.status_code, answer.json()["field"]) == (422, field)


def test_sets_are_kept_counted_and_dropped(as_role, estate):
    operator = as_role("operator")
    made = post(operator, "/api/sets", {"name": "servers", "filter": "kind=server"}).json()
    assert (made["filter"], made["count"]) == ("kind = server", 2)
    assert post(operator, "/api/sets", {"name": "servers", "filter": ""}).status_code == 409
    assert operator.get("/api/sets").json()[0]["count"] == 2
    assert operator.delete(f"/api/sets/{made['id']}").status_code == 204
    assert operator.get("/api/sets").json() == []


def test_a_licence_key_is_shown_whole_only_to_who_may_see_it(as_role):
    document = sighting(
        "salt-pc-01",
        installs=[
            {"name": "Quill", "user": "ines", "installed": START, "used": START - 200 * DAY, "removes": "remove.exe /s"}
        ],
        licence_keys=[{"product": "Quill", "key": "BCDFG-HJKMP-QRTVW", "state": "licensed"}],
    )
    (taken,) = take_in([document])

    def shown(role):
        held = as_role(role).get(f"/api/assets/{taken.asset}").json()["items"]["licence_keys"]
        raw = as_role(role).get(f"/api/sightings/{document.id}").json()["readings"]
        return held[0]["key"], next(r for r in raw if r["section"] == "licence_keys")["items"][0]["key"]

    assert shown("operator") == ("…QRTVW", "…QRTVW")
    assert shown("manager") == ("BCDFG-HJKMP-QRTVW", "BCDFG-HJKMP-QRTVW")
    history = as_role("viewer").get(f"/api/assets/{taken.asset}/history").content
    assert b"HJKMP" not in history
    for filter_, count in (
        ("installs[name ~ quill and used < now - 90d]", 1),
        ("installs[user = none]", 0),
        ("licence_keys[product = Quill and state = licensed]", 1),
    ):
        asked = as_role("viewer").get("/api/assets", {"filter": f"standing = intake and {filter_}"})
        assert asked.json()["total"] == count, filter_


def test_a_whole_selection_is_changed_as_it_was_shown_and_undone(as_role, estate):
    operator = as_role("operator")
    body = {"filter": "kind = server", "expected": 2, "department": "Berths"}
    done = post(operator, "/api/decide", body).json()
    assert done["assets"] == 2
    assert operator.get("/api/assets", {"filter": "department = Berths"}).json()["total"] == 2
    stale = post(operator, "/api/decide", {**body, "expected": 5})
    assert (stale.status_code, "look again" in stale.json()["detail"]) == (409, True)
    assert post(operator, "/api/decide", {"filter": "kind = server"}).status_code == 422
    assert post(operator, "/api/decide", {"filter": "knid = server", "state": "retired"}).json()["tries"] == ["kind"]
    post(operator, f"/api/audit/{done['entry']}/undo", {})
    assert operator.get("/api/assets", {"filter": "department = Berths"}).json()["total"] == 0


def test_no_two_shapes_of_the_api_share_a_name():
    """The OpenAPI document knows shapes by name alone: of two that share one, one would be told wrongly."""
    from ninja import Schema

    import tarn.site.api  # noqa: F401  (all calls)

    def below(shape):
        return {shape, *(s for one in shape.__subclasses__() for s in below(one))}

    names = [s.__name__ for s in below(Schema) if s.__module__.startswith("tarn.")]
    assert sorted(names) == sorted(set(names))


def test_every_path_belongs_to_one_router():
    """Of two routers with one path only the first is ever asked; the other's methods would be refused (405)."""
    from tarn.site.api import api

    paths = [prefix + path for prefix, router in api._routers for path in router.path_operations]
    assert sorted(paths) == sorted(set(paths))


def test_an_asset_is_entered_by_hand_and_refused_where_it_cannot_be(as_role, estate):
    operator = as_role("operator")
    entered = post(operator, "/api/register", {"kind": "camera", "name": "salt-cam-99", "place": "Saltholm"}).json()
    assert operator.get(f"/api/assets/{entered['asset']}").json()["plate"]["name"] == "salt-cam-99"
    wrong = post(operator, "/api/register", {"kind": "camra", "name": "salt-cam-98"})
    assert (wrong.status_code, wrong.json()["field"]) == (422, "kind")
    assert post(as_role("viewer"), "/api/register", {"kind": "camera", "name": "x"}).status_code == 403


def test_the_shell_is_told_how_much_waits_and_a_long_intake_how_much_of_it_is_shown(as_role, monkeypatch):
    from tarn.apps.estate.register import intake

    for n in range(7):
        list(take_in([sighting(f"new-{n}", 0, identity={"serial": f"S-10{n}"})]))
    operator = as_role("operator")
    assert operator.get("/api/intake/count").json() == {"waiting": 7}
    whole = intake.waiting
    monkeypatch.setattr(intake, "waiting", lambda: whole(most=5))
    told = operator.get("/api/intake").json()
    assert (told["total"], told["shown"], sum(len(g["devices"]) for g in told["groups"])) == (7, 5, 5)
    first = told["groups"][0]["devices"][0]["id"]
    body = {"assets": [first], "standing": "register"}
    assert operator.post("/api/decide", body, content_type="application/json").status_code < 300
    assert operator.get("/api/intake/count").json() == {"waiting": 6}
