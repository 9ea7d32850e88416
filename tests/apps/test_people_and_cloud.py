"""People by SCIM and from a directory, and a cloud account, synced over the wire from the lab's stand-ins."""

import time

import pytest

from tarn.apps.discovery.credentials.change import make_credential
from tarn.apps.discovery.credentials.inputs import CredentialIn
from tarn.apps.discovery.models import Sync
from tarn.apps.discovery.sources.change import make_source
from tarn.apps.discovery.sources.change import test_source as try_source
from tarn.apps.discovery.sources.inputs import SourceIn
from tarn.apps.discovery.sources.syncing import carry_out_sync
from tarn.apps.estate.asking.ask import count, question
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.models import Asset
from tarn.apps.estate.register.decide import decide
from tarn.apps.estate.register.dossier import claims, items, plate
from tarn.apps.people.actions.persons import gone_people, take_in_people
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.models import Person
from tarn.collect.sources.scim import ENTERPRISE, person_of
from tarn.core.people import Person as Told
from tarn.lab import cloud, people, systems
from tarn.lab.keys import public_pin
from tarn.lab.serve import serving
from tests.documents import sighting

PIN = public_pin("directory.skerrivane.example")

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture(scope="module")
def others():
    with serving({"systems"}):
        yield


def credential(name, protocol, secret, **more):
    return make_credential(
        None,
        CredentialIn.model_validate(
            {"name": name, "protocol": protocol, "reach": ["10.60.0.0/16"], "timeout": 5, **more}
        ),
        {"password": secret},
    ).pk


def synced(**described):
    source = make_source(None, SourceIn.model_validate({"route": "lab", **described}))
    sync = Sync.objects.create(source=source, made_at=int(time.time()))
    carry_out_sync(sync.pk)
    sync.refresh_from_db()
    return sync


def keel(token=people.TOKEN):
    return {
        "name": "Keel",
        "kind": "people",
        "settings": {
            "base": f"https://{people.ADDRESS}/scim/v2",
            "certificate": public_pin("people.skerrivane.example"),
        },
        "credential": credential(f"keel {token}", "http", token, auth="bearer"),
    }


def test_people_come_page_by_page_with_department_and_those_who_left(others):
    sync = synced(**keel())
    assert (sync.state, sync.message) == ("done", "")
    assert sync.counts == {"people": 160, "joined": 160, "left": 9}
    one = Person.objects.get(name="Ines Kallas")
    assert (one.email, one.department, one.left_at) == ("ines.kallas@skerrivane.example", "Fleet", None)
    assert Person.objects.get(name="Yrsa Quill").left_at is not None
    assert Asset.objects.count() == 0, "people are no devices"


def test_a_directory_brings_people_beside_computers(others):
    bind = credential("dir", "ldap", systems.BIND_PASSWORD, user=systems.BIND)
    sync = synced(
        name="D", kind="directory", settings={"address": systems.DIRECTORY, "certificate": PIN}, credential=bind
    )
    assert sync.counts["people"] == Person.objects.count() == 32
    assert Person.objects.get(name="Maud Oskery").department == "Ticketing"
    assert sync.counts["found"] == Asset.objects.count() > 50


def test_a_source_of_people_is_tried_without_storing_and_refusals_are_said(others, people):
    described = keel()
    shown = try_source(people["manager"], SourceIn.model_validate({"route": "lab", **described}))
    assert (shown["found"], shown["problem"]) == (160, "")
    assert {"name", "email", "department", "title", "active"} == set(shown["sample"][0]["facts"])
    assert not Person.objects.exists()
    refused = synced(**keel("wrong"))
    assert refused.state == "failed"
    assert "refused the sign-in with “keel wrong”" in refused.message
    with pytest.raises(Invalid, match="where the service is"):
        make_source(None, SourceIn.model_validate({"name": "x", "kind": "people", "settings": {}}))


def told(key, name, **more):
    return Told(key, name, **more)


