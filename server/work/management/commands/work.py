"""A worker of one queue, made ready before it takes its first job."""

import threading

from django.core.management import call_command
from django.core.management.base import BaseCommand

from cenote_core.proofs.prewarm import make_kernels
from work.kinds import KINDS
from work.tasks import ROUGH, WORK


class Command(BaseCommand):
    help = "Does the jobs of one queue, one after the other."

    def add_arguments(self, parser):
        parser.add_argument("queue", choices=(ROUGH, WORK))

    def handle(self, *args, **options):
        # Whoever asks first finds the ray engine started and its kernels loaded; a job that is there already waits
        # no longer than it would for the same things.
        threading.Thread(target=make_kernels, daemon=True).start()
        self.stdout.write(f"{len(KINDS)} kinds of job, queue {options['queue']}")
        call_command("procrastinate", "worker", "-q", options["queue"], "-c", "1")
