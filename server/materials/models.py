"""What parts are made of."""

from django.db import models


class Material(models.Model):
    """A material on one process, as the shop offers it."""

    key = models.SlugField(unique=True)
    name = models.CharField(max_length=80)
    process = models.CharField(max_length=80)
    density_g_cm3 = models.DecimalField(max_digits=6, decimal_places=3)

    class Meta:
        ordering = ("name",)

    def __str__(self) -> str:
        return self.name
