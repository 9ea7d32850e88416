"""Making ready: settings loaded, and the database in its newest form."""

import gc
import os
import sys
from pathlib import Path


def configure() -> None:
    """Set Django up."""
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "tarn.site.settings")
    import django

    django.setup()


def ready() -> None:
    """Set Django up and bring the database to its newest form."""
    configure()
    from django.core.management import call_command

    back_out = _kept_before_migrating()
    call_command("migrate", verbosity=0, interactive=False)
    if back_out:
        print(
            f"tarn: the data is of this release now; to go back, restore {back_out} with the former one.",
            file=sys.stderr,
        )
    from tarn.apps.estate.custom.fields import refresh

    refresh()
    # What is loaded by now stays: the collector need not go through it again, nor come so often.
    gc.collect()
    gc.freeze()
    gc.set_threshold(50_000, 20, 50)


def migrations_due() -> int:
    """Return how many migrations the data lacks to be of this release."""
    from django.db import connection
    from django.db.migrations.executor import MigrationExecutor

    executor = MigrationExecutor(connection)
    return len(executor.migration_plan(executor.loader.graph.leaf_nodes()))


def _kept_before_migrating() -> Path | None:
    """Write a backup of data that is about to be brought to this release; None where there is nothing to bring."""
    from importlib.metadata import version

    from django.db import connection
    from django.db.migrations.recorder import MigrationRecorder

    from tarn.site.home import home
    from tarn.site.keeping import write_backup

    if not MigrationRecorder(connection).applied_migrations() or not migrations_due():
        return None
    folder = home() / "backups"
    folder.mkdir(exist_ok=True, mode=0o700)
    number = 1 + len(list(folder.glob("before-*.tar.gz")))
    path = folder / f"before-{version('tarn')}-{number}.tar.gz"
    write_backup(path)
    return path
