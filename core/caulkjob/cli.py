"""The command line: ``check``, ``mend``, ``walls``, ``do`` and ``compare``.

Only what a command needs is loaded, when it runs: `commands` has what they do.
"""

import argparse
import gc
import os
import signal
import sys
from pathlib import Path

_SMALL_BYTES = 80_000
"""A file up to this size (some 1,600 triangles as binary STL) is examined before a compiler would
be loaded; see `caulkcore.jit`."""
_PATIENCE = 1.5
"""Seconds of processor time after which that is given up: small files can hold faces that all
cross. Time on the clock would run out on a busy machine, too."""
_INTERPRETED = "CAULKCORE_INTERPRETED"
"""The variable that `caulkcore.jit` asks for; that module would load the compiler."""
_COLLECT_AFTER = 100_000
"""New objects after which Python looks for cycles among them. Modules bring many objects and no
cycles to collect: at the usual 700 that search is a tenth of a small file's time."""
_UNITS = ("auto", "mm", "cm", "m", "in", "ft")
"""Units that can be named; ``auto`` guesses where the file names none."""


def main(arguments: list[str] | None = None) -> int:
    """Run a command.

    Parameters
    ----------
    arguments : list of str, optional
        Those of the process by default.

    Returns
    -------
    int
        The exit code: 0 tight, 1 findings left, 2 unreadable or refused input, 3 refused to mend.

    Examples
    --------
    >>> main(["check", "no such file.stl"])
    2
    """
    if arguments is None:
        gc.set_threshold(_COLLECT_AFTER)
    given = sys.argv[1:] if arguments is None else arguments
    asked, rest = _parser().parse_known_args(given)
    if rest and asked.command != "do":
        _parser().error(f"unrecognized arguments: {' '.join(rest)}")
    if arguments is None and asked.command == "check" and not asked.material:
        _interpret_small(asked.files)
    from . import commands

    if asked.command == "do":
        return commands.do(asked, rest)
    run = {
        "check": commands.check,
        "mend": commands.mend_file,
        "walls": commands.walls,
        "compare": commands.compare,
    }
    return run[asked.command](asked)


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="ironcaulk")
    commands = parser.add_subparsers(dest="command", required=True)
    check = commands.add_parser("check", help="examine files")
    check.add_argument("files", nargs="+", metavar="FILE")
    check.add_argument("--material", metavar="KEY")
    walls = commands.add_parser("walls", help="measure walls")
    walls.add_argument("file", metavar="FILE")
    walls.add_argument("--min", type=float, required=True, metavar="MM")
    mend = commands.add_parser("mend", help="mend a file")
    mend.add_argument("file", metavar="FILE")
    mend.add_argument("-o", "--output", required=True, metavar="OUT")
    mend.add_argument("--voids", choices=("fill", "keep", "ask"), default="keep")
    mend.add_argument("--buried", choices=("drop", "keep", "ask"), default="drop")
    mend.add_argument("--unite", choices=("all", "none"), default="all")
    mend.add_argument("--sheet", type=float, metavar="MM")
    mend.add_argument("--recast", type=float, metavar="MM")
    compare = commands.add_parser("compare", help="tell how far two surfaces are apart")
    compare.add_argument("first", metavar="A")
    compare.add_argument("second", metavar="B")
    for one in (check, mend, walls, compare):
        one.add_argument("--unit", choices=_UNITS, default="auto")
    do = commands.add_parser("do", help="run one operation", allow_abbrev=False)
    do.add_argument("operation", nargs="?", metavar="OPERATION")
    do.add_argument("files", nargs="*", metavar="FILE")
    do.add_argument("-o", "--output", metavar="OUT")
    do.add_argument("--list", action="store_true", help="tell all operations")
    do.add_argument("--material", metavar="KEY")
    for one in (check, mend, walls, do, compare):
        one.add_argument("--json", action="store_true")
    return parser


def _interpret_small(files: list[str]) -> None:
    """Examine one small file without a compiler, and again with it if that takes long."""
    name = "IRONCAULK_COMPILE"
    try:
        small = len(files) == 1 and Path(files[0]).stat().st_size <= _SMALL_BYTES
    except OSError:
        return
    if not small or os.environ.get(name):
        return

    def begin_again(*_: object) -> None:
        env = {key: value for key, value in os.environ.items() if key != _INTERPRETED}
        os.execve(
            sys.executable, [sys.executable, "-m", __spec__.name, *sys.argv[1:]], {**env, name: "1"}
        )

    os.environ[_INTERPRETED] = "1"
    signal.signal(signal.SIGPROF, begin_again)
    signal.setitimer(signal.ITIMER_PROF, _PATIENCE)


if __name__ == "__main__":
    sys.exit(main())
