"""The software room: products made one, what changed, rulings, baselines, corrections; over any selection and day."""

import json
import time

import pytest

from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.models import NamingRule, Phrase, Product
from tarn.apps.estate.register.decide import decide
from tarn.apps.people.models import AuditEntry
from tarn.apps.software.models import Ruling
from tests.documents import DAY, START, packages, sighting

pytestmark = pytest.mark.django_db


def listed(*entries):
    return [{"name": n, "version": v, "publisher": p} for n, v, p in entries]


@pytest.fixture
def fleet(people):
    """Three computers on two days: an office suite under three spellings, one sharing tool, an update entry."""
    first = {
        "pc-1": listed(("Quill Office 16.0.0 (x64)", "16.0.0", "Northquill Ltd."), ("Driftshare", "2.8", "Driftline")),
        "pc-2": listed(("Northquill Quill Office", "16.0.0", "Northquill, Inc."), ("tillmaster", "5.2", "Galley")),
        "srv-1": listed(("quill-office", "16.0.0", "Northquill"), ("libkelp2", "1.0", "Tallow")),
    }
    then = {
        "pc-1": listed(
            ("Quill Office 16.1.0 (x64)", "16.1.0", "Northquill Ltd."),
            ("Driftshare", "2.9", "Driftline"),
            ("Security Update for Quill Office (KB5901234)", "", "Northquill"),
        ),
        "pc-2": listed(("Northquill Quill Office", "16.1.0", "Northquill"), ("galleykeeper", "5.2", "Galley")),
        "srv-1": listed(("quill-office", "16.0.0", "Northquill"), ("libkelp2", "1.0", "Tallow")),
    }
    assets = {}
    for day, held in ((0, first), (20, then)):
        for number, (name, entries) in enumerate(held.items()):
            document = sighting(
                name,
                day,
                identity={"serial": f"HB-{number}", "manufacturer": "Halberd"},
                system={"platform": "Linux" if name == "srv-1" else "Windows"},
                packages=entries,
            )
            assets[name] = next(take_in([document])).asset
    decide(people["operator"], list(assets.values()), {"standing": "register", "kind": "workstation"}, "adopted")
    decide(people["operator"], [assets["pc-1"]], {"department": "Ticketing"}, "changed")
    return assets


def get(client, path, **query):
    return client.get(f"/api/{path}", query).json()


def send(client, path, body, method="post"):
    return getattr(client, method)(f"/api/{path}", json.dumps(body), content_type="application/json")


def test_three_spellings_are_one_product_over_any_selection(as_role, fleet):
    viewer = as_role("viewer")
    rows = {r["name"]: r for r in get(viewer, "software")["products"]}
    assert set(rows) == {"Quill Office", "Driftshare", "galleykeeper"}
    office = rows["Quill Office"]
    assert (office["devices"], office["releases"], office["newest"], office["publisher"]) == (
        3,
        2,
        "16.1.0",
        "Northquill",
    )
    assert get(viewer, "software")["hidden"] == 2, "the library and the update entry"
    assert [r["name"] for r in get(viewer, "software", roles="run-time")["products"]] == ["libkelp2"]
    few = get(viewer, "software", filter="name = pc-2")
    assert {r["name"]: r["devices"] for r in few["products"]} == {"Quill Office": 1, "galleykeeper": 1}
    assert few["devices"] == 1
    past = time.strftime("%Y-%m-%d", time.gmtime(START + 5 * DAY))
    then = {
        r["name"]: (r["devices"], r["newest"])
        for r in get(viewer, "software", filter="standing = intake", as_of=past)["products"]
    }
    assert then["Quill Office"] == (3, "16.0.0")
    assert viewer.get("/api/software?roles=toy").status_code == 422


def test_a_product_tells_its_releases_names_and_year(as_role, fleet):
    number = Product.objects.get(name="Quill Office").pk
    got = get(as_role("viewer"), f"software/products/{number}")
    assert [(r["version"], r["devices"], r["newest"]) for r in got["releases"]] == [
        ("16.1.0", 2, True),
        ("16.0.0", 1, False),
    ]
    names = {e["name"]: e for e in got["listed"]}
    assert names["Quill Office 16.1.0 (x64)"]["arch"] == "x64"
    assert names["Security Update for Quill Office (KB5901234)"]["role"] == "update"
    assert any("release" in w for w in names["Quill Office 16.0.0 (x64)"]["why"])
    assert len(got["year"]) == 52
    assert as_role("viewer").get("/api/software/products/99999").status_code == 404


