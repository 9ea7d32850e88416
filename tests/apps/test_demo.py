"""The demo's past, through the real pipeline, against the lab's truth file."""

from datetime import UTC, datetime

import pytest
from django.db.models import Q

from tarn.apps.estate.asking.ask import question
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.models import Asset, AssetSpan
from tarn.apps.estate.register.dossier import software
from tarn.apps.estate.register.pages import page
from tarn.apps.exposure.finding.findings import findings
from tarn.apps.exposure.models import Vulnerability
from tarn.lab.timeline import World, truth
from tarn.lab.weaknesses import open_to
from tarn.site.demo import past
from tarn.site.demo.feeds import make_feeds, read_then

DAYS = (360, 372, 384, 396)
ANCHOR = datetime(2026, 8, 3, 9, 0, tzinfo=UTC)


@pytest.fixture
def held(db):
    """Four nights of the lab, taken in; the assets by the real device each is."""
    world = World()
    by_device: dict[str, set[int]] = {}
    for day in DAYS:
        night = list(past.sightings_of(day, ANCHOR, world))
        for (device, _), taken in zip(night, take_in([s for _, s in night]), strict=True):
            assert taken.asset is not None, (device.name, taken.reasons)
            by_device.setdefault(device.identity, set()).add(taken.asset)
    return by_device


def test_one_device_is_one_asset_whatever_happens_to_it(held):
    split = {d: a for d, a in held.items() if len(a) > 1}
    assert split == {}, "one device became several assets"
    owners: dict[int, list[str]] = {}
    for device, assets in held.items():
        for asset in assets:
            owners.setdefault(asset, []).append(device)
    assert {a: d for a, d in owners.items() if len(d) > 1} == {}, "several devices became one asset"
    assert Asset.objects.count() == len(held)


def test_what_is_held_is_what_is_there(held):
    there = {t["identity"]: t for t in truth(DAYS[-1])}
    rows = {
        r["id"]: r
        for r in page(
            question("", standing="intake"), ["name", "serial", "memory", "cores", "kind", "place"], "name", 0, 500
        )
    }
    wrong_kind = []
    for device, told in there.items():
        if device not in held:
            continue
        row = rows[next(iter(held[device]))]
        assert (row["name"], row["place"]) == (told["name"], told["place"])
        if told["ssh"] == "yes" and told["fault"] not in ("stall", "nonsense"):
            assert (row["memory"], row["cores"]) == (told["memory"], told["cores"])
        if row["kind"] != told["kind"]:
            wrong_kind.append((told["name"], row["kind"]))
    assert len(wrong_kind) <= 0.05 * len(there), wrong_kind


def test_software_is_held_release_for_release(held):
    there = {t["identity"]: t for t in truth(DAYS[-1])}
    for name in ("salt-tix-01", "avrn-till-03", "salt-hv-01", "salt-ws-07"):
        asset = next(iter(held[name]))
        assert {s["name"]: s["version"] for s in software(asset, None)} == there[name]["packages"]


def test_who_is_open_to_what_is_what_the_lab_says_on_every_day_sampled(db):
    """Devices and feeds read as on the demo's past days; devices that are not read whole are told of in no way."""
    make_feeds()
    world, days = World(), (300, 330, 351, 366, 378, 390, 399)
    for day in days:
        list(take_in(s for _, s in past.sightings_of(day, ANCHOR, world)))
        read_then(day, past.instant(ANCHOR, day, 6, 30))
    names, compared = dict(Vulnerability.objects.values_list("id", "name")), 0
    for day in days:
        at = int(past.instant(ANCHOR, day, 8).timestamp())
        rows = findings("then").at(at)
        told: dict[int, set[str]] = {}
        for vulnerability, asset in zip(rows["vulnerability"].tolist(), rows["asset"].tolist(), strict=True):
            told.setdefault(asset, set()).add(names[vulnerability])
        night = AssetSpan.objects.filter(valid_from__lte=at).filter(Q(valid_to=None) | Q(valid_to__gt=at))
        asset_of = dict(night.exclude(name=None).values_list("name", "asset_id"))
        for device in world.on(day):
            read = not device.fault and (device.ssh == "yes" or device.winrm == "yes" or device.snmp)
            near = device.place in ("Saltholm", "Port Averne") and not device.address.startswith("10.60.6.")
            if read and near and device.name in asset_of:
                assert told.get(asset_of[device.name], set()) == set(open_to(device, day)), (day, device.name)
                compared += 1
    assert compared > 700
