"""How a run looks: its credentials opened, what worked where before, and the pace of each network."""

from dataclasses import replace

from tarn.apps.discovery.credentials.expected_keys import host_keys
from tarn.apps.discovery.credentials.sealing import opened
from tarn.apps.discovery.models import Credential, Run, Worked
from tarn.apps.discovery.networks.places import Places
from tarn.collect.credentials import SnmpCredential, account, exposed
from tarn.collect.guard import Guard
from tarn.collect.look import LookSettings
from tarn.collect.reach import PORTS
from tarn.collect.routes import ROUTES


def looked_with(run: Run, places: Places) -> LookSettings:
    """Return how a run looks: its route and credentials, what worked where before, who was refused before."""
    # Of two that are preferred alike the one is tried first that shows a device less of its secret.
    pairs = [(c, opened(c)) for c in run.sweep.credentials.all()]
    pairs.sort(key=lambda p: (p[0].preference, exposed(p[1]), p[0].name))
    held, credentials = [stored for stored, _ in pairs], tuple(one for _, one in pairs)
    worked: dict[str, set[str]] = {}
    names = [c.name for c in held]
    for address, name in Worked.objects.filter(credential__in=names).values_list("address", "credential"):
        worked.setdefault(address, set()).add(name)
    by_address = host_keys()
    refused: dict[str, int] = {}
    for stored, credential in zip(held, credentials, strict=True):
        if who := account(credential):
            refused[who] = max(refused.get(who, 0), stored.refusals)
    return LookSettings(
        ROUTES[run.sweep.route],
        credentials,
        frozenset(run.sweep.protocols),
        run.sweep.patience,
        ports=tuple(dict.fromkeys([*PORTS, *(c.port for c in credentials if not isinstance(c, SnmpCredential))])),
        worked=worked,
        host_keys=by_address,
        keys_met=frozenset(key for keys in by_address.values() for key in keys),
        guard=Guard(refused),
        limited={c.name: frozenset(c.places) for c in held if c.places},
        place=places.place,
        organisation=run.sweep.organisation.name if run.sweep.organisation else "",
    )


def narrowed(settings: LookSettings, only: str) -> LookSettings:
    """Return settings that use one protocol, or the same where none is named."""
    return replace(settings, protocols=frozenset({only})) if only else settings


def keep_refusals(run: Run, counts: dict[str, int]) -> None:
    """Hold the refusals of directory accounts until the next run, so that none is hammered night after night.

    `counts`: by account; nought where it was let in. Several may be at one run: the highest count stands.
    """
    for stored in run.sweep.credentials.all():
        who = account(opened(stored))
        if who and who in counts:
            credentials = Credential.objects.filter(pk=stored.pk)
            (credentials.filter(refusals__lt=counts[who]) if counts[who] else credentials).update(refusals=counts[who])
