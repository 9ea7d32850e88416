"""Making, changing and dropping credentials. Secrets go in and never come out."""

from typing import Any

from django.db import transaction

from tarn.apps.discovery.credentials.inputs import CredentialIn
from tarn.apps.discovery.models import Credential, Outpost
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.organisations import owner
from tarn.apps.people.actions.refusals import Invalid, once, require_version
from tarn.apps.people.roles import require
from tarn.apps.people.scope import visible
from tarn.apps.people.sealing import seal
from tarn.collect.snmp.client import AUTH_KEYS, PRIVACY_KEYS
from tarn.core.reach import ReachError, read_reach, written

PROTOCOLS = {
    "snmp-v1": 161,
    "snmp-v2c": 161,
    "snmp-v3": 161,
    "ssh": 22,
    "winrm": 5986,
    "ldap": 636,
    "http": 443,
    "cloud": 443,
}
"""Protocols a credential can be for, and their usual ports."""
PLAIN_PORTS = {"winrm": 5985, "ldap": 389, "http": 80}
SECRETS: dict[str, tuple[str, ...]] = {
    "snmp-v1": ("community",),
    "snmp-v2c": ("community",),
    "snmp-v3": ("auth", "privacy"),
    "ssh": ("password", "key", "passphrase"),
    "winrm": ("password",),
    "ldap": ("password",),
    "http": ("password",),
    "cloud": ("password",),
}
TRIED = ("ssh", "winrm", "snmp-v1", "snmp-v2c")
"""Protocols over which a password that everybody knows may be tried."""
MANNERS = {"winrm": ("ntlm", "basic", "kerberos"), "http": ("basic", "bearer", "header")}
"""Ways to sign in, the usual one first."""
LABELS = {
    "community": "the community",
    "auth": "the authentication secret",
    "privacy": "the privacy secret",
    "password": "a password or a key",
}


def _reach(data: CredentialIn, protocol: str, *, clear: bool) -> list[str]:
    """Return where a credential may be used, checked. Raises Invalid."""
    entries = written(data.reach)
    if not entries and protocol != "cloud":
        like = "10.60.4.10 or directory.example" if protocol in ("ldap", "http") else "10.60.4.0/24"
        raise Invalid("reach", f"Say where it may be used, such as {like}: it is sent nowhere else.")
    try:
        reach = read_reach(entries)
    except ReachError as error:
        raise Invalid("reach", str(error)) from None
    if clear and reach.wide:
        raise Invalid(
            "reach",
            f"A password in clear text goes only to hosts named one by one; “{reach.wide}” is more than one. "
            "Use TLS, a key, NTLM or Kerberos where you can.",
        )
    return list(entries)


def _outposts(data: CredentialIn) -> list[Outpost]:
    wanted = list(data.outposts)
    found = list(visible(Outpost).filter(pk__in=wanted, withdrawn_at=None))
    if missing := set(wanted) - {o.pk for o in found}:
        raise Invalid("outposts", f"There is no outpost {min(missing)}.")
    return found


def _wider(held: Credential, values: dict[str, Any], outposts: list[Outpost]) -> str:
    """Return which change would let a secret go where, or to whom, it may not go now; empty where none does."""
    before, after = held.where, read_reach(tuple(values["reach"]))
    if not after.within(before):
        return "It may now be used at more places"
    if values["protocol"] != held.protocol or values["port"] != held.port:
        return "It now goes to another service"
    if (values["plain"], not values["verify"]) > (held.plain, not held.verify) or values["auth"] != held.auth:
        return "It now travels another way"
    if values["organisation"] != held.organisation:
        return "It is now for others"
    if {o.pk for o in outposts} - set(held.outposts.values_list("pk", flat=True)):
        return "It is now handed to another outpost"
    return ""


