"""Two organisations in one Tarn: whoever is limited to one can learn nothing of the other, by whatever call."""

import io
import json
import time
import zipfile
from datetime import date

import pytest
from asgiref.sync import async_to_sync
from django.contrib.auth import get_user_model
from django.test import AsyncClient, Client

from tarn.apps.discovery.credentials.change import make_credential
from tarn.apps.discovery.credentials.inputs import CredentialIn
from tarn.apps.discovery.imports.change import upload
from tarn.apps.discovery.intake.inputs import RuleIn
from tarn.apps.discovery.intake.rules import make_rule
from tarn.apps.discovery.models import Credential, Network, Run, RunAddress, Source, Sweep, Trial
from tarn.apps.discovery.networks.change import make_network
from tarn.apps.discovery.networks.inputs import NetworkIn
from tarn.apps.discovery.outposts.change import make_outpost
from tarn.apps.discovery.reporters.change import enrol
from tarn.apps.discovery.sources.change import make_source
from tarn.apps.discovery.sources.inputs import SourceIn
from tarn.apps.discovery.sweeps.change import make_sweep
from tarn.apps.discovery.sweeps.inputs import SweepIn
from tarn.apps.discovery.sweeps.runs import plan_run
from tarn.apps.estate.asking.ask import count, ids, question
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.models import Asset, KeptView, Product, Sighting
from tarn.apps.estate.register import pages as register
from tarn.apps.estate.register.decide import decide
from tarn.apps.estate.selections.inputs import SetIn
from tarn.apps.estate.selections.keep import keep_set
from tarn.apps.estate.selections.views import WantedView, keep_view
from tarn.apps.licences.actions.keys import add_keys
from tarn.apps.licences.actions.licences import make_licence
from tarn.apps.licences.inputs import LicenceIn
from tarn.apps.licences.models import Key, Licence, Pin, Purchase
from tarn.apps.lifecycle.actions.contracts import make_contract
from tarn.apps.lifecycle.actions.orders import make_order
from tarn.apps.lifecycle.inputs import ContractIn, PurchaseOrderIn
from tarn.apps.lifecycle.models import Contract, Order, Receipt
from tarn.apps.people.actions.accounts import make_person
from tarn.apps.people.actions.organisations import make_organisation, set_rights
from tarn.apps.people.models import AuditEntry, Organisation
from tarn.apps.people.scope import limited_to
from tarn.apps.software.actions.rulings import rule
from tarn.apps.software.inputs import SoftwareRulingIn
from tarn.site.api import api
from tarn.site.doors import WHOLE
from tests.documents import packages, sighting

pytestmark = pytest.mark.django_db
MARK = "zephyr"
"""Stands in every word of the other organisation."""


def device(name, organisation, day=0, **more):
    """A sighting of a device of an organisation."""
    place = {"address": more.pop("address", "10.60.4.9"), "place": f"{name}-place", "organisation": organisation}
    more.setdefault("identity", {"serial": f"SN-{name}", "manufacturer": f"{name}-works", "model": f"{name}-model"})
    return sighting(name, day, placement=place, source=f"{organisation}-night", **more)


