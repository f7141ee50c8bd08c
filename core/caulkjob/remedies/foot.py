"""A flat foot for a model to stand on, and whether it stands."""

import numpy as np
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.diagnose.standing import Standing, standing
from caulkcore.errors import OperationRefused
from caulkcore.mesh.triangle_mesh import Mesh
from caulkcore.progress import SILENT, Progress
from caulkcore.solid.plane_cut import plane_cut, section_area

from ..operation import OperationResult
from ..text import area_text, length_text, volume_text

_LOOKS = 400
"""Heights at which the area is looked at, from the lowest point to the highest."""
_HALVINGS = 40
"""Times that the height found is narrowed down."""


def flat_foot(
    mesh: Mesh,
    *,
    height: float | None = None,
    area: float | None = None,
    progress: Progress = SILENT,
) -> OperationResult:
    """Trim the model flat from below, so that it stands; z is up.

    Parameters
    ----------
    mesh : Mesh
    height : float, optional
        How much to take off above its lowest point, mm.
    area : float, optional
        How large the foot is to be at least, mm²; as little as that takes is taken off.
    progress : Progress

    Returns
    -------
    OperationResult

    Raises
    ------
    OperationRefused
        If not just one of height and area is given, a piece is open, or it is nowhere so large.
    Cancelled
        If `progress` asks to stop.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> flat_foot(cuboid(), height=2.0).done
    'Trimmed 2.0 mm from below: 0.20 cm³ less, a foot of 1.0 cm². It stands, and can be tilted \
by 51°.'
    """
    if (height is None) == (area is None):
        raise OperationRefused("Give a height or an area: one of them.")
    if Diagnosis.of(mesh).open_shells.any():
        raise OperationRefused("It is not closed; what is open has no inside to trim.")
    low, high = (float(side[2]) for side in mesh.bounds)
    if height is None:
        assert area is not None
        height = _least_height(mesh, area)
        if height is None:
            raise OperationRefused("It is nowhere so large across; a smaller foot is possible.")
    if height >= high - low:
        raise OperationRefused("Nothing would be left of the model.")
    progress.step("Trimming", 0.3)
    up = np.array([0.0, 0.0, 1.0])
    at = np.array([0.0, 0.0, low + height])
    try:
        found = plane_cut(mesh, at, up, progress=progress.span(0.3, 0.9))
    except ValueError:
        raise OperationRefused(
            "At that height more than two faces share an edge; another one will do."
        ) from None
    if not len(found.below.faces):
        return OperationResult(mesh, left=("It is flat there already.",))
    how = standing(found.above)
    done = f"Trimmed {length_text(height)} from below: {volume_text(found.below.volume)} less, "
    done += f"a foot of {area_text(found.area)}. {standing_text(how)}"
    numbers = {
        "height_mm": height,
        "area_mm2": found.area,
        "volume_mm3": found.below.volume,
        "margin_deg": how.margin,
    }
    return OperationResult(found.above, done, numbers)


def standing_text(how: Standing) -> str:
    """Whether it stands, and by how much, in a sentence.

    Parameters
    ----------
    how : Standing

    Returns
    -------
    str

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> standing_text(standing(cuboid()))
    'It stands, and can be tilted by 45°.'
    """
    if how.stands:
        return f"It stands, and can be tilted by {how.margin:.0f}°."
    return f"It does not stand: its centre of mass is {-how.margin:.0f}° beyond its foot."


def _least_height(mesh: Mesh, area: float) -> float | None:
    """The least height above the lowest point at which a section is so large, mm."""
    low, high = (float(side[2]) for side in mesh.bounds)
    # not on the vertices of the ends themselves
    heights = np.linspace(0.0, high - low, _LOOKS + 2)[1:-1]
    least = 0.0
    for height in heights.tolist():
        if section_area(mesh, low + height) >= area:
            break
        least = height
    else:
        return None
    for _ in range(_HALVINGS):
        middle = 0.5 * (least + height)
        if section_area(mesh, low + middle) >= area:
            height = middle
        else:
            least = middle
    return float(height)
