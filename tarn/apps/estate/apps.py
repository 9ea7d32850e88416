from typing import Any

from django.apps import AppConfig
from django.db.backends.signals import connection_created


class EstateConfig(AppConfig):
    """The estate: evidence, identity, spans, and the reading of them."""

    name = "tarn.apps.estate"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Teach every new connection what filters need; doing so later would undo its prepared statements."""
        connection_created.connect(_teach)


def _teach(connection: Any, **_: Any) -> None:
    from tarn.apps.estate.asking.compile import teach

    teach(connection.connection)
