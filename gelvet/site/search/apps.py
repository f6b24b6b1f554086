from typing import Any

from django.apps import AppConfig
from django.db.models import Model
from django.db.models.signals import post_save


class SearchConfig(AppConfig):
    default_auto_field = "django.db.models.BigAutoField"
    name = "gelvet.site.search"
    label = "search"

    def ready(self) -> None:
        post_save.connect(_on_save, dispatch_uid="gelvet-search")


def _on_save(sender: type[Model], instance: Model, raw: bool = False, **kwargs: Any) -> None:
    from gelvet.site.search.services import index

    if not raw and sender._meta.app_label in {"library", "bench"}:
        index(instance)
