"""Is it thick enough for its material? Walls and wires thinner than the rule sheet asks."""

from dataclasses import replace

import numpy as np

from ..groups import Groups
from ..kinds import noun
from ..mesh import Array, Mesh
from ..progress import SILENT, Progress
from ..sheets import RuleSheet
from ..walls import Regions, Walls, sound_walls
from .finding import Finding, Place
from .places import place_of, worst_first

MOST_FACES = 300_000
"""Meshes of more faces are not measured in an examination: it would take half a minute and more."""
_KINDS = (
    ("thin-walls", False, (False,), "Wall held on several sides"),
    ("thin-free-walls", False, (True,), "Wall standing free"),
    ("thin-wires", True, (True, False), "Wire"),
)
_DANGER = {
    "thin-walls": "Such walls come out with holes, or break in cleaning.",
    "thin-free-walls": "Walls held on one side only bend, curl or break off.",
    "thin-wires": "Wires break in cleaning, often before anybody sees them.",
}


def find(mesh: Mesh, sheet: RuleSheet, meant: Array, progress: Progress = SILENT) -> list[Finding]:
    """The findings of *Walls*.

    Parameters
    ----------
    mesh : Mesh
    sheet : RuleSheet
    meant : ndarray, shape (m,), bool
        Faces that are there to stay: not those of debris or of open sheets.
    progress : Progress
    """
    limits = {sheet.wall_limit(free, wire) for _, wire, frees, _ in _KINDS for free in frees} - {
        0.0
    }
    if not limits or not len(mesh.faces):
        return []
    walls = sound_walls(mesh, max(limits), progress)
    grown = {limit: walls.regions(limit) for limit in limits}
    found = []
    for kind, wire, frees, title in _KINDS:
        chosen = []
        for free in frees:
            limit = sheet.wall_limit(free, wire)
            regions = grown.get(limit)
            if regions is not None:
                rows = np.flatnonzero((regions.wire == wire) & (regions.free_standing == free))
                chosen += [
                    (limit, regions, int(row))
                    for row in rows
                    if meant[walls.samples.face[regions.samples[int(row)]]].any()
                ]
        if chosen:
            found.append(_finding(walls, sheet, kind, title, chosen))
    return found


def _finding(
    walls: Walls, sheet: RuleSheet, kind: str, title: str, chosen: list[tuple[float, Regions, int]]
) -> Finding:
    face = walls.samples.face
    parts = Groups(
        np.concatenate([regions.samples[row] for _, regions, row in chosen]),
        np.cumsum([0, *(len(regions.samples[row]) for _, regions, row in chosen)]),
    )
    lacks = np.array([1 - regions.thickness[row] / limit for limit, regions, row in chosen])

    def place(i: int) -> Place:
        limit, regions, row = chosen[i]
        measure = f"{regions.thickness[row]:.2f} of {limit:.2f} mm"
        mine = parts[i]
        normal = walls.samples.normals[mine[np.argmin(walls.depths.wall[mine])]]
        faces = np.unique(face[mine])
        made = place_of(
            walls.mesh,
            title,
            measure,
            len(faces),
            faces=faces,
            curves=regions.outline[regions.outline_of == row],
            facing=normal,
        )
        return replace(made, at=regions.at[row])

    def faces(some: Array) -> Array:
        return np.unique(face[parts.of(some)])

    n = len(chosen)
    worst = chosen[int(np.argmax(lacks))]
    # `sheet.name` begins with a capital in a table, not in a sentence
    material = sheet.name[:1].lower() + sheet.name[1:]
    text = (
        f"{n:,} {noun(kind, n)} thinner than {material} asks for: the thinnest "
        f"{worst[1].thickness[worst[2]]:.2f} of {worst[0]:.2f} mm. {_DANGER[kind]}"
    )
    if walls.open_faces:
        text += " Where the skin is not closed, thickness means little; mend it first."
    places = worst_first(walls.mesh, kind, lacks, place, faces=faces)
    return Finding(kind, "call", n, text, places)
