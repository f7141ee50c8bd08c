"""The bench's kinds of work: what each is given, and what becomes of what it makes."""

from pathlib import Path
from typing import Any

from api.exception_handler import Conflict
from django.conf import settings
from django.db import transaction
from materials.models import Material, ShopSettings
from orders.models import Item
from work.blobs import keep_file
from work.models import Job
from work.queues import BEHIND, CROWD
from work.registry import NotEntered, Order, WorkKind, register

from .decisions import Held, keep_by_policy
from .jobs import begin_what_waited
from .judging import hold_examination, judge_again_if_moved_on, judge_if_needed
from .models import Comparison, Examination, ItemJob, PieceClearance, Revision, Workpiece
from .standard import Standard

KEPT_BY_SHOP = "kept, as the shop has settled"
"""Reason of an acceptance that the shop's policy gives by itself."""
_AGAINST = "against.npz"
"""Name under which a child finds the second of two meshes."""
_OTHER = "other{}.npz"
"""The same of further ones, by their number."""


def register_kinds() -> None:
    """Make them known to the queue."""
    register(
        WorkKind(ItemJob.Kind.RECEIVE, "bench.computing:receive", order, enter, _unreadable, CROWD),
        WorkKind(ItemJob.Kind.OPERATE, "bench.computing:operate", order, enter),
        WorkKind(
            ItemJob.Kind.JUDGE, "bench.computing:judge", order, enter_verdict, _not_judged, BEHIND
        ),
        WorkKind(ItemJob.Kind.MEND, "bench.computing:mend_all", order, enter),
        WorkKind(
            ItemJob.Kind.DERIVE, "bench.computing:derive", order_of_source, enter, _unreadable
        ),
        WorkKind(ItemJob.Kind.MEASURE, "bench.computing:measure", order_to_measure, enter_measured),
        WorkKind(ItemJob.Kind.COMPARE, "bench.computing:compare", order_of_two, enter_comparison),
    )


def order(job: Job) -> Order:
    """The mesh to work on, with the rules and decisions as they hold now."""
    job = job.itemjob
    material, standard = job.material, Standard.now()
    given = {**job.parameters, **judged_by(material, standard), **pieces_of(job)}
    context = (material, standard.of(material), ShopSettings.now())
    if job.base is None:
        return Order(job.item.received_path, {**given, "file_name": job.item.file_name}, context)
    first = job.base.examinations.first()
    told = {k: first.report[k] for k in ("format", "notes") if first and k in first.report}
    given |= {"unit": job.base.unit, "told": told, "name": job.item.name}
    others = {
        _OTHER.format(i): one
        for i, one in enumerate(others_of(job.parameters.get("parameters", {}), job.item))
    }
    given["others"] = [(file, one.item.name) for file, one in others.items()]
    also = {file: one.mesh_path for file, one in others.items()}
    return Order(job.base.mesh_path, given, context, also)


def others_of(parameters: dict[str, Any], item: Item) -> list[Revision]:
    """The revisions that an operation's parameters name beside its own, of the same order.

    Raises
    ------
    Conflict
        If there is no such revision.
    """
    keys = parameters.get("others") or []
    found = Revision.objects.filter(item__order=item.order_id).select_related("item")
    known = found.in_bulk([key for key in keys if isinstance(key, int)])
    if len(known) < len(set(keys)):
        raise Conflict("A model that was named is none of this order.")
    return [known[key] for key in keys]


def order_of_source(job: Job) -> Order:
    """The mesh of the revision that an item is made of, with its pieces' numbers."""
    job = job.itemjob
    source = Revision.objects.get(pk=job.parameters["source"])
    material, standard = job.material, Standard.now()
    given = {
        **job.parameters,
        **judged_by(material, standard),
        **numbers_of(source),
        "apart": [],
        "unit": source.unit,
    }
    return Order(source.mesh_path, given, (material, standard.of(material), ShopSettings.now()))


def order_of_two(job: Job) -> Order:
    """The mesh of a revision, and that of the one that it is held against."""
    job = job.itemjob
    against = Revision.objects.get(pk=job.parameters["against"])
    assert job.base is not None, "only revisions are compared"
    given = {"unit": against.unit, "against": _AGAINST}
    return Order(job.base.mesh_path, given, against, {_AGAINST: against.mesh_path})


def enter_comparison(job: Job, order: Order, folder: Path, answer: dict[str, Any]) -> None:
    """Store how far a revision is from another one."""
    Comparison.objects.get_or_create(
        revision=job.itemjob.base,
        against=order.context,
        defaults={
            "account": answer["account"],
            "changes_path": keep_file(folder / "changes", ".changes"),
        },
    )


