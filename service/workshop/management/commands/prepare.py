"""What ./start does to the database, in one process because each one takes a second to begin."""

from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand

from service.plans.rules import refresh_plans


class Command(BaseCommand):
    help = "Bring the database up to date and load the sample workshop once."

    def handle(self, *args: Any, **options: Any) -> None:
        call_command("migrate", verbosity=0, interactive=False)
        call_command("load_sample")
        refresh_plans()
