"""Is it the size the customer meant?"""

import numpy as np

from ..mesh import Mesh
from ..units import UnitGuess
from .finding import Finding, Place


def find(mesh: Mesh, unit: UnitGuess) -> list[Finding]:
    """A doubtful unit is a call; everything else about size is in the report's own numbers."""
    if not unit.doubtful:
        return []
    low, high = mesh.bounds
    longest = float(mesh.size.max())
    place = Place(
        "The whole model",
        f"{longest:,.1f} mm long",
        1,
        low,
        high,
        (low + high) / 2,
        np.zeros(3),
    )
    return [Finding("unit-suspect", "call", 1, unit.reason, (place,))]
