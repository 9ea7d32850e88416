from collections.abc import Iterable
from typing import Any

from django.apps import AppConfig
from django.core.signals import request_started
from django.db.backends.signals import connection_created

from tarn.apps.people.wanting import wants_declared_in
from tarn.core.report_rows import rows_declared_in


class EstateConfig(AppConfig):
    """The estate: evidence, identity, spans, and the reading of them."""

    name = "tarn.apps.estate"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Teach every new connection what filters need; doing so later would undo its prepared statements."""
        wants_declared_in("tarn.apps.estate.wants")
        rows_declared_in("tarn.apps.estate.report_rows")
        from tarn.apps.estate.asking.uses import keeps_filters

        keeps_filters(_kept_filters)
        connection_created.connect(_teach)
        # Whoever else serves may have made a field meanwhile; asking costs one look at two small tables.
        request_started.connect(_refresh)


def _kept_filters() -> Iterable[Any]:
    from tarn.apps.estate.selections.views import kept_filters

    return kept_filters()


def _teach(connection: Any, **_: Any) -> None:
    from tarn.apps.estate.asking.compile import teach

    teach(connection.connection)


def _refresh(**_: Any) -> None:
    from tarn.apps.estate.custom.fields import refresh

    refresh()
