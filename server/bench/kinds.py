"""The bench's kinds of work: what each is given, and what becomes of what it makes."""

from pathlib import Path
from typing import Any

from caulkjob.questions import KINDS_BY_MATERIAL
from caulkjob.shop_policy import ShopPolicy
from django.utils import timezone
from materials.models import Machine, Material, ShopSettings
from work.blobs import keep_file
from work.models import Job
from work.registry import Order, WorkKind, register

from .models import ItemJob, Revision, Workpiece

KEPT_BY_SHOP = "kept, as the shop has settled"
"""Reason of an acceptance that the shop's policy gives by itself."""


def register_kinds() -> None:
    """Make them known to the queue."""
    register(
        WorkKind(ItemJob.Kind.RECEIVE, "bench.computing:receive", order, enter, _unreadable),
        WorkKind(ItemJob.Kind.OPERATE, "bench.computing:operate", order, enter),
        WorkKind(ItemJob.Kind.JUDGE, "bench.computing:judge", order, enter),
        WorkKind(ItemJob.Kind.MEND, "bench.computing:mend_all", order, enter),
    )


def order(job: Job) -> Order:
    """The mesh to work on, with the rules as they hold now."""
    job = job.itemjob
    material, shop = job.material, ShopSettings.now()
    given = {
        **job.parameters,
        "sheet": material.rules,
        "sheets": list(Material.objects.exclude(rules=None).values_list("rules", flat=True)),
        "shop": shop.as_json(),
        "machines": [
            {"name": one.name, "process": one.process, "sides": [one.x, one.y, one.z]}
            for one in Machine.objects.all()
        ],
    }
    if job.base is None:
        return Order(
            job.item.received_path, {**given, "file_name": job.item.file_name}, (material, shop)
        )
    return Order(job.base.mesh_path, {**given, "unit": job.base.unit}, (material, shop))


def enter(job: Job, order: Order, folder: Path, answer: dict[str, Any]) -> None:
    """Store what the child made as the item's next revision, which holds from now on."""
    job = job.itemjob
    item = job.item
    material, shop = order.context
    piece = Workpiece.objects.select_for_update().get(item=item)
    last = item.revisions.order_by("-number").values_list("number", flat=True).first()
    piece.current = Revision.objects.create(
        item=item,
        number=0 if last is None else last + 1,
        parent=job.base,
        operation=job.parameters.get("operation", job.kind),
        title=job.title,
        parameters=job.parameters.get("parameters", {}),
        made_by=job.made_by,
        mesh_path=keep_file(folder / "mesh.npz", ".npz"),
        skin_path=keep_file(folder / "skin", ".skin"),
        marks_path=keep_file(folder / "marks", ".marks"),
        soundings_path=_kept_if_there(folder / "soundings"),
        changes_path=_kept_if_there(folder / "changes"),
        material=material,
        rules=material.rules,
        report=answer["report"],
        unit=answer["unit"],
        account=answer.get("account"),
        steps=answer.get("steps", []),
        left=answer.get("left", []),
    )
    piece.problem = ""
    piece.save()
    if item.material != material:
        # what was accepted in one material was not accepted in another
        item.waivers.filter(kind__in=KINDS_BY_MATERIAL).delete()
        item.material = material
        item.save(update_fields=["material"])
    _accept(piece.current, shop)


def _kept_if_there(path: Path) -> str:
    return keep_file(path, f".{path.name}") if path.exists() else ""


def _accept(revision: Revision, shop: ShopPolicy) -> None:
    """Accept what the shop keeps without a question, unless a person has said something to it."""
    found = {f["kind"] for f in revision.report["findings"] if f["severity"] == "call"}
    for kind in found.intersection(shop.accepted):
        revision.item.waivers.get_or_create(
            kind=kind, defaults={"reason": KEPT_BY_SHOP, "revision": revision, "at": timezone.now()}
        )


def _unreadable(job: Job) -> None:
    """A file that could not be read stays with the reason."""
    Workpiece.objects.filter(item=job.itemjob.item).update(problem=job.message)
