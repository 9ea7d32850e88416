"""Django's entry for the app."""

from django.apps import AppConfig

from tarn.core.report_rows import rows_declared_in


class ValuationConfig(AppConfig):
    """What assets are worth and cost."""

    name = "tarn.apps.valuation"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Say which rows of reports are declared here."""
        rows_declared_in("tarn.apps.valuation.report_rows")