def test_joiners_and_leavers_are_dated_and_come_back(people):
    def tell(at, *some):
        counts = take_in_people("Keel", some, sync=at, at=at, organisation=None)
        return counts, gone_people("Keel", sync=at, at=at, organisation=None)

    assert tell(100, told("1", "Una Skerry"), told("2", "Bram Sillery")) == ({"people": 2, "joined": 2, "left": 0}, 0)
    assert tell(200, told("1", "Una Skerry", active=False))[0]["left"] == 1
    una, bram = Person.objects.get(key="1"), Person.objects.get(key="2")
    assert (una.joined_at, una.left_at, bram.left_at) == (100, 200, 200)
    tell(300, told("1", "Una Skerry", active=False), told("2", "Bram Sillery-Wray"))
    una, bram = Person.objects.get(key="1"), Person.objects.get(key="2")
    assert (una.left_at, bram.left_at, bram.name) == (200, None, "Bram Sillery-Wray")


def test_devices_whose_holder_has_left_are_found(people):
    a, b, c = (t.asset for t in take_in([sighting(f"lt-{n}", identity={"serial": f"HB-77{n}"}) for n in range(3)]))
    for asset, person in ((a, "Una Skerry"), (b, "Bram Sillery"), (c, "Nobody Known")):
        decide(people["operator"], [asset], {"standing": "register", "person": person}, "adopted")
    now = int(time.time())
    take_in_people(
        "Keel",
        [told("1", "Una Skerry", active=False), told("2", "Bram Sillery", active=False)],
        sync=1,
        at=now,
        organisation=None,
    )
    take_in_people("Directory", [told("b", "Bram Sillery")], sync=2, at=now, organisation=None)
    assert count(question("person.left = yes")) == 1
    assert count(question("person.left = no")) == 1, "the directory still has him"
    assert count(question("person.left = none")) == 1
    assert plate(a, None)["person.left"] == 1


@pytest.mark.parametrize(
    ("user", "name", "faults"),
    [
        ({"id": "1", "displayName": "Una Skerry"}, "Una Skerry", 0),
        ({"id": "1", "name": {"givenName": "Una", "familyName": "Skerry"}}, "Una Skerry", 0),
        ({"id": "1", "name": {"formatted": "Una S."}, ENTERPRISE: None}, "Una S.", 0),
        ({"id": "1"}, None, 1),
        ({"displayName": "Una"}, None, 1),
    ],
)
def test_a_user_resource_is_read_whatever_of_it_is_missing(user, name, faults):
    found = person_of(user)
    assert (found.person.name if found.person else None) == name
    assert len(found.faults) == faults


def account(secret=cloud.SECRET, **settings):
    return {
        "name": "Cloud",
        "kind": "cloud account",
        "settings": {"endpoint": f"https://{cloud.ADDRESS}", "verify": False, **settings},
        "credential": credential(f"pair {secret} {settings}", "cloud", secret, user=cloud.KEY),
    }


def test_a_cloud_account_is_read_region_by_region(others):
    sync = synced(**account())
    assert (sync.state, sync.message) == ("done", "")
    assert sync.counts["found"] == 6
    named = {plate(a.pk, None)["name"]: a.pk for a in Asset.objects.all()}
    assert set(named) == {n for names in cloud.REGIONS.values() for n in names}
    queue = plate(named["skc-queue-01"], None)
    assert (queue["memory"], queue["cores"], queue["model"], queue["place"]) == (
        32 << 30,
        8,
        "large.8",
        "Cloud firth-1",
    )
    assert queue["address"] == "10.160.1.12"
    (disk,) = items(named["skc-queue-01"], None)["disks"]
    assert (disk["model"], disk["size"]) == ("gp3", 500 << 30)
    said = claims(named["skc-trial-win"], None)
    assert said["platform"]["said"][0]["value"] == "Windows"
    assert "stopped; owner = Ticketing" in said["description"]["said"][0]["value"]


def test_a_cloud_account_of_some_regions_and_a_wrong_key(others):
    assert synced(**account(regions="sound-1")).counts["found"] == 2
    wrong = {**account("wrong"), "name": "Other"}
    sync = synced(**wrong)
    assert sync.state == "failed"
    assert "refused the sign-in" in sync.message
