"""Making ready: settings loaded, and the database in its newest form."""

import gc
import os


def configure() -> None:
    """Set Django up."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "tarn.site.settings")
    import django

    django.setup()


def ready() -> None:
    """Set Django up and bring the database to its newest form."""
    configure()
    from django.core.management import call_command

    call_command("migrate", verbosity=0, interactive=False)
    from tarn.apps.estate.custom.fields import refresh

    refresh()
    # What is loaded by now stays: the collector need not go through it again, nor come so often.
    gc.collect()
    gc.freeze()
    gc.set_threshold(50_000, 20, 50)
