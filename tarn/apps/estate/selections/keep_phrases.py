"""Phrases: named lists and patterns, made, changed and dropped."""

import re
from typing import Any

from django.db import transaction

from tarn.apps.estate.asking.uses import uses_of
from tarn.apps.estate.models import Phrase
from tarn.apps.estate.selections.inputs import PhraseIn
from tarn.apps.people.actions.audit import record
from tarn.apps.people.actions.refusals import Invalid, once
from tarn.apps.people.roles import NotAllowed, require
from tarn.apps.people.scope import scope
from tarn.core.patterns import pattern

_NAME = re.compile(r"^[a-z][a-z0-9_]{0,59}$")


def _checked(data: PhraseIn) -> dict[str, Any]:
    name = data.name.strip().removeprefix("@")
    if not _NAME.match(name):
        raise Invalid("name", "A phrase is named in small letters, figures and _, such as office_suites.")
    values = [str(v).strip() for v in data.values if str(v).strip()]
    if not values:
        raise Invalid("values", "A phrase needs at least one word or pattern.")
    for value in values:
        if len(value) > 2 and value.startswith("/") and value.endswith("/"):
            try:
                pattern(value[1:-1])
            except ValueError as error:
                raise Invalid("values", f"The pattern {value} cannot be used: {error}") from None
    return {"name": name, "values": values, "meaning": data.meaning.strip()[:300]}


def _may(user: Any) -> None:
    require(user, "keep")
    if scope() is not None:
        raise NotAllowed("Phrases are the same for all organisations; you are limited to some.")


def save_phrase(user: Any, data: PhraseIn, name: str | None = None) -> Phrase:
    """Make a phrase, or change the one of a name. Raises Invalid, Phrase.DoesNotExist."""
    _may(user)
    checked = _checked(data)
    with once("name", f"There is a phrase @{checked['name']} already."):
        phrase = Phrase.objects.get(name=name) if name else Phrase()
        if name and name != checked["name"] and (used := uses_of(phrase=name)):
            raise Invalid("name", f"@{name} is spoken of by {len(used)} filters; change those first.")
        for field, value in checked.items():
            setattr(phrase, field, value)
        phrase.save(force_insert=name is None)
        record(user, "changed a phrase" if name else "made a phrase", f"@{phrase.name}", detail=checked)
    return phrase


def drop_phrase(user: Any, name: str) -> None:
    """Drop a phrase. Raises Phrase.DoesNotExist, and Invalid where a filter still speaks of it."""
    _may(user)
    with transaction.atomic():
        phrase = Phrase.objects.get(name=name)
        if used := uses_of(phrase=name):
            who = ", ".join(f"the {u.what} “{u.name}”" for u in used[:4])
            raise Invalid("name", f"@{name} is still spoken of by {who}; it was not dropped.")
        record(user, "dropped a phrase", f"@{name}", detail={"values": phrase.values})
        phrase.delete()
