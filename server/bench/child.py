"""What a task's child process does: files in, files out. Knows nothing of Django or a database.

The child has a limit on its memory; its parent watches the time, hears its progress through a
pipe, and may end it at any moment: it leaves nothing behind but a temporary folder.
"""

import ctypes
import json
import resource
import signal
import sys
import traceback
from dataclasses import asdict, replace
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

from caulkcore import CaulkError, Mesh, examine, mend, read, write
from caulkcore.examine import Report, with_walls
from caulkcore.examine.limits import Machine
from caulkcore.formats import read_bytes
from caulkcore.kinds import noun
from caulkcore.labels import Labels
from caulkcore.mend import Account, run_operation
from caulkcore.mend import operation as named_operation
from caulkcore.packing import (
    load_labelled,
    pack_marks,
    pack_skin,
    pack_soundings,
    report_for_screen,
    save,
    screen_order,
)
from caulkcore.progress import Progress
from caulkcore.sheets import RuleSheet
from caulkcore.shop import Shop
from caulkcore.solids import named_solids
from caulkcore.units import UnitGuess

_DIE_WITH_PARENT = 1


def main(
    pipe: Connection, kind: str, source: Path, folder: Path, given: dict[str, Any], memory: int
) -> None:
    """Do one job and say through the pipe how it went.

    Messages are ``("step", name, fraction)`` and one last of ``("done", result)``,
    ``("refused", sentence)`` or ``("failed", sentence)``.
    """
    ctypes.CDLL(None).prctl(_DIE_WITH_PARENT, signal.SIGKILL)
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    resource.setrlimit(resource.RLIMIT_DATA, (memory, memory))
    progress = Progress(tell=lambda name, fraction: pipe.send(("step", name, fraction)))
    try:
        result = _WORK[kind](source, folder, given, progress)
        pipe.send(("done", result))
    except CaulkError as refusal:
        pipe.send(("refused", str(refusal)))
    except MemoryError:
        pipe.send(("failed", f"This takes more than the {memory / 1e9:.1f} GB a job may use."))
    except Exception:  # the last line before a silent death; the parent logs it
        traceback.print_exc(file=sys.stderr)
        pipe.send(("failed", "The work stopped on a fault of ours; nothing was changed."))


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


def _receive(
    source: Path, folder: Path, given: dict[str, Any], progress: Progress
) -> dict[str, Any]:
    progress.step("Reading the file", 0.0)
    found = read_bytes(source.read_bytes(), given["file_name"])
    progress.step("Examining", 0.3)
    rules = _rules(given)
    report = examine(found.mesh_mm(), found.unit, progress.part(0.3, 0.9), **rules)
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


def _shop(given: dict[str, Any]) -> Shop:
    return Shop.from_json(given["shop"])


def _load(source: Path) -> tuple[Mesh, Labels | None]:
    with source.open("rb") as stream:
        return load_labelled(stream)


def _unit(given: dict[str, Any]) -> UnitGuess:
    unit = given["unit"]
    return UnitGuess(**{**unit, "others": tuple(unit["others"])})


def _operate(
    source: Path, folder: Path, given: dict[str, Any], progress: Progress
) -> dict[str, Any]:
    (mesh, labels), unit = _load(source), _unit(given)
    name, parameters = given["operation"], given["parameters"]
    if name == "set-unit":
        parameters = {**parameters, "was": unit.unit}
        unit = UnitGuess(parameters["unit"], "given", "Set by a person.")
    rules = _rules(given)
    before = examine(mesh, _unit(given), progress.part(0.0, 0.2), limits=rules["limits"])
    outcome = run_operation(
        mesh, name, parameters, progress.part(0.2, 0.5), rules["sheet"], rules["limits"]
    )
    if outcome.mesh is mesh and name != "set-unit":
        raise CaulkError(" ".join(outcome.left) or "There was nothing to do.")
    report = examine(outcome.mesh, unit, progress.part(0.5, 0.8), **rules)
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
    chosen = named_operation(name)
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


def _judge(source: Path, folder: Path, given: dict[str, Any], progress: Progress) -> dict[str, Any]:
    """The same mesh once more, by the rules of a material, its walls measured at any size."""
    mesh, labels = _load(source)
    report = examine(
        mesh, _unit(given), progress.part(0.0, 0.95), most_faces=len(mesh.faces), **_rules(given)
    )
    return _revision(report, folder, progress, labels)


def _mend(source: Path, folder: Path, given: dict[str, Any], progress: Progress) -> dict[str, Any]:
    mesh, labels = _load(source)
    rules = _rules(given)
    limits = rules.pop("limits").of_material(rules["sheet"])
    policy = {**_shop(given).policy, **given["parameters"]}
    outcome = mend(mesh, _unit(given), progress.part(0.0, 0.8), limits=limits, **policy)
    if outcome.mesh is mesh:
        raise CaulkError(outcome.refused or "There is nothing to mend.")
    after = with_walls(
        outcome.after, progress=progress.part(0.8, 0.95), machines=limits.machines, **rules
    )
    labels = labels.carried(mesh, outcome.mesh) if labels else None
    result = _revision(after, folder, progress, labels)
    return {
        **result,
        "account": outcome.account.as_json(),
        "steps": [s.as_json() for s in outcome.steps],
        "left": [outcome.refused] if outcome.refused else [],
    }


def _release(
    source: Path, folder: Path, given: dict[str, Any], progress: Progress
) -> dict[str, Any]:
    mesh, labels = _load(source)
    path = folder / f"delivered.{given['format']}"
    progress.step("Writing the file", 0.1)
    write(mesh, path, given["name"], named_solids(mesh, given["name"], labels))
    progress.step("Reading it back", 0.4)
    back = read(path).mesh
    report = examine(
        back, UnitGuess("mm", "given", "Written in millimetres."), progress.part(0.5, 1.0)
    )
    if not report.tight:
        told = " ".join(f.text for f in report.findings if f.severity == "leak")
        raise CaulkError(f"The file as written is not tight, so it was not released. {told}")
    return {"report": json.loads(json.dumps(report.as_json()))}


_WORK = {
    "receive": _receive,
    "operate": _operate,
    "judge": _judge,
    "mend": _mend,
    "release": _release,
}
