"""Thickening thin walls to what the material asks for, and nothing else."""

from collections.abc import Collection

import numpy as np
from scipy.spatial import cKDTree

from ..errors import RefusedRemedy
from ..examine.finding import counted, volume_text
from ..examine.limits import USUAL
from ..examine.pieces import pieces
from ..examine.places import by_rank
from ..examine.skin import Skin
from ..examine.thin import Lack, lacking, limits_of
from ..kinds import THIN
from ..mesh import Mesh
from ..progress import SILENT, Progress
from ..sheets import RuleSheet
from ..walls import LEAST, MOST, Walls, sound_walls
from .grow import LUMP, Side, grown
from .outcome import Outcome
from .places import chosen_numbers
from .thin_zone import Zone

_TRIES = 4
_ENOUGH = 0.99
"""Thickness is measured to a hundredth of itself."""


def build_up(
    mesh: Mesh,
    places: Collection[int] | None = None,
    kind: str | None = None,
    to: float | None = None,
    side: Side = "both",
    sheet: RuleSheet | None = None,
    progress: Progress = SILENT,
) -> Outcome:
    """Move the skin of thin walls out until they are as thick as asked.

    Each point of a thin wall goes out by half of what is lacking there, so that the new skin runs
    where the old one did, only farther off; over sharp edges the faces keep their planes. Beside
    the wall the skin falls off to where it was. It is measured again and corrected until it is
    thick enough.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the places of a finding; all by default.
    kind : str, optional
        The finding they belong to: ``thin-walls``, ``thin-free-walls`` or ``thin-wires``; all of
        them by default.
    to : float, optional
        Least thickness, mm; by default what the sheet asks of each wall.
    side : {"both", "outward", "inward"}
        Which sides move: those that look out into the open, those that look into the model's own
        hollow, or both.
    sheet : RuleSheet, optional
        What the material asks for; says which walls are thin. Without it those thinner than `to`.
    progress : Progress

    Raises
    ------
    RefusedRemedy
        If neither a sheet nor a thickness is given, or a place is not there.
    """
    if to is not None and not LEAST <= to <= MOST:
        raise RefusedRemedy(f"A wall can be built up to from {LEAST:g} to {MOST:g} mm.")
    progress.step("Sounding the walls", 0.0)
    walls, thin = _thin(mesh, kind, to, sheet, progress.part(0.0, 0.3))
    order = by_rank(np.array([one.rank for one in thin]))
    chosen = [thin[i] for i in chosen_numbers(order, places).tolist()]
    goals = [one.limit if to is None else to for one in chosen]
    some = [i for i, one in enumerate(chosen) if one.thickness < goals[i]]
    if not some:
        return Outcome(mesh, left=("No wall is thinner than that.",))
    chosen, goals = [chosen[i] for i in some], [goals[i] for i in some]
    progress.step("Dividing the skin beside them", 0.3)
    zone = Zone.of(walls, chosen, goals)
    left: dict[int, str] = {}
    for i in range(_TRIES):
        progress.step("Moving the skin out", 0.4 + 0.5 * i / _TRIES)
        built = grown(zone, side, set(left))
        if not built.blocked:
            break
        left |= built.blocked
    done = [i for i in range(len(chosen)) if i not in left]
    sentences = tuple(_left(chosen[i], why) for i, why in sorted(left.items()))
    if not done or built.blocked:
        return Outcome(mesh, left=sentences)
    progress.step("Measuring it again", 0.9)
    short = _short(built.mesh, walls, [(chosen[i], goals[i]) for i in done])
    sentences += tuple(
        _left(chosen[done[i]], f"{mm:.2f} mm is what could be reached") for i, mm in short.items()
    )
    to_text = " and ".join(f"{x:.2f} mm" for x in sorted({goals[i] for i in done}))
    where = {"both": "on both sides", "outward": "outward", "inward": "inward"}[side]
    return Outcome(
        built.mesh,
        f"{counted(len(done), 'thin wall')} built up to {to_text}, {where}: "
        f"{volume_text(built.mesh.volume - mesh.volume)} more.",
        {"walls": len(done), "short": len(short)},
        sentences,
    )


def _short(mesh: Mesh, walls: Walls, built: list[tuple[Lack, float]]) -> dict[int, float]:
    """Walls that are thin still where they were built up, and how thick they are."""
    most = max(goal for _, goal in built)
    again = sound_walls(mesh, most)
    told = {}
    for i, (one, goal) in enumerate(built):
        regions = again.regions(goal * _ENOUGH)
        if not len(regions):
            continue
        was = cKDTree(walls.samples.points[one.regions.samples[one.row]])
        near = was.query(regions.at)[0] <= goal
        if near.any():
            told[i] = float(regions.thickness[near].min())
    return told


def _left(one: Lack, why: str) -> str:
    at = ", ".join(f"{x:.1f}" for x in one.regions.at[one.row])
    return f"The wall of {one.thickness:.2f} mm at {at}: {why}."


def _thin(
    mesh: Mesh, kind: str | None, to: float | None, sheet: RuleSheet | None, progress: Progress
) -> tuple[Walls, list[Lack]]:
    """Thickness all over, and the thin regions in the order in which a finding tells them."""
    if sheet is None:
        if to is None:
            raise RefusedRemedy("The material has no rules: say how thick it is to be.")
        walls = sound_walls(mesh, to, progress)
        regions = walls.regions(to)
        return walls, [Lack(to, regions, row) for row in range(len(regions))]
    limits = limits_of(sheet)
    walls = sound_walls(mesh, max(limits), progress, max(limits | {to or 0.0}) * LUMP)
    found = lacking(walls, sheet, pieces(Skin(mesh), USUAL).meant)
    kinds = [kind] if kind is not None else THIN
    return walls, [one for k in kinds for one in found.get(k, ())]
