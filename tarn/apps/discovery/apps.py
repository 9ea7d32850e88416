from django.apps import AppConfig


class DiscoveryConfig(AppConfig):
    """Finding devices: networks, credentials, sweeps and their runs."""

    name = "tarn.apps.discovery"
    default_auto_field = "django.db.models.BigAutoField"
