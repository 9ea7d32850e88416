"""Licence keys: taken in many at once, sealed, shown to those who may, withdrawn."""

import time
from typing import Any

from django.conf import settings
from django.db import transaction

from tarn.apps.licences.actions.changing import back_to, changed
from tarn.apps.licences.models import Key, Licence
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.roles import require
from tarn.apps.people.scope import visible
from tarn.apps.people.sealing import seal, unseal
from tarn.core.licensing.keys import digest_of, split_keys

MOST = 5_000
_SHOWN = 5


def add_keys(user: Any, number: int, text: str, activations: int | None) -> int:
    """Add pasted keys to a licence; all or none. Returns how many. Raises Invalid, Licence.DoesNotExist."""
    require(user, "plan")
    held = visible(Licence).get(pk=number)
    keys = split_keys(text)
    if not keys:
        raise Invalid("keys", "There is no key in this.")
    if len(keys) > MOST:
        raise Invalid("keys", f"{len(keys)} keys at once are too many: at most {MOST}.")
    if activations is not None and activations < 1:
        raise Invalid("activations", "A key is activated once at the least; leave it empty for any number.")
    there = set(held.key_set.values_list("digest", flat=True))
    seen: dict[str, int] = {}
    for place, key in enumerate(keys, start=1):
        if len(key) > 200:
            raise Invalid("keys", f"Key {place} is longer than any key: {len(key)} characters.")
        digest = digest_of(key, settings.TARN_SECRETS_KEY)
        if digest in there:
            raise Invalid("keys", f"Key {place} (…{key[-_SHOWN:]}) is with this licence already. Nothing was added.")
        if digest in seen:
            raise Invalid("keys", f"Keys {seen[digest]} and {place} (…{key[-_SHOWN:]}) are one. Nothing was added.")
        seen[digest] = place
    with transaction.atomic():
        inverse = back_to(held)
        now = int(time.time())
        Key.objects.bulk_create(
            Key(
                licence=held,
                sealed=seal({"key": key}),
                digest=digest,
                tail=key[-_SHOWN:] if len(key) > 2 * _SHOWN else "",
                activations=activations,
                added_at=now,
            )
            for key, digest in zip(keys, seen, strict=True)
        )
        changed()
        record(user, "added keys", f"{len(keys)} to {held.name}", undo=inverse)
    return len(keys)


def show_key(user: Any, number: int) -> str:
    """Return a key in full, and note who saw it. Raises Key.DoesNotExist, SealBroken."""
    require(user, "plan")
    held = visible(Key).select_related("licence").get(pk=number)
    told = unseal(bytes(held.sealed), held.licence.name)["key"]
    record(user, "looked at a key", f"{held.licence.name} …{held.tail}")
    return told


def drop_key(user: Any, number: int) -> None:
    """Withdraw a key. Raises Key.DoesNotExist."""
    require(user, "plan")
    held = visible(Key).select_related("licence").get(pk=number)
    with transaction.atomic():
        inverse = back_to(held.licence)
        held.delete()
        changed()
        record(user, "withdrew a key", f"{held.licence.name} …{held.tail}", undo=inverse)
