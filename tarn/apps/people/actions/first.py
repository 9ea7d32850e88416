"""The first administrator, made on a page at first start by whoever can read the server's own files."""

import hmac
import os
import secrets
from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.auth import get_user_model
from django.db import transaction

from tarn.apps.people.actions.accounts import check_password, checked_name, make_person
from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.roles import NotAllowed

FILE = "first-sign-in.code"


def needed() -> bool:
    """Whether there is no account yet."""
    return not get_user_model().objects.exists()


def code() -> str:
    """Return the code that proves who may make the first account: kept in the data directory, for its owner alone."""
    path = Path(settings.HOME) / FILE
    if not path.exists():
        handle = os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
        with os.fdopen(handle, "w") as file:
            file.write("-".join(secrets.token_hex(3) for _ in range(3)))
    return path.read_text().strip()


def make_first(given: str, username: str, password: str, full_name: str) -> Any:
    """Make the first administrator. Raises NotAllowed once there is an account, Invalid for what cannot be."""
    with transaction.atomic():
        if not needed():
            raise NotAllowed("There is an account already; sign in, or ask an administrator.")
        if not hmac.compare_digest(code().encode(), given.strip().encode()):
            raise Invalid(
                "code", f"That is not the code. It stands in the file {FILE} beside Tarn's data, and in its log."
            )
        name = checked_name(username)
        check_password(password)
        made = make_person(None, name, password, "administrator", full_name)
    (Path(settings.HOME) / FILE).unlink(missing_ok=True)
    return made