@pytest.fixture
def two(people):
    """Two organisations; the second, and everything of it, has MARK in its name; a manager limited to the first."""
    ours, theirs = make_organisation(None, "Ferry"), make_organisation(None, MARK.title())
    tove = make_person(None, "tove", "low-water-1234", "manager")
    set_rights(None, tove.pk, "manager", [ours.pk])
    taken = list(
        take_in(
            [
                device("ferry-srv", "Ferry", packages=packages(shared="1", mine="2")),
                device(
                    f"{MARK}-srv",
                    MARK.title(),
                    packages=packages(**{"shared": "1", f"{MARK}-product": "9"}),
                    accounts=[{"name": f"{MARK}-root", "uid": 0, "administrator": True}],
                ),
                device(f"{MARK}-intake", MARK.title()),
                sighting(f"{MARK}-nobodys", identity={"serial": "N-1234"}, source=f"{MARK}-loose"),
            ]
        )
    )
    mine, other, waiting, loose = (t.asset for t in taken)
    facts = {"standing": "register", "state": "in use", "kind": "server"}
    decide(people["operator"], [mine], facts, "adopted")
    decide(people["operator"], [other, loose], {**facts, "person": f"{MARK} Person"}, "adopted")
    # All of it is the work of one who bears its name too.
    admin = make_person(None, f"{MARK}-chief", "low-water-1234", "administrator")
    own = {"organisation": theirs.pk}
    credential = make_credential(
        admin,
        CredentialIn.model_validate(
            {"name": f"{MARK}-ssh", "protocol": "ssh", "reach": ["10.60.0.0/16"], "user": MARK, **own}
        ),
        {"password": "x"},
    )
    network = make_network(
        None, NetworkIn.model_validate({"range": "10.60.99.0/24", "name": f"{MARK} net", "place": MARK, **own})
    )
    make_network(
        None,
        NetworkIn.model_validate(
            {"range": "10.60.4.0/24", "name": "ferry net", "place": "Quay", "organisation": ours.pk}
        ),
    )
    sweep = make_sweep(
        admin,
        SweepIn.model_validate(
            {"name": f"{MARK} night", "ranges": ["10.60.99.0/29"], "credentials": [credential.pk], **own}
        ),
    )
    run = plan_run(admin, sweep)
    RunAddress.objects.filter(run=run).update(outcome="answered", reason=f"{MARK} reason", asset_id=other)
    Run.objects.filter(pk=run.pk).update(state="done", ended_at=1)
    bind = make_credential(
        admin,
        CredentialIn(name=f"{MARK}-bind", protocol="ldap", reach=["10.60.0.0/16"], user=f"cn={MARK}", **own),
        {"password": "x"},
    )
    source = make_source(
        admin,
        SourceIn(
            name=f"{MARK} directory",
            kind="directory",
            settings={"address": "10.60.99.5"},
            credential=bind.pk,
            **own,
        ),
    )
    outpost, _ = make_outpost(admin, f"{MARK} post", [network.pk], theirs.pk)
    enrolment, _ = enrol(admin, f"{MARK} reporters", "http://t", theirs.pk)
    intake = make_rule(admin, RuleIn.model_validate({"name": f"{MARK} rule", "filter": f"name = {MARK}", **own}))
    trial = Trial.objects.create(credential=credential, address="10.60.99.2", route="direct", made_at=1)
    held = upload(admin, f"{MARK}.csv", iter([f"name,serial\n{MARK}-x,SN-77777\n".encode()]), theirs.pk)
    kept = keep_set(admin, SetIn(name=f"{MARK} set", filter=f"name ~ {MARK}"))
    view = keep_view(admin, WantedView(f"{MARK} view", f"name ~ {MARK}"))
    KeptView.objects.filter(pk=view.pk).update(organisation=theirs)
    licence = make_licence(
        admin, LicenceIn.model_validate({"name": f"{MARK} licence", "metric": "device", "products": [MARK], **own})
    )
    add_keys(admin, licence.pk, f"{MARK}-KEY-1", None)
    day = date(2026, 1, 1)
    contract = make_contract(
        admin, ContractIn.model_validate({"name": f"{MARK} contract", "provider": MARK, "kind": "lease", "starts": day, "cost": "7",
                "every": "month", **own})
    )  # fmt: skip
    line = {"kind": "laptop", "quantity": 2, "price": "7", "manufacturer": MARK}
    make_order(
        admin,
        PurchaseOrderIn.model_validate({"number": f"{MARK}-PO", "supplier": MARK, "day": day, "lines": [line], **own}),
    )
    client = Client()
    client.force_login(tove, backend="django.contrib.auth.backends.ModelBackend")
    ids = {
        "asset": other,
        "waiting": waiting,
        "loose": loose,
        "credentials": credential.pk,
        "sweeps": sweep.pk,
        "runs": run.pk,
        "sources": source.pk,
        "outposts": outpost.pk,
        "reporters": enrolment.pk,
        "intake": intake.pk,
        "trials": trial.pk,
        "software": Product.objects.get(name__istartswith=MARK).pk,
        "imports": held.pk,
        "sets": kept.pk,
        "views": view.pk,
        "licences": licence.pk,
        "lifecycle": contract.pk,
        "networks": network.pk,
        "document": Sighting.objects.filter(asset=other).order_by("pk").first().document,
        "entry_id": AuditEntry.objects.filter(verb="adopted").latest("pk").pk,
        "organisation": theirs.pk,
        "mine": mine,
        "ours": ours.pk,
    }
    client.ids, client.tove = ids, tove
    return client


