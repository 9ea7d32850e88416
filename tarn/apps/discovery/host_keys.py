"""Which host keys an address may present: those it presented before, and those a person accepted there."""

from tarn.apps.discovery.models import AcceptedKey, Trial
from tarn.apps.estate.reads.identifiers import presented_keys
from tarn.apps.people.roles import may


def host_keys(address: str | None = None) -> dict[str, frozenset[str]]:
    """Return fingerprints of host keys by address; of one address only, where it is given."""
    out: dict[str, set[str]] = {}
    for where, key in presented_keys(address):
        out.setdefault(where, set()).add(key)
    accepted = AcceptedKey.objects.all() if address is None else AcceptedKey.objects.filter(address=address)
    for where, key in accepted.values_list("address", "fingerprint"):
        out.setdefault(where, set()).add(key)
    return {where: frozenset(keys) for where, keys in out.items()}


def expected(address: str) -> frozenset[str]:
    """Return the host keys an address may present; where none is known there yet, none."""
    here = host_keys(address).get(address, frozenset())
    return here | frozenset(key for _, key in presented_keys(None)) if here else frozenset()


def accepts_first_keys(trial: Trial) -> bool:
    """Whether a host key met for the first time counts as that host's in a trial: where who asks keeps credentials."""
    return trial.asked_by is None or may(trial.asked_by, "credentials")
