"""What items are judged by as it holds now: rule sheets, the shop's limits, the machines."""

from dataclasses import dataclass
from typing import Any

from caulkjob.shop_policy import KEPT, ShopPolicy
from materials.models import Machine, Material, ShopSettings

from .models import Examination

_NO_LIMITS = (*KEPT, "unite", "format", "kept_days")
"""Settings of the shop that no examination depends on."""
_ASKED_BY = {
    "sheet": ("size", "walls"),
    "limits": ("size", "solid", "inside"),
    "machines": ("size",),
}
"""Questions whose answers depend on each part."""


@dataclass(frozen=True)
class Standard:
    """The shop's settings and machines; of a material, together with its sheet, a *standard*.

    Attributes
    ----------
    shop : ShopPolicy
    machines : list of dict
        Name, process and sides of each.
    """

    shop: ShopPolicy
    machines: list[dict[str, Any]]

    @staticmethod
    def now() -> "Standard":
        """What holds now."""
        machines = [
            {"name": one.name, "process": one.process, "sides": [one.x, one.y, one.z]}
            for one in Machine.objects.all()
        ]
        return Standard(ShopSettings.now(), machines)

    def of(self, material: Material) -> dict[str, Any]:
        """What an item of this material is judged by."""
        limits = {k: v for k, v in self.shop.as_json().items() if k not in _NO_LIMITS}
        return {"sheet": material.rules, "limits": limits, "machines": self.machines}

    def outdated(self, examination: Examination, material: Material) -> set[str]:
        """Questions that an examination answers by what no longer holds."""
        holds = self.of(material)
        if examination.material_id != material.pk:
            return set(_ASKED_BY["sheet"])
        # examinations of long ago do not know all of it
        judged = examination.standard
        parts = [p for p in _ASKED_BY if p in judged and judged[p] != holds[p]]
        return {question for part in parts for question in _ASKED_BY[part]}
