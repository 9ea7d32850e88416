"""Which keys an address may present: those it presented before, and those a person accepted there."""

from tarn.apps.discovery.models import AcceptedKey, Trial
from tarn.apps.estate.register.identifiers import presented_certificates, presented_keys
from tarn.apps.people.roles import may
from tarn.collect.presented import Expected, tls_key


def host_keys(address: str | None = None) -> dict[str, frozenset[str]]:
    """Return keys (`collect/presented.py`) by address; of one address only, where it is given."""
    out: dict[str, set[str]] = {}
    for where, key in presented_keys(address):
        out.setdefault(where, set()).add(key)
    for where, port, pin in presented_certificates(address):
        out.setdefault(where, set()).add(tls_key(port, pin))
    accepted = AcceptedKey.objects.all() if address is None else AcceptedKey.objects.filter(address=address)
    for where, key in accepted.values_list("address", "fingerprint"):
        out.setdefault(where, set()).add(key)
    return {where: frozenset(keys) for where, keys in out.items()}


def of_the_device_at(address: str) -> Expected:
    """Return the keys of the device last met at an address, and no other's: none that moved there, none new."""
    return Expected(host_keys(address).get(address, frozenset()), first_too=False)


def takes_first_keys(trial: Trial) -> bool:
    """Whether a key met for the first time counts in a trial: where who asks keeps credentials."""
    return trial.asked_by is None or may(trial.asked_by, "credentials")


def expected_in(trial: Trial) -> Expected:
    """Return what is expected in a trial, of any device that is known too, for it may have moved here."""
    by_address, first_too = host_keys(), takes_first_keys(trial)
    return Expected(by_address.get(trial.address, frozenset()), frozenset().union(*by_address.values()), first_too)
