"""Makes the full-text index anew from the rows that it tells of."""

from typing import Any

from django.core.management.base import BaseCommand

from gelvet.site.search.services import rebuild


class Command(BaseCommand):
    help = __doc__ or ""

    def handle(self, *args: Any, **options: Any) -> None:
        self.stdout.write(f"search: {rebuild()} rows")
