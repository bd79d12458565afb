"""The queue's worker, with what an earlier one left: papers that were asked for and not printed are put into the queue again."""

from __future__ import annotations

from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand

from workbench.printing.models import Printed
from workbench.printing.tasks import print_paper


class Command(BaseCommand):
    help = "Print the papers that are asked for, until told to end."

    def handle(self, *args: Any, **options: Any) -> None:
        for key in Printed.objects.filter(done=None, failed=False).values_list("pk", flat=True):
            print_paper.defer(printed=key)
        call_command("procrastinate", "worker")
