"""Branches in questions: what a name holds besides itself, and the branch whoever asks stands in."""

from tarn.apps.estate.store.database import raw_connection
from tarn.apps.people.scope import Asker, asker
from tarn.core.branches import HIERARCHIES, branch
from tarn.core.filters.tree import quote
from tarn.core.text import fold

Trees = dict[str, dict[str, str]]


class NoBranch(ValueError):
    """Nobody can stand in what was asked for."""


def trees() -> Trees:
    """Return the trees by field, each a parent by name."""
    out: Trees = {field: {} for field in HIERARCHIES}
    for field, name, under in raw_connection().execute(
        "SELECT field, name, under FROM estate_branch WHERE under <> ''"
    ):
        out[field][name] = under
    return out


def _stood_in(who: Asker) -> tuple[str, str] | None:
    """Return field and name of the branch somebody stands in; None for everywhere. Raises NoBranch."""
    said = who.standing_in
    if not said:
        return None
    field, _, name = said.partition(":")
    if field not in HIERARCHIES or not name.strip():
        fields = ", ".join(HIERARCHIES)
        raise NoBranch(f"“{said}” is no branch: write it as place:NAME; one can stand in: {fields}.")
    return field, name.strip()


def standing_in(who: Asker | None = None) -> str:
    """Return the filter for the branch whoever asks stands in, empty for everywhere. Raises NoBranch.

    It is asked for as `standing_in=place:NAME` with any call; what works in the background stands nowhere.
    """
    stood = _stood_in(who or asker())
    return f"{stood[0]} in ({quote(stood[1])})" if stood else ""


def places_in_sight() -> frozenset[str] | None:
    """Return the places of the branch whoever asks stands in, folded; None for all. Raises NoBranch."""
    stood = _stood_in(asker())
    if stood is None or stood[0] != "place":
        return None
    return frozenset(fold(n) for n in branch(trees()["place"], stood[1]))
