from django.apps import AppConfig


class DiscoveryConfig(AppConfig):
    """Finding devices: networks, credentials, sweeps and their runs."""

    name = "tarn.apps.discovery"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Tell which filters are kept here."""
        from tarn.apps.discovery.reads import kept_filters
        from tarn.apps.estate.reads.uses import keeps_filters

        keeps_filters(kept_filters)
