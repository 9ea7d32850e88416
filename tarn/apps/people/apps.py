from django.apps import AppConfig


class PeopleConfig(AppConfig):
    """Who may do what: sign-in, roles, tokens, the audit trail."""

    name = "tarn.apps.people"
    default_auto_field = "django.db.models.BigAutoField"