def order_to_measure(job: Job) -> Order:
    """The mesh of a revision, and which two of its pieces are measured."""
    base = job.itemjob.base
    assert base is not None, "only revisions are measured"
    given = {"pieces": job.parameters["pieces"], **numbers_of(base)}
    return Order(base.mesh_path, given, base)


def enter_measured(job: Job, order: Order, folder: Path, answer: dict[str, Any]) -> None:
    """Store how two pieces lie to each other."""
    first, second = job.parameters["pieces"]
    PieceClearance.objects.get_or_create(
        revision=order.context, first=first, second=second, defaults={"told": answer}
    )


def judged_by(material: Material, standard: Standard) -> dict[str, Any]:
    """What a child process needs to examine as holds now."""
    return {
        "sheet": material.rules,
        "sheets": list(Material.objects.exclude(rules=None).values_list("rules", flat=True)),
        "shop": standard.shop.as_json(),
        "machines": standard.machines,
        "walls_at_once": settings.WALLS_AT_ONCE,
    }


def pieces_of(job: ItemJob) -> dict[str, Any]:
    """The numbers of the pieces, the first that none has had, and which of them stay apart."""
    if job.base is None:
        return {"numbers": [], "first_free": 1, "apart": []}
    return {**numbers_of(job.base), "apart": sorted(Held.of(job.item).apart())}


def numbers_of(revision: Revision) -> dict[str, Any]:
    """The numbers of a revision's pieces, and the first that none of its item's has had."""
    examination = revision.examinations.last()
    if examination is None:
        return {"numbers": [], "first_free": 1}
    report = examination.report
    numbers = {p["shell"]: p.get("number", p["shell"] + 1) for p in report.get("pieces", ())}
    ever = Revision.objects.filter(item=revision.item_id).values_list("highest_piece", flat=True)
    return {
        "numbers": [[shell, number] for shell, number in numbers.items()],
        "first_free": max([*ever, *numbers.values(), report["shells"]], default=0) + 1,
    }


def enter(job: Job, order: Order, folder: Path, answer: dict[str, Any]) -> None:
    """Store what the child made as the item's next revision, which holds from now on."""
    job = job.itemjob
    item = job.item
    piece = Workpiece.objects.select_for_update().get(item=item)
    if piece.current_id != job.base_id:
        raise NotEntered("The item has moved on meanwhile; nothing was changed.")
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
        changes_path=_kept_if_there(folder / "changes"),
        triangles=answer["report"]["triangles"],
        highest_piece=max((p["number"] for p in answer["report"]["pieces"]), default=0),
        unit=answer["unit"],
        account=answer.get("account"),
        steps=answer.get("steps", []),
        left=answer.get("left", []),
    )
    piece.problem = ""
    piece.save()
    _enter_examination(piece, piece.current, job, order, folder, answer)
    if piece.once_received:
        transaction.on_commit(lambda: begin_what_waited(item))


def enter_verdict(job: Job, order: Order, folder: Path, answer: dict[str, Any]) -> None:
    """Store what was judged anew of a revision, whether it still holds or not."""
    job = job.itemjob
    piece = Workpiece.objects.select_for_update().get(item=job.item)
    assert job.base is not None, "only a revision is judged"
    _enter_examination(piece, job.base, job, order, folder, answer)


def _enter_examination(
    piece: Workpiece,
    revision: Revision,
    job: ItemJob,
    order: Order,
    folder: Path,
    answer: dict[str, Any],
) -> None:
    material, standard, shop = order.context
    Examination.objects.create(
        revision=revision,
        report=answer["report"],
        brief=Examination.brief_of(answer["report"]),
        marks_path=keep_file(folder / "marks", ".marks"),
        soundings_path=_kept_if_there(folder / "soundings"),
        tight=answer["report"]["tight"],
        material=material,
        standard=standard,
        made_by=job.made_by,
    )
    hold_examination(piece)
    if piece.examination is not None:
        keep_by_policy(piece, shop.accepted, KEPT_BY_SHOP)
    # what is large is judged afterwards; what changed meanwhile, once more
    transaction.on_commit(lambda: judge_if_needed(job.item))


def _kept_if_there(path: Path) -> str:
    return keep_file(path, f".{path.name}") if path.exists() else ""


def _unreadable(job: Job) -> None:
    """A file that could not be read stays with the reason."""
    Workpiece.objects.filter(item=job.itemjob.item).update(problem=job.message, once_received=None)


def _not_judged(job: Job) -> None:
    judge_again_if_moved_on(job.itemjob)
