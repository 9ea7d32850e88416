"""The demo's past, through the real pipeline, against the lab's truth file."""

from datetime import UTC, datetime

import pytest

from tarn.apps.estate.asking.ask import question
from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.models import Asset
from tarn.apps.estate.register.dossier import software
from tarn.apps.estate.register.pages import page
from tarn.lab.timeline import World, truth
from tarn.site.demo import past

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
