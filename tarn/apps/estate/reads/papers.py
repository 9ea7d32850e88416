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
    held: QuerySet[Paper] = Paper.objects.filter(anchor__in=documents)
    if at is None:
        held = held.filter(removed_at=None)
    else:
        held = held.filter(Q(removed_at=None) | Q(removed_at__gt=at), made_at__lte=at)
    shown = ("text", "file_name", "size", "made_by")
    return [{"id": p.pk, **{f: getattr(p, f) for f in shown}, "made_at": iso(p.made_at)} for p in held.order_by("-pk")]


def paper(number: int, *, removed: bool = False) -> Paper:
    """Return a paper of an asset whoever asks may see. Raises Paper.DoesNotExist."""
    held = Paper.objects.get(pk=number)
    asset = Sighting.objects.filter(document=held.anchor).values_list("asset", flat=True).first()
    if asset is None or not visible_among([asset]) or (held.removed_at is not None and not removed):
        raise Paper.DoesNotExist
    return held
