"""Failed sign-ins are held back: by account, by address, and in all, each failure for longer than the last.

Nobody is locked out for good, so that a stranger who knows a name cannot keep its person out: the longest wait is a
quarter of an hour. The rule is of the database, so that it holds over all processes and restarts (ASVS 5.0, 6.3.1).
"""

import time
from dataclasses import dataclass
from ipaddress import ip_address
from typing import Any

from django.conf import settings

from tarn.apps.people.models import FailedSignIn

MEMORY = 3600
"""Seconds for which failures count."""
LONGEST = 900
"""The longest wait, in seconds."""


@dataclass(frozen=True)
class Bound:
    """How many failures pass before there is a wait, which doubles with each further one from a second on."""

    free: int
    longest: int = LONGEST

    def wait(self, failures: int) -> int:
        """Return the seconds to wait after the last of so many failures."""
        over = failures - self.free
        return 0 if over < 0 else min(self.longest, 2 ** min(over, 20))


ACCOUNT, ADDRESS, ALL = Bound(4), Bound(20), Bound(500, longest=5)


def address_of(request: Any) -> str:
    """Return the address a request comes from: what a proxy of ours says, and else whoever is at the other end."""
    at = str(request.META.get("REMOTE_ADDR") or "") or "127.0.0.1"
    if at in settings.TARN_PROXIES:
        # The last entry is the proxy's own word; those before it were sent along and are anybody's.
        for entry in reversed(request.META.get("HTTP_X_FORWARDED_FOR", "").split(",")):
            try:
                told = str(ip_address(entry.strip()))
            except ValueError:
                break
            if told not in settings.TARN_PROXIES:
                return told
    return at


def must_wait(name: str, address: str) -> int:
    """Return how many seconds are to pass before this name may be tried from this address; 0 for none."""
    now = time.time()
    recent = FailedSignIn.objects.filter(at__gt=now - MEMORY)
    waits = [0]
    for bound, some in (
        (ACCOUNT, recent.filter(name__iexact=name[:150], forgiven=False)),
        (ADDRESS, recent.filter(address=address)),
        (ALL, recent),
    ):
        last = some.order_by("-at").values_list("at", flat=True).first()
        if last is not None:
            waits.append(round(last + bound.wait(some.count()) - now + 0.5))
    return max(waits)


def failed(name: str, address: str) -> None:
    """Note a failed sign-in; what is older than a month is forgotten."""
    now = time.time()
    FailedSignIn.objects.create(at=now, name=name[:150], address=address)
    FailedSignIn.objects.filter(at__lt=now - 30 * 86_400).delete()


def let_in(name: str) -> None:
    """Forgive an account's failures once its person has signed in; they stay in the record."""
    FailedSignIn.objects.filter(name__iexact=name[:150], forgiven=False).update(forgiven=True)
