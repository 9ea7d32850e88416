"""What is owed over a whole estate: positions, the re-reckoning after a sweep, the river, the refresh plan, the money."""

import random
import time
from datetime import UTC, date, datetime
from typing import Any

from tarn.apps.estate.door.entrance import take_in
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.licences.models import Licence, Purchase
from tarn.apps.licences.reads.reckoning import reckoned
from tarn.apps.lifecycle.models import Contract
from tarn.apps.lifecycle.reads.ending import river
from tarn.apps.valuation.models import DepreciationRule
from tarn.apps.valuation.reads.lens import money_of
from tarn.apps.valuation.reads.refresh import planned
from tests.bench.figures import Figure, best, timed
from tests.bench.synthetic import DAY, START
from tests.documents import sighting

_POOLS = 200


def measure(devices: int) -> list[Figure]:
    """All of it on one estate, with 200 licences, 300 contracts and a price and warranty for every device."""
    _own(devices)
    past = START + DAY
    whole = timed(lambda: reckoned(None))
    then = timed(lambda: reckoned(past))
    uses = len(reckoned(None).given.uses)
    _sweep_again()
    again = timed(lambda: reckoned(None))
    out = [
        Figure("positions", whole, f"s, {_POOLS} licences", "<= 1.5", f"{uses:,} uses that count"),
        Figure("positions_as_of", then, "s, a past day", "<= 1.5"),
        Figure("rereckoned", again / whole, "× from nothing", "<= 0.02", f"{again:.2f} s, 100 devices read again"),
    ]
    river(None, 12)
    out.append(Figure("river", best(lambda: river(None, 12), 3) * 1e3, "ms, 12 months", "<= 150"))
    settings = {"life": {"laptop": 48, "server": 60}, "budgets": [400_000_00], "quarters": 12}
    first = timed(lambda: planned("", settings, None))
    drawn = best(lambda: planned("", {**settings, "budgets": [300_000_00]}, None), 3) * 1e3
    out.append(Figure("refresh_redrawn", drawn, "ms, another budget", "<= 300", f"read once in {first:.1f} s"))
    money_of("", "department", None)
    lens = best(lambda: money_of("", "department", None), 3) * 1e3
    out.append(Figure("money_lens", lens, "ms, by department", "<= 3000"))
    return out


def _own(devices: int) -> None:
    dice, now = random.Random(7), int(time.time())
    # So many products that about 50,000 installations are licensed, whatever the size of the estate.
    products = max(8, 2_500_000 // devices)
    for k in range(_POOLS):
        licence = Licence.objects.create(
            name=f"L{k}",
            metric=dice.choice(("device", "device", "core", "named person")),
            products=[f"product-{dice.randrange(products):04d}" for _ in range(1 if k % 4 else 3)],
            made_by="bench",
            made_at=now,
        )
        Purchase.objects.create(
            licence=licence, day=date(2020, 1, 1), quantity=devices // 60, price=dice.randint(10, 900), currency="EUR"
        )
    for k in range(300):
        Contract.objects.create(
            name=f"C{k}",
            provider="bench",
            kind="lease",
            starts=date(2025, 1, 1),
            ends=date(2026, 1 + k % 12, 1 + k % 28),
            renews=12,
            cost=dice.randint(100, 90_000),
            currency="EUR",
            every=dice.choice(("month", "quarter", "year")),
            covers=f"model = M{k % 40}" if k < 40 else "",
            made_by="bench",
            made_at=now,
        )
    DepreciationRule.objects.create(name="All", months=48, method="straight line", convention="full month")
    list(take_in(_bought(n, dice) for n in range(devices)))


def _bought(number: int, dice: random.Random) -> Any:
    bought = int(datetime(2020, 1, 1, 12, tzinfo=UTC).timestamp()) + dice.randrange(2_300) * DAY
    return sighting(
        "x",
        kind="file",
        source="purchases",
        id=f"bought-{number}",
        address="",
        identity={"name": None, "serial": f"SN{number:08d}"},
        acquisition={
            "bought_at": bought,
            "price": dice.randint(300_00, 5_000_00),
            "currency": "EUR",
            "warranty_end": bought + 1_095 * DAY,
        },
    )


def _sweep_again() -> None:
    """A hundred devices are read again; of each one product is another release than before."""
    db = raw_connection()
    rows = db.execute(
        "SELECT s.name, s.serial, p.name, r.version FROM estate_assetspan s JOIN estate_installspan i ON i.asset_id = "
        "s.asset_id AND i.valid_to IS NULL JOIN estate_listing p ON p.id = i.listing_id JOIN estate_release r ON "
        "r.id = i.release_id WHERE s.valid_to IS NULL AND s.asset_id <= 100 ORDER BY s.asset_id"
    ).fetchall()
    by_device: dict[tuple[str, str], list[dict[str, str]]] = {}
    for name, serial, product, version in rows:
        by_device.setdefault((name, serial), []).append({"name": product, "version": version})
    told = []
    for (name, serial), packages in by_device.items():
        packages[0]["version"] += ".1"
        told.append(sighting(name, 9, source="bench", identity={"serial": serial}, packages=packages))
    list(take_in(told))
