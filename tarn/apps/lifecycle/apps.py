from django.apps import AppConfig


class LifecycleConfig(AppConfig):
    """Contracts, and what ends when."""

    name = "tarn.apps.lifecycle"
    default_auto_field = "django.db.models.BigAutoField"
