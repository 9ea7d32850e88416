"""Django's entry for the app."""

from django.apps import AppConfig


class LicencesConfig(AppConfig):
    """What the company may use."""

    name = "tarn.apps.licences"
    default_auto_field = "django.db.models.BigAutoField"
