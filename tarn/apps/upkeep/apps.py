"""The upkeep app: how Tarn itself is, and its backups."""

from django.apps import AppConfig


class UpkeepConfig(AppConfig):
    """What Tarn notes of itself."""

    default_auto_field = "django.db.models.BigAutoField"
    name = "tarn.apps.upkeep"
    label = "upkeep"

    def ready(self) -> None:
        """Have Today ask what wants a hand here."""
        from tarn.apps.people.wanting import wants_declared_in

        wants_declared_in("tarn.apps.upkeep.wants")
