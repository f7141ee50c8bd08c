"""A task's child process: files in, files out. Knows nothing of Django or a database.

The child has a limit on its memory; its parent watches the time, hears its progress through a
pipe, and may end it at any moment: it leaves nothing behind but a temporary folder.
"""

import ctypes
import errno
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

OUR_FAULT = "The work stopped on a fault of ours; nothing was changed."
NO_ROOM = "There is no room left on the server's disk; nothing was changed."
_DIE_WITH_PARENT = 1
"""Linux's PR_SET_PDEATHSIG."""


def main(
    pipe: Connection, does: str, source: Path, folder: Path, given: dict[str, Any], memory: int
) -> None:
    """Do one job and say through the pipe how it went.

    Messages are ``("step", name, fraction)`` and one last of ``("done", result)``,
    ``("refused", sentence)`` or ``("failed", sentence)``.
    """
    ctypes.CDLL(None).prctl(_DIE_WITH_PARENT, signal.SIGKILL)
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    resource.setrlimit(resource.RLIMIT_DATA, (memory, memory))
    progress = Progress(tell=lambda name, fraction: pipe.send(("step", name, fraction)))
    try:
        module, _, function = does.partition(":")
        result = getattr(import_module(module), function)(source, folder, given, progress)
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
