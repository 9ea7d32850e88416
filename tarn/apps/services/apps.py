import time
from collections.abc import Iterator
from functools import partial
from typing import TYPE_CHECKING, Any

from django.apps import AppConfig
from django.db.models.signals import post_delete, post_save

from tarn.apps.people.wanting import wants_declared_in

if TYPE_CHECKING:
    from tarn.apps.estate.asking.uses import Kept


COUNTED = {"services": ("Service", "HandMember", "Noise"), "recognisers": ("Recogniser", "ProgramWord")}
"""By counter the tables of which each change is counted, so that what is remembered knows of it."""


class ServicesConfig(AppConfig):
    """What stands on what, derived of evidence, and the services people keep."""

    name = "tarn.apps.services"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Tell who knows the relations that filters ask for."""
        wants_declared_in("tarn.apps.services.wants")
        from tarn.apps.estate.asking.elsewhere import reckoned_by, related_by
        from tarn.apps.estate.asking.told import told_by
        from tarn.apps.estate.asking.uses import keeps_filters

        related_by(_related)
        reckoned_by("serves", _serves)
        told_by("carried", _carried)
        keeps_filters(_kept_filters)
        reckoned_by("applications", _applications)
        for counter, models in COUNTED.items():
            for model in models:
                for signal in (post_save, post_delete):
                    signal.connect(partial(_count, counter), sender=self.get_model(model), weak=False)


def _count(counter: str, **_: Any) -> None:
    from tarn.apps.estate.store.database import raw_connection
    from tarn.apps.estate.store.stamps import count_up

    count_up(raw_connection(), counter)


def _related(relation: str, at: int | None, others: set[int], heard: int | None) -> set[int]:
    from tarn.apps.services.standing.edges import guests
    from tarn.apps.services.standing.impact import seen
    from tarn.core.standing.graph import related

    # Who is a guest of whom is asked for often, and does not need the whole graph.
    there = guests(at) if relation == "guest of" else seen(at)[0]
    since = None if heard is None else (at or int(time.time())) - heard
    return related(there, relation, others, since)


def _serves(at: int | None, inner: Any) -> dict[int, int]:
    from tarn.apps.services.kept.asked import numbers

    return numbers(at, inner)


def _applications(at: int | None, inner: Any) -> dict[int, int]:
    from tarn.apps.services.programs.applications import numbers

    return numbers(at, inner)


def _carried(at: int | None) -> dict[int, str]:
    from tarn.apps.services.kept.carried import carried

    return carried(at)


def _kept_filters() -> Iterator["Kept"]:
    from tarn.apps.estate.asking.uses import Kept
    from tarn.apps.people.scope import visible
    from tarn.apps.services.models import Service

    for service in visible(Service):
        for part in service.parts:
            for rule in part["rules"]:
                yield Kept("service", service.name, f"/services/{service.pk}", rule["filter"])
