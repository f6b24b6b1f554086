from django.apps import AppConfig


class BenchConfig(AppConfig):
    default_auto_field = "django.db.models.BigAutoField"
    name = "gelvet.site.bench"
    label = "bench"
