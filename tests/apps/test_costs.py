"""What is reckoned once is reckoned anew when anything it follows from changes; statements do not grow with rows."""

import json
from datetime import timedelta

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext
from hypothesis import given
from hypothesis import strategies as st

from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.register.decide import decide
from tarn.apps.lifecycle.reads.contracts import today
from tarn.apps.lifecycle.reads.steps import hand_overs
from tarn.apps.lifecycle.reads.stock import stock
from tarn.apps.valuation.reads.costs import _weighed, costs, shares
from tarn.apps.valuation.reads.lens import money_of
from tarn.apps.valuation.reads.refresh import planned
from tests.documents import sighting


@given(st.integers(0, 10**9), st.integers(0, 200))
def test_equal_parts_sum_to_the_whole_and_differ_by_one_at_most(amount, number):
    parts = shares(amount, number)
    assert len(parts) == number
    if number:
        assert sum(parts) == amount
        assert max(parts) - min(parts) <= 1


@given(st.integers(0, 10**9), st.dictionaries(st.integers(1, 50), st.integers(1, 10**6), min_size=1, max_size=12))
def test_weighed_parts_sum_to_the_whole_and_follow_their_weights(amount, weights):
    parts = dict(_weighed(amount, weights))
    whole = sum(weights.values())
    assert sum(parts.values()) == amount
    assert all(abs(parts[k] - amount * w / whole) <= 1 for k, w in weights.items())


def send(client, path, body, method="post"):
    answer = getattr(client, method)(f"/api/{path}", json.dumps(body), content_type="application/json")
    assert answer.status_code in (200, 201), answer.content
    return answer.json()


CARE = {"name": "Care", "provider": "Q", "kind": "support", "starts": "2024-01-01", "cost": "90.00", "every": "month"}


@pytest.mark.django_db
def test_costs_follow_contracts_licences_energy_evidence_and_steps(as_role, estate, people):
    manager = as_role("manager")

    def of(asset):
        return costs(None).of(asset)

    number = send(manager, "lifecycle/contracts", {**CARE, "covers": "kind = server"})["id"]
    assert [of(a)["contracts"] for a in estate] == [45_00, 45_00, 0, 0]
    send(
        manager,
        f"lifecycle/contracts/{number}",
        {**CARE, "covers": "kind = server", "cost": "60.00", "version": 1},
        "put",
    )
    assert of(estate[0])["contracts"] == 30_00
    decide(people["operator"], [estate[1]], {"kind": "laptop"}, "decided")
    assert of(estate[0])["contracts"] == 60_00
    over = (today() - timedelta(days=1)).isoformat()
    send(
        manager, f"lifecycle/contracts/{number}", {**CARE, "ends": over, "covers": "kind = server", "version": 2}, "put"
    )
    assert of(estate[0])["contracts"] == 0

    licence = {"name": "Office", "metric": "device", "products": ["quill-office"], "cost": "40", "cost_every": "month"}
    held = send(manager, "licences", licence)["id"]
    send(manager, f"licences/{held}/purchases", {"day": "2020-01-01", "quantity": 4, "price": "1"})
    # Two of four units are drawn: 20 of 40 fall on two servers, 20 on nobody.
    assert [of(a)["licences"] for a in estate[:2]] == [10_00, 10_00]
    assert costs(None).loose == {"Office, spare": 20_00}

    send(manager, "valuation/energy", {"price": "0.40", "kinds": {"server": [100, 24]}, "version": 0}, "put")
    assert of(estate[0])["energy"] == 29_20  # 100 W × 24 h × 365/12 days = 73 kWh at 0.40
    send(manager, "lifecycle/steps/take", {"step": "send to repair", "assets": [estate[0]], "why": "fan"})
    assert of(estate[0])["energy"] == 0
    send(manager, "money/ledger", {"currency": "EUR", "year_begins": 4, "idle_after": 30, "version": 1}, "put")
    assert of(estate[0])["licences"] == 10_00


@pytest.mark.django_db
def test_the_refresh_plan_knows_repairs_tickets_barred_software_and_too_little_memory(as_role, estate):
    manager = as_role("manager")
    send(manager, "lifecycle/steps/take", {"step": "send to repair", "assets": [estate[0]], "why": "fan"})
    list(take_in([sighting("avrn-gate-01", 12, source="desk", kind="service desk", address="",
                           identity={"serial": "HB-1002", "manufacturer": "Halberd"},
                           desk={"tickets_open": 2})]))  # fmt: skip
    send(manager, "software/rulings", {"names": ["driftshare"], "verdict": "barred"})
    settings = {
        "life": {"server": 48},
        "memory": {"server": 16},
        "earlier": {"faults": 2, "memory": 5, "exposed": 7, "important": 1},
    }
    send(manager, "decide", {"assets": [estate[1]], "importance": "high"})
    told = {r["name"]: r["why"] for r in planned("", settings, None)["rows"]}
    assert "1 month earlier: much hangs on it" in told["avrn-gate-01"]
    assert "2 months earlier: a fault" in told["salt-tix-01"]
    assert "4 months earlier: 2 faults; 5 months earlier: too little memory" in told["avrn-gate-01"]
    assert "7 months earlier: barred software on it" in told["salt-lt-01"]


@pytest.mark.django_db
def test_statements_do_not_grow_with_the_devices(as_role, estate, people):
    """Twenty more devices, handed over and in stock, with prices: the main reads ask as often as before."""
    manager = as_role("manager")
    reads = {
        "hand-overs": lambda: hand_overs(None),
        "stock": lambda: stock(None),
        "money": lambda: money_of("", "kind", None),
        "refresh": lambda: planned("", {"life": {"laptop": 12}}, None),
    }

    def asked():
        out = {}
        for name, read in reads.items():
            read()
            with CaptureQueriesContext(connection) as seen:
                read()
            out[name] = len(seen)
        return out

    send(manager, "lifecycle/steps/take", {"step": "hand over", "assets": estate[:1], "person": "Asa"})
    few = asked()
    more = [sighting(f"more-{n}", identity={"serial": f"M-{n}"}) for n in range(20)]
    assets = [t.asset for t in take_in(more)]
    decide(people["operator"], assets, {"standing": "register", "state": "in stock", "kind": "laptop"}, "adopted")
    send(manager, "lifecycle/steps/take", {"step": "hand over", "assets": assets[:10], "person": "Una"})
    assert len(hand_overs(None)) == 11
    assert stock(None)["total"] == 10
    assert asked() == few
