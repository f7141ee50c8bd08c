"""What the commands do: read, examine, mend, write, and tell it as text or JSON."""

import argparse
import json
import os
import sys
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from caulkcore.errors import CaulkError, RefusedInput
from caulkcore.io.files import WRITERS, suffix_of
from caulkcore.io.labels import Labels
from caulkcore.mesh.triangle_mesh import Mesh

from .examination import examine
from .intake import Source, read
from .rule_sheets import RuleSheet, usual_rule_sheet
from .text import told_down, told_up

TIGHT, FINDINGS, UNREADABLE, REFUSED = 0, 1, 2, 3
"""Exit codes: tight; readable, with findings left; unreadable or refused input; refused to mend."""


def _read(path: str, unit: str, like: Source | None = None) -> Source:
    """Read a file; of two that belong together, what is guessed of the first holds for both."""
    source = read(path)
    if unit != "auto":
        return source.with_unit(unit)
    if like is not None and "guessed" == like.unit.source == source.unit.source:
        return source.with_unit(like.unit.unit)
    return source


def _say(path: str, problem: Exception | str) -> None:
    print(f"{Path(path).name}: {problem}", file=sys.stderr)


def check(asked: argparse.Namespace) -> int:
    """Examine files, one after the other.

    Parameters
    ----------
    asked : Namespace
        As `cli` parses it.

    Returns
    -------
    int
        The exit code.
    """
    worst = TIGHT
    try:
        rules = _rules(asked.material)
    except RefusedInput as problem:
        print(problem, file=sys.stderr)
        return UNREADABLE
    for path in asked.files:
        try:
            source = _read(path, asked.unit)
            report = examine(source.mesh_mm(), source.unit, rules=rules)
        except CaulkError as problem:
            _say(path, problem)
            worst = UNREADABLE
            continue
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


def walls(asked: argparse.Namespace) -> int:
    """Measure the walls of a file against one limit.

    Parameters
    ----------
    asked : Namespace
        As `cli` parses it.

    Returns
    -------
    int
        The exit code.
    """
    from caulkcore.thickness.thickness_map import measure_thickness

    try:
        source = _read(asked.file, asked.unit)
        thickness = measure_thickness(source.mesh_mm(), asked.min)
    except CaulkError as problem:
        _say(asked.file, problem)
        return UNREADABLE
    regions, necks = thickness.regions(asked.min), thickness.necks(asked.min)
    shares = thickness.percentiles(1, 5, 50)
    missed = thickness.could_miss(asked.min)
    told = {
        "file": Path(asked.file).name,
        "min_mm": asked.min,
        "thinnest_mm": round(min([thickness.thinnest, *necks.width.tolist()]), 6),
        "measured_to_mm": thickness.most,
        "percentiles": dict(zip(("1", "5", "50"), (round(x, 6) for x in shares), strict=True)),
        "thin_area_mm2": round(float(regions.area.sum()), 6),
        "spacing_mm": round(thickness.samples.spacing, 6),
        "could_miss_mm": None if missed is None else round(missed, 6),
        "open_faces": thickness.open_faces,
        "regions": [
            {
                "thickness_mm": round(float(regions.thickness[i]), 6),
                "at": [round(x, 6) for x in regions.at[i].tolist()],
                "area_mm2": round(float(regions.area[i]), 6),
                "free_standing": bool(regions.free_standing[i]),
                "wire": bool(regions.wire[i]),
                "neck": False,
            }
            for i in range(len(regions))
        ]
        + [
            {
                "thickness_mm": round(float(necks.width[i]), 6),
                "at": [round(x, 6) for x in necks.at[i].tolist()],
                "area_mm2": 0.0,
                "free_standing": False,
                "wire": False,
                "neck": True,
            }
            for i in range(len(necks))
        ],
    }
    print(json.dumps(told, ensure_ascii=False) if asked.json else _walls_page(told))
    return FINDINGS if told["regions"] else TIGHT


