"""Django's entry for the app."""

from django.apps import AppConfig


class ValuationConfig(AppConfig):
    """What assets are worth and cost."""

    name = "tarn.apps.valuation"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Drop what is remembered when evidence is exchanged."""
        from tarn.apps.estate.actions.take_in import forgets_too

        forgets_too(_forget)


def _forget() -> None:
    from tarn.apps.valuation.reads.kept import forget

    forget()
