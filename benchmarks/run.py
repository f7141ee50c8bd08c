"""The table of ``./ironcaulk bench``: our work beside a general-purpose library, in one run.

Every input is made here. Both sides run in this process, in turns; figures are medians. The
machine's noise falls on both, so the ratio is what counts.
"""

import io
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import fast_simplification
import igl
import manifold3d
import numpy as np
import trimesh
from caulkcore import Mesh
from caulkcore.arrangement.arrange import arrange
from caulkcore.arrangement.outer_hull import outer_hull
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.io import stl
from caulkcore.mesh.topology import Topology
from caulkcore.mesh.triangle_mesh import face_normals
from caulkcore.solid.plane_cut import plane_cut
from caulkcore.spatial.box_tree import Tree
from caulkcore.spatial.hausdorff import hausdorff_distance
from caulkcore.spatial.intersecting_pairs import intersecting_pairs_of_tree
from caulkcore.thickness.ball_and_ray import measure_ball_and_ray
from caulkcore.thickness.thickness_map import measure_thickness
from caulkjob import examine, mend, read
from caulkjob.remedies.parting import cut
from caulkjob.remedies.recasting import recast
from caulkjob.remedies.rework import reduce
from caulkjob.remedies.thin_walls import build_up
from caulkjob.rule_sheets import usual_rule_sheet, usual_rule_sheets
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene
from harbour import breakers as b
from igl.copyleft.cgal import mesh_boolean, remesh_self_intersections
from models import housing, seal

_RUNS = 5
_ROOT = Path(__file__).resolve().parents[1]


Work = Callable[[], object]


def seconds(work: Work) -> float:
    """Time of one run."""
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def in_turns(*works: Work, runs: int = _RUNS) -> list[float]:
    """Median time of each, of some runs in turns."""
    taken = [[seconds(work) for work in works] for _ in range(runs)]
    return [statistics.median(one) for one in zip(*taken, strict=True)]


def ball(triangles: int) -> Mesh:
    """A bumpy closed surface of about so many triangles."""
    rings = int(np.sqrt(triangles / 2))
    t = np.linspace(0, np.pi, rings + 1)[1:-1]
    a = np.linspace(0, 2 * np.pi, rings, endpoint=False)
    r = 40 + np.sin(7 * t)[:, None] * np.cos(9 * a)
    points = np.stack(
        [r * np.sin(t)[:, None] * np.cos(a), r * np.sin(t)[:, None] * np.sin(a),
         r * np.cos(t)[:, None] * np.ones_like(a)], axis=-1,
    ).reshape(-1, 3)  # fmt: skip
    n = len(points)
    points = np.vstack([points, [[0, 0, 40], [0, 0, -40]]]).astype(np.float32)
    i, j = np.meshgrid(np.arange(len(t) - 1), np.arange(rings), indexing="ij")
    p, q = (i * rings + j).ravel(), (i * rings + (j + 1) % rings).ravel()
    quads = np.stack([p, p + rings, q + rings, p, q + rings, q], axis=-1).reshape(-1, 3)
    k = np.arange(rings)
    top = np.stack([np.full(rings, n), k, (k + 1) % rings], axis=1)
    last = (len(t) - 1) * rings
    low = np.stack([np.full(rings, n + 1), last + (k + 1) % rings, last + k], axis=1)
    return Mesh(points, np.vstack([quads, top, low]))


def typically_broken(mesh: Mesh) -> Mesh:
    """With holes, turned and doubled faces, and torn across."""
    rng = np.random.default_rng(1)
    few = len(mesh.faces) // 5000
    mesh = b.torn(mesh, 0, 3.0, 1e-3)
    for _ in range(5):
        mesh = b.without(mesh, b.near(mesh, tuple(rng.normal(size=3) * 40), 40))
    mesh = b.without(mesh, rng.choice(len(mesh.faces), few, replace=False))
    mesh = b.turned(mesh, rng.choice(len(mesh.faces), few, replace=False))
    return b.doubled(mesh, rng.choice(len(mesh.faces), few, replace=False))


