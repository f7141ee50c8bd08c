"""The command line: ``check``, ``mend`` and ``walls``."""

import argparse
import json
import os
import sys
from pathlib import Path
from typing import Any

from caulkcore.errors import CaulkError, OperationRefused, RefusedInput
from caulkcore.io.files import WRITERS, suffix_of, write
from caulkcore.io.labels import Labels
from caulkcore.io.units import MILLIMETRES
from caulkcore.mesh.triangle_mesh import Mesh
from caulkcore.thickness.thickness_map import measure_thickness

from .delivery import named_solids
from .examination import examine
from .intake import Source, read
from .operations import operation
from .plan import mend
from .rule_sheets import usual_rule_sheet
from .units import UnitGuess

TIGHT, FINDINGS, UNREADABLE, REFUSED = 0, 1, 2, 3


def main(arguments: list[str] | None = None) -> int:
    """Run a command; the exit code is in the contract of the command line."""
    parser = argparse.ArgumentParser(prog="ironcaulk", description=__doc__)
    commands = parser.add_subparsers(dest="command", required=True)
    check = commands.add_parser("check", help="examine files")
    check.add_argument("files", nargs="+", metavar="FILE")
    check.add_argument("--material", metavar="KEY")
    sound = commands.add_parser("walls", help="measure walls")
    sound.add_argument("file", metavar="FILE")
    sound.add_argument("--min", type=float, required=True, metavar="MM")
    repair = commands.add_parser("mend", help="mend a file")
    repair.add_argument("file", metavar="FILE")
    repair.add_argument("-o", "--output", required=True, metavar="OUT")
    repair.add_argument("--voids", choices=("fill", "keep", "ask"), default="keep")
    repair.add_argument("--unite", choices=("all", "none"), default="all")
    repair.add_argument("--sheet", type=float, metavar="MM")
    repair.add_argument("--recast", type=float, metavar="MM")
    for one in (check, repair, sound):
        one.add_argument("--unit", choices=("auto", *MILLIMETRES), default="auto")
        one.add_argument("--json", action="store_true")
    asked = parser.parse_args(arguments)
    return {"check": _check, "mend": _mend, "walls": _walls}[asked.command](asked)


def _read(path: str, unit: str) -> Source:
    source = read(path)
    return source if unit == "auto" else source.with_unit(unit)


def _say(path: str, problem: Exception | str) -> None:
    print(f"{Path(path).name}: {problem}", file=sys.stderr)


def _check(asked: argparse.Namespace) -> int:
    worst = TIGHT
    try:
        sheet = usual_rule_sheet(asked.material) if asked.material is not None else None
    except RefusedInput as problem:
        print(problem, file=sys.stderr)
        return UNREADABLE
    for path in asked.files:
        try:
            source = _read(path, asked.unit)
        except RefusedInput as problem:
            _say(path, problem)
            worst = UNREADABLE
            continue
        report = examine(source.mesh_mm(), source.unit, sheet=sheet)
        told = _told(path, source, report.as_json())
        print(json.dumps(told, ensure_ascii=False) if asked.json else _page(told))
        if not report.tight and worst == TIGHT:
            worst = FINDINGS
    return worst


def _told(path: str, source: Source, report: dict[str, Any]) -> dict[str, Any]:
    return {
        "file": Path(path).name,
        "format": source.format,
        **report,
        "notes": list(source.notes),
    }


def _page(told: dict[str, Any]) -> str:
    x, y, z = told["size_mm"]
    lines = [
        f"{told['file']}: {'tight' if told['tight'] else 'leaks'}",
        f"  {x:,.1f} × {y:,.1f} × {z:,.1f} mm ({told['unit']}, {told['unit_source']}), "
        f"{told['triangles']:,} triangles, {told['shells']:,} shells, "
        f"{told['volume_mm3'] / 1000:,.2f} cm³",
    ]
    lines += [f"  note: {line}" for line in told["notes"]]
    marks = {"leak": "leak", "call": "your call", "note": "note"}
    lines += [f"  {marks[f['severity']]}: {f['text']}" for f in told["findings"]]
    return "\n".join(lines)