OPEN = {
    "/first",
    "/reports",
    "/outposts/work",
    "/outposts/found",
    "/outposts/trials/{number}",
    "/csrf",
    "/hooks/{key}",
}


def calls(*methods):
    """Every call of the API by these methods, from its own description."""
    for path, verbs in api.get_openapi_schema()["paths"].items():
        for method in verbs:
            if method in methods and path.removeprefix("/api") not in OPEN:
                yield method, path


def filled(path, ids):
    """A call's address with the other organisation's numbers in it."""
    room = path.removeprefix("/api/").split("/")[0]
    number = {"people": 1, "tokens": 99}.get(room, ids.get(room, 1))
    return (
        path.replace("{number}", str(number))
        .replace("{asset}", str(ids["asset"]))
        .replace("{document}", ids["document"])
        .replace("{entry_id}", str(ids["entry_id"]))
        .replace("{token_id}", "99")
    )


QUESTIONS = ["", f"?filter=name ~ {MARK[:4]}", "?filter=standing in (register, intake)", "?as_of=2026-11-01"]


def text(answer):
    return (b"".join(answer) if answer.streaming else answer.content).decode().lower()


def test_no_reading_call_tells_of_another_organisation(two):
    seen = 0
    for _, path in calls("get"):
        if path.endswith("/events"):
            continue  # a stream; asked for below
        path = path.replace("{format}", "openvex")  # a form of the answer, nothing of anybody's
        for question_ in QUESTIONS if "{" not in path else [""]:
            answer = two.get(filled(path, two.ids) + question_)
            said = text(answer).replace(f"name ~ {MARK[:4]}", "").replace(two.ids["document"].lower(), "")
            assert MARK[:5] not in said, f"{path}{question_}: {said[:400]}"
            if "{" in path and f"GET {path.removeprefix('/api')}" not in WHOLE:
                assert answer.status_code == 404 or answer.content == b"null", f"{path} answered {answer.status_code}"
            seen += 1
    assert seen > 60
    assert two.get(f"/api/assets/{two.ids['mine']}").json()["plate"]["name"] == "ferry-srv"


@pytest.mark.parametrize("begun", ["", MARK[:3], "shared"])
def test_completion_and_counts_hold_only_ones_own(two, begun):
    for field in ("name", "place", "person", "manufacturer", "model", "organisation", "software.name"):
        asked = f"software[name = {begun}" if field == "software.name" else f"{field} = {begun}"
        said = text(two.get("/api/filter/complete", {"text": asked})).replace(asked, "")
        assert f"{MARK}-" not in said
        assert MARK.title().lower() not in said
    everything = two.get("/api/assets", {"filter": 'standing in (register, intake, "set aside")'}).json()
    assert (everything["total"], everything["of"]) == (1, 1)
    assert two.get("/api/crosscheck").json()["total"] == 1
    assert sum(p["count"] for p in two.get("/api/strata").json()[0]["parts"]) == 1
    assert two.get("/api/filter/complete", {"text": "place = "}).json()