def _checked(data: CredentialIn, secrets: dict[str, str], *, new: bool) -> dict[str, Any]:
    name, protocol = data.name.strip(), data.protocol
    if not name:
        raise Invalid("name", "A credential needs a name, so that outcomes can say which was refused.")
    plain = data.plain and protocol in PLAIN_PORTS
    port = data.port or (PLAIN_PORTS[protocol] if plain else PROTOCOLS[protocol])
    if not 1 <= port <= 65_535:
        raise Invalid("port", f"{port} is no port: 1 to 65,535.")
    timeout = float(data.timeout or (2.0 if protocol.startswith("snmp") else 15.0))
    if not 0.1 <= timeout <= 120:
        raise Invalid("timeout", f"A time-out of {timeout} s is out of bounds: 0.1 to 120.")
    user = data.user.strip()
    auth, privacy = data.auth, data.privacy
    if protocol in MANNERS:
        auth = auth or MANNERS[protocol][0]
        if auth not in MANNERS[protocol]:
            raise Invalid("auth", f"“{auth}” is no way to sign in here; one of: {', '.join(MANNERS[protocol])}.")
    if not user and protocol not in ("snmp-v1", "snmp-v2c") and auth != "bearer":
        wanted = "the header that carries the key" if auth == "header" else "a user name"
        raise Invalid("user", f"This sign-in needs {wanted}.")
    acts = data.acts
    if acts and protocol not in ("ssh", "winrm"):
        raise Invalid("acts", f"Tasks are run over SSH and WinRM; {protocol} only reads.")
    if data.known_to_all and (protocol not in TRIED or acts):
        raise Invalid("known_to_all", f"What everybody knows is tried over {', '.join(TRIED)}, and never acts.")
    places = [p.strip() for p in data.places if p.strip()]
    if protocol == "snmp-v3":
        auth, privacy = auth or "sha256", privacy or "aes128"
        if auth not in AUTH_KEYS:
            raise Invalid("auth", f"“{auth}” is no authentication protocol; one of: {', '.join(AUTH_KEYS)}.")
        if privacy not in PRIVACY_KEYS:
            raise Invalid("privacy", f"“{privacy}” is no privacy protocol; one of: {', '.join(PRIVACY_KEYS)}.")
        for part in ("auth", "privacy"):
            if secrets.get(part) and len(secrets[part]) < 8:
                raise Invalid(part, "SNMP v3 asks for secrets of 8 characters or more (RFC 3414, 11.2).")
    unknown = set(secrets) - set(SECRETS[protocol])
    if unknown:
        raise Invalid(sorted(unknown)[0], f"{protocol} has no secret called “{sorted(unknown)[0]}”.")
    given = [s for s in SECRETS[protocol] if secrets.get(s)]
    wanted = SECRETS[protocol][0]
    if new and (not given if protocol == "ssh" else not secrets.get(wanted)):
        raise Invalid(wanted, f"{LABELS[wanted].capitalize()} is missing.")
    clear = plain and (protocol == "ldap" or auth == "basic")
    return {
        "reach": _reach(data, protocol, clear=clear),
        "name": name,
        "protocol": protocol,
        "port": port,
        "timeout": timeout,
        "user": user,
        "auth": auth,
        "privacy": privacy,
        "plain": plain,
        "verify": data.verify,
        "places": places,
        "acts": acts,
        "known_to_all": data.known_to_all,
        "preference": data.preference,
        "organisation": owner(data.organisation),
    }


def make_credential(user: Any, data: CredentialIn, secrets: dict[str, str]) -> Credential:
    """Make a credential. Raises Invalid."""
    if user is not None:
        require(user, "credentials")
    values, outposts = _checked(data, secrets, new=True), _outposts(data)
    with once("name", f"There is a credential “{values['name']}” already."):
        made = Credential.objects.create(**values, sealed=seal({k: v for k, v in secrets.items() if v}))
        made.outposts.set(outposts)
        record(user, "made a credential", made.name, detail={"protocol": made.protocol, "reach": made.reach})
    return made


def change_credential(
    user: Any, credential_id: int, version: int, data: CredentialIn, secrets: dict[str, str]
) -> Credential:
    """Change a credential made from `version`; secrets that are not given stay. Raises Invalid, Stale."""
    require(user, "credentials")
    with transaction.atomic():
        held = visible(Credential).get(pk=credential_id)
        require_version(held, version, f"“{held.name}”", {"name": held.name, "version": held.version})
        values, outposts = _checked(data, secrets, new=held.protocol != data.protocol), _outposts(data)
        if values["known_to_all"] and (sweep := held.sweep_set.first()) is not None:
            raise Invalid("known_to_all", f"The sweep “{sweep.name}” reads with it: take it out there first.")
        wider = _wider(held, values, outposts)
        if wider and not any(secrets.values()):
            raise Invalid(SECRETS[held.protocol][0], f"{wider}: type its secret again.")
        for name, value in values.items():
            setattr(held, name, value)
        if any(secrets.values()):
            held.sealed = seal({k: v for k, v in secrets.items() if v})
            held.refusals = 0  # a new secret is counted from nought
        held.version += 1
        with once("name", f"There is a credential “{values['name']}” already."):
            held.save()
        held.outposts.set(outposts)
        detail = {"secret replaced": any(secrets.values()), "reach": held.reach}
        record(user, "changed a credential", held.name, detail=detail)
    return held


def renew_secret(user: Any, credential_id: int, secrets: dict[str, str]) -> Credential:
    """Replace a credential's secret and nothing else. Raises Invalid, Credential.DoesNotExist."""
    require(user, "credentials")
    with transaction.atomic():
        held = visible(Credential).get(pk=credential_id)
        unknown = set(secrets) - set(SECRETS[held.protocol])
        if unknown or not any(secrets.values()):
            raise Invalid(sorted(unknown or SECRETS[held.protocol])[0], "Type the new secret.")
        held.sealed, held.refusals = seal({k: v for k, v in secrets.items() if v}), 0
        held.version += 1
        held.save(update_fields=["sealed", "refusals", "version"])
        record(user, "renewed the secret of", held.name)
    return held


def drop_credential(user: Any, credential_id: int) -> None:
    """Drop a credential. Final: its secret is gone. Raises Credential.DoesNotExist."""
    require(user, "credentials")
    with transaction.atomic():
        credential = visible(Credential).get(pk=credential_id)
        record(user, "dropped a credential", credential.name)
        credential.delete()
