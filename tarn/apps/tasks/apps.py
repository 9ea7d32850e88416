from django.apps import AppConfig

from tarn.apps.people.wanting import wants_declared_in


class TasksConfig(AppConfig):
    """Tasks on the devices themselves."""

    name = "tarn.apps.tasks"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Tell what wants a hand here."""
        wants_declared_in("tarn.apps.tasks.wants")
