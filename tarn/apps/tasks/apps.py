from django.apps import AppConfig


class TasksConfig(AppConfig):
    """Tasks on the devices themselves."""

    name = "tarn.apps.tasks"
    default_auto_field = "django.db.models.BigAutoField"
