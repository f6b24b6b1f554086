from django.apps import AppConfig


class CapturesConfig(AppConfig):
    default_auto_field = "django.db.models.BigAutoField"
    name = "gelvet.site.captures"
    label = "captures"
