"""Going on when the database is away for a while."""

import logging
import time
from collections.abc import Callable
from typing import TypeVar

from django.db import InterfaceError, OperationalError, connection

log = logging.getLogger(__name__)
GONE = (OperationalError, InterfaceError)
"""What a database raises that cannot be reached."""
PATIENCE = 600.0
"""Seconds that a result is kept for a database that is away."""
_BETWEEN = 1.0
"""Seconds between tries."""

Answer = TypeVar("Answer")


def through_outages(do: Callable[[], Answer], patience: float = PATIENCE) -> Answer:
    """Do something with the database; while that is away, try again.

    Parameters
    ----------
    do : callable
        Safe to be done again after it fell: all of it in one transaction.
    patience : float
        Seconds after which the last fault is raised.
    """
    end = time.monotonic() + patience
    while True:
        try:
            return do()
        except GONE as fault:
            connection.close()
            if time.monotonic() > end:
                raise
            log.warning("the database is away: %s", str(fault).strip())
            time.sleep(_BETWEEN)
