from collections.abc import Iterable
from typing import Any

from django.apps import AppConfig


class FillingConfig(AppConfig):
    """Fill rules."""

    name = "tarn.apps.filling"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Tell which filters are kept here."""
        from tarn.apps.estate.asking.uses import keeps_filters

        keeps_filters(_kept_filters)


def _kept_filters() -> Iterable[Any]:
    from tarn.apps.filling.reads import kept_filters

    return kept_filters()
