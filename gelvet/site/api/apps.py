from django.apps import AppConfig


class ApiConfig(AppConfig):
    default_auto_field = "django.db.models.BigAutoField"
    name = "gelvet.site.api"
    label = "api"

    def ready(self) -> None:
        from gelvet.site import checks  # noqa: F401 (importing registers them)