def test_one_filter_finds_every_spelling(fleet):
    def found(text):
        return {n for n, a in fleet.items() if a in ids(question(text))}

    assert found('software[product = "quill office"]') == set(fleet)
    assert found("software[name ~ northquill]") == {"pc-2"}
    assert found('software[product = "Quill Office" and version < 16.1]') == {"srv-1"}
    assert found("software[role = run-time]") == {"srv-1"}
    assert found("software[publisher = Northquill and role = update]") == {"pc-1"}


def test_changes_are_paired_by_product_and_folded(as_role, fleet, people):
    days = int((time.time() - START) // DAY) - 19
    waves = get(as_role("viewer"), "software/changes", days=min(400, days), roles="product,run-time,update")["waves"]
    lines = {(w["thing"], w["verb"]): w for w in waves}
    office = lines["Quill Office", "updated"]
    assert (office["before"], office["after"], office["devices"], office["looks_like"]) == (
        ["16.0.0"],
        "16.1.0",
        2,
        "pc-1, pc-2",
    )
    assert lines["Driftshare", "updated"]["after"] == "2.9"
    assert ("tillmaster", "removed") in lines
    assert lines["Security Update for Quill Office (KB5901234)", "installed"]["product"] is None
    assert send(
        as_role("manager"), "names/corrections", {"field": "product", "match": "tillmaster", "product": "Galleykeeper"}
    ).json() == {"changed": 1}
    lines = {
        (w["thing"], w["verb"]): w for w in get(as_role("viewer"), "software/changes", days=min(400, days))["waves"]
    }
    assert lines["Galleykeeper", "renamed"]["before"] == ["tillmaster"], "corrections apply to the past"
    history = get(as_role("viewer"), f"assets/{fleet['pc-2']}/history", days=400)
    assert [(h["thing"], h["verb"]) for h in history if h["section"] == "software"] == [
        ("Galleykeeper", "renamed"),
        ("Quill Office", "updated"),
    ]
    entry = AuditEntry.objects.get(verb="corrected the name of")
    assert as_role("manager").post(f"/api/audit/{entry.pk}/undo").status_code == 200
    assert not NamingRule.objects.exists()
    assert Product.objects.filter(name="tillmaster").exists()


def test_a_correction_is_rehearsed_and_bad_ones_are_refused_at_their_field(as_role, fleet):
    manager = as_role("manager")
    told = send(
        manager, "names/corrections/rehearse", {"field": "publisher", "match": "Driftline", "role": "component"}
    )
    assert told.json() == [
        {
            "name": "Driftshare",
            "before": "Driftshare, Driftline (product)",
            "after": "Driftshare, Driftline (component)",
        }
    ]
    assert not NamingRule.objects.exists()
    for body, field in (
        ({"match": ""}, "match"),
        ({"match": "/(/", "product": "x"}, "match"),
        ({"match": "x"}, "product"),
        ({"match": "x", "role": "toy"}, "role"),
    ):
        refused = send(manager, "names/corrections", body)
        assert (refused.status_code, refused.json()["field"]) == (422, field)
    assert send(as_role("operator"), "names/corrections", {"match": "x", "product": "y"}).status_code == 403


def test_rulings_are_asked_narrowed_dated_and_undone(as_role, fleet):
    operator = as_role("operator")
    assert send(
        operator, "software/rulings", {"names": ["Driftshare"], "verdict": "barred", "why": "leaks"}
    ).json() == {"made": 1}
    assert ids(question("software[ruling = barred]")) == [fleet["pc-1"]]
    send(operator, "software/rulings", {"names": ["driftshare"], "verdict": "permitted", "department": "ticketing"})
    assert ids(question("software[ruling = barred]")) == [], "the department's own word comes first"
    assert ids(question("software[ruling = permitted]")) == [fleet["pc-1"]]
    row = next(r for r in get(operator, "software")["products"] if r["name"] == "Driftshare")
    assert (row["verdict"], row["mixed"]) == ("barred", True)
    assert "whole company" in row["why"]
    send(operator, "software/rulings", {"names": ["Quill Office"], "verdict": "barred", "high": "16.0.5"})
    number = Product.objects.get(name="Quill Office").pk
    releases = get(operator, f"software/products/{number}")["releases"]
    assert [r["verdict"] for r in releases] == ["none yet", "barred"]
    assert ids(question("no software[ruling = barred]")) != []
    first = Ruling.objects.get(verdict="barred", name="Driftshare")
    assert operator.delete(f"/api/software/rulings/{first.pk}").status_code == 204
    assert operator.delete(f"/api/software/rulings/{first.pk}").status_code == 404
    entry = AuditEntry.objects.get(verb="took back a ruling on")
    operator.post(f"/api/audit/{entry.pk}/undo")
    first.refresh_from_db()
    assert first.ends is None
    past = time.strftime("%Y-%m-%d", time.gmtime(START + 5 * DAY))
    assert get(operator, "software/rulings", as_of=past) == [], "yesterday nobody had ruled"


def test_a_ruling_replaces_its_like_and_covers_many_at_once(as_role, fleet):
    operator = as_role("operator")
    for verdict in ("permitted", "barred"):
        send(operator, "software/rulings", {"names": ["Driftshare", "galleykeeper"], "verdict": verdict})
    assert [r["verdict"] for r in get(operator, "software/rulings")] == ["barred", "barred"]
    assert len(get(operator, "software/rulings", ended=True)) == 2
    Phrase.objects.create(name="sharing", values=["/^Drift/"])
    send(
        operator,
        "software/rulings",
        {"subject": "phrase", "names": ["sharing"], "verdict": "tolerated", "until": int(time.time()) + DAY},
    )
    told = next(r for r in get(operator, "software/rulings") if r["subject"] == "phrase")
    assert told["products"] == ["Driftshare"]
    refused = send(operator, "software/rulings", {"names": ["x"], "verdict": "tolerated"})
    assert refused.json()["field"] == "until"
    assert send(as_role("viewer"), "software/rulings", {"names": ["x"], "verdict": "barred"}).status_code == 403


def test_a_baseline_tells_lack_from_never_read(as_role, fleet, people):
    taken = next(take_in([sighting("dumb-1", 0, identity={"serial": "HB-9", "manufacturer": "Halberd"})])).asset
    decide(people["operator"], [taken], {"standing": "register", "kind": "workstation"}, "adopted")
    manager = as_role("manager")
    body = {
        "name": "Desktops",
        "filter": "kind = workstation",
        "rules": [
            {"name": "an office suite", "filter": 'software[product = "Quill Office" and version >= 16.1]'},
            {"name": "", "filter": "department != none"},
        ],
    }
    made = send(manager, "software/baselines", body).json()
    assert [(r["have"], r["lack"], r["unread"]) for r in made["rules"]] == [(2, 1, 1), (1, 3, 0)]
    assert (made["devices"], made["whole"], made["lack"], made["unread"]) == (4, 1, 3, 0)
    row = next(r for r in made["rows"] if r["name"] == "dumb-1")
    assert (row["lacks"], row["unread"]) == (["department != none"], ["an office suite"])
    assert [len(ids(question(made["rules"][0][n]))) for n in ("lacking", "never")] == [1, 1]
    changed = send(manager, f"software/baselines/{made['id']}", {**body, "version": 1, "filter": "name ~ pc"}, "put")
    assert changed.json()["devices"] == 2
    assert send(manager, f"software/baselines/{made['id']}", {**body, "version": 1}, "put").status_code == 409
    assert send(manager, "software/baselines", body).json()["field"] == "name"
    bad = send(manager, "software/baselines", {"name": "x", "rules": [{"filter": "softwear[name = x]"}]})
    assert (bad.json()["field"], "Condition 1" in bad.json()["detail"]) == ("rules", True)
    assert manager.delete(f"/api/software/baselines/{made['id']}").status_code == 204


def test_names_nobody_understands_are_listed_until_corrected(as_role, people):
    nameless = "{5C1F0E2A-7B44-4C1D-9B0E-0A3D5C7E9F11}"
    asset = next(take_in([sighting("pc-9", 0, packages=packages(**{nameless: "1.0"}))])).asset
    decide(people["operator"], [asset], {"standing": "register", "kind": "workstation"}, "adopted")
    assert [(n["name"], n["devices"]) for n in get(as_role("viewer"), "software/names")] == [(nameless, 1)]
    send(as_role("manager"), "names/corrections", {"field": "name", "match": nameless, "product": "Slipway Plan"})
    assert get(as_role("viewer"), "software/names") == []
    assert ids(question('software[product = "Slipway Plan"]')) == [asset]
