from django.apps import AppConfig


class LabelsConfig(AppConfig):
    """Labels on devices, and what is found by them."""

    name = "tarn.apps.labels"
    default_auto_field = "django.db.models.BigAutoField"
