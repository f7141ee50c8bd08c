"""Models as customers send them, in as many triangles as a row of the table asks for."""

import manifold3d
import numpy as np
from caulkcore import Mesh
from harbour import shapes

_LONG = 120.0
"""Their longest side, mm: a figure on a desk, a case in a hand."""
_HALVINGS = 14
"""Times that the edge length is looked for between its bounds: to a thousandth."""


def refined(solid: manifold3d.Manifold, triangles: int) -> Mesh:
    """A solid scaled to 120 mm, its faces divided into at most so many of about a size."""
    low = np.array(solid.bounding_box())
    solid = solid.scale((_LONG / float((low[3:] - low[:3]).max()),) * 3)
    # triangles of one area are as many as the area of the whole in theirs, and never fewer
    short, long = 0.7 * np.sqrt(solid.surface_area() / triangles), _LONG
    for _ in range(_HALVINGS):
        middle = float(np.sqrt(short * long))
        fits = solid.refine_to_length(middle).num_tri() <= triangles
        short, long = (short, middle) if fits else (middle, long)
    raw = solid.refine_to_length(long).to_mesh64()
    points = np.asarray(raw.vert_properties)[:, :3].astype(np.float32)
    return Mesh(points, np.asarray(raw.tri_verts))


def seal(triangles: int) -> Mesh:
    """The demo's seal on its rock, in one piece: organic, mostly thick, with thin fins."""
    parts = shapes.harbour_seal()
    return refined(manifold3d.Manifold.batch_boolean(parts, manifold3d.OpType.Add), triangles)


def housing(triangles: int) -> Mesh:
    """An open case with walls of 2 mm, ribs of 1.2 mm and four posts with bores."""
    block = manifold3d.Manifold.cube
    post = manifold3d.Manifold.cylinder
    solid = block((120, 80, 50), True) - block((116, 76, 46), True)
    solid -= block((100, 60, 20), True).translate((0, 0, 25))
    for x in (-50, 50):
        for y in (-30, 30):
            outer = post(46, 4, 4, 64).translate((x, y, -23))
            solid += outer - post(40, 2, 2, 64).translate((x, y, -20))
    for x in (-30, -10, 10, 30):
        solid += block((1.2, 76, 12), True).translate((x, 0, -18))
    return refined(solid, triangles)
