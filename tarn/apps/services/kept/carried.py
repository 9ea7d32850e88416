"""What services on which much hangs stand on, noted as it changes: so that a device can be asked for it at no cost."""

from collections.abc import Iterable

from django.db import transaction

from tarn.apps.estate.asking.places import holds
from tarn.apps.estate.store.database import raw_connection
from tarn.apps.estate.store.stamps import count_up
from tarn.apps.services.kept.members import members
from tarn.apps.services.kept.spans import turn_over
from tarn.apps.services.models import CarriedSpan, Service
from tarn.apps.services.standing.edges import graph
from tarn.core.standing.graph import standing_on


def note_carried(services: Iterable[Service], now: int) -> None:
    """Note the devices that services of high importance stand on now. A service of which something cannot be reckoned
    keeps what it had."""
    there: dict[tuple[int, int], None] = {}
    kept: set[int] = set()
    for service in services:
        if service.importance != "high":
            continue
        found = members(service, None)
        if found.trouble:
            kept.add(service.pk)
        elif found.all:
            there |= dict.fromkeys((service.pk, asset) for asset in standing_on(graph(None), found.all))
    held = {(s.service_id, s.asset_id): s for s in CarriedSpan.objects.filter(valid_to=None)}
    gone = [span for key, span in held.items() if key not in there and span.service_id not in kept]
    came = [CarriedSpan(service_id=s, asset_id=a, valid_from=now) for s, a in there if (s, a) not in held]
    with transaction.atomic():
        if turn_over(CarriedSpan, gone, came, now):
            count_up(raw_connection(), "carried")


def carried(at: int | None) -> dict[int, str]:
    """Return the assets a service of high importance stood on at a moment, as far as Tarn noted it then."""
    then = holds("c", at)
    rows = raw_connection().execute(
        f"SELECT DISTINCT c.asset_id FROM services_carriedspan c WHERE {then.text}", then.values
    )
    return dict.fromkeys((asset for (asset,) in rows), "high")