BODIES = {
    "/assets/{asset}/merge": lambda i: {"other": i["mine"]},
    "/assets/{asset}/split": lambda i: {"sightings": [i["document"]]},
    "/decide": lambda i: {"assets": [i["asset"], i["waiting"], i["loose"]], "kind": "printer"},
    "/identity/rulings": lambda i: {"sighting": i["document"], "asset": None},
    "/runs/{number}/wish": lambda i: {"wish": "stop"},
    "/runs/{number}/again": lambda i: {"addresses": ["10.60.99.1"]},
    "/sweeps/{number}/exclude": lambda i: {"addresses": ["10.60.99.1"]},
    "/sources/{number}/pick": lambda i: {"pick": "servers"},
    "/credentials/{number}/secret": lambda i: {"secrets": {"password": "stolen"}},
    "/trials": lambda i: {"credential": i["credentials"], "address": "10.60.4.1"},
    "/outposts/{number}": lambda i: {"networks": [i["networks"]]},
    "/intake/rules/{number}": lambda i: {"in_force": True},
    "/intake/rules/rehearse": lambda i: {"filter": f"name ~ {MARK}"},
    "/sweeps/check": lambda i: {"ranges": ["10.60.99.0/24"]},
    "/credentials/{number}": lambda i: {
        "name": "y",
        "protocol": "ssh",
        "reach": ["10.60.0.0/16"],
        "user": "y",
        "version": 1,
    },
    "/sweeps/{number}": lambda i: {"name": "y", "ranges": ["10.60.4.0/30"], "version": 1},
    "/sweeps": lambda i: {"name": "y", "ranges": ["10.60.4.0/30"], "credentials": [i["credentials"]]},
    "/sources/{number}": lambda i: {"name": "y", "kind": "directory", "version": 1},
    "/sources": lambda i: {
        "name": "y",
        "kind": "directory",
        "settings": {"address": "10.60.4.5"},
        "credential": i["credentials"],
    },
    "/people/{number}": lambda i: {"role": "administrator"},
    "/people": lambda i: {"username": "z", "password": "low-water-1234"},
    "/organisations": lambda i: {"name": "z"},
    "/networks": lambda i: {"range": "10.60.99.0/25", "name": "z"},
    "/outposts": lambda i: {"name": "z", "networks": [i["networks"]]},
    "/imports/{number}": lambda i: {"name": "z", "mapping": {}},
    "/licences/{number}": lambda i: {"name": "y", "metric": "device", "products": ["y"], "version": 1},
    "/licences/{number}/purchases": lambda i: {"day": "2026-01-01", "quantity": 1, "price": "1"},
    "/licences/{number}/keys": lambda i: {"keys": "AAAA-BBBB"},
    "/licences/said": lambda i: {"product": "shared-tool", "assets": [i["asset"]], "says": "exempt", "why": "y"},
    "/lifecycle/contracts/{number}": lambda i: {
        "name": "y",
        "provider": "y",
        "kind": "lease",
        "starts": "2026-01-01",
        "version": 1,
    },
    "/lifecycle/contracts/{number}/decision": lambda i: {"decision": "let go"},
    "/lifecycle/steps/open": lambda i: {"assets": [i["asset"]]},
    "/lifecycle/steps/take": lambda i: {"assets": [i["asset"]], "step": "retire", "reason": "y"},
    "/lifecycle/order-lines/{number}/receive": lambda i: {"serials": "HB-7001", "day": "2026-02-01"},
    "/sightings": lambda i: device("ferry-x", "Ferry").model_dump(mode="json", by_alias=True),
}
HARMLESS = {
    "/counts/plan",
    "/filter",
    "/lifecycle/feed",
    "/licences/bundle",
    "/tokens",
    "/sets",
    "/views",
    "/intake/rules",
    "/reporters/enrolments",
    "/credentials",
    "/imports",
}
"""Calls that only make something of one's own."""


def test_no_changing_call_reaches_another_organisation(two):
    before = state()
    for method, path in calls("post", "put", "delete"):
        short = path.removeprefix("/api")
        if short in HARMLESS and method == "post":
            continue
        body = json.dumps(BODIES[short](two.ids)) if short in BODIES and method != "delete" else None
        answer = two.generic(method.upper(), filled(path, two.ids), body or "{}", content_type="application/json")
        said = text(answer)
        for word in (two.ids["document"].lower(), f"name ~ {MARK}", f"“{MARK}”"):
            said = said.replace(word, "")
        assert MARK not in said, f"{method} {path}: {said[:300]}"
        if short == "/intake/rules/rehearse":
            assert answer.json()["count"] == 0
        else:
            assert 400 <= answer.status_code < 500, f"{method} {path} answered {answer.status_code}: {said[:300]}"
    assert state() == before


