from django.apps import AppConfig

from tarn.apps.people.wanting import wants_declared_in
from tarn.core.report_rows import rows_declared_in


class LifecycleConfig(AppConfig):
    """Contracts, and what ends when."""

    name = "tarn.apps.lifecycle"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Let contracts and orders hold papers."""
        wants_declared_in("tarn.apps.lifecycle.wants")
        rows_declared_in("tarn.apps.lifecycle.report_rows")
        from tarn.apps.estate.papers.held import holds_papers
        from tarn.apps.lifecycle.models import Contract, Order
        from tarn.apps.people.scope import visible

        holds_papers("contract", lambda number: visible(Contract).filter(pk=number).exists())
        holds_papers("order", lambda number: visible(Order).filter(pk=number).exists())