def write_stl(mesh: Mesh, folder: Path) -> Path:
    """The mesh as a binary STL."""
    out = io.BytesIO()
    stl.write(mesh, out)
    path = folder / f"{len(mesh.faces)}.stl"
    path.write_bytes(out.getvalue())
    return path


def row(work: str, ours: float, bar: str) -> None:
    """One line of the table, of work that no library does."""
    print(f"| {work} | {ours:.2f} s |  |  |  | {bar} |", flush=True)


def row_beside(
    work: str, ours: Work, theirs: Work, beside: str, bar: str, runs: int = _RUNS
) -> None:
    """One line of the table."""
    mine, other = in_turns(ours, theirs, runs=runs)
    print(
        f"| {work} | {mine:.2f} s | {other:.2f} s | {other / mine:.2f} x | {beside} | {bar} |",
        flush=True,
    )


def closed_checks(mesh: Mesh) -> None:
    """All of *Closed*, with shells and their nesting."""
    skin = Diagnosis(mesh)
    assert skin.is_tight
    _ = skin.boundary_loops, skin.nesting, mesh.volume


def main() -> None:
    """Print the table."""
    wanted = set(sys.argv[1:])
    with tempfile.TemporaryDirectory() as name:
        big = ball(1_400_000)
        path = write_stl(big, Path(name))
        examine(ball(2_000))
        print("| work | ours | beside | ratio | library | bar |\n|---|---|---|---|---|---|")
        if not wanted or "cold" in wanted:
            cold(Path(name))
        if not wanted or "read" in wanted:
            row_beside(
                "read, weld and index a binary STL of 1.4 M triangles",
                lambda: read(path).mesh, lambda: trimesh.load(path), "trimesh load", "8 x",
            )  # fmt: skip
        if not wanted or "closed" in wanted:

            def theirs_closed() -> None:
                other = trimesh.Trimesh(big.vertices, big.faces, process=False)
                assert other.is_watertight
                _ = other.volume, other.split()

            row_beside(
                "all checks of Closed on it", lambda: closed_checks(fresh(big)), theirs_closed,
                "trimesh watertight, volume, split", "8 x",
            )  # fmt: skip
        if not wanted or "crossings" in wanted:
            none = np.zeros(len(big.faces), dtype=bool)
            faces = big.faces.astype(np.int64)
            row_beside(
                "exact crossing test of all pairs on it",
                lambda: intersecting_pairs_of_tree(Tree.of(big.vertices, big.faces), none),
                lambda: remesh_self_intersections(big.vertices, faces, detect_only=True),
                "libigl's exact detector", "4 x",
            )  # fmt: skip
        if not wanted or "examine" in wanted:
            took, peak = alone(path)
            row(f"examination without walls, file to findings, {peak:.1f} GB", took,
                "2.5 s, 1.5 GB")  # fmt: skip
        if not wanted or "whole" in wanted:
            whole_examination(Path(name))
        if not wanted or "walls" in wanted:
            for what, mesh in (("it", big), ("a shell 2 mm thick", shell(ball(700_000), 2.0))):
                row_beside(
                    f"ball and ray at {len(mesh.vertices):,} vertices of {what}, up to 5 mm",
                    walls_at_vertices(mesh), rays_inward(mesh), "embreex, one ray a face", "3 x",
                    runs=3,
                )  # fmt: skip
            fins = with_fins(100_000)
            row(f"build up ten fins of a model of {len(fins.faces):,} triangles",
                seconds(lambda: build_up(fins, to=0.9)), "10 s")  # fmt: skip
        if not wanted or "mend" in wanted:
            for count, bar in ((100_000, "5 s"), (1_000_000, "40 s, 4 GB")):
                broken = typically_broken(ball(count))
                took = seconds(lambda broken=broken: mend(broken))
                done = mend(broken)
                assert done.refused is None, done.refused
                kinds = len(done.before.leaks)
                row(f"mend {len(broken.faces):,} triangles with {kinds} kinds of leak", took, bar)
        if not wanted or "mending" in wanted:
            mending()
        if not wanted or "untangle" in wanted:
            tangled = overlapping(ball(17_500), 40.0)
            ours = outer_hull(tangled)
            faces = tangled.faces.astype(np.int64)
            theirs = mesh_boolean(tangled.vertices, faces, *_NOTHING, "union")
            apart = abs(Mesh(*theirs[:2]).volume / arranged_volume(tangled) - 1)
            row_beside(
                f"untangle {len(faces):,} triangles with {ours.pairs:,} crossings, "
                f"volumes {apart:.0e} apart",
                lambda: outer_hull(tangled),
                lambda: mesh_boolean(tangled.vertices, faces, *_NOTHING, "union"),
                "libigl's exact boolean", "5 x, 1e-9",
            )  # fmt: skip
        if not wanted or "unite" in wanted:
            two = overlapping(big, 31.0)
            pairs = Diagnosis(two).intersecting_pairs
            row_beside(
                "unite two sound shells of 1.4 M triangles each, what crosses being known",
                lambda: outer_hull(two, pairs=pairs), lambda: manifold_union(two), "manifold3d",
                "0.77 x", runs=3,
            )  # fmt: skip
        if not wanted or "cut" in wanted:
            plane = np.array([1.0, 2.0, 3.0]), np.array([0.3, 0.2, 1.0])
            row_beside(
                "cut it by a plane, both parts",
                lambda: plane_cut(fresh(big), *plane),
                lambda: manifold_split(big, *plane),
                "manifold3d", "0.77 x", runs=3,
            )  # fmt: skip
            pegged = cut(big, *plane, joint="keyed", clearance=0.2)
            places = pegged.numbers["joints"]
            least, most = pegged.numbers["measured_mm"]
            row_beside(
                f"cut it with {len(places)} keyed pegs, the fit measured: {least:.3f} to "
                f"{most:.3f} mm",
                lambda: cut(fresh(big), *plane, joint="keyed", clearance=0.2),
                lambda: manifold_pegged(big, *plane, places),
                "manifold3d, plain pegs", "", runs=3,
            )  # fmt: skip
        if not wanted or "reduce" in wanted:
            tenth = reduce(big, percent=10).mesh
            assert examine(tenth).tight
            vertices, faces = np.array(big.vertices), np.array(big.faces)
            other = fast_simplification.simplify(vertices, faces, 0.9)
            row_beside(
                f"reduce it to 10 %, tight; mean deviation {rms(big, tenth):.4f} mm, the other's "
                f"{rms(big, Mesh(*other)):.4f}",
                lambda: reduce(big, percent=10),
                lambda: fast_simplification.simplify(vertices, faces, 0.9),
                "fast-simplification", "0.67 x",
            )  # fmt: skip
        if not wanted or "deviation" in wanted:
            tenth = reduce(big, percent=10).mesh
            found = hausdorff_distance(big, tenth).both
            sampled = furthest_sample(big, tenth)
            assert sampled <= found.high, "a sample is beyond the bound"
            row_beside(
                f"deviation of it from itself reduced to 10 %: {found.low:.5f} to "
                f"{found.high:.5f} mm, the farthest sample {sampled:.5f}",
                lambda: hausdorff_distance(fresh(big), fresh(tenth)),
                lambda: furthest_sample(big, tenth),
                "libigl, a million samples in all", "1 x", runs=3,
            )  # fmt: skip
        if not wanted or "necks" in wanted:
            studded = with_studs(200_000)
            thickness = measure_thickness(studded, 0.8)
            found_necks = thickness.necks(0.8)
            row(
                f"necks of material of {len(studded.faces):,} triangles, {len(found_necks)} found, "
                "walls being measured",
                seconds(lambda: measure_thickness(studded, 0.8).necks(0.8))
                - seconds(lambda: measure_thickness(studded, 0.8)),
                "10 s, 2 GB",
            )
        if not wanted or "recast" in wanted:
            took, peak = alone(path, "recast")
            row(f"recast it, 1,000 voxels along its longest side, {peak:.1f} GB", took,
                "60 s, 4 GB")  # fmt: skip
        if not wanted or "collection" in wanted:
            collection()
        if not wanted or "combined" in wanted:
            combined()
        if not wanted or "scale" in wanted:
            print("\n| triangles | file to findings | per million | peak memory |")
            print("|---|---|---|---|")
            for millions in (0.1, 0.3, 1, 3, 5):
                mesh = ball(int(millions * 1e6))
                took, peak = alone(write_stl(mesh, Path(name)))
                per = took / len(mesh.faces) * 1e6
                print(f"| {len(mesh.faces):,} | {took:.2f} s | {per:.2f} s | {peak:.2f} GB |")


