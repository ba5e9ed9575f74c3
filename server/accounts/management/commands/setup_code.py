"""Prints the code for the first workshop while there is none; otherwise nothing."""

from django.core.management.base import BaseCommand

from accounts.actions import setup_code
from accounts.models import Workshop


class Command(BaseCommand):
    help = __doc__

    def handle(self, **options):
        if not Workshop.objects.exists():
            print(setup_code())
