from collections.abc import Iterable
from typing import Any

from django.apps import AppConfig

from tarn.apps.people.wanting import wants_declared_in
from tarn.core.report_rows import rows_declared_in


class SoftwareConfig(AppConfig):
    """Software: what the company says of it, what should be there, and corrections of its names."""

    name = "tarn.apps.software"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Let filters ask for rulings, and tell which filters are kept here."""
        wants_declared_in("tarn.apps.software.wants")
        rows_declared_in("tarn.apps.software.report_rows")
        from tarn.apps.estate.asking.elsewhere import judged_by
        from tarn.apps.estate.asking.uses import keeps_filters

        judged_by(_verdict_of_releases)
        keeps_filters(_kept_filters)


def _verdict_of_releases(at: int | None, verdict: str) -> dict[tuple[str, str], set[int]]:
    from tarn.apps.software.reads.rulings import verdict_of_releases

    return verdict_of_releases(at, verdict)


def _kept_filters() -> Iterable[Any]:
    from tarn.apps.software.reads.baselines import kept_filters

    return kept_filters()
