from django.apps import AppConfig


class ReportsConfig(AppConfig):
    """Reports anyone can compose, and watches that write to people."""

    name = "tarn.apps.reports"
    default_auto_field = "django.db.models.BigAutoField"
