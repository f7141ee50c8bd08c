"""Fills an empty database with the demo orders; does nothing to one that is not empty."""

import tempfile
from datetime import timedelta
from pathlib import Path
from typing import Any

from bench.jobs import receive
from caulkjob.rule_sheets import usual_rule_sheets
from django.contrib.auth.models import User
from django.core.management.base import BaseCommand, CommandParser
from django.db import transaction
from django.utils import timezone
from materials.models import Machine, Material
from orders.models import Customer, Item, Order
from work.blobs import keep_file

PASSWORD = "tallow-and-oakum"
PEOPLE = (("maren", "Maren", "Aas", False), ("odd", "Odd", "Lervik", True))
MACHINES = (
    ("North dock", "Laser sintering", 340, 340, 600),
    ("Tall lantern", "Vat resin", 300, 180, 300),
    ("Short lantern", "Vat resin", 140, 90, 180),
    ("Twin davits", "Filament", 350, 310, 400),
    ("Lime kiln", "Binder jetting", 250, 370, 200),
    ("Pier furnace", "Binder jetting", 160, 100, 100),
)


class Command(BaseCommand):
    """``manage.py demo``"""

    help = __doc__ or ""

    def add_arguments(self, parser: CommandParser) -> None:
        """Which items are wanted; all by default."""
        parser.add_argument("--only", nargs="*", metavar="NAME")

    def handle(self, *args: Any, **options: Any) -> None:
        self._fill(options["only"])
        if User.objects.filter(username=PEOPLE[0][0]).exists():
            self.stdout.write(
                f"Log in as maren (technician) or odd (shop lead), password {PASSWORD}."
            )

    @staticmethod
    def _fill(wanted: list[str] | None) -> None:
        if User.objects.exists():
            return
        from harbour.orders import orders

        with transaction.atomic(), tempfile.TemporaryDirectory() as folder:
            for username, first, last, lead in PEOPLE:
                User.objects.create_user(
                    username, password=PASSWORD, first_name=first, last_name=last, is_staff=lead
                )
            by = User.objects.get(username="maren")
            for sheet in usual_rule_sheets().values():
                Material.take(sheet, User.objects.get(username="odd"), "as the shop began")
            for name, process, x, y, z in MACHINES:
                Machine.objects.create(name=name, process=process, x=x, y=y, z=z)
            now = timezone.now().replace(minute=0, second=0, microsecond=0)
            for demo in orders():
                items = [one for one in demo.items if not wanted or one.name in wanted]
                if not items:
                    continue
                customer, _ = Customer.objects.get_or_create(name=demo.customer)
                order = Order.objects.create(
                    number=demo.number,
                    customer=customer,
                    due=now + timedelta(hours=demo.hours),
                    note=demo.note,
                )
                for one in items:
                    path = one.write(Path(folder))
                    item = Item.objects.create(
                        order=order,
                        name=one.name,
                        note=one.note,
                        material=Material.objects.get(key=one.material),
                        quantity=one.quantity,
                        file_name=one.file,
                        received_path=keep_file(path, path.suffix),
                        received_bytes=path.stat().st_size,
                    )
                    receive(item, by)
