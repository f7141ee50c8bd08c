"""Opens a shop of its own: the usual rule sheets, and its first lead, who is asked for."""

import getpass
import sys
from typing import Any

from api.exception_handler import sentence_of
from caulkjob.rule_sheets import usual_rule_sheets
from django.contrib.auth.models import User
from django.core.management.base import BaseCommand, CommandError
from django.db import transaction
from materials.models import Material
from people.accounts import make_account
from people.roles import Role
from rest_framework.exceptions import APIException


class Command(BaseCommand):
    """``manage.py open_shop``; does nothing to a shop that has accounts."""

    help = __doc__ or ""

    def handle(self, *args: Any, **options: Any) -> None:
        if User.objects.exists():
            return
        self.stderr.write("This shop has nobody yet. Who leads it?")
        while True:
            given = {
                "username": _asked("Login name: "),
                "first_name": _asked("First name: "),
                "last_name": _asked("Last name: "),
            }
            password = _secret("Password, at least 12 letters: ")
            try:
                with transaction.atomic():
                    lead = make_account(password=password, role=Role.LEAD, **given)
                    for sheet in usual_rule_sheets().values():
                        Material.take(sheet, lead, "as the shop began")
            except APIException as refusal:
                self.stderr.write(sentence_of(refusal.detail))
                if not sys.stdin.isatty():
                    raise CommandError("The first lead's account could not be made.") from None
            else:
                self.stderr.write(f"{lead.get_full_name()} leads this shop.")
                return


def _asked(question: str) -> str:
    """One line; nothing is made of an empty one."""
    print(question, end="", file=sys.stderr, flush=True)
    line = sys.stdin.readline()
    if not line:
        raise CommandError("Nobody answered who leads this shop.")
    return line.strip() or _asked(question)


def _secret(question: str) -> str:
    """One line that is not shown, where there is a screen to show it on."""
    if sys.stdin.isatty():
        return getpass.getpass(question)
    return sys.stdin.readline().rstrip("\n")
