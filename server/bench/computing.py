"""What child processes compute for the bench: files in, files out.

Knows nothing of Django or a database; each function is named in `bench.kinds`.
"""

from collections.abc import Iterable
from dataclasses import asdict, replace
from pathlib import Path
from typing import Any

import numpy as np
from caulkcore import CaulkError, Mesh
from caulkcore.io.labels import Labels
from caulkcore.mesh.arrays import Array
from caulkcore.mesh.concatenate import concatenate
from caulkcore.progress import Progress
from caulkcore.solid.clearance import clearance
from caulkjob import examine, mend
from caulkjob.account import Account
from caulkjob.change_map import change_map
from caulkjob.examination import with_walls
from caulkjob.findings.walls import MOST_FACES
from caulkjob.intake import read_bytes
from caulkjob.limits import Machine
from caulkjob.operation import Operation
from caulkjob.operations import operation, run_operation
from caulkjob.perform import perform
from caulkjob.piece_numbers import numbers_after
from caulkjob.remedies.piece_solids import PieceSolids
from caulkjob.remedies.touch_up import chosen_faces
from caulkjob.report import Report
from caulkjob.rule_sheets import RuleSheet
from caulkjob.shop_policy import ShopPolicy
from caulkjob.unit_guess import UnitGuess

from bench.packing import (
    load_labelled,
    pack_changes,
    pack_marks,
    pack_skin,
    pack_soundings,
    report_for_screen,
    save,
    screen_order,
)


def _revision(
    report: Report,
    folder: Path,
    progress: Progress,
    labels: Labels | None,
    given: dict[str, Any],
    before: Mesh | None = None,
    unmoved: Mesh | None = None,
) -> dict[str, Any]:
    progress.step("Making it ready for the screen", 0.95)
    numbers = piece_numbers(report, given, before, unmoved)
    report = with_walls_apart(report, numbers, given, progress)
    with (folder / "mesh.npz").open("wb") as stream:
        save(report.mesh, stream, labels)
    order = screen_order(report.mesh)
    (folder / "skin").write_bytes(pack_skin(report, order))
    if before is not None:
        changes = change_map(before, report.mesh)
        (folder / "changes").write_bytes(pack_changes(changes, order))
    told = _examined(report, folder, order, labels, numbers)
    return {"report": told, "unit": asdict(report.unit)}


def _examined(
    report: Report, folder: Path, order: Array, labels: Labels | None, numbers: list[int]
) -> dict[str, Any]:
    """Write what is drawn of an examination; returns its report."""
    (folder / "marks").write_bytes(pack_marks(report, order))
    if report.walls is not None:
        (folder / "soundings").write_bytes(pack_soundings(report.walls, order))
    return report_for_screen(report, labels, numbers)


def piece_numbers(
    report: Report,
    given: dict[str, Any],
    before: Mesh | None = None,
    unmoved: Mesh | None = None,
) -> list[int]:
    """The number of each shell, kept from the mesh before; as they lie if there is none."""
    if before is None or not given["numbers"]:
        return list(range(1, report.shells + 1))
    numbers, first_free = dict(given["numbers"]), given["first_free"]
    return numbers_after(before, numbers, report.mesh, first_free, unmoved=unmoved)


def shells_apart(numbers: Iterable[tuple[int, int]], given: dict[str, Any]) -> list[int]:
    """Shells that stay apart by decision, from all shells with their numbers."""
    apart = set(given["apart"])
    return [shell for shell, number in numbers if number in apart]


def with_walls_apart(
    report: Report,
    numbers: list[int],
    given: dict[str, Any],
    progress: Progress,
    most_faces: int | None = None,
) -> Report:
    """Judge walls where pieces overlap that stay apart by decision, each piece alone."""
    apart = tuple(shells_apart(enumerate(numbers), given))
    if not apart or all(one.reason != "skins-cross" for one in report.unasked):
        return report
    rules = rules_of(given)
    machines = rules.pop("limits").machines
    if most_faces is not None:
        rules["most_faces"] = most_faces
    return with_walls(
        replace(report, unasked=()), progress=progress, apart=apart, machines=machines, **rules
    )


