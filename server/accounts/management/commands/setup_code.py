"""Prints the code for the first workshop while there is none; otherwise nothing."""

from django.core.management.base import BaseCommand

from accounts.actions import is_first, setup_code


class Command(BaseCommand):
    help = __doc__

    def handle(self, **options):
        if is_first():
            print(setup_code())
