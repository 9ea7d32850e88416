"""The company's networks as they are shown."""

from tarn.apps.discovery.models import Network
from tarn.apps.discovery.networks.places import ranges_of
from tarn.apps.discovery.networks.results import NetworkOut
from tarn.apps.estate.asking.branches import places_in_sight
from tarn.apps.people.scope import visible
from tarn.core.ranges import address_key
from tarn.core.schedule import in_words
from tarn.core.text import fold


def network(held: Network) -> NetworkOut:
    """Return a network of the company."""
    return {
        "id": held.id,
        "range": held.range,
        "name": held.name,
        "place": held.place,
        "never_probe": held.never_probe,
        "outside": held.outside,
        "at_once": held.at_once,
        "pause_ms": held.pause_ms,
        "quiet": held.quiet,
        "quiet_minutes": held.quiet_minutes,
        "quiet_words": in_words(held.quiet) if held.quiet else "",
        "organisation": held.organisation_id,
        "outposts": [o.name for o in held.outposts.all() if o.withdrawn_at is None],
    }


def in_sight() -> list[Network]:
    """Return the company's networks, those in the branch whoever asks stands in, in the order of their addresses."""
    seen = places_in_sight()
    held = [n for n in visible(Network).prefetch_related("outposts") if seen is None or fold(n.place) in seen]
    return sorted(held, key=lambda n: address_key(str(ranges_of(n)[0].first)))


def networks() -> list[NetworkOut]:
    """Return the networks in sight."""
    return [network(n) for n in in_sight()]
