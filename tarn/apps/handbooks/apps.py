from django.apps import AppConfig

from tarn.apps.people.wanting import wants_declared_in


class HandbooksConfig(AppConfig):
    """Handbooks: written here, filled and issued."""

    name = "tarn.apps.handbooks"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Let handbooks hold papers: the pictures in them."""
        wants_declared_in("tarn.apps.handbooks.wants")
        from tarn.apps.estate.papers.held import holds_papers
        from tarn.apps.handbooks.models import Handbook
        from tarn.apps.people.scope import visible

        holds_papers("handbook", lambda number: visible(Handbook).filter(pk=number).exists())
