"""Compile the kernels that pack meshes for the screen, ahead of use: run at set-up."""

from caulkcore.mesh.simple_solids import cuboid
from caulkjob.examination import examine

from bench.packing import pack_skin, screen_order


def main() -> None:
    """Pack a cube."""
    report = examine(cuboid())
    pack_skin(report, screen_order(report.mesh))


if __name__ == "__main__":
    main()
