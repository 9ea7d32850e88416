from collections.abc import Iterable
from typing import Any

from django.apps import AppConfig

from tarn.apps.people.wanting import wants_declared_in


class ReportsConfig(AppConfig):
    """Reports anyone can compose, and watches that write to people."""

    name = "tarn.apps.reports"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Tell which filters are kept here."""
        wants_declared_in("tarn.apps.reports.wants")
        from tarn.apps.estate.asking.uses import keeps_filters

        keeps_filters(_kept_filters)


def _kept_filters() -> Iterable[Any]:
    from tarn.apps.reports.reads.asking import kept_filters

    return kept_filters()
