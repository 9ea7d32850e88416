"""Members as spans: after new evidence, whoever came to a part or went from it is noted."""

import time
from collections import defaultdict

from tarn.apps.estate.store.remembered import Remembered
from tarn.apps.estate.store.stamps import DEFINITIONS, EVIDENCE
from tarn.apps.services.kept.carried import note_carried
from tarn.apps.services.kept.members import SERVICES, Members, members
from tarn.apps.services.kept.spans import turn_over
from tarn.apps.services.models import MemberSpan, Service

_settled: Remembered[int] = Remembered("members of services noted", EVIDENCE, DEFINITIONS, SERVICES, most=1)


def catch_up(now: int | None = None) -> int:
    """Note who came to a part of a service and who went; return how many did, none where nothing changed since. What
    could not be asked changes nothing: a rule that can no longer be read does not make its members go."""
    changed: list[int] = []

    def note() -> int:
        at = now or int(time.time())
        services = list(Service.objects.select_related("organisation"))
        changed.extend(_note(s, members(s, None), at) for s in services)
        note_carried(services, at)
        return at

    _settled.get("all", note)
    return sum(changed)


def _note(service: Service, found: Members, now: int) -> int:
    if found.trouble:
        return 0
    held: dict[tuple[str, int], MemberSpan] = {}
    parts: dict[str, bool] = defaultdict(bool)
    for span in MemberSpan.objects.filter(service=service):
        parts[span.part] = True
        if span.valid_to is None:
            held[span.part, span.asset_id] = span
    there = {(part, a): why for part, of in found.parts.items() for a, why in of.items()}
    gone = [span for key, span in held.items() if key not in there]
    came = [
        MemberSpan(
            service=service,
            part=part,
            asset_id=asset,
            because="; ".join(why)[:500],
            valid_from=now,
            initial=not parts[part],
        )
        for (part, asset), why in there.items()
        if (part, asset) not in held
    ]
    return turn_over(MemberSpan, gone, came, now)
