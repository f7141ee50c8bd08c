"""Detail brought back onto a recast skin, judged by libigl's distances and trimesh's samples."""

import igl
import manifold3d
import numpy as np
import pytest
import trimesh
from caulkcore.errors import Cancelled
from caulkcore.mesh.concatenate import concatenate
from caulkcore.mesh.triangle_mesh import Mesh
from caulkcore.progress import Progress
from caulkcore.remesh.restore_detail import restore_detail
from caulkcore.remesh.voxel_remesh import voxel_remesh
from caulkjob.perform import perform
from harbour import breakers as b
from makers import assert_tight_by_referees, box, referee, sphere

TOLERANCE = 0.05
"""What letters are asked to come back within, mm."""


def lettered(turned: tuple[float, float, float] = (13.0, -7.0, 31.0)) -> Mesh:
    """A plate with letters 0.3 mm high, by another library."""

    def block(size, at) -> manifold3d.Manifold:
        return manifold3d.Manifold.cube(size).translate(at)

    solid = block((14, 16, 4), (0, 0, 0))
    for k, x in enumerate((3, 8)):
        bars = [((1, 8, 0.6), x), ((4, 1, 0.6), x), ((1, 8, 0.6), x + 3)]
        for i, (size, left) in enumerate(bars[: 3 - k]):
            solid += block(size, (left, (4, 11, 4)[i], 3.7))
    made = solid.rotate(turned).to_mesh()
    return Mesh(made.vert_properties[:, :3].astype(np.float64), made.tri_verts)


def furthest(mesh: Mesh, other: Mesh, of: np.ndarray | None = None) -> float:
    """How far samples and corners of a surface lie from another one at most, by libigl."""
    faces = mesh.faces if of is None else mesh.faces[of]
    surface = trimesh.Trimesh(mesh.vertices, faces, process=False)
    points, _ = trimesh.sample.sample_surface(surface, 20_000, seed=7)
    points = np.concatenate([points, mesh.vertices[np.unique(faces)]])
    square, _, _ = igl.point_mesh_squared_distance(
        points, np.array(other.vertices), np.array(other.faces, dtype=np.int64)
    )
    return float(np.sqrt(square.max()))


@pytest.mark.parametrize("turned", [(13.0, -7.0, 31.0), (2.0, 1.0, 3.0), (0.0, 0.0, 0.0)])
def test_letters_come_back(turned) -> None:
    original = lettered(turned)
    skin = voxel_remesh(original, detail=0.6).mesh
    assert max(furthest(skin, original), furthest(original, skin)) > 2 * TOLERANCE
    outcome = restore_detail(skin, original, reach=1.0, tolerance=TOLERANCE)
    assert_tight_by_referees(outcome.mesh, referee(original).volume)
    assert furthest(outcome.mesh, original) <= TOLERANCE
    assert furthest(original, outcome.mesh) <= TOLERANCE
    assert outcome.numbers["within"] == 1.0
    assert outcome.skipped == ()


def test_where_the_original_crosses_itself_the_skin_stays() -> None:
    plate = lettered((0.0, 0.0, 0.0))
    # through the last letter
    original = concatenate([plate, box((3.0, 3.0, 3.0), (10.0, 5.0, 4.5))])
    skin = voxel_remesh(original, detail=0.6).mesh
    outcome = restore_detail(skin, original, reach=1.0, tolerance=TOLERANCE)
    assert_tight_by_referees(outcome.mesh)
    (stays,) = outcome.skipped
    assert stays.reason == "stays"
    assert stays.numbers["intersecting"]
    # on the block, all of whose faces cross, nothing moved
    on_block = skin.vertices[(np.abs(skin.vertices - [10.0, 5.0, 4.5]) < [1.8, 1.8, 1.8]).all(1)]
    on_block = on_block[on_block[:, 2] > 4.6]
    assert len(on_block)
    assert {*map(tuple, on_block)} <= {*map(tuple, outcome.mesh.vertices)}
    # the letter that is not crossed came back, to its corners
    first = (original.vertices[original.faces][:, :, 0] < 7.0).all(axis=1)
    assert furthest(original, outcome.mesh, first) <= TOLERANCE


