"""Licence keys: taken in many at once, sealed, shown to those who may, withdrawn."""

import time
from typing import Any

from django.conf import settings
from django.db import transaction

from tarn.apps.licences.actions.changing import back_to, changed
from tarn.apps.licences.models import Key, Licence
from tarn.apps.licences.results import KeysAdded
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.roles import require
from tarn.apps.people.scope import visible
from tarn.apps.people.sealing import seal, unseal
from tarn.core.licensing.keys import digest_of, split_keys, tail_of

MOST = 5_000


def add_keys(user: Any, number: int, text: str, activations: int | None) -> KeysAdded:
    """Add pasted keys to a licence; one that is there already, or comes twice, is named and not added again.

    Raises Invalid, where none is new too; Licence.DoesNotExist.
    """
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
    new: dict[str, str] = {}
    places: dict[str, int] = {}
    twice: list[str] = []
    for place, key in enumerate(keys, start=1):
        if len(key) > 200:
            raise Invalid("keys", f"Key {place} is longer than any key: {len(key)} characters.")
        digest = digest_of(key, settings.TARN_SECRETS_KEY)
        end = f" (…{tail})" if (tail := tail_of(key)) else ""
        if digest in there:
            twice.append(f"key {place}{end} is with this licence already")
        elif digest in new:
            twice.append(f"keys {places[digest]} and {place}{end} are one")
        else:
            new[digest], places[digest] = key, place
    if not new:
        raise Invalid("keys", f"Nothing was added: {'; '.join(twice[:5])}.")
    with transaction.atomic():
        inverse = back_to(held)
        now = int(time.time())
        Key.objects.bulk_create(
            Key(
                licence=held,
                sealed=seal({"key": key}),
                digest=digest,
                tail=tail_of(key),
                activations=activations,
                added_at=now,
            )
            for digest, key in new.items()
        )
        changed()
        record(user, "added keys", f"{len(new)} to {held.name}", undo=inverse)
    return {"count": len(new), "tails": [tail_of(key) for key in new.values()][:20], "twice": twice}


def show_key(user: Any, number: int) -> str:
    """Return a key in full, and note who saw it. Raises Key.DoesNotExist, SealBroken."""
    require(user, "plan")
    key = visible(Key).select_related("licence").get(pk=number)
    told = unseal(bytes(key.sealed), key.licence.name)["key"]
    record(user, "looked at a key", f"{key.licence.name} …{key.tail}")
    return told


def drop_key(user: Any, number: int) -> None:
    """Withdraw a key. Raises Key.DoesNotExist."""
    require(user, "plan")
    key = visible(Key).select_related("licence").get(pk=number)
    with transaction.atomic():
        inverse = back_to(key.licence)
        key.delete()
        changed()
        record(user, "withdrew a key", f"{key.licence.name} …{key.tail}", undo=inverse)
