"""What child processes compute for the bench: files in, files out.

Knows nothing of Django or a database; each function is named in `bench.kinds`.
"""

from dataclasses import asdict, replace
from pathlib import Path
from typing import Any

from caulkcore import CaulkError, Mesh
from caulkcore.io.labels import Labels
from caulkcore.progress import Progress
from caulkjob import examine, mend
from caulkjob.account import Account
from caulkjob.examination import with_walls
from caulkjob.intake import read_bytes
from caulkjob.limits import Machine
from caulkjob.operations import operation, run_operation
from caulkjob.questions import noun
from caulkjob.report import Report
from caulkjob.rule_sheets import RuleSheet
from caulkjob.shop_policy import ShopPolicy
from caulkjob.units import UnitGuess

from bench.packing import (
    load_labelled,
    pack_marks,
    pack_skin,
    pack_soundings,
    report_for_screen,
    save,
    screen_order,
)


def _revision(
    report: Report, folder: Path, progress: Progress, labels: Labels | None
) -> dict[str, Any]:
    progress.step("Making it ready for the screen", 0.95)
    with (folder / "mesh.npz").open("wb") as stream:
        save(report.mesh, stream, labels)
    order = screen_order(report)
    (folder / "skin").write_bytes(pack_skin(report, order))
    (folder / "marks").write_bytes(pack_marks(report, order))
    if report.walls is not None:
        (folder / "soundings").write_bytes(pack_soundings(report.walls, order))
    return {"report": report_for_screen(report, labels), "unit": asdict(report.unit)}


def receive(
    source: Path, folder: Path, given: dict[str, Any], progress: Progress
) -> dict[str, Any]:
    """Read a customer's file and examine it."""
    progress.step("Reading the file", 0.0)
    found = read_bytes(source.read_bytes(), given["file_name"])
    progress.step("Examining", 0.3)
    rules = _rules(given)
    report = examine(found.mesh_mm(), found.unit, progress.span(0.3, 0.9), **rules)
    result = _revision(report, folder, progress, found.labels)
    result["report"] |= {"format": found.format, "notes": list(found.notes)}
    return result


def _rules(given: dict[str, Any]) -> dict[str, Any]:
    """What the ordered material asks for, what all others do, the shop's limits and machines."""
    sheet = RuleSheet.from_json(given["sheet"]) if given["sheet"] else None
    sheets = tuple(RuleSheet.from_json(one) for one in given["sheets"])
    machines = tuple(Machine(m["name"], m["process"], tuple(m["sides"])) for m in given["machines"])
    limits = replace(_shop(given).limits, machines=machines)
    return {"sheet": sheet, "sheets": sheets, "limits": limits}


def _shop(given: dict[str, Any]) -> ShopPolicy:
    return ShopPolicy.from_json(given["shop"])


def _load(source: Path) -> tuple[Mesh, Labels | None]:
    with source.open("rb") as stream:
        return load_labelled(stream)


def _unit(given: dict[str, Any]) -> UnitGuess:
    unit = given["unit"]
    return UnitGuess(**{**unit, "others": tuple(unit["others"])})


def operate(
    source: Path, folder: Path, given: dict[str, Any], progress: Progress
) -> dict[str, Any]:
    """Run one operation and examine what came of it."""
    (mesh, labels), unit = _load(source), _unit(given)
    name, parameters = given["operation"], given["parameters"]
    if name == "set-unit":
        parameters = {**parameters, "was": unit.unit}
        unit = UnitGuess(parameters["unit"], "given", "Set by a person.")
    rules = _rules(given)
    before = examine(mesh, _unit(given), progress.span(0.0, 0.2), limits=rules["limits"])
    outcome = run_operation(
        mesh, name, parameters, progress.span(0.2, 0.5), rules["sheet"], rules["limits"]
    )
    if outcome.mesh is mesh and name != "set-unit":
        raise CaulkError(" ".join(outcome.left) or "There was nothing to do.")
    report = examine(outcome.mesh, unit, progress.span(0.5, 0.8), **rules)
    _refuse_if_worse(name, before, report)
    progress.step("Writing the account", 0.85)
    account = Account.between(mesh, outcome.mesh).as_json()
    step = {
        "operation": name,
        "text": outcome.done or "The numbers stay as they are.",
        "left": list(outcome.left),
        "account": account,
    }
    labels = labels.carried(mesh, outcome.mesh) if labels else None
    result = _revision(report, folder, progress, labels)
    return {**result, "account": account, "steps": [step], "left": list(outcome.left)}


def _refuse_if_worse(name: str, before: Report, after: Report) -> None:
    if not len(after.mesh.faces):
        raise CaulkError("Nothing would be left of the model.")
    chosen = operation(name)
    if chosen.freely:
        more = [kind for kind, n in after.leaks.items() if n > before.leaks.get(kind, 0)]
        if more:
            told = ", ".join(
                f"{after.leaks[kind]:,} {noun(kind, after.leaks[kind])}" for kind in more
            )
            raise CaulkError(f"It was tried and left {told}; the model stays as it was.")
    for kind in chosen.answers:
        if kind in before.leaks and after.leaks.get(kind, 0) >= before.leaks[kind]:
            raise CaulkError("It was tried and did not help; the model stays as it was.")


def judge(source: Path, folder: Path, given: dict[str, Any], progress: Progress) -> dict[str, Any]:
    """The same mesh once more, by the rules of a material, its walls measured at any size."""
    mesh, labels = _load(source)
    report = examine(
        mesh, _unit(given), progress.span(0.0, 0.95), most_faces=len(mesh.faces), **_rules(given)
    )
    return _revision(report, folder, progress, labels)


def mend_all(
    source: Path, folder: Path, given: dict[str, Any], progress: Progress
) -> dict[str, Any]:
    """Run the plan and examine what came of it."""
    mesh, labels = _load(source)
    rules = _rules(given)
    limits = rules.pop("limits").of_material(rules["sheet"])
    policy = {**_shop(given).policy, **given["parameters"]}
    outcome = mend(mesh, _unit(given), progress.span(0.0, 0.8), limits=limits, **policy)
    if outcome.mesh is mesh:
        raise CaulkError(outcome.refused or "There is nothing to mend.")
    after = with_walls(
        outcome.after, progress=progress.span(0.8, 0.95), machines=limits.machines, **rules
    )
    labels = labels.carried(mesh, outcome.mesh) if labels else None
    result = _revision(after, folder, progress, labels)
    return {
        **result,
        "account": outcome.account.as_json(),
        "steps": [s.as_json() for s in outcome.steps],
        "left": [outcome.refused] if outcome.refused else [],
    }