def receive(
    source: Path, folder: Path, given: dict[str, Any], progress: Progress
) -> dict[str, Any]:
    """Read a customer's file and examine it."""
    progress.step("Reading the file", 0.0)
    found = read_bytes(source.read_bytes(), given["file_name"])
    progress.step("Examining", 0.3)
    rules = rules_of(given)
    report = examine(found.mesh_mm(), found.unit, progress=progress.span(0.3, 0.9), **rules)
    result = _revision(report, folder, progress, found.labels, given)
    result["report"] |= {"format": found.format, "notes": list(found.notes)}
    return result


def rules_of(given: dict[str, Any]) -> dict[str, Any]:
    """What the ordered material asks for, what all others do, the shop's limits and machines, and
    up to how many triangles walls are measured at once."""
    rules = RuleSheet.from_json(given["sheet"]) if given["sheet"] else None
    rule_sheets = tuple(RuleSheet.from_json(one) for one in given["sheets"])
    machines = tuple(Machine(m["name"], m["process"], tuple(m["sides"])) for m in given["machines"])
    limits = replace(_shop(given).limits, machines=machines)
    return {
        "rules": rules,
        "rule_sheets": rule_sheets,
        "limits": limits,
        "most_faces": given["walls_at_once"] or MOST_FACES,
    }


def _shop(given: dict[str, Any]) -> ShopPolicy:
    return ShopPolicy.from_json(given["shop"])


def _load(source: Path) -> tuple[Mesh, Labels | None]:
    with source.open("rb") as stream:
        return load_labelled(stream)


def _unit(given: dict[str, Any]) -> UnitGuess:
    unit = given["unit"]
    return UnitGuess(**{**unit, "others": tuple(unit["others"])})


def _pieces_apart(given: dict[str, Any]) -> list[int]:
    """The pieces that stay apart, as operations count them: from 1."""
    return [shell + 1 for shell in shells_apart(given["numbers"], given)]


def as_the_mesh_has_them(
    mesh: Mesh, chosen: Operation, given: dict[str, Any], numbers: Iterable[tuple[int, int]]
) -> dict[str, Any]:
    """Parameters as the mesh has them: faces from the screen's order, pieces from their numbers."""
    told = {**given}
    shells = {number: shell + 1 for shell, number in numbers}
    for one in chosen.parameters:
        if one.kind == "pieces" and given.get(one.name) is not None:
            told[one.name] = [shells.get(n, 0) for n in one.check(given[one.name])]
        if one.kind == "faces" and given.get(one.name) is not None:
            on_screen = chosen_faces(mesh, one.check(given[one.name]))
            told[one.name] = np.zeros(len(mesh.faces), dtype=bool)
            told[one.name][screen_order(mesh)] = on_screen
    return told


def operate(
    source: Path, folder: Path, given: dict[str, Any], progress: Progress
) -> dict[str, Any]:
    """Run one operation and examine what came of it."""
    mesh, labels = _load(source)
    chosen = operation(given["operation"])
    parameters = as_the_mesh_has_them(mesh, chosen, given["parameters"], given["numbers"])
    others = [(name, *_load(folder / file)) for file, name in given["others"]]
    if others:
        parameters["others"] = [one for _, one, _ in others]
    if any(one.name == "apart" for one in chosen.parameters) and "apart" not in parameters:
        parameters = {**parameters, "apart": _pieces_apart(given)}
    done = perform(
        mesh,
        given["operation"],
        parameters,
        unit=_unit(given),
        progress=progress.span(0.0, 0.9),
        **rules_of(given),
    )
    if done.refused is not None:
        raise CaulkError(done.refused)
    (step,) = done.steps
    if others and chosen.brings_in:
        every = [(given["name"], mesh, labels), *others]
        labels = Labels.joined([(name, of, len(one.faces)) for name, one, of in every])
    else:
        labels = labels.carried(mesh, done.unmoved or done.mesh) if labels else None
    return {
        **_revision(done.after, folder, progress, labels, given, mesh, done.unmoved),
        "account": done.account.as_json(),
        "steps": [step.as_json()],
        "left": list(step.left),
    }


