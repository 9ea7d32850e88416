"""What discovery shows of other systems: how each is asked, what its syncs brought, what it no longer knows."""

from django.db.models import Count, Q

from tarn.apps.discovery.models import Source, SourceDevice, Sync
from tarn.apps.discovery.sources.results import ChoicesOut, SettingOut, SourceKindOut, SourceOut, SourcePage, SyncOut
from tarn.apps.people.scope import visible
from tarn.collect.sources.kind import Setting, SourceKind, kinds
from tarn.core.mapping import TARGETS, UNITS
from tarn.core.schedule import in_words


def source(held: Source, last: Sync | None, counts: dict[str, int]) -> SourceOut:
    """Return a source with its last sync."""
    return {
        "id": held.pk,
        "name": held.name,
        "kind": held.kind,
        "settings": held.settings,
        "take": held.take,
        "credential": held.credential_id,
        "route": held.route,
        "schedule": held.schedule,
        "schedule_words": in_words(held.schedule) if held.schedule else "",
        "next_at": held.next_at,
        "gone": held.gone,
        "gone_days": held.gone_days,
        "loss_share": held.loss_share,
        "organisation": held.organisation_id,
        "version": held.version,
        "devices": counts.get("known", 0),
        "missing": counts.get("missing", 0),
        "last_sync": sync(last) if last else None,
    }


def sync(held: Sync) -> SyncOut:
    """Return a sync: what it found and what of it could not be read."""
    return {
        "id": held.pk,
        "state": held.state,
        "made_at": held.made_at,
        "ended_at": held.ended_at,
        "since": held.since,
        "counts": held.counts,
        "faults": held.faults[:100],
        "message": held.message,
        "loss": held.loss,
        "asked_by": held.asked_by.username if held.asked_by else None,
    }


def sources() -> list[SourceOut]:
    """Return all sources, each with its last sync."""
    last = {s.source_id: s for s in visible(Sync).select_related("asked_by").order_by("id")}
    rows = SourceDevice.objects.values("source").annotate(
        known=Count("pk", filter=Q(missing_since=None)), missing=Count("pk", filter=Q(missing_since__isnull=False))
    )
    counts = {r["source"]: r for r in rows}
    return [source(s, last.get(s.pk), counts.get(s.pk, {})) for s in visible(Source).order_by("name")]


def source_page(number: int) -> SourcePage:
    """Return one source and its latest syncs. Raises Source.DoesNotExist."""
    found = next((s for s in sources() if s["id"] == number), None)
    if found is None:
        raise Source.DoesNotExist
    syncs = Sync.objects.select_related("asked_by").filter(source=number)[:20]
    return {"source": found, "syncs": [sync(s) for s in syncs]}


def form_of(form: tuple[Setting, ...]) -> list[SettingOut]:
    """Return the lines of a form as they are told."""
    return [
        {
            "name": setting.name,
            "label": setting.label,
            "type": setting.type,
            "needed": setting.needed,
            "usual": setting.usual,
            "options": list(setting.options),
            "least": setting.least,
            "most": setting.most,
        }
        for setting in form
    ]


def _described(kind: SourceKind) -> SourceKindOut:
    return {
        "name": kind.name,
        "text": kind.text,
        "protocol": kind.protocol,
        "must": kind.must,
        "mapped": kind.mapped,
        "about": kind.about,
        "prepared": kind.prepared,
        "form": form_of(kind.form),
    }


def mapping_choices() -> ChoicesOut:
    """Return what a mapping may fill, the units, and the kinds of source with what each is asked by."""
    return {
        "kinds": [_described(kind) for kind in kinds().values()],
        "targets": [{"name": n, "label": t.label, "type": t.type, "section": t.section} for n, t in TARGETS.items()],
        "units": list(UNITS),
    }
