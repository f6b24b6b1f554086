"""Adds an account for a shared bench; asks for its password."""

import getpass
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from gelvet.site.people.roles import ROLES, add_person
from gelvet.site.problems import Problem


class Command(BaseCommand):
    help = __doc__ or ""

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("name")
        parser.add_argument("--role", choices=ROLES, default="owner")

    def handle(self, *args: Any, **options: Any) -> None:
        try:
            add_person(options["name"], getpass.getpass("Password: "), options["role"])
        except Problem as problem:
            raise CommandError(problem.sentence) from problem
        self.stdout.write(f"{options['name']} can sign in as {options['role']}.")
