from typing import Any

from django.apps import AppConfig


class ExposureConfig(AppConfig):
    """Feeds, advisories, statuses and findings."""

    name = "tarn.apps.exposure"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Tell who knows the vulnerabilities that filters ask for."""
        from tarn.apps.estate.asking.compile import reckoned_by

        reckoned_by("vulnerability", _vulnerabilities)


def _vulnerabilities(at: int | None, inner: Any) -> dict[int, int]:
    from tarn.apps.exposure.asked import numbers

    return numbers(at, inner)
