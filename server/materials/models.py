"""What parts are made of."""

from caulkcore.errors import RefusedInput
from caulkcore.sheets import RuleSheet
from django.core.exceptions import ValidationError
from django.db import models


def is_rule_sheet(given: dict[str, object]) -> None:
    """Refuse rules that are no rule sheet of the core's."""
    try:
        RuleSheet.from_json(given)
    except RefusedInput as problem:
        raise ValidationError(str(problem)) from problem


class Material(models.Model):
    """A material on one process, as the shop offers it."""

    key = models.SlugField(unique=True)
    name = models.CharField(max_length=80)
    process = models.CharField(max_length=80)
    density_g_cm3 = models.DecimalField(max_digits=6, decimal_places=3)
    rules = models.JSONField(null=True, blank=True, validators=[is_rule_sheet])

    class Meta:
        ordering = ("name",)

    def __str__(self) -> str:
        return self.name
