"""Exchanging the key that seals secrets: everything sealed is opened with the old one and sealed with a new one."""

from typing import Any

from cryptography.fernet import Fernet
from django.apps import apps
from django.conf import settings
from django.db import models, transaction

from tarn.apps.people.sealing import SealBroken, reseal, unseal
from tarn.core.licensing.keys import digest_of
from tarn.site.home import secrets_keys, write_secrets_keys


def sealed_models() -> list[Any]:
    """Return the models that keep something sealed."""
    return [m for m in apps.get_models() if any(isinstance(f, models.BinaryField) and f.name == "sealed"
                                                for f in m._meta.get_fields())]  # fmt: skip


def rotate() -> dict[str, int]:
    """Exchange the key; return by model how many secrets were sealed anew.

    The new key is written before the first secret is sealed with it, and the old one goes only once all are: whenever
    this is broken off, every secret opens. Raises SealBroken for one that no key opens; nothing is changed then.
    """
    from tarn.apps.licences.models import Key
    from tarn.apps.people.signing_in import Factors

    new = Fernet.generate_key()
    before = secrets_keys()
    write_secrets_keys([new, *before])
    settings.TARN_SECRETS_KEYS = [new, *before]
    settings.TARN_SECRETS_KEY = new
    done: dict[str, int] = {}
    try:
        with transaction.atomic():
            for model in sealed_models():
                for held in model.objects.exclude(sealed=None):
                    held.sealed = reseal(bytes(held.sealed), str(held))
                    if isinstance(held, Key):
                        held.digest = digest_of(unseal(bytes(held.sealed), str(held))["key"], new)
                    held.save(update_fields=["sealed", *(["digest"] if isinstance(held, Key) else [])])
                    done[model._meta.verbose_name] = done.get(model._meta.verbose_name, 0) + 1
            if factors := Factors.reseal_all():
                done["second factor"] = factors
    except SealBroken:
        write_secrets_keys(before)
        raise
    write_secrets_keys([new])
    return done
