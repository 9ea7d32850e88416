from django.apps import AppConfig


class EstateConfig(AppConfig):
    """The estate: evidence, identity, spans, and the reading of them."""

    name = "tarn.apps.estate"
    default_auto_field = "django.db.models.BigAutoField"