def _walls(asked: argparse.Namespace) -> int:
    try:
        source = _read(asked.file, asked.unit)
        walls = measure_thickness(source.mesh_mm(), asked.min)
    except CaulkError as problem:
        _say(asked.file, problem)
        return UNREADABLE
    regions = walls.regions(asked.min)
    shares = walls.percentiles(1, 5, 50)
    told = {
        "file": Path(asked.file).name,
        "min_mm": asked.min,
        "thinnest_mm": round(walls.thinnest, 6),
        "measured_to_mm": walls.most,
        "percentiles": dict(zip(("1", "5", "50"), (round(x, 6) for x in shares), strict=True)),
        "thin_area_mm2": round(float(regions.area.sum()), 6),
        "open_faces": walls.open_faces,
        "regions": [
            {
                "thickness_mm": round(float(regions.thickness[i]), 6),
                "at": [round(x, 6) for x in regions.at[i].tolist()],
                "area_mm2": round(float(regions.area[i]), 6),
                "free_standing": bool(regions.free_standing[i]),
                "wire": bool(regions.wire[i]),
            }
            for i in range(len(regions))
        ],
    }
    print(json.dumps(told, ensure_ascii=False) if asked.json else _walls_page(told))
    return FINDINGS if len(regions) else TIGHT


def _walls_page(told: dict[str, Any]) -> str:
    n = len(told["regions"])
    verdict = f"{n:,} thin {'place' if n == 1 else 'places'}" if n else "nothing thin"
    lines = [f"{told['file']}: {verdict} under {told['min_mm']:g} mm"]
    thinnest = told["thinnest_mm"]
    least = f"{thinnest:.2f} mm" if thinnest < told["measured_to_mm"] else f"over {thinnest:g} mm"
    lines.append(f"  thinnest wall {least}; thin skin {told['thin_area_mm2']:,.1f} mm²")
    if told["open_faces"]:
        lines.append(
            f"  note: {told['open_faces']:,} triangles belong to shells that are not closed; "
            "thickness means little there."
        )
    for one in told["regions"]:
        how = "wire" if one["wire"] else "wall"
        how += ", standing free" if one["free_standing"] else ", held on several sides"
        at = ", ".join(f"{x:,.1f}" for x in one["at"])
        lines.append(f"  {one['thickness_mm']:.2f} mm at {at}: {how}, {one['area_mm2']:,.1f} mm²")
    return "\n".join(lines)


def _mend(asked: argparse.Namespace) -> int:
    try:
        suffix_of(asked.output, WRITERS)
        if not os.access(Path(asked.output).absolute().parent, os.W_OK):
            raise RefusedInput("The folder of OUT does not exist or cannot be written to.")
        operation("give-thickness").check({"thickness": asked.sheet})
        operation("recast").check({"detail": asked.recast})
    except CaulkError as problem:
        _say(asked.output, problem)
        return UNREADABLE
    try:
        source = _read(asked.file, asked.unit)
    except RefusedInput as problem:
        _say(asked.file, problem)
        return UNREADABLE
    try:
        given = source.mesh_mm()
        outcome = mend(
            given,
            source.unit,
            unite=asked.unite == "all",
            voids=asked.voids,
            sheet=asked.sheet,
            recast=asked.recast,
        )
    except OperationRefused as problem:
        _say(asked.file, f"Refused: {problem}")
        return REFUSED
    told = outcome.as_json()
    told["before"] = _told(asked.file, source, told["before"])
    code = TIGHT
    if outcome.refused is None:
        labels = source.labels.carried(given, outcome.mesh) if source.labels else None
        told["after"], tight = _deliver(outcome.mesh, asked.output, labels)
        if not tight:
            told["refused"] = "The mesh is tight, but not as rounded by this format."
    if told["refused"]:
        code = REFUSED
        _say(asked.file, f"Refused: {told['refused']}")
    if asked.json:
        print(json.dumps(told, ensure_ascii=False))
    elif code == TIGHT:
        print(_page(told["after"]))
        for step in told["steps"]:
            print(f"  done: {step['text']}")
        if not told["steps"]:
            print("  nothing to mend; written as it is")
    return code


def _deliver(mesh: Mesh, path: str, labels: Labels | None) -> tuple[dict[str, Any], bool]:
    """Write to a neighbour, read it back, examine it, and only then put it in place."""
    target = Path(path)
    trial = target.with_name(f".{target.stem}.trial{os.getpid()}{target.suffix}")
    given = UnitGuess("mm", "given", "Written in millimetres.")
    try:
        write(mesh, trial, target.stem, named_solids(mesh, target.stem, labels))
        delivered = read(trial)
        report = examine(delivered.mesh, given)
        told = _told(path, delivered, report.as_json())
        if report.tight:
            os.replace(trial, target)
        return told, report.tight
    finally:
        trial.unlink(missing_ok=True)


if __name__ == "__main__":
    sys.exit(main())
