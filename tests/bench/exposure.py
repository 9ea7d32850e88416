"""Exposure: documents read and kept, statuses found, and what the room asks, against the least the same work takes."""

import io
import json
import random
import time
from typing import Any

from tarn.apps.estate.asking.ask import question
from tarn.apps.estate.door.entrance import take_in as take_sightings
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.exposure import heat, overview, page
from tarn.apps.exposure.doing import first
from tarn.apps.exposure.feeds.keep import Keeper
from tarn.apps.exposure.feeds.take import feed_by_hand
from tarn.apps.exposure.finding import deriving
from tarn.apps.exposure.finding.advisories import number_of
from tarn.apps.exposure.finding.findings import findings
from tarn.core.exposure.reading import read_file
from tarn.core.versions import version_key
from tests.advisories import VECTOR
from tests.bench.figures import Figure, best, timed
from tests.bench.synthetic import DAY, PRODUCTS, START
from tests.documents import sighting

DOCUMENTS, CHANGED = 20_000, 400


def record(number: int, edition: int = 0) -> dict[str, Any]:
    """Return a record about one of the synthetic products; it touches some of its releases, or none."""
    chance = random.Random(number)
    product = chance.randrange(PRODUCTS)
    below = f"{chance.randint(1, 5)}.{chance.randint(0, 2)}" if number % 10 == 0 else "1.0"
    versions = [{"version": "0", "lessThan": below, "status": "affected", "versionType": "custom"}]
    affected = {"vendor": f"Publisher {product % 300}", "product": f"product-{product:04d}", "versions": versions}
    dates = {"datePublished": "2026-06-01T08:00:00Z", "dateUpdated": f"2026-06-{2 + edition:02d}T08:00:00Z"}
    about = {"cveId": f"CVE-2026-98{number:06d}", "state": "PUBLISHED", "assignerShortName": "bench", **dates}
    cna = {
        "providerMetadata": {"orgId": "0", "shortName": "bench"},
        "title": "A made-up vulnerability",
        "descriptions": [
            {"lang": "en", "value": f"A made-up vulnerability in a made-up product, number {number}. " * 8}
        ],
        "affected": [{**affected, "defaultStatus": "unaffected"}],
        "metrics": [{"cvssV3_1": {"vectorString": VECTOR}}],
        "references": [{"url": f"https://bench.example/{number}"}],
    }
    return {"dataType": "CVE_RECORD", "dataVersion": "5.1", "cveMetadata": about, "containers": {"cna": cna}}


def exposure() -> list[Figure]:
    """Return the figures of feeds, statuses and the room."""
    return [*_feed(), *_statuses(), *_room()]


def _feed() -> list[Figure]:
    lines = [json.dumps(record(n)) for n in range(DOCUMENTS)]
    body = "\n".join(lines).encode()
    floor = best(lambda: [json.loads(line) for line in lines])
    keeper = Keeper(feed_by_hand().pk, START)
    took = timed(lambda: keeper.take(read_file("bench.jsonl", io.BytesIO(body))))
    speed = f"{DOCUMENTS / took:,.0f} documents a second, {len(body) >> 20} MB"
    return [Figure("feed_read_and_kept", floor / took, "× the speed of parsing", ">= 0.4", speed)]


def _statuses() -> list[Figure]:
    deriving.refresh_things()
    numbers = [v for (v,) in raw_connection().execute("SELECT id FROM exposure_vulnerability").fetchall()]
    took = timed(lambda: deriving.derive(numbers))
    pairs = _pairs()
    keys = [(version_key(a), version_key(b)) for a, b in pairs]
    floor = best(lambda: [a < b for a, b in keys])
    some = [json.dumps(record(n, 1)).encode() for n in range(0, DOCUMENTS, DOCUMENTS // CHANGED)]
    keeper = Keeper(feed_by_hand().pk, START + DAY)
    keeper.take(read_file("bench.jsonl", io.BytesIO(b"\n".join(some))))
    again = timed(lambda: deriving.derive(keeper.kept.touched))
    note = f"{len(pairs):,} pairs of advisory and release in {took:.1f} s"
    return [
        Figure("statuses", took / floor, "× comparing cached keys", "<= 2", note),
        Figure("statuses_changed", again / took, "× all of them", "<= 0.02", f"{CHANGED} of {DOCUMENTS:,} changed"),
    ]


def _pairs() -> list[tuple[str, str]]:
    """Return the pairs of a release and the end of a range that have to be compared."""
    return (
        raw_connection()
        .execute(
            "SELECT t.version, s.body ->> '$.ranges[0].high' FROM exposure_status x JOIN exposure_thing t ON t.id = x.thing_id "
            "JOIN exposure_statementrow s ON s.id = x.statement"
        )
        .fetchall()
    )


def _room() -> list[Figure]:
    everything = question("", None)
    cold = timed(lambda: findings())
    whole = best(lambda: overview.overview(everything), 3)
    listed = best(lambda: overview.advisories(everything), 3)
    past = question("", START + DAY // 2)
    overview.overview(past)
    then = best(lambda: overview.overview(past), 3)
    places = best(lambda: heat.heat(everything, "place"), 3)
    name = overview.advisories(everything)[0]["name"]
    number = number_of(name) or 0
    one = best(lambda: page.advisory(number, everything), 3)
    changes = first.first(everything)
    planned = best(lambda: first.first(everything), 3)
    exact = timed(lambda: first.budgeted(everything, 20))
    names = raw_connection().execute("SELECT name FROM estate_assetspan WHERE valid_to IS NULL LIMIT 100").fetchall()
    told = [{"name": "product-0001", "version": "99"}]
    list(take_sightings(sighting(n, 5, source="bench", packages=told) for (n,) in names))
    began = time.perf_counter()
    findings()
    again = time.perf_counter() - began
    open_ = f"{changes['open']:,} findings, {len(changes['changes'])} changes"
    return [
        Figure("exposure_overview", whole * 1e3, "ms", "<= 150", f"{open_}; built in {cold:.1f} s"),
        Figure("exposure_advisories", listed * 1e3, "ms", "<= 150", ""),
        Figure("exposure_as_of", then / whole, "× now", "<= 5", f"{then * 1e3:.0f} ms"),
        Figure("exposure_places", places * 1e3, "ms", "<= 150", ""),
        Figure("advisory_page", one * 1e3, "ms", "<= 100", ""),
        Figure("what_to_do_first", planned * 1e3, "ms", "<= 1000", open_),
        Figure("best_for_a_budget", exact * 1e3, "ms", "<= 3000", "20 changes, proved"),
        Figure(
            "findings_after", again / cold, "× from nothing", "<= 0.5", f"{again * 1e3:.0f} ms, 100 devices read again"
        ),
    ]
