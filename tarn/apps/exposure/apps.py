from datetime import date
from typing import Any

from django.apps import AppConfig

from tarn.apps.people.wanting import wants_declared_in
from tarn.core.report_rows import rows_declared_in


class ExposureConfig(AppConfig):
    """Feeds, advisories, statuses and findings."""

    name = "tarn.apps.exposure"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Tell who knows the vulnerabilities that filters ask for, and which rows reports may have of them."""
        wants_declared_in("tarn.apps.exposure.wants")
        from tarn.apps.estate.asking.elsewhere import reckoned_by
        from tarn.apps.estate.asking.told import told_by
        from tarn.apps.lifecycle.reads.support import support_also_told_by

        rows_declared_in("tarn.apps.exposure.report_rows")
        reckoned_by("vulnerability", _vulnerabilities)
        reckoned_by("support", _support)
        support_also_told_by(_ends_told)
        told_by("grade", _gravest)
        told_by("open", _number_open)


def _vulnerabilities(at: int | None, inner: Any) -> dict[int, int]:
    from tarn.apps.exposure.asked import numbers

    return numbers(at, inner)


def _support(at: int | None, inner: Any) -> dict[int, int]:
    from tarn.apps.exposure.finding.support import numbers

    return numbers(at, inner)


def _ends_told() -> dict[tuple[str, str], date]:
    from tarn.apps.exposure.finding.support import days_told

    return days_told()


def _gravest(at: int | None) -> dict[int, str]:
    from tarn.apps.exposure.grading.gravest import gravest

    return gravest(at)


def _number_open(at: int | None) -> dict[int, int]:
    from tarn.apps.exposure.grading.gravest import number_open

    return number_open(at)
