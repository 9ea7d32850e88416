from collections.abc import Iterable
from typing import Any

from django.apps import AppConfig

from tarn.apps.people.wanting import wants_declared_in
from tarn.core.report_rows import rows_declared_in


class DiscoveryConfig(AppConfig):
    """Finding devices: networks, credentials, sweeps and their runs."""

    name = "tarn.apps.discovery"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Tell which filters are kept here."""
        wants_declared_in("tarn.apps.discovery.wants")
        rows_declared_in("tarn.apps.discovery.report_rows")
        from tarn.apps.estate.asking.uses import keeps_filters

        keeps_filters(_kept_filters)


def _kept_filters() -> Iterable[Any]:
    # Looked for when asked: nothing of the collectors is needed to start.
    from tarn.apps.discovery.intake.shown import kept_filters

    return kept_filters()
