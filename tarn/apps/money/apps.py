"""Django's entry for the app."""

from django.apps import AppConfig


class MoneyConfig(AppConfig):
    """The company's currency and rates."""

    name = "tarn.apps.money"
    default_auto_field = "django.db.models.BigAutoField"
