"""What products here are called outside: known, proposed, said by a person, or known to nobody."""

import json
from collections import defaultdict

import numpy as np

from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.asking.dial import iso
from tarn.apps.estate.asking.places import holds
from tarn.apps.estate.software.catalogue import catalogue
from tarn.apps.estate.software.installs import installs, wanted_assets
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.remembered import Remembered
from tarn.apps.exposure.finding import things
from tarn.apps.exposure.ground import ADVISORIES
from tarn.apps.exposure.models import OutsideName
from tarn.apps.exposure.results import OutsideNameOut, ProposalOut
from tarn.core.exposure.codec import read_statement
from tarn.core.exposure.proposing import Outside
from tarn.core.exposure.status import loose_key
from tarn.core.filters.tree import quote
from tarn.core.naming import ROLES


def listed() -> list[OutsideNameOut]:
    """Return the products that are here now, those on most devices first. Of packages of a
    distribution and of models of hardware only those somebody may know otherwise: they go by their own names."""
    outside = _remembered.get("all", _told)
    loose: dict[str, list[str]] = defaultdict(list)
    for key in outside:
        loose[loose_key(key)].append(key)
    world, said = Outside(outside), _said()
    found = []
    for (product, by), (devices, asked, keys, by_itself) in _here().items():
        mine = said.get(things.product_and_maker(product, by), [])
        known = sorted({k for key in keys for k in (loose.get(key, ()) if "/*/" in key else [key]) if k in outside})
        proposals: list[ProposalOut] = []
        if not mine and not known:
            proposals = [
                {
                    "key": p.key,
                    "name": outside[p.key][0],
                    "advisories": outside[p.key][1],
                    "sure": p.sure,
                    "because": p.because,
                }
                for p in world.proposals(product, by)
            ]
        state = "known" if known else "proposed" if proposals else "unknown"
        if by_itself and not mine and not proposals:
            continue
        if mine:
            state = "said" if any(name.key for name in mine) else "none"
        found.append(
            OutsideNameOut(
                product=product,
                maker=by,
                devices=devices,
                filter=asked,
                state=state,
                known=[outside[k][0] for k in known],
                proposals=proposals,
                said=[
                    {
                        "id": n.pk,
                        "key": n.key,
                        "name": outside.get(n.key, (n.key, 0))[0],
                        "by": n.made_by,
                        "at": iso(n.made_at),
                    }
                    for n in mine
                ],
            )
        )
    return sorted(found, key=lambda row: (-row["devices"], row["product"], row["maker"]))


def _told() -> dict[str, tuple[str, int]]:
    """Return the keys statements stand under, each with a name as a document has it and its number of advisories."""
    return {
        key: (read_statement(body).subject.name, advisories)
        for key, body, advisories in raw_connection().execute(
            "SELECT s.key, min(s.body), count(DISTINCT s.vulnerability_id) FROM exposure_statementrow s "
            "JOIN exposure_telling t ON t.id = s.telling_id JOIN exposure_document d ON d.id = t.document_id "
            "WHERE d.ends IS NULL AND d.word != 'own' GROUP BY s.key"
        )
    }


_remembered: Remembered[dict[str, tuple[str, int]]] = Remembered("names told outside", ADVISORIES, most=1)


def _said() -> dict[tuple[str, str], list[OutsideName]]:
    found: dict[tuple[str, str], list[OutsideName]] = defaultdict(list)
    for name in OutsideName.objects.order_by("id"):
        found[things.product_and_maker(name.product, name.maker)].append(name)
    return found


def _here() -> dict[tuple[str, str], tuple[int, str, set[str], bool]]:
    """Return products by name and maker: on how many devices they are now, the filter of those, their keys, and
    whether they are packages or models."""
    plain = things.Names({}, frozenset())
    keys: dict[tuple[str, str], set[str]] = defaultdict(set)
    software_of_its_own = set()
    for row in things.everything().values():
        keys[row.product, row.maker].update(key for key, _ in plain.thing(row).keys)
        if not row.order and row.part != "h":
            software_of_its_own.add((row.product, row.maker))
    software, systems = _software(), _systems()
    found = {}
    for at, mine in keys.items():
        told = systems.get(at) or software.get(at[0])
        if told is not None:
            found[at] = (*told, mine, at not in software_of_its_own)
    return found


def _software() -> dict[str, tuple[int, str]]:
    held, known = installs(None), catalogue()
    roles, most = tuple(r for r in ROLES if r != "update"), max(known.products, default=0) + 1
    devices = held.counted(roles, wanted_assets(held, question("", None)), most)
    return {
        known.products[number][0]: (int(devices[number]), f"software[name = {quote(known.products[number][0])}]")
        for number in np.flatnonzero(devices).tolist()
    }


def _systems() -> dict[tuple[str, str], tuple[int, str]]:
    """Return systems, firmware and models, which are told of devices themselves."""
    counted: dict[tuple[str, str, str], int] = defaultdict(int)
    chosen, then = ids(question("", None)), holds("s", None)
    for *told, devices in raw_connection().execute(
        f"SELECT {things.SYSTEM_SQL}, count(*) FROM estate_assetspan s WHERE {then.text} "
        "AND s.asset_id IN (SELECT value FROM json_each(?)) GROUP BY 1, 2, 3, 4, 5",
        [*then.values, json.dumps(chosen)],
    ):
        system = things.System(*told)
        for row in things.of_system(system):
            asked = (
                f"model = {quote(system.model)} and manufacturer = {quote(system.maker) if system.maker else 'none'}"
            )
            if row.part == "o" and system.platform != things.FIRMWARE:
                asked = f"os.name = {quote(system.os_name)}"
            elif row.part == "o":
                asked += f" and platform = {things.FIRMWARE}"
            counted[row.product, row.maker, asked] += devices
    return {(product, by): (devices, asked) for (product, by, asked), devices in counted.items()}