def test_a_position_taken_away_and_a_calendar_hold_only_ones_own(two):
    with zipfile.ZipFile(io.BytesIO(two.post("/api/licences/bundle").content)) as archive:
        said = b"".join(archive.read(name) for name in archive.namelist()).decode().lower()
    assert "tarn.position/2" in said
    assert MARK not in said
    path = two.post("/api/lifecycle/feed").json()["path"]
    told = text(Client().get(path))
    assert "begin:vcalendar" in told
    assert MARK not in told


def state():
    """What a stranger must not be able to change."""
    return (
        list(Sighting.objects.values_list("document", flat=True)),
        list(Credential.objects.values_list("name", "version", "refusals")),
        list(Sweep.objects.values_list("name", "exclusions", "version")),
        list(Source.objects.values_list("name", "version")),
        list(Run.objects.values_list("state", "wish")),
        list(Network.objects.values_list("range", flat=True)),
        list(Licence.objects.values_list("name", "version")),
        (Purchase.objects.count(), Key.objects.count(), Pin.objects.count(), Receipt.objects.count()),
        list(Contract.objects.values_list("name", "version", "decided")),
        list(Order.objects.values_list("number", flat=True)),
        Asset.objects.count(),
        AuditEntry.objects.filter(undone_by__isnull=False).count(),
    )


def test_what_a_limited_person_makes_is_their_organisations(two):
    answer = two.post(
        "/api/credentials",
        {
            "name": f"{MARK}-ssh",
            "protocol": "ssh",
            "reach": ["10.60.0.0/16"],
            "user": "x",
            "secrets": {"password": "p"},
        },
        content_type="application/json",
    )
    assert answer.status_code == 200, "a name another organisation has is free here, or it would tell"
    assert Credential.objects.get(pk=answer.json()["id"]).organisation_id == two.ids["ours"]
    refused = two.post(
        "/api/credentials",
        {
            "name": "n",
            "protocol": "ssh",
            "reach": ["10.60.0.0/16"],
            "user": "x",
            "secrets": {"password": "p"},
            "organisation": two.ids["organisation"],
        },
        content_type="application/json",
    )
    assert refused.status_code == 422
    assert refused.json()["field"] == "organisation"
    outside = two.post(
        "/api/sweeps", {"name": "far", "ranges": ["10.60.99.0/29"]}, content_type="application/json"
    ).json()
    assert "lies in no network of your organisation" in outside["detail"]
    wrong = two.post(
        "/api/decide", {"assets": [two.ids["mine"]], "organisation": MARK.title()}, content_type="application/json"
    )
    assert wrong.status_code == 422


def test_a_token_speaks_within_its_persons_limits(two):
    made = two.post("/api/tokens", {"name": "script"}, content_type="application/json").json()["token"]
    answer = Client().get("/api/assets", headers={"Authorization": f"Bearer {made}"}).json()
    assert [r["name"] for r in answer["rows"]] == ["ferry-srv"]


def test_unlimited_people_see_all_and_the_run_s_events_are_guarded(two, as_role):
    assert as_role("viewer").get("/api/assets").json()["total"] == 3
    with limited_to(frozenset({"Ferry"})):
        from tarn.apps.discovery.sweeps.api import _news

        assert _news(two.ids["runs"], 0, frozenset())[0] is None
        assert count(question("")) == 1


def test_devices_of_two_organisations_are_never_taken_for_one(people):
    same = {"serial": "SN-000777", "manufacturer": "Halberd", "macs": ["02:00:00:00:00:01", "00:1b:00:00:00:01"]}
    first, second, again, loose = take_in(
        [
            device("pc-01", "Ferry", 0, identity=same),
            device("pc-01", "Harbour", 1, identity=same),
            device("pc-01", "Ferry", 2, identity=same),
            sighting("pc-01", 3, identity={"serial": "SN-000777", "manufacturer": "Halberd"}, source="loose"),
        ]
    )
    assert first.asset != second.asset
    assert again.asset == first.asset
    assert loose.verdict in ("undecided", "new"), "without an organisation the serial number is held by two"


