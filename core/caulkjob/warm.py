"""Compile all kernels ahead of use: run every remedy once on small broken meshes.

Two processes may do a half each at the same time (``arranged``, ``others``) before ``everything``
fills in what is left.
"""

import sys
import tempfile
from pathlib import Path

import numpy as np
from caulkcore.arrangement.outer_hull import outer_hull
from caulkcore.io.files import read, write
from caulkcore.mesh.simple_solids import cuboid, torus
from caulkcore.mesh.triangle_mesh import Mesh
from caulkcore.spatial.box_tree import Tree
from caulkcore.spatial.hausdorff import hausdorff_distance
from caulkcore.thickness.mean_distance import mean_distance

from .examination import examine
from .plan import mend
from .remedies.openings import close_sheets
from .remedies.recasting import recast, recast_zone
from .remedies.rework import even_out, reduce, refine, smooth
from .remedies.thin_walls import build_up
from .rule_sheets import usual_rule_sheet


def arranged() -> None:
    """Touch the kernels of the arrangement alone: half of all the compiling."""
    one, beside = cuboid(), cuboid(at=(4.1, 3.2, 2.3))
    faces = np.vstack([one.faces, beside.faces + len(one.vertices)])
    outer_hull(Mesh(np.vstack([one.vertices, beside.vertices]), faces))
    flush = cuboid(at=(4.0, 3.0, 0.0))
    outer_hull(Mesh(np.vstack([one.vertices, flush.vertices]), faces))


def others() -> None:
    """Touch kernels that the arrangement does not need: about the other half."""
    one = cuboid()
    mend(Mesh(one.vertices, one.faces[1:]))
    plate = Mesh(one.vertices * np.array([3.0, 3.0, 0.05]), one.faces)
    examine(plate, rules=usual_rule_sheet("sintered-nylon"))
    build_up(plate, to=0.8)
    recast(Mesh(one.vertices, one.faces[1:]), detail=2.0)
    spots = [[0.0, 0.0, 0.0, 4.0]]
    recast_zone(one, spots, detail=0.5)
    finer = refine(one, spots, size=1.0).mesh
    reduce(smooth(finer, spots).mesh, percent=50)
    even_out(finer, size=2.0)
    hausdorff_distance(finer, torus(12))
    mean_distance(one, finer)
    with tempfile.TemporaryDirectory() as folder:
        for name in ("a.stl", "a.obj", "a.ply"):
            write(one, Path(folder) / name)
            read(Path(folder) / name)


def everything() -> None:
    """Touch every kernel with the types it will meet."""
    one, two = cuboid(), cuboid(at=(10, 10, 0))
    inner = cuboid((2.0, 2.0, 2.0), at=(4, 4, 4))
    n = len(one.vertices)
    broken = [
        Mesh(one.vertices, one.faces[2:]),
        Mesh(one.vertices, one.faces[1:]),
        Mesh(one.vertices, np.vstack([one.faces[:3, ::-1], one.faces[3:], one.faces[:1]])),
        Mesh(np.vstack([one.vertices, inner.vertices]), np.vstack([one.faces, inner.faces + n])),
        Mesh(one.vertices, one.faces[:, ::-1]),
    ]
    with tempfile.TemporaryDirectory() as folder:
        for name in ("a.stl", "a.obj", "a.ply", "a.off", "a.3mf"):
            write(one, Path(folder) / name)
            read(Path(folder) / name)
        text = Path(folder) / "b.stl"
        corners = "".join("vertex 0.5 1e0 -2\n" for _ in range(3))
        text.write_text(
            f"solid a\nfacet\nouter loop\nvertex 9 9 9\n{corners[18:]}endloop\nendfacet\nendsolid"
        )
        read(text)
        plain = Path(folder) / "d.ply"
        axes = "".join(f"property float {axis}\n" for axis in "xyz")
        plain.write_text(
            f"ply\nformat ascii 1.0\nelement vertex 3\n{axes}element face 1\n"
            "property list uchar int vertex_indices\nend_header\n0 0 0\n9 0 0\n0 9 0\n3 0 1 2\n"
        )
        read(plain)
        both = Path(folder) / "c.stl"
        vertices = np.vstack([one.vertices, two.vertices])
        write(Mesh(vertices, np.vstack([one.faces, two.faces + n])), both)
        broken.append(read(both).mesh)
    half = np.vstack([one.vertices, one.vertices + 1e-3])
    broken.append(Mesh(half, np.vstack([one.faces[:6], one.faces[6:] + n])))
    fin = np.vstack([one.vertices, [[5.0, 5.0, 14.0]]])
    broken.append(Mesh(fin, np.vstack([one.faces, [[1, 3, n]]])))
    tip = Mesh(
        np.vstack([one.vertices, two.vertices[1:]]), np.vstack([one.faces, two.faces + n - 1])
    )
    broken.append(tip)
    beside = cuboid(at=(10.02, 1, 1))
    broken.append(
        Mesh(np.vstack([one.vertices, beside.vertices]), np.vstack([one.faces, beside.faces + n]))
    )
    for mesh in broken:
        mend(mesh)
    angle = np.linspace(0, 2 * np.pi, 400, endpoint=False)
    rim = np.stack([np.cos(angle), np.sin(angle), 0.2 * np.sin(3 * angle)], axis=1)
    top = len(angle)
    cone = np.stack([np.arange(top), np.roll(np.arange(top), -1), np.full(top, top)], axis=1)
    hat = Mesh(np.vstack([rim * 20, [[0, 0, 30.0]]]), cone)
    mend(hat)
    close_sheets(hat)
    recast(Mesh(one.vertices, one.faces[1:]), detail=2.0)
    recast(one, detail=2.0, gap=3.0)
    recast_zone(one, [[0.0, 0.0, 0.0, 4.0]], detail=0.5)
    # a bent surface with a gap all round and a hole, whose halves are divided differently
    steps, turns = np.meshgrid(np.linspace(0.2, 2.9, 12), np.arange(24) * np.pi / 12, indexing="ij")
    ball = 20 * np.stack(
        [np.sin(steps) * np.cos(turns), np.sin(steps) * np.sin(turns), np.cos(steps)], axis=-1
    )
    i, j = np.meshgrid([0, 1, 2, 3, 4, 6, 7, 8, 9, 10], np.arange(24), indexing="ij")
    low, high = (i * 24 + j).ravel(), (i * 24 + (j + 1) % 24).ravel()
    mend(
        Mesh(
            ball.reshape(-1, 3),
            np.concatenate(
                [np.stack([low, low + 24, high], 1), np.stack([high, low + 24, high + 24], 1)]
            ),
        )
    )
    middle = np.vstack([one.vertices, [(one.vertices[0] + one.vertices[1]) / 2]])
    mend(Mesh(middle, np.vstack([one.faces[1:], [[0, 8, 3], [8, 1, 3]]])))
    Tree.of(one.vertices, one.faces).nearest(two.vertices)
    reduce(torus(140), percent=50)
    hausdorff_distance(torus(30), torus(12))
    mean_distance(one, two)
    plate = Mesh(one.vertices * np.array([3.0, 3.0, 0.05]), one.faces)
    examine(plate, rules=usual_rule_sheet("sintered-nylon"))
    build_up(plate, to=0.8)


if __name__ == "__main__":
    {"arranged": arranged, "others": others, "everything": everything}[sys.argv[1]]()