def _walls_page(told: dict[str, Any]) -> str:
    n = len(told["regions"])
    verdict = f"{n:,} thin {'place' if n == 1 else 'places'}" if n else "nothing thin"
    lines = [f"{told['file']}: {verdict} under {told['min_mm']:g} mm"]
    thinnest = told["thinnest_mm"]
    least = f"{thinnest:.2f} mm" if thinnest < told["measured_to_mm"] else f"over {thinnest:g} mm"
    lines.append(f"  thinnest wall {least}; thin skin {told['thin_area_mm2']:,.1f} mm²")
    if told["could_miss_mm"]:
        lines.append(
            f"  note: large faces were measured every {told['could_miss_mm']:.2f} mm only; a thin "
            "place smaller than that could be missed."
        )
    if told["open_faces"]:
        lines.append(
            f"  note: {told['open_faces']:,} triangles belong to shells that are not closed; "
            "thickness means little there."
        )
    for one in told["regions"]:
        if one["neck"]:
            at = ", ".join(f"{x:,.1f}" for x in one["at"])
            lines.append(f"  {one['thickness_mm']:.2f} mm at {at}: neck between two thick parts")
            continue
        how = "wire" if one["wire"] else "wall"
        how += ", standing free" if one["free_standing"] else ", held on several sides"
        at = ", ".join(f"{x:,.1f}" for x in one["at"])
        lines.append(f"  {one['thickness_mm']:.2f} mm at {at}: {how}, {one['area_mm2']:,.1f} mm²")
    return "\n".join(lines)


def compare(asked: argparse.Namespace) -> int:
    """Tell how far two surfaces are apart.

    Parameters
    ----------
    asked : Namespace
        As `cli` parses it.

    Returns
    -------
    int
        The exit code: always `TIGHT` if both can be read.
    """
    from caulkcore.spatial.hausdorff import hausdorff_distance
    from caulkcore.thickness.mean_distance import mean_distance

    sources: list[Source] = []
    for path in (asked.first, asked.second):
        try:
            sources.append(_read(path, asked.unit, sources[0] if sources else None))
            if not len(sources[-1].mesh.faces):
                raise RefusedInput("There is no surface to compare.")
        except CaulkError as problem:
            _say(path, problem)
            return UNREADABLE
    meshes = [source.mesh_mm() for source in sources]
    found = hausdorff_distance(*meshes)
    both, mean = found.both, mean_distance(*meshes)
    told = {
        "a": Path(asked.first).name,
        "b": Path(asked.second).name,
        "deviation_mm": told_up(both.high),
        "bound_mm": [told_down(both.low), told_up(both.high)],
        "at": [round(x, 6) for x in both.at] if both.at and told_down(both.low) else None,
        "a_to_b_mm": told_up(found.a_to_b.high),
        "b_to_a_mm": told_up(found.b_to_a.high),
        "mean_mm": round(mean, 6),
    }
    if asked.json:
        print(json.dumps(told, ensure_ascii=False))
        return TIGHT
    print(
        f"{told['a']} and {told['b']}: at most {both.high:.4f} mm apart, "
        f"and at least {both.low:.4f} mm"
    )
    if both.at is not None:
        print(f"  farthest at {', '.join(f'{x:,.2f}' for x in both.at)}")
    print(
        f"  from the first to the second {found.a_to_b.high:.4f} mm, "
        f"back {found.b_to_a.high:.4f} mm"
    )
    print(f"  on average {mean:.4f} mm")
    return TIGHT


def mend_file(asked: argparse.Namespace) -> int:
    """Mend a file: run the plan, and write OUT if it is tight then.

    Parameters
    ----------
    asked : Namespace
        As `cli` parses it.

    Returns
    -------
    int
        The exit code.
    """
    from .operations import operation
    from .plan import mend

    try:
        _must_be_writable(asked.output)
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
    given = source.mesh_mm()
    try:
        mended = mend(
            given,
            source.unit,
            unite=asked.unite == "all",
            voids=asked.voids,
            buried=asked.buried,
            sheet_thickness=asked.sheet,
            recast=asked.recast,
        )
    except CaulkError as problem:
        _say(asked.file, f"Refused: {problem}")
        return REFUSED
    told = mended.as_json()
    told["before"] = _told(asked.file, source, told["before"])
    code = TIGHT
    if mended.refused is None:
        labels = source.labels.carried(given, mended.mesh) if source.labels else None
        written = _write(mended.mesh, asked.output, labels, must_be_tight=True)
        told["after"] = written.told
        if not written.tight:
            told["refused"] = "The mesh is tight, but not as rounded by this format."
    if told["refused"]:
        code = REFUSED
        _say(asked.file, f"Refused: {told['refused']}")
    _tell(told, asked.json, code)
    return code


