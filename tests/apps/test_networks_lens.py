"""A selection by network: each figure opens exactly its rows, on any day."""

import json

import pytest

from tarn.apps.discovery.networks.change import make_network
from tarn.apps.discovery.networks.inputs import NetworkIn
from tarn.apps.discovery.networks.lens import networks_of
from tarn.apps.estate.asking.ask import count, question
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.register.decide import decide
from tests.documents import DAY, START, sighting

pytestmark = pytest.mark.django_db


def seen(people, name, address, day=0):
    whole = {"placement": {"address": address}, "identity": {"serial": f"HB-{name}"}}
    [taken] = take_in([sighting(name, day, address=address, **whole)])
    if day == 0:
        decide(people["operator"], [taken.asset], {"standing": "register", "kind": "server"}, "adopted", START)


@pytest.fixture
def networks(people):
    for text, name in (("10.60.4.0/24", "quay"), ("10.60.4.0/28", "crane"), ("10.60.7.10-10.60.7.19", "ferry")):
        make_network(None, NetworkIn.model_validate({"range": text, "name": name, "place": f"{name} side"}))
    for n, address in enumerate(["10.60.4.3", "10.60.4.15", "10.60.4.16", "10.60.7.10", "10.60.7.19", "10.60.7.20"]):
        seen(people, f"tix-{n}", address)


def figures(text="", at=None):
    told = networks_of(text, at)
    return {n["name"]: n["devices"] for n in told["networks"]}, told["outside"]


def test_a_device_counts_in_every_network_that_holds_its_address(networks):
    told = networks_of("", None)
    assert figures() == ({"quay": 3, "crane": 2, "ferry": 2}, 1)
    assert [n["name"] for n in told["networks"]] == ["quay", "crane", "ferry"]
    ferry = told["networks"][2]
    assert (ferry["place"], ferry["addresses"]) == ("ferry side", 10)
    assert sum(k["count"] for k in ferry["kinds"]) == 2
    assert (told["total"], told["without"]) == (6, 0)


@pytest.mark.parametrize("asked", ["", "name ~ tix", "name = tix-1 or name = tix-5", "not address in 10.60.4.0/28"])
def test_a_figure_opens_exactly_its_rows(networks, asked):
    told = networks_of(asked, None)
    for network in told["networks"]:
        assert count(question(" and ".join(f"({q})" for q in (asked, network["filter"]) if q))) == network["devices"]
    assert count(question(" and ".join(f"({q})" for q in (asked, told["outside_filter"]) if q))) == told["outside"]


def test_it_holds_as_of_any_day(people, networks):
    seen(people, "tix-0", "10.60.7.12", day=2)
    assert figures() == ({"quay": 2, "crane": 1, "ferry": 3}, 1)
    assert figures(at=START + DAY) == ({"quay": 3, "crane": 2, "ferry": 2}, 1)
    assert figures(at=START - DAY) == ({}, 0)


def test_where_no_network_is_noted_all_lies_outside(people):
    seen(people, "tix-0", "10.60.4.3")
    told = networks_of("", None)
    assert (told["networks"], told["outside"], told["outside_filter"]) == ([], 1, "address != none")


def test_it_is_asked_over_http_and_refuses_what_cannot_be_read(as_role, networks):
    viewer = as_role("viewer")
    answer = viewer.get("/api/networks/selected", {"filter": "name = tix-3"})
    assert [n["range"] for n in answer.json()["networks"]] == ["10.60.7.10-10.60.7.19"]
    refused = viewer.get("/api/networks/selected", {"filter": "nam = tix-3"})
    assert (refused.status_code, json.loads(refused.content)["tries"]) == (422, ["name", "os.name"])
