"""Django's entry for the app."""

from django.apps import AppConfig

from tarn.apps.people.wanting import wants_declared_in
from tarn.core.report_rows import rows_declared_in


class LicencesConfig(AppConfig):
    """What the company may use."""

    name = "tarn.apps.licences"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Let licences hold papers."""
        wants_declared_in("tarn.apps.licences.wants")
        rows_declared_in("tarn.apps.licences.report_rows")
        from tarn.apps.estate.papers.held import holds_papers
        from tarn.apps.licences.models import Licence
        from tarn.apps.people.scope import visible

        holds_papers("licence", lambda number: visible(Licence).filter(pk=number).exists())
