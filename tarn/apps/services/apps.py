from django.apps import AppConfig


class ServicesConfig(AppConfig):
    """What stands on what, derived of evidence."""

    name = "tarn.apps.services"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Tell who knows the relations that filters ask for."""
        from tarn.apps.estate.asking.elsewhere import related_by

        related_by(_related)


def _related(relation: str, at: int | None, others: set[int]) -> set[int]:
    from tarn.apps.services.reads.standing import seen
    from tarn.core.standing.graph import related

    there, _ = seen(at)
    return related(there, relation, others)
