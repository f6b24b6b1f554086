"""Loads the demo scenario into the database; its cards are painted, scanned and measured by the workers."""

from typing import Any

from django.core.management.base import BaseCommand

from gelvet.site.demo.services import load_demo


class Command(BaseCommand):
    help = __doc__ or ""

    def handle(self, *args: Any, **options: Any) -> None:
        added = load_demo()
        self.stdout.write(f"demo: {added} session(s) added" if added else "demo: already there")
