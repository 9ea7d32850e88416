from django.apps import AppConfig

from tarn.apps.people.wanting import wants_declared_in


class CountsConfig(AppConfig):
    """Stock-taking."""

    name = "tarn.apps.counts"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Let counts and what was met in them hold papers: photos above all."""
        wants_declared_in("tarn.apps.counts.wants")
        from tarn.apps.counts.models import Count, Met
        from tarn.apps.estate.papers.held import holds_papers
        from tarn.apps.people.scope import visible

        holds_papers("count", lambda number: visible(Count).filter(pk=number).exists())
        holds_papers("met", lambda number: Met.objects.filter(pk=number, count__in=visible(Count)).exists())
