"""The commands of ./ironcaulk: set up what is missing, then do what was asked.

Runs on the system's Python with nothing installed.
"""

import os
import sys
from pathlib import Path
from typing import TYPE_CHECKING

sys.path.insert(0, str(Path(__file__).resolve().parent))

import stamps
from stamps import CORE, DEV, PYTHON, ROOT, SERVER

if TYPE_CHECKING:
    import argparse


def main(arguments: list[str]) -> int:
    """Dispatch a command; one clear line when something cannot be had."""
    command = arguments[0] if arguments else "help"
    rest = arguments[1:]
    computes = command in ("check", "mend", "walls", "do", "compare")
    if computes and stamps.can_compute():
        _compute(command, rest)
    # what sets up and runs takes longer to import than a small file to check
    import provide
    import run

    try:
        if computes:
            provide.python_packages(CORE)
            provide.kernels()
            _compute(command, rest)
        if command == "up":
            given = _up(rest)
            return run.up(given.port, empty=given.empty)
        if command in ("backup", "restore") and len(rest) == 1:
            return run.with_database(command, str(Path(rest[0]).resolve()))
        if command == "test":
            return run.test(rest)
        if command == "bench":
            provide.python_packages(DEV)
            provide.kernels()
            load = rest == ["load"]
            if load:
                provide.everything(SERVER)
            script = str(ROOT / "benchmarks" / ("load.py" if load else "run.py"))
            os.execve(PYTHON, [str(PYTHON), script, *rest], stamps.environment())
        if command == "setup":
            provide.everything(DEV if "--dev" in rest else SERVER)
            return 0
    except provide.Trouble as trouble:
        print(f"ironcaulk: {trouble}", file=sys.stderr)
        return 2
    except KeyboardInterrupt:
        return 130
    print(_HELP, file=sys.stderr if command != "help" else sys.stdout)
    return 0 if command in ("help", "-h", "--help") else 2


def _compute(command: str, rest: list[str]) -> None:
    """Become the process that runs a command of the core."""
    process = [str(PYTHON), "-m", "caulkjob.cli", command, *rest]
    os.execve(PYTHON, process, stamps.environment())


def _up(rest: list[str]) -> "argparse.Namespace":
    import argparse

    parser = argparse.ArgumentParser(prog="ironcaulk up")
    parser.add_argument("--port", type=int, default=8420)
    parser.add_argument("--empty", action="store_true", help="a shop of its own, without the demo")
    return parser.parse_args(rest)


_HELP = """\
./ironcaulk up [--port N]      set up if needed, start everything, print the address
./ironcaulk up --empty         a shop of its own instead of the demo; asks for its first lead
./ironcaulk backup FILE        write the whole shop into one file
./ironcaulk restore FILE       make the shop anew from such a file, in an empty place
./ironcaulk test [ARGS]        run all tests; ARGS go to pytest
./ironcaulk test --quick       the linters and the quick ones only, within three minutes
./ironcaulk test --another-day [ARGS]   the same 400 days on, in another time zone
./ironcaulk check FILE...      examine files          (--unit U, --json)
./ironcaulk mend FILE -o OUT   mend a file            (--unit U, --json)
./ironcaulk walls FILE --min MM  measure walls        (--unit U, --json)
./ironcaulk do OPERATION FILE -o OUT [--PARAMETER VALUE]...   run one operation; do --list
./ironcaulk compare A B        how far two surfaces are apart (--unit U, --json)
./ironcaulk bench [NAME...]    measure beside other libraries (read, closed, crossings, ...)
./ironcaulk bench load         two thousand items and a hundred files at once, on a shop of its own
./ironcaulk setup [--dev]      set up only"""

if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
