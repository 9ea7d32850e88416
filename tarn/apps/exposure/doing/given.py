"""Work that was given: how far it is follows from evidence, never from a tick."""

from tarn.apps.estate.asking.ask import ids, question
from tarn.apps.estate.asking.dial import day_of, iso
from tarn.apps.estate.register.identifiers import assets_numbered
from tarn.apps.exposure.doing.results import GivenWorkOut
from tarn.apps.exposure.models import GivenWork
from tarn.apps.people.scope import scope
from tarn.core.filters.parse import FilterError


def listed() -> list[GivenWorkOut]:
    """Return the work that was given and not taken back, the latest first."""
    return [row for w in GivenWork.objects.filter(ended_at=None) if (row := _told(w)) is not None]


def given_for(key: str) -> list[GivenWorkOut]:
    """Return the work given for one change."""
    return [row for w in GivenWork.objects.filter(key=key, ended_at=None) if (row := _told(w)) is not None]


def _told(work: GivenWork) -> GivenWorkOut | None:
    """Return work as it stands; None where whoever asks may see none of its devices."""
    seen = set(ids(question("standing != none")))
    mine = {a for a in assets_numbered(work.assets) if a in seen}
    if work.assets and not mine and scope() is not None:
        return None
    try:
        left = mine & set(ids(question(work.filter)))
        wrong = ""
    except FilterError as error:
        left, wrong = set(), error.message
    return {
        "id": work.pk,
        "key": work.key,
        "what": work.what,
        "how": work.how,
        "person": work.person,
        "day": work.day.isoformat() if work.day else None,
        "late": work.day is not None and bool(left) and work.day < day_of(None),
        "reference": work.reference,
        "words": work.words,
        "devices": len(mine),
        "open": len(left),
        "wrong": wrong,
        "filter": f"{work.filter} and number in ({', '.join(_quoted(n) for n in work.assets)})"
        if 0 < len(work.assets) <= 300
        else work.filter,
        "made_by": work.made_by,
        "made_at": iso(work.made_at),
    }


def _quoted(number: str) -> str:
    return f'"{number}"'