def whole_examination(folder: Path) -> None:
    """File to findings, walls of the ordered material and of all others, as a technician waits."""
    for what, make in (("the seal", seal), ("a housing with thin walls", housing)):
        for triangles, bar in ((50_000, "0.5 s"), (1_400_000, "6 s, 1.5 GB, 4 times the rays")):
            mesh = make(triangles)
            took, peak = alone(write_stl(mesh, folder), "judge")
            rays = rays_inward(mesh)
            beside = in_turns(rays)[0]
            print(
                f"| the whole examination of {what}, {len(mesh.faces):,} triangles, {peak:.1f} GB "
                f"| {took:.2f} s | {beside:.2f} s | {took / beside:.1f} times as long | embreex, "
                f"one ray a face | {bar} |",
                flush=True,
            )


def cold(folder: Path) -> None:
    """A small file in a process that must still start, both ways."""
    small = write_stl(ball(600), folder)
    load = "import sys, trimesh; m = trimesh.load(sys.argv[1]); m.is_watertight, m.split()"
    row_beside(
        f"`./ironcaulk check` of {len(ball(600).faces)} triangles, process included",
        lambda: _quietly(str(_ROOT / "ironcaulk"), "check", str(small)),
        lambda: _quietly(sys.executable, "-c", load, str(small)),
        "trimesh load, watertight, split", "0.7 s",
    )  # fmt: skip


