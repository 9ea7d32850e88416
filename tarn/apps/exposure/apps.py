from django.apps import AppConfig


class ExposureConfig(AppConfig):
    """Feeds, advisories, statuses and findings."""

    name = "tarn.apps.exposure"
    default_auto_field = "django.db.models.BigAutoField"
