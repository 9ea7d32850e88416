"""Django's entry for the app."""

from django.apps import AppConfig


class LicencesConfig(AppConfig):
    """What the company may use."""

    name = "tarn.apps.licences"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Drop the positions remembered when evidence is exchanged; let licences hold papers."""
        from tarn.apps.estate.actions.take_in import forgets_too
        from tarn.apps.estate.reads.papers import holds_papers
        from tarn.apps.licences.models import Licence
        from tarn.apps.people.scope import visible

        forgets_too(_forget)
        holds_papers("licence", lambda number: visible(Licence).filter(pk=number).exists())


def _forget() -> None:
    from tarn.apps.licences.reads.reckoning import forget_positions

    forget_positions()