def _quietly(*command: str) -> None:
    subprocess.run(command, check=True, capture_output=True)


def rms(before: Mesh, after: Mesh) -> float:
    """Root of the mean square distance from vertices of one mesh to the other, mm."""
    distance, _ = Tree.of(after.vertices, after.faces).nearest(before.vertices[::7])
    return float(np.sqrt((distance**2).mean()))


def vertices_within(mesh: Mesh) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Each vertex, moved a little into one of its faces, that face's normal and number."""
    _, first = np.unique(mesh.faces.reshape(-1), return_index=True)
    own = first // 3
    tri = mesh.vertices[mesh.faces[own]]
    points = 0.98 * tri[np.arange(len(own)), first % 3] + 0.02 * tri.mean(axis=1)
    return points, face_normals(mesh.vertices, mesh.faces)[own], own


def walls_at_vertices(mesh: Mesh) -> Work:
    """Ball and ray up to 5 mm, the tree being there."""
    tree = Tree.of(mesh.vertices, mesh.faces)
    points, normals, own = vertices_within(mesh)
    return lambda: measure_ball_and_ray(tree, points, normals, own, 5.0, sided=True)


def shell(mesh: Mesh, thickness: float) -> Mesh:
    """The ball, hollow."""
    inner = mesh.vertices * (1 - thickness / 40)
    faces = [mesh.faces, mesh.faces[:, ::-1] + len(mesh.vertices)]
    return Mesh(np.vstack([mesh.vertices, inner]), np.vstack(faces))


