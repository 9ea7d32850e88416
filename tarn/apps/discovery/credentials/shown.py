"""Credentials without their secrets, and their trials."""

from collections import Counter

from django.db.models import Max

from tarn.apps.discovery.credentials.results import CredentialOut, TrialOut
from tarn.apps.discovery.models import Credential, Run, RunAddress, Trial
from tarn.apps.people.scope import visible
from tarn.collect.problems import REFUSALS


def credential(held: Credential) -> CredentialOut:
    """Return a credential as it may be shown."""
    return {
        "id": held.pk,
        "name": held.name,
        "protocol": held.protocol,
        "port": held.port,
        "timeout": held.timeout,
        "user": held.user,
        "auth": held.auth,
        "privacy": held.privacy,
        "plain": held.plain,
        "verify": held.verify,
        "places": held.places,
        "reach": held.reach,
        "outposts": [o.pk for o in held.outposts.all()],
        "acts": held.acts,
        "known_to_all": held.known_to_all,
        "refusals": held.refusals,
        "preference": held.preference,
        "organisation": held.organisation_id,
        "version": held.version,
        "used_by": [s.name for s in held.sweep_set.all()],
    }


def credentials() -> list[CredentialOut]:
    """Return all credentials, in order of preference."""
    return [credential(c) for c in visible(Credential).prefetch_related("sweep_set", "outposts")]


def trial(held: Trial) -> TrialOut:
    """Return a trial: its steps so far, and how else its credential fares."""
    name = held.credential.name
    fared = dict(
        Counter(
            RunAddress.objects.filter(run__in=_last_runs(), reason__contains=f"“{name}”").values_list("code", flat=True)
        )
    )
    read_with = RunAddress.objects.filter(run__in=_last_runs(), credential=name)
    return {
        "id": held.pk,
        "credential": held.credential_id,
        "name": name,
        "protocol": held.credential.protocol,
        "address": held.address,
        "route": held.route,
        "outpost": held.outpost.name if held.outpost else "",
        "state": held.state,
        "made_at": held.made_at,
        "steps": held.steps,
        "read_with": read_with.count(),
        "refused": sum(n for code, n in fared.items() if code in REFUSALS),
        "refusals": held.credential.refusals,
        "used_by": [s.name for s in held.credential.sweep_set.all()],
        "places": held.credential.places,
    }


def _last_runs() -> list[int]:
    """Return the last run of each sweep."""
    return list(visible(Run).values("sweep").annotate(last=Max("id")).values_list("last", flat=True))