def do(asked: argparse.Namespace, rest: list[str]) -> int:
    """Run one operation by its name, or tell all that there are.

    Parameters
    ----------
    asked : Namespace
        As `cli` parses it.
    rest : list of str
        The operation's parameters, each as ``--name value``.

    Returns
    -------
    int
        The exit code.
    """
    from .arguments import all_operations, page_of_operations, parameters_of
    from .operations import operation
    from .perform import SET_UNIT, perform

    if asked.list:
        listed = json.dumps(all_operations(), ensure_ascii=False)
        print(listed if asked.json else page_of_operations())
        return TIGHT
    try:
        _must_be_whole(asked)
        chosen = operation(asked.operation)
        unit, given = parameters_of(chosen, rest)
        more: dict[str, Any] = {"others": []} if len(asked.files) > 1 else {}
        chosen.check({"was": "mm", **given} if chosen.name == SET_UNIT else {**given, **more})
        rules = _rules(asked.material)
        source = _read(asked.files[0], unit)
        others = [_read(path, unit, source) for path in asked.files[1:]]
    except CaulkError as problem:
        _say(asked.files[0] if asked.files else asked.operation or "do", problem)
        return UNREADABLE
    mesh = source.mesh_mm()
    if others:
        given["others"] = [one.mesh_mm() for one in others]
    try:
        done = perform(mesh, chosen.name, given, unit=source.unit, rules=rules)
    except CaulkError as problem:
        _say(asked.files[0], f"Refused: {problem}")
        return REFUSED
    told = done.as_json()
    told["before"] = _told(asked.files[0], source, told["before"])
    if done.refused is not None:
        _say(asked.files[0], f"Refused: {done.refused}")
        _tell(told, asked.json, REFUSED)
        return REFUSED
    labels = source.labels.carried(mesh, done.unmoved or done.mesh) if source.labels else None
    if others and chosen.brings_in:
        labels = Labels.joined(
            [
                (Path(path).stem, one.labels, len(one.mesh.faces))
                for path, one in zip(asked.files, (source, *others), strict=True)
            ]
        )
    written = _write(done.mesh, asked.output, labels, must_be_tight=False)
    told["after"] = written.told
    code = TIGHT if written.tight else FINDINGS
    _tell(told, asked.json, code)
    return code


def _tell(told: dict[str, Any], as_json: bool, code: int) -> None:
    """What became of a file, unless it was refused: that was said already."""
    if as_json:
        print(json.dumps(told, ensure_ascii=False))
    elif code != REFUSED:
        print(_page(told["after"]))
        for step in told["steps"]:
            print(f"  done: {step['text']}")
            for line in step["left"]:
                print(f"  left: {line}")
        if not told["steps"]:
            print("  nothing to mend; written as it is")


def _rules(material: str | None) -> RuleSheet | None:
    return None if material is None else usual_rule_sheet(material)


def _must_be_whole(asked: argparse.Namespace) -> None:
    """Refuse a `do` that lacks what it needs.

    Raises
    ------
    RefusedInput
    """
    if asked.operation is None:
        raise RefusedInput("Name an operation; --list tells them all.")
    from .operations import operation

    takes_others = any(one.kind == "meshes" for one in operation(asked.operation).parameters)
    if not asked.files or not asked.output or (len(asked.files) > 1 and not takes_others):
        many = "one file or more" if takes_others else "one file"
        raise RefusedInput(f"It takes {many}, and -o with the file to write.")
    _must_be_writable(asked.output)


def _must_be_writable(path: str) -> None:
    """Refuse a place that cannot be written to, before anything is computed.

    Raises
    ------
    RefusedInput
    """
    suffix_of(path, WRITERS)
    if not os.access(Path(path).absolute().parent, os.W_OK):
        raise RefusedInput("The folder of OUT does not exist or cannot be written to.")


@dataclass(frozen=True)
class _Written:
    """A file as it was read back, and whether it is tight so."""

    told: dict[str, Any]
    tight: bool


def _write(mesh: Mesh, path: str, labels: Labels | None, *, must_be_tight: bool) -> _Written:
    """Write to a neighbour, read it back, examine it, and only then put it in place."""
    from .delivery import deliver

    target = Path(path)
    trial = target.with_name(f".{target.stem}.trial{os.getpid()}{target.suffix}")
    try:
        delivered = deliver(mesh, trial, target.stem, labels)
        report = delivered.report
        if report.tight or not must_be_tight:
            os.replace(trial, target)
        return _Written(_told(path, delivered.source, report.as_json()), report.tight)
    finally:
        trial.unlink(missing_ok=True)