def rays_inward(mesh: Mesh) -> Work:
    """One ray straight in from the middle of each face, by embreex."""
    scene = EmbreeScene()
    surface = TriangleMesh(scene, mesh.vertices[mesh.faces].astype(np.float32))
    normals = face_normals(mesh.vertices, mesh.faces)
    start = (mesh.vertices[mesh.faces].mean(axis=1) - 1e-3 * normals).astype(np.float32)
    way = (-normals).astype(np.float32)
    # the surface lives as long as the scene is asked
    return lambda: (surface, scene.run(start, way, query="DISTANCE"))


def furthest_sample(a: Mesh, b: Mesh) -> float:
    """Greatest of libigl's distances from half a million points of each to the other."""
    rng = np.random.default_rng(1)
    farthest = 0.0
    for one, other in ((a, b), (b, a)):
        points = trimesh.Trimesh(one.vertices, one.faces, process=False).sample(
            500_000, seed=int(rng.integers(1 << 30))
        )
        squared = igl.point_mesh_squared_distance(
            np.ascontiguousarray(points), other.vertices, other.faces.astype(np.int64)
        )[0]
        farthest = max(farthest, float(np.sqrt(squared.max())))
    return farthest


def with_studs(triangles: int) -> Mesh:
    """A ball with sixty smaller ones that barely touch it, some of them by less than a wall."""
    segments = int(1.2 * np.sqrt(triangles)) // 4 * 4
    solid = manifold3d.Manifold.sphere(30, segments)
    rng = np.random.default_rng(2)
    for i in range(60):
        way = rng.normal(size=3)
        way *= (34.0 - 0.002 * i) / np.linalg.norm(way)
        solid += manifold3d.Manifold.sphere(4, 64).translate(tuple(way))
    raw = solid.to_mesh64()
    return Mesh(np.asarray(raw.vert_properties)[:, :3], np.asarray(raw.tri_verts))


def with_fins(triangles: int) -> Mesh:
    """A ball with ten fins half a millimetre thick."""
    segments = int(1.42 * np.sqrt(triangles)) // 4 * 4
    solid = manifold3d.Manifold.sphere(30, segments)
    fin = manifold3d.Manifold.cube((0.5, 8, 14), True).translate((0, 0, 33))
    for i in range(10):
        solid += fin.rotate((36 * i, 0, 0))
    raw = solid.to_mesh64()
    return Mesh(np.asarray(raw.vert_properties)[:, :3], np.asarray(raw.tri_verts))


def mending() -> None:
    """Mending beside one examination of the same, and beside an exact boolean alone."""
    rng = np.random.default_rng(1)
    broken = ball(1_000_000)
    for _ in range(5):
        broken = b.without(broken, b.near(broken, tuple(rng.normal(size=3) * 40), 40))
    few = len(broken.faces) // 5000
    broken = b.without(broken, rng.choice(len(broken.faces), few, replace=False))
    broken = b.turned(broken, rng.choice(len(broken.faces), few, replace=False))
    broken = b.doubled(broken, rng.choice(len(broken.faces), few, replace=False))
    assert mend(broken).refused is None
    mended, examined = in_turns(lambda: mend(_anew(broken)), lambda: examine(_anew(broken)), runs=3)
    print(
        f"| mend {len(broken.faces):,} triangles: holes, wrong-way and doubled faces | "
        f"{mended:.2f} s | {examined:.2f} s | {mended / examined:.2f} times as long | "
        "one examination of it | at most 3 times as long |",
        flush=True,
    )
    one = ball(8_000)
    twice = b.soup(one, Mesh(one.vertices + 1e-4, one.faces))
    for what, mesh, bar in (
        ("a solid and its copy 0.0001 mm beside", twice, "2 x"),
        ("a body with 150 overlapping studs", with_overlapping_studs(), "4 x"),
    ):
        done = mend(mesh)
        assert done.refused is None, done.refused
        faces = np.array(mesh.faces).astype(np.int64)
        union = mesh_boolean(np.array(mesh.vertices), faces, *_NOTHING, "union")
        apart = abs(done.mesh.volume / Mesh(*union[:2]).volume - 1)
        row_beside(
            f"mend {what}, {len(faces):,} triangles, volumes {apart:.0e} apart",
            lambda mesh=mesh: mend(_anew(mesh)),
            lambda mesh=mesh, faces=faces: mesh_boolean(
                np.array(mesh.vertices), faces, *_NOTHING, "union"
            ),
            "libigl's exact boolean alone",
            bar,
            runs=3,
        )


