"""In which language somebody reads: what they chose, else what their browser asks for."""

from typing import Annotated, Any

from django.contrib.auth import get_user_model
from django.utils.translation import get_language
from pydantic import PlainSerializer

from tarn.apps.people.actions.refusals import Invalid
from tarn.apps.people.models import Reader
from tarn.core.filters.english import english
from tarn.core.filters.german import german
from tarn.core.filters.tree import Node
from tarn.core.speech import LANGUAGES, said_in


def reading() -> str:
    """The language of whoever is answered just now, a tag of `LANGUAGES`."""
    tag = (get_language() or "en")[:2]
    return tag if tag in LANGUAGES else "en"


def as_read(text: str) -> str:
    """A text of Tarn's own, as whoever is answered just now reads it."""
    return said_in(text, reading())


Words = Annotated[str, PlainSerializer(as_read, return_type=str)]
"""A text that Tarn words itself, in an answer: it is told in the language of whoever asked. Never what is sent back."""


def asked_in_words(tree: Node) -> str:
    """What a filter asks, as a sentence in the language of whoever is answered just now."""
    return german(tree) if reading() == "de" else english(tree)


def language_of(user: Any) -> str | None:
    """The language somebody chose; none where they have said nothing."""
    chosen: str | None = Reader.objects.filter(user=user).values_list("language", flat=True).first()
    return chosen


def choose_language(user: Any, language: str) -> None:
    """Keep in which language somebody reads. Raises Invalid."""
    if language not in LANGUAGES:
        raise Invalid("language", f"“{language}” is no language here; one of: {', '.join(LANGUAGES)}.")
    Reader.objects.update_or_create(user=user, defaults={"language": language})


def language_at(address: str) -> str:
    """The language of whoever has a mail address, for a letter to them; English where nobody said."""
    users = get_user_model().objects.filter(email__iexact=address)
    chosen: str | None = Reader.objects.filter(user__in=users).values_list("language", flat=True).first()
    return chosen or "en"
