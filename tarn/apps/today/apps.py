from django.apps import AppConfig


class TodayConfig(AppConfig):
    """The room one arrives in: what wants a hand."""

    name = "tarn.apps.today"
    default_auto_field = "django.db.models.BigAutoField"