def _anew(mesh: Mesh) -> Mesh:
    """The mesh without what has been worked out of it."""
    return Mesh(np.array(mesh.vertices), np.array(mesh.faces))


def with_overlapping_studs() -> Mesh:
    """A bumpy ball of 60,000 triangles with 150 studs that reach into it and into each other."""
    rng = np.random.default_rng(0)
    parts = [ball(60_000)]
    for _ in range(150):
        x, y, z = (lambda d: d / np.linalg.norm(d))(rng.normal(size=3))
        stud = manifold3d.Manifold.cylinder(6, 1.2, 1.0, 25).translate((0, 0, 37))
        turn = float(np.degrees(np.arccos(z))), 0.0, float(np.degrees(np.arctan2(y, x)))
        raw = stud.rotate(turn).to_mesh64()
        parts.append(Mesh(np.asarray(raw.vert_properties)[:, :3], np.asarray(raw.tri_verts)))
    return b.soup(*parts)


def combined() -> None:
    """Mend other solids, each broken three times over; some far away, soups, or twice."""
    sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))
    import combined as c

    verdicts = [c.verdict(number) for number in range(c.CASES)]
    became = [verdict for _, verdict in verdicts]
    wrong = [one for one in verdicts if one[1] not in ("tight", "refused")]
    print("\n| broken | meshes | tight | refused with the reason | wrong |")
    print("|---|---|---|---|---|")
    print(f"| combined, other solids | {len(became):,} | {became.count('tight'):,} | "
          f"{became.count('refused'):,} | {len(wrong):,} |")  # fmt: skip
    for told, verdict in wrong:
        print(f"  {told}: {verdict}", file=sys.stderr)


def collection(threes: int = 5) -> None:
    """Break every solid of the collection in every way, and mend it."""
    sys.path.insert(0, str(Path(__file__).parents[1] / "tests"))
    import collection as c

    print("\n| broken | meshes | tight | refused with the reason | wrong |")
    print("|---|---|---|---|---|")
    singly = [(name, (way,)) for name in c.SOLIDS for way in c.WAYS]
    several = [(name, ways) for name in c.SOLIDS for ways in c.threes(name, threes)]
    for what, cases in (("singly", singly), ("three times over", several)):
        answers = {}
        for name, ways in cases:
            try:
                answers[name, ways] = c.judged(*c.broken(name, ways))
            except AssertionError:
                answers[name, ways] = "not tight for the referees"
        wrong = {k: a for k, a in answers.items() if a not in ("tight", "refused")}
        right = list(answers.values())
        print(f"| {what} | {len(cases):,} | {right.count('tight'):,} | "
              f"{right.count('refused'):,} | {len(wrong):,} |")  # fmt: skip
        for (name, ways), answer in wrong.items():
            print(f"  {name}, {', '.join(ways)}: {answer}", file=sys.stderr)


_NOTHING = (np.zeros((0, 3)), np.zeros((0, 3), dtype=np.int64))


def overlapping(mesh: Mesh, shift: float) -> Mesh:
    """The mesh twice, the second shifted."""
    other = (mesh.vertices + np.array([shift, 7, 3])).astype(np.float32)
    n = len(mesh.vertices)
    return Mesh(np.vstack([mesh.vertices, other]), np.vstack([mesh.faces, mesh.faces + n]))


