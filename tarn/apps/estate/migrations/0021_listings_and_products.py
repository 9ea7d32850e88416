"""What a list names is a listing, what it stands for a product.

Tables and columns are renamed in place: made anew, the table of installations would take minutes on a large estate.
"""

from django.db import migrations, models

_TABLES = (("estate_product", "estate_listing"), ("estate_title", "estate_product"))
_COLUMNS = (
    ("estate_listing", "title_id", "product_id"),
    ("estate_release", "product_id", "listing_id"),
    ("estate_installspan", "product_id", "listing_id"),
    ("estate_namingrule", "title", "product"),
)
_INDEXES = (
    models.Index(
        fields=["listing", "release", "asset", "valid_from"],
        condition=models.Q(valid_to__isnull=True),
        name="install_open_product",
    ),
    models.Index(
        fields=["listing", "release", "asset", "valid_to", "valid_from"],
        condition=models.Q(valid_to__isnull=False),
        name="install_closed_product",
    ),
    models.Index(
        fields=["valid_from", "asset", "listing", "release", "valid_to"],
        condition=models.Q(initial=False),
        name="install_begun",
    ),
)


def _there() -> list[str]:
    return [f"ALTER TABLE {old} RENAME TO {new}" for old, new in _TABLES] + [
        f"ALTER TABLE {table} RENAME COLUMN {old} TO {new}" for table, old, new in _COLUMNS
    ]


def _back() -> list[str]:
    return [f"ALTER TABLE {table} RENAME COLUMN {new} TO {old}" for table, old, new in _COLUMNS] + [
        f"ALTER TABLE {new} RENAME TO {old}" for old, new in reversed(_TABLES)
    ]


def follow(apps, schema_editor):
    """Put what is listed from before there were products under them; tell kept corrections in the new words."""
    from tarn.apps.estate.door.naming import Catalogue

    db = schema_editor.connection.connection
    # A correction that was dropped can be made again by its entry of the trail, which says it in the words of then.
    db.execute(
        "UPDATE people_auditentry SET undo = json_remove(json_set(undo, '$.make.product', "
        "json_extract(undo, '$.make.title')), '$.make.title') "
        "WHERE json_extract(undo, '$.action') = 'naming' AND json_type(undo, '$.make.title') IS NOT NULL"
    )
    if db.execute("SELECT 1 FROM estate_listing WHERE product_id IS NULL LIMIT 1").fetchone():
        Catalogue().put_all(db)


class Migration(migrations.Migration):
    dependencies = [("estate", "0020_counters"), ("people", "0005_accounts")]

    operations = [
        migrations.SeparateDatabaseAndState(
            database_operations=[migrations.RunSQL(_there(), _back())],
            state_operations=[
                migrations.RemoveConstraint("release", "release_once"),
                *(migrations.RemoveIndex("installspan", index.name) for index in _INDEXES),
                migrations.RenameModel("Product", "Listing"),
                migrations.RenameModel("Title", "Product"),
                migrations.RenameField("listing", "title", "product"),
                migrations.RenameField("release", "product", "listing"),
                migrations.RenameField("installspan", "product", "listing"),
                migrations.RenameField("namingrule", "title", "product"),
                migrations.AddConstraint(
                    "release", models.UniqueConstraint(fields=["listing", "version"], name="release_once")
                ),
                *(migrations.AddIndex("installspan", index) for index in _INDEXES),
            ],
        ),
        migrations.RunPython(follow, migrations.RunPython.noop),
    ]
