"""What parts are made of, what each material demands, and the machines that print it."""

from typing import Any

import pghistory
import pgtrigger
from caulkcore import RefusedInput
from caulkjob.rule_sheets import RuleSheet
from caulkjob.shop_policy import ShopPolicy
from django.contrib.auth.models import User
from django.core.exceptions import ValidationError
from django.db import models, transaction
from people.models import APPEND_ONLY
from people.names import person_field

from .signals import standard_changed


def is_rule_sheet(given: dict[str, object]) -> None:
    """Refuse rules that are no rule sheet of the core's."""
    try:
        RuleSheet.from_json(given)
    except RefusedInput as problem:
        raise ValidationError(str(problem)) from problem


class Material(models.Model):
    """A material on one process, as the shop offers it."""

    key = models.SlugField(unique=True, max_length=80)
    name = models.CharField(max_length=80)
    process = models.CharField(max_length=80)
    rules = models.JSONField(null=True, blank=True, validators=[is_rule_sheet])
    """The sheet that holds now; every one that ever held is an `Edition`."""

    class Meta:
        ordering = ("name",)

    def __str__(self) -> str:
        return self.name

    @staticmethod
    def take(sheet: RuleSheet, by: User | None, why: str = "") -> "Material":
        """Make a sheet the one that holds for its material, which may be a new one.

        A sheet that says what the last one says makes no new edition.
        """
        rules = sheet.as_json()
        with transaction.atomic():
            material, _ = Material.objects.select_for_update().get_or_create(
                key=sheet.key, defaults={"name": sheet.name, "process": sheet.process}
            )
            if material.rules == rules:
                return material
            material.name, material.process, material.rules = sheet.name, sheet.process, rules
            material.save()
            last = material.editions.first()
            Edition.objects.create(
                material=material,
                number=last.number + 1 if last else 1,
                rules=rules,
                why=why,
                by=by,
            )
            standard_changed.send(Material)
        return material


@pgtrigger.register(APPEND_ONLY)
@pghistory.track(pghistory.InsertEvent(), exclude=["rules"])
class Edition(models.Model):
    """A rule sheet as it held for a time; never changed once made."""

    material = models.ForeignKey(Material, on_delete=models.CASCADE, related_name="editions")
    number = models.PositiveIntegerField()
    rules = models.JSONField()
    why = models.TextField(blank=True)
    by = person_field()
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-number",)
        constraints = (
            models.UniqueConstraint(fields=("material", "number"), name="edition_number"),
        )

    def __str__(self) -> str:
        return f"{self.material}, edition {self.number}"

    def changes(self, before: "Edition | None") -> dict[str, tuple[Any, Any]]:
        """Values that differ from an earlier edition's: before and now."""
        if before is None:
            return {}
        return {
            name: (before.rules.get(name), value)
            for name, value in self.rules.items()
            if before.rules.get(name) != value
        }


@pgtrigger.register(APPEND_ONLY)
@pghistory.track(pghistory.InsertEvent())
class ShopSettings(models.Model):
    """The shop's limits and policy as they held for a time; the last ones hold."""

    values = models.JSONField()
    by = person_field()
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-id",)

    def __str__(self) -> str:
        return f"Settings of {self.at:%Y-%m-%d %H:%M}"

    @property
    def shop(self) -> ShopPolicy:
        """These settings as the core takes them."""
        return ShopPolicy.from_json(self.values)

    @staticmethod
    def now() -> ShopPolicy:
        """The settings that hold; the usual ones where nobody has changed them."""
        last = ShopSettings.objects.first()
        return last.shop if last else ShopPolicy()


@pghistory.track(pghistory.InsertEvent(), pghistory.UpdateEvent(), pghistory.DeleteEvent())
class Machine(models.Model):
    """A printer of the shop, known by its process and its build volume, mm."""

    name = models.CharField(max_length=80, unique=True)
    process = models.CharField(max_length=80)
    x = models.FloatField()
    y = models.FloatField()
    z = models.FloatField()

    class Meta:
        ordering = ("process", "name")

    def __str__(self) -> str:
        return self.name
