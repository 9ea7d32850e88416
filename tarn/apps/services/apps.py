from django.apps import AppConfig


class ServicesConfig(AppConfig):
    """What stands on what, derived of evidence."""

    name = "tarn.apps.services"
    default_auto_field = "django.db.models.BigAutoField"