def test_holes_are_spanned_and_tangles_left_alone() -> None:
    ball = sphere(10.0, 4)
    rng = np.random.default_rng(5)
    bumps = 0.3 / (1 + np.exp(-12 * (np.sin(ball.vertices[:, 0] * 1.5) - 0.5)))
    vertices = ball.vertices * (1 + bumps / 10)[:, None]
    tangle = np.linalg.norm(vertices - [0, 10, 0], axis=1) < 1.5
    vertices[tangle] += rng.normal(size=(tangle.sum(), 3)) * 0.3
    middles = vertices[ball.faces].mean(axis=1)
    hole = np.linalg.norm(middles - [0, 0, 10.0], axis=1) < 2.0
    original = b.without(Mesh(vertices, ball.faces), np.flatnonzero(hole))
    skin = voxel_remesh(original, detail=0.9).mesh
    outcome = restore_detail(skin, original, reach=1.5, tolerance=TOLERANCE)
    assert_tight_by_referees(outcome.mesh)
    middles = original.vertices[original.faces].mean(axis=1)
    sound = np.linalg.norm(middles - [0, 0, 10.0], axis=1) > 3.0
    sound &= np.linalg.norm(middles - [0, 10.0, 0], axis=1) > 3.0
    assert furthest(original, skin, sound) > 2 * TOLERANCE
    assert furthest(original, outcome.mesh, sound) <= TOLERANCE
    # over the hole it is the lid that it was
    over = np.linalg.norm(skin.vertices - [0, 0, 10.0], axis=1) < 1.0
    assert {*map(tuple, skin.vertices[over])} <= {*map(tuple, outcome.mesh.vertices)}


def test_only_the_region_changes() -> None:
    original = lettered((0.0, 0.0, 0.0))
    skin = voxel_remesh(original, detail=0.6).mesh
    done = perform(
        skin,
        "restore-detail",
        {"others": [original], "region": [[4.5, 8.0, 4.3, 3.0]], "reach": 1.0, "tolerance": 0.05},
    )
    assert_tight_by_referees(done.mesh)
    kept = skin.vertices[skin.faces].reshape(-1, 9)
    far = (np.linalg.norm(skin.vertices[skin.faces] - [4.5, 8.0, 4.3], axis=2) > 3.0).all(axis=1)
    now = {row.tobytes() for row in done.mesh.vertices[done.mesh.faces].reshape(-1, 9)}
    beyond = [row.tobytes() for row, away in zip(kept, far, strict=True) if away]
    # of faces that begin beyond the ball, few reach into it
    assert sum(row in now for row in beyond) > 0.9 * len(beyond)
    assert "% lies within 0.050 mm of what it was made from" in done.steps[0].text
    assert done.account.max_deviation_mm <= 1.0


@pytest.mark.parametrize(
    ("mesh", "original", "said"),
    [
        (box(), box(), "It is as near to the model as it was already."),
        (box(), box(10.0, (90.0, 0.0, 0.0)), "The model as it was has nothing there."),
    ],
)
def test_it_says_why_there_is_nothing_to_do(mesh: Mesh, original: Mesh, said: str) -> None:
    refused = perform(mesh, "restore-detail", {"others": [original], "reach": 0.5}).refused
    assert said in str(refused)


def test_it_stops_when_asked() -> None:
    original = lettered()
    skin, heard = voxel_remesh(original, detail=0.6).mesh, []
    progress = Progress(lambda *step: heard.append(step), lambda: len(heard) > 4)
    with pytest.raises(Cancelled):
        restore_detail(skin, original, reach=1.0, progress=progress)