def derive(source: Path, folder: Path, given: dict[str, Any], progress: Progress) -> dict[str, Any]:
    """The first revision of an item that is made of some pieces of another one, or of all of it."""
    mesh, labels = _load(source)
    if given["pieces"]:
        numbers = {number: shell + 1 for shell, number in given["numbers"]}
        chosen = [numbers[n] for n in given["pieces"]]
        kept = run_operation(mesh, "extract", {"pieces": chosen}, progress.span(0.0, 0.2)).mesh
    else:
        kept = mesh
    labels = labels.carried(mesh, kept) if labels else None
    report = examine(kept, _unit(given), progress=progress.span(0.2, 0.95), **rules_of(given))
    result = _revision(report, folder, progress, labels, given, mesh)
    (folder / "changes").unlink()  # it has no revision before it
    return result


def judge(source: Path, folder: Path, given: dict[str, Any], progress: Progress) -> dict[str, Any]:
    """The same mesh once more, by the rules of a material, its walls measured at any size."""
    mesh, labels = _load(source)
    report = examine(
        mesh,
        _unit(given),
        progress=progress.span(0.0, 0.95),
        **{**rules_of(given), "most_faces": len(mesh.faces)},
    )
    progress.step("Making it ready for the screen", 0.95)
    known = dict(given["numbers"])
    numbers = [known.get(shell, shell + 1) for shell in range(report.shells)]
    report = with_walls_apart(report, numbers, given, progress, most_faces=len(mesh.faces))
    told = _examined(report, folder, screen_order(report.mesh), labels, numbers)
    # what was said of the file when it was read goes with the first revision
    return {"report": {**told, **given["told"]}}


def compare(
    source: Path, folder: Path, given: dict[str, Any], progress: Progress
) -> dict[str, Any]:
    """How far a revision is from another one, as if it had been made of it."""
    after, before = _load(source)[0], _load(folder / given["against"])[0]
    progress.step("Looking at the other one", 0.0)
    was = examine(before, _unit(given), progress=progress.span(0.0, 0.4))
    progress.step("Measuring how far they are apart", 0.4)
    account = Account.between(before, after, was, progress=progress.span(0.4, 0.9))
    changes = change_map(before, after)
    (folder / "changes").write_bytes(pack_changes(changes, screen_order(after)))
    return {"account": account.as_json()}


def measure(
    source: Path, folder: Path, given: dict[str, Any], progress: Progress
) -> dict[str, Any]:
    """The gap between two pieces, or what they share; each with all that lies in it."""
    mesh, _ = _load(source)
    shells = {number: shell + 1 for shell, number in given["numbers"]}
    one, other = (
        concatenate(PieceSolids.of(mesh, [shells[number]]).solids) for number in given["pieces"]
    )
    try:
        found = clearance(one, other, progress=progress)
    except ValueError as problem:
        raise CaulkError(f"They cannot be measured: {problem}.") from None
    facing = found.facing and {
        "area_mm2": found.facing.area,
        "mean_mm": found.facing.mean,
        "most_mm": found.facing.most,
        "widest": found.facing.widest.tolist(),
        "spacing_mm": found.facing.spacing,
    }
    return {
        "gap_mm": found.gap,
        "ends": found.ends.tolist(),
        "shared_mm3": found.shared,
        "depth_mm": found.depth,
        "deepest": found.deepest.tolist(),
        "facing": facing,
    }


def mend_all(
    source: Path, folder: Path, given: dict[str, Any], progress: Progress
) -> dict[str, Any]:
    """Run the plan and examine what came of it."""
    mesh, labels = _load(source)
    rules = rules_of(given)
    limits = rules.pop("limits").of_material(rules["rules"])
    policy = {**_shop(given).policy, "apart": _pieces_apart(given)}
    outcome = mend(mesh, _unit(given), progress=progress.span(0.0, 0.8), limits=limits, **policy)
    if outcome.mesh is mesh:
        raise CaulkError(outcome.refused or "There is nothing to mend.")
    after = with_walls(
        outcome.after, progress=progress.span(0.8, 0.95), machines=limits.machines, **rules
    )
    labels = labels.carried(mesh, outcome.mesh) if labels else None
    result = _revision(after, folder, progress, labels, given, mesh)
    return {
        **result,
        "account": outcome.account.as_json(),
        "steps": [s.as_json() for s in outcome.steps],
        "left": [outcome.refused] if outcome.refused else [],
    }
