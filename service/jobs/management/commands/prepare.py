"""What ./start does to the database, in one process because each one takes a second to begin."""

import json
from pathlib import Path
from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand

from service.beds.rules.versions import refresh_beds
from service.jobs.rules.standins import wire_up
from service.plans.rules.versions import refresh_plans


class Command(BaseCommand):
    help = "Bring the database up to date and load the sample workshop once."

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument(
            "--ports",
            nargs="*",
            type=int,
            default=[],
            help="where the simulated printers of the sample machines listen",
        )
        parser.add_argument("--standins", help="file that says what each of them is started with")

    def handle(self, *args: Any, **options: Any) -> None:
        call_command("migrate", verbosity=0, interactive=False)
        call_command("load_sample")
        refresh_plans()
        refresh_beds()
        if options["standins"]:
            Path(options["standins"]).write_text(json.dumps(wire_up(options["ports"])))
