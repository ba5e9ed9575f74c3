"""Brings the tables up to date and puts the demo scenario in, once: a made-up workshop, its people and its parts, taken
in like any other file. One process for both: loading everything takes longer than either.
"""

from argparse import ArgumentParser
from collections.abc import Callable

from django.contrib.auth.hashers import make_password
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.core.management.base import BaseCommand
from django.db import transaction

from accounts.models import User, Workshop
from coupons import actions as coupons
from demo.farm_records import RECORDS
from demo.river_station import (
    OTHER_PEOPLE,
    OTHER_WORKSHOP,
    PEOPLE,
    WORKSHOP,
    DemoPart,
    demo_files,
    other_files,
)
from demo.trials import COUPONS, WHERE
from farm.actions import begin, linked
from farm.queries import records
from parts.actions import enqueue_intake
from work.models import Work


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: ArgumentParser):
        parser.add_argument("--demo", action="store_true", help="put the demo scenario in, if it is not there")

    def handle(self, *, demo: bool, **options):
        call_command("migrate", interactive=False, verbosity=0)
        if demo:
            self.put_in()

    def put_in(self) -> None:
        self.fill(WORKSHOP, PEOPLE, demo_files)
        self.fill(OTHER_WORKSHOP, OTHER_PEOPLE, other_files)
        self.stock(User.objects.get(username=PEOPLE[0][0]))

    @transaction.atomic
    def stock(self, engineer: User) -> None:
        """The farm's records, once."""
        if records(engineer) or records(engineer, struck=True):
            return
        for kind, given in RECORDS:
            begin(engineer, kind, linked(engineer, given))
        where = {k: v for k, v in linked(engineer, {"name": "coupon"} | WHERE).items() if k != "name"}
        for coupon in COUPONS:
            rows = [{"id": f"r{i}"} | row for i, row in enumerate(coupon["rows"], start=1)]
            coupons.begin(engineer, where | coupon | {"rows": rows})

    @transaction.atomic
    def fill(self, name: str, people: list[tuple], files: Callable[[], list[DemoPart]]) -> None:
        workshop, fresh = Workshop.objects.get_or_create(name=name)
        if not fresh:
            return
        for username, first, last, role, password in people:
            user = User(username=username, first_name=first, last_name=last, workshop=workshop, role=role)
            user.password = make_password(password)
            user.save()
        engineer = User.objects.get(username=people[0][0])
        for part in files():
            work = enqueue_intake(engineer, SimpleUploadedFile(part.file_name, part.data), part.name, "auto")
            work.arguments |= {"note": part.problem, "job": part.job, "later": True}
            Work.objects.filter(id=work.id).update(arguments=work.arguments)
