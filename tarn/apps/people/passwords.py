"""Passwords that anybody who knows the company would try first (ASVS 5.0, 6.1.2 and 6.2.11)."""

import re
from typing import Any

from django.core.exceptions import ValidationError

from tarn.apps.people.models import Organisation

SHORTEST = 4
"""Letters a word must have to count: shorter ones stand in many words."""


def our_words() -> set[str]:
    """Return the words of this house: the product's name, and those in the organisations' names."""
    names = ["Tarn", *Organisation.objects.values_list("name", flat=True)]
    return {w for name in names for w in re.findall(r"\w+", name.casefold()) if len(w) >= SHORTEST}


class OurOwnWords:
    """Refuses a password that is little more than a word of the house, with digits and signs around it."""

    def validate(self, password: str, user: Any = None) -> None:
        """Check a password. Raises ValidationError."""
        rest = re.sub(r"[\W\d_]+", "", password.casefold())
        for word in sorted(our_words(), key=len, reverse=True):
            if word in rest and len(rest.replace(word, "")) < SHORTEST:
                raise ValidationError(
                    f"The password is little more than “{word}”, which anybody would try here.", code="our_word"
                )

    def get_help_text(self) -> str:
        """Return what is asked of a password."""
        return "It is not just a name of the company or of this tool with something around it."
