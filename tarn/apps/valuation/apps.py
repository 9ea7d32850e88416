"""Django's entry for the app."""

from django.apps import AppConfig


class ValuationConfig(AppConfig):
    """What assets are worth and cost."""

    name = "tarn.apps.valuation"
    default_auto_field = "django.db.models.BigAutoField"
