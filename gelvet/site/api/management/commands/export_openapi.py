"""Writes the interface's OpenAPI description, from which the front end's types are made."""

import json
from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from gelvet.site.api.api import api


class Command(BaseCommand):
    help = __doc__ or ""

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("path")

    def handle(self, *args: Any, **options: Any) -> None:
        with open(options["path"], "w", encoding="utf-8") as file:
            json.dump(api.get_openapi_schema(), file, indent=1, sort_keys=True)
            file.write("\n")
