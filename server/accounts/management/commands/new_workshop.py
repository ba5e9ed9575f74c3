"""A workshop and its first engineer, made on the machine itself. The password is typed, never a word of the command."""

import sys
from argparse import ArgumentParser
from getpass import getpass

from django.core.management.base import BaseCommand, CommandError

from accounts.actions import new_workshop
from hewel.refusal import Refused


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: ArgumentParser):
        parser.add_argument("workshop")

    def handle(self, *, workshop: str, **options):
        tell = lambda words: print(words, end="", file=sys.stderr, flush=True)
        tell("Name of its first engineer: ")
        person = sys.stdin.readline()
        tell("Name to sign in with: ")
        username = sys.stdin.readline()
        words = "Password, 10 characters or more: "
        if sys.stdin.isatty():
            password = getpass(words)
        else:
            tell(words)
            password = sys.stdin.readline().rstrip("\n")
        try:
            user = new_workshop(workshop, username, person, password)
        except Refused as error:
            raise CommandError(f"{error.message} {error.hint}") from None
        print(f"\n{user.workshop.name} is there; {user.shown_name} signs in as {user.username}.")
