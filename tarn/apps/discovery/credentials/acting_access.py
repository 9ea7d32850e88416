"""With what and by which way something may be done at an address: sweeps say where Tarn may go, credentials as whom."""

from dataclasses import dataclass
from ipaddress import ip_address

from tarn.apps.discovery.credentials.sealing import opened
from tarn.apps.discovery.models import Credential, Sweep, Worked
from tarn.apps.discovery.networks.change import never_probed
from tarn.apps.discovery.networks.places import Places
from tarn.apps.people.scope import visible
from tarn.collect.credentials import SshCredential, WinrmCredential, account
from tarn.collect.guard import MOST_REFUSALS
from tarn.collect.routes import ROUTES, Route
from tarn.core.ranges import ALL_THERE_ARE, parse_ranges

Hand = SshCredential | WinrmCredential


@dataclass(frozen=True)
class Way:
    """How an address is dialled and which place it is at, or why it is not dialled at all."""

    route: Route | None = None
    place: str = ""
    refused: str = ""


class Coverage:
    """The sweeps with their ranges read, the one made last first."""

    def __init__(self) -> None:
        self._sweeps = [
            (sweep, parse_ranges(sweep.ranges), parse_ranges(sweep.exclusions, most=ALL_THERE_ARE))
            for sweep in visible(Sweep).order_by("-pk")
        ]

    def of(self, address: str) -> Sweep | None:
        """Return a sweep whose ranges hold an address and whose exclusions do not, the one made last."""
        wanted = ip_address(address)
        for sweep, ranges, exclusions in self._sweeps:
            if any(wanted in r for r in ranges) and not any(wanted in r for r in exclusions):
                return sweep
        return None


class Ways:
    """The ways to addresses, the company's networks read once."""

    def __init__(self) -> None:
        self._places, self._coverage = Places.load(), Coverage()
        self._never = parse_ranges(never_probed(None), most=ALL_THERE_ARE)

    def to(self, address: str) -> Way:
        """Return the way to an address; Tarn goes only where a sweep may go."""
        wanted = ip_address(address)
        if any(wanted in r for r in self._never):
            return Way(refused="It lies in a range that is never to be probed.")
        if beyond := self._places.beyond_reach(address):
            return Way(
                refused=f"Only an outpost reaches {beyond.name or beyond.range}; tasks do not go through outposts."
            )
        sweep = self._coverage.of(address)
        if sweep is None:
            return Way(refused="No sweep covers its address, so Tarn may not go there.")
        return Way(ROUTES[sweep.route], self._places.place(address))


def hands_for(way: str, address: str, place: str, organisation: str) -> list[Hand]:
    """Return the credentials that may act at an address over `way` (ssh or winrm), what was let in there first.

    Raises SealBroken.
    """
    held = visible(Credential).filter(protocol=way, acts=True).select_related("organisation")
    may = [
        c
        for c in held
        if (not c.places or place in c.places)
        and c.where.holds(address)
        and (c.organisation is None or c.organisation.name == organisation)
        and c.refusals < MOST_REFUSALS
    ]
    worked = set(Worked.objects.filter(address=address).values_list("credential", flat=True))
    may.sort(key=lambda c: (c.name not in worked, c.preference))
    return [opened(c) for c in may]  # type: ignore[misc]


def was_let_in(address: str, credential: Hand) -> None:
    """Note that a credential was let in at an address; its account's refusals are forgotten."""
    Worked.objects.get_or_create(address=address, credential=credential.name)
    Credential.objects.filter(name=credential.name, refusals__gt=0).update(refusals=0)


def was_refused(credential: Hand) -> None:
    """Count a refusal of a directory account, so that it is not tried until it locks."""
    if account(credential):
        for held in Credential.objects.filter(name=credential.name):
            held.refusals = min(held.refusals + 1, MOST_REFUSALS * 10)
            held.save(update_fields=["refusals"])