def test_what_was_nobodys_becomes_the_organisation_s_that_reads_it(people):
    before, after, other = take_in(
        [
            sighting("srv-1", 0, identity={"serial": "SN-88888"}),
            device("srv-1", "Ferry", 1, identity={"serial": "SN-88888"}),
            device("srv-1", "Harbour", 2, identity={"serial": "SN-88888"}),
        ]
    )
    assert before.asset == after.asset != other.asset
    with limited_to(frozenset({"Ferry"})):
        assert count(question("standing = intake")) == 1


def test_a_past_of_another_organisation_stays_its_own(two, people):
    moved = two.ids["asset"]
    decide(people["administrator"], [moved], {"organisation": "Ferry"}, "decided")
    assert two.get(f"/api/assets/{moved}").status_code == 200
    assert two.get(f"/api/assets/{moved}?as_of=2026-10-01").status_code == 404
    assert two.get(f"/api/assets/{moved}/history").json() == []


def test_rights_that_cannot_stand_are_refused(people, as_role):
    made = make_organisation(people["administrator"], "Ferry")
    admin, viewer = as_role("administrator"), people["viewer"].pk
    put = lambda n, body: admin.put(f"/api/people/{n}", body, content_type="application/json")  # noqa: E731
    assert put(viewer, {"role": "operator", "limits": [made.pk]}).json()["limits"] == [made.pk]
    assert "sees everything" in put(viewer, {"role": "administrator", "limits": [made.pk]}).json()["detail"]
    assert "role: Input should be" in put(viewer, {"role": "king"}).json()["detail"]
    assert "no organisation 99" in put(viewer, {"role": "viewer", "limits": [99]}).json()["detail"]
    assert "your own rights" in put(people["administrator"].pk, {"role": "viewer"}).json()["detail"]
    assert as_role("manager").get("/api/people").status_code == 403
    assert admin.post("/api/organisations", {"name": "Ferry"}, content_type="application/json").status_code == 422
    assert Organisation.objects.count() == 1
    assert AuditEntry.objects.filter(verb="set the rights of", at__gte=int(time.time()) - 60).count() == 1


def test_counts_of_kinds_are_of_what_one_may_see(two, as_role):
    def servers(client):
        return next(k["assets"] for k in client.get("/api/kinds").json()["kinds"] if k["name"] == "server")

    assert servers(two) == 1
    assert servers(as_role("manager")) > 1


async def _first_event(client, run):
    answer = await client.get(f"/api/runs/{run}/events")
    if answer.status_code != 200:
        return answer.status_code
    return (await anext(aiter(answer.streaming_content))).split(b"\n")[0]


@pytest.mark.django_db(transaction=True)
def test_a_runs_events_are_answered_to_its_own_organisation_alone(two, people):
    theirs, ours = AsyncClient(), AsyncClient()
    theirs.force_login(people["manager"])
    ours.force_login(get_user_model().objects.get(username="tove"))
    assert async_to_sync(_first_event)(theirs, two.ids["runs"]) == b"event: run"
    assert async_to_sync(_first_event)(ours, two.ids["runs"]) == 404


def test_a_ruling_of_one_organisation_says_nothing_of_anothers_devices(two, people):
    manager = people["manager"]
    rule(manager, SoftwareRulingIn(names=["shared"], verdict="barred", organisation=two.ids["organisation"]))
    assert [register.named([a], None)[0]["name"] for a in ids(question("software[ruling = barred]"))] == [f"{MARK}-srv"]
    with limited_to(frozenset({"Ferry"})):
        assert ids(question("software[ruling = barred]")) == []
    rule(manager, SoftwareRulingIn(names=["shared"], verdict="permitted"))
    assert len(ids(question("software[ruling = permitted]"))) == 1, "its own word comes before the company's"
    with limited_to(frozenset({"Ferry"})):
        assert len(ids(question("software[ruling = permitted]"))) == 1
    rule(manager, SoftwareRulingIn(names=["shared"], verdict="permitted", department="Nowhere"))
    assert len(ids(question("software[ruling = barred]"))) == 1