def arranged_volume(mesh: Mesh) -> float:
    """Volume of the union before its points are rounded to float32."""
    done = arrange(mesh.vertices, mesh.faces)
    skin = (done.front < 1) & (done.back >= 1)
    return Mesh(done.points, done.triangles[skin]).volume


def manifold_union(mesh: Mesh) -> manifold3d.Mesh64:
    """The union of the two halves of `overlapping`."""
    half = len(mesh.vertices) // 2
    faces = mesh.faces[: len(mesh.faces) // 2].astype(np.uint64)
    parts = [
        manifold3d.Manifold(manifold3d.Mesh64(np.array(vertices), faces))
        for vertices in (mesh.vertices[:half], mesh.vertices[half:])
    ]
    return (parts[0] + parts[1]).to_mesh64()


def manifold_pegged(
    mesh: Mesh, point: np.ndarray, normal: np.ndarray, joints: list[dict]
) -> tuple[manifold3d.Manifold, manifold3d.Manifold]:
    """The same cut with as many blocks across it, put on one part and taken off the other."""
    above, below = manifold_split(mesh, point, normal)
    for one in joints:
        width, length = one["width_mm"], one["length_mm"]
        peg = manifold3d.Manifold.cube((width, width, 2 * length), True).translate(one["at"])
        seat = manifold3d.Manifold.cube((width + 0.4, width + 0.4, 2 * length + 0.4), True)
        below, above = below + peg, above - seat.translate(one["at"])
    for part in (above, below):
        part.to_mesh64()
    return above, below


def manifold_split(
    mesh: Mesh, point: np.ndarray, normal: np.ndarray
) -> tuple[manifold3d.Manifold, manifold3d.Manifold]:
    """Both parts of a solid cut by a plane, made arrays."""
    unit = normal / np.linalg.norm(normal)
    faces = np.array(mesh.faces, dtype=np.uint64)
    whole = manifold3d.Manifold(manifold3d.Mesh64(np.array(mesh.vertices), faces))
    above, below = whole.split_by_plane(unit.tolist(), float(unit @ point))
    for part in (above, below):
        part.to_mesh64()
    return above, below


def alone(path: Path, work: str = "examine") -> tuple[float, float]:
    """Time that some work on a file takes in a warm process of its own, and its peak in GB."""
    done = subprocess.run(
        [sys.executable, __file__, "--alone", work, str(path)],
        capture_output=True,
        text=True,
        check=True,
    )
    took, peak = done.stdout.split()
    return float(took), float(peak)


def _alone(work: str, path: Path) -> None:
    if work == "recast":
        recast(ball(2_000), detail=1.0)
        mesh = read(path).mesh
        took = seconds(lambda: _recast_tight(mesh, float(mesh.size.max()) / 1000))
    elif work == "judge":
        sheets = tuple(usual_rule_sheets().values())
        ordered = usual_rule_sheet("sintered-nylon")

        def judge(mesh: Mesh) -> object:
            return examine(mesh, rules=ordered, rule_sheets=sheets, most_faces=len(mesh.faces))

        judge(ball(2_000))
        took = in_turns(lambda: judge(read(path).mesh), runs=3)[0]
    else:
        examine(ball(2_000))
        took = in_turns(lambda: examine(read(path).mesh))[0]
    # not ru_maxrss: that counts the parent's memory of before the exec, too
    status = Path("/proc/self/status").read_text()
    peak = int(status.split("VmHWM:")[1].split()[0])
    print(took, peak / 1e6)


def _recast_tight(mesh: Mesh, detail: float) -> None:
    assert Topology(recast(mesh, detail=detail).mesh).is_sound


def fresh(mesh: Mesh) -> Mesh:
    """The same mesh without anything remembered."""
    return Mesh(mesh.vertices, mesh.faces)


if __name__ == "__main__":
    if sys.argv[1:2] == ["--alone"]:
        _alone(sys.argv[2], Path(sys.argv[3]))
    else:
        main()
