"""Takes up jobs whose worker died. Runs beside the workers."""

import time
from typing import Any

from django.core.management.base import BaseCommand
from django.db import OperationalError

from gelvet.site.captures.services import take_up_lost_jobs


class Command(BaseCommand):
    help = __doc__ or ""

    def handle(self, *args: Any, **options: Any) -> None:
        while True:
            try:
                lost = take_up_lost_jobs()
            except OperationalError as problem:  # the database was busy for its whole patience: try at the next round
                self.stderr.write(f"jobs not looked at: {problem}")
                lost = 0
            if lost:
                self.stdout.write(f"{lost} interrupted job(s) taken up again")
            time.sleep(3)
