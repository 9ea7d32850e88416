"""Notes and files that people keep with assets, and with what else holds papers."""

from collections.abc import Callable
from pathlib import Path

from django.conf import settings
from django.db.models import Q, QuerySet

from tarn.apps.estate.asking.dial import iso
from tarn.apps.estate.models import Paper, Sighting
from tarn.apps.estate.papers.results import PaperOut
from tarn.apps.estate.register.identifiers import assets_of

_holders: dict[str, Callable[[int], bool]] = {}


def holds_papers(kind: str, there: Callable[[int], bool]) -> None:
    """Say that things of a kind hold papers; `there`: whether whoever asks may see the one of a number."""
    _holders[kind] = there


def anchor_of(kind: str, number: int) -> str | None:
    """Return what papers of a thing hang on; None where there is no such thing whoever asks may see."""
    there = _holders.get(kind)
    return f"{kind}:{number}" if there is not None and there(number) else None


def _seen(anchor: str) -> bool:
    kind, _, number = anchor.partition(":")
    if kind in _holders and number.isdigit():
        return anchor_of(kind, int(number)) is not None
    return bool(assets_of([anchor]))


def folder() -> Path:
    """Return where the files' contents lie."""
    return Path(settings.HOME) / "papers"


def papers(asset: int, at: int | None) -> list[PaperOut]:
    """Return what is kept with an asset as of a moment, the newest first. Who may see the asset is asked before."""
    documents = Sighting.objects.filter(asset=asset).values("document")
    return [_shown(p) for p in _then(Paper.objects.filter(anchor__in=documents), at)]


def papers_of(documents: list[str], at: int | None) -> dict[str, list[PaperOut]]:
    """Return by document what is kept with it as of a moment."""
    out: dict[str, list[PaperOut]] = {}
    for one in _then(Paper.objects.filter(anchor__in=documents), at):
        out.setdefault(one.anchor, []).append(_shown(one))
    return out


def _then(held: QuerySet[Paper], at: int | None) -> QuerySet[Paper]:
    if at is None:
        held = held.filter(removed_at=None)
    else:
        held = held.filter(Q(removed_at=None) | Q(removed_at__gt=at), made_at__lte=at)
    return held.order_by("-pk")


def _shown(one: Paper) -> PaperOut:
    return {
        "id": one.pk,
        "text": one.text,
        "file_name": one.file_name,
        "size": one.size,
        "made_by": one.made_by,
        "made_at": iso(one.made_at),
    }


def paper(number: int, *, removed: bool = False) -> Paper:
    """Return a paper of something whoever asks may see. Raises Paper.DoesNotExist."""
    held = Paper.objects.get(pk=number)
    if not _seen(held.anchor) or (held.removed_at is not None and not removed):
        raise Paper.DoesNotExist
    return held
