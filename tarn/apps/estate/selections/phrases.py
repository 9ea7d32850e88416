"""Phrases by name, for whoever compares with them outside a filter."""

from tarn.apps.estate.models import Phrase


def phrase_values() -> dict[str, tuple[str, ...]]:
    """Return the values of every phrase; patterns stand between slashes."""
    return {name: tuple(values) for name, values in Phrase.objects.values_list("name", "values")}
