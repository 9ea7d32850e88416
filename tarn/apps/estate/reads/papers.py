"""Notes and files that people keep with assets."""

from pathlib import Path
from typing import Any

from django.conf import settings
from django.db.models import Q, QuerySet

from tarn.apps.estate.asking.ask import visible_among
from tarn.apps.estate.models import Paper, Sighting
from tarn.apps.estate.reads.register import iso


def folder() -> Path:
    """Return where the files' contents lie."""
    return Path(settings.HOME) / "papers"


def papers(asset: int, at: int | None) -> list[dict[str, Any]]:
    """Return what is kept with an asset as of a moment, the newest first. Who may see the asset is asked before."""
    documents = Sighting.objects.filter(asset=asset).values("document")
    return [_shown(p) for p in _then(Paper.objects.filter(anchor__in=documents), at)]


def papers_of(documents: list[str], at: int | None) -> dict[str, list[dict[str, Any]]]:
    """Return by document what is kept with it as of a moment."""
    out: dict[str, list[dict[str, Any]]] = {}
    for one in _then(Paper.objects.filter(anchor__in=documents), at):
        out.setdefault(one.anchor, []).append(_shown(one))
    return out


def _then(held: QuerySet[Paper], at: int | None) -> QuerySet[Paper]:
    if at is None:
        held = held.filter(removed_at=None)
    else:
        held = held.filter(Q(removed_at=None) | Q(removed_at__gt=at), made_at__lte=at)
    return held.order_by("-pk")


def _shown(one: Paper) -> dict[str, Any]:
    shown = {f: getattr(one, f) for f in ("text", "file_name", "size", "made_by")}
    return {"id": one.pk, **shown, "made_at": iso(one.made_at)}


def paper(number: int, *, removed: bool = False) -> Paper:
    """Return a paper of an asset whoever asks may see. Raises Paper.DoesNotExist."""
    held = Paper.objects.get(pk=number)
    asset = Sighting.objects.filter(document=held.anchor).values_list("asset", flat=True).first()
    if asset is None or not visible_among([asset]) or (held.removed_at is not None and not removed):
        raise Paper.DoesNotExist
    return held
