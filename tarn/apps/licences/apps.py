"""Django's entry for the app."""

from django.apps import AppConfig


class LicencesConfig(AppConfig):
    """What the company may use."""

    name = "tarn.apps.licences"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Drop the positions remembered when evidence is exchanged."""
        from tarn.apps.estate.actions.take_in import forgets_too

        forgets_too(_forget)


def _forget() -> None:
    from tarn.apps.licences.reads.positions import forget_positions

    forget_positions()
