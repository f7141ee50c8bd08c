"""A task's child process: files in, files out. Knows nothing of Django or a database.

The child has a limit on its memory, and where the worker is root it is not; its parent watches the
time, hears its progress through a pipe, and may end it at any moment: it leaves nothing behind but
a temporary folder.
"""

import ctypes
import errno
import os
import resource
import signal
import sys
import traceback
from importlib import import_module
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

from caulkcore.errors import CaulkError
from caulkcore.progress import Progress
from numba.np.ufunc.parallel import _launch_threads

OUR_FAULT = "The work stopped on a fault of ours; nothing was changed."
NO_ROOM = "There is no room left on the server's disk; nothing was changed."
_DIE_WITH_PARENT = 1
"""Linux's PR_SET_PDEATHSIG."""


def main(
    pipe: Connection,
    does: str,
    folder: Path,
    source: str,
    given: dict[str, Any],
    memory: int,
    user: tuple[int, int] | None,
    nice: int,
) -> None:
    """Do one job and say through the pipe how it went.

    Parameters
    ----------
    pipe : Connection
    does : str
        ``module:function``.
    folder : Path
        Of its own: it reads and writes nothing else.
    source : str
        Name of the file in it that is worked on.
    given : dict
    memory : int
        Bytes that it may use.
    user : tuple of int, optional
        User and group that it becomes; that of its parent by default.
    nice : int
        By how much it stands back for others when the machine is busy.

    Messages are ``("step", name, fraction)`` and one last of ``("done", result)``,
    ``("refused", sentence)`` or ``("failed", sentence)``.
    """
    os.nice(nice)
    _launch_threads()
    # folders above may be closed to that user: within this one it goes by relative paths
    os.chdir(folder)
    if user is not None:
        os.setgroups([])
        os.setgid(user[1])
        os.setuid(user[0])
    # after that: becoming somebody else undoes it
    ctypes.CDLL(None).prctl(_DIE_WITH_PARENT, signal.SIGKILL)
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    resource.setrlimit(resource.RLIMIT_DATA, (memory, memory))
    progress = Progress(tell=lambda name, fraction: pipe.send(("step", name, fraction)))
    try:
        module, _, function = does.partition(":")
        result = getattr(import_module(module), function)(Path(source), Path(), given, progress)
        pipe.send(("done", result))
    except CaulkError as refusal:
        pipe.send(("refused", str(refusal)))
    except OSError as fault:
        traceback.print_exc(file=sys.stderr)
        full = fault.errno in (errno.ENOSPC, errno.EDQUOT)
        pipe.send(("failed", NO_ROOM if full else OUR_FAULT))
    except MemoryError:
        pipe.send(("failed", f"This takes more than the {memory / 1e9:.1f} GB a job may use."))
    except Exception:  # the last line before a silent death; the parent logs it
        traceback.print_exc(file=sys.stderr)
        pipe.send(("failed", OUR_FAULT))
