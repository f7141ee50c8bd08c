"""Progress and cancellation: one small object that long work is handed."""

from collections.abc import Callable

from .errors import Cancelled


class Progress:
    """Tells a listener how far the work is and asks whether to go on.

    Parameters
    ----------
    tell : callable, optional
        Called with the step's name and the fraction done (0 to 1) of the whole.
    stopped : callable, optional
        Returns True when the work should stop.
    """

    def __init__(
        self,
        tell: Callable[[str, float], None] | None = None,
        stopped: Callable[[], bool] | None = None,
        start: float = 0.0,
        end: float = 1.0,
    ) -> None:
        self._tell, self._stopped, self._start, self._end = tell, stopped, start, end

    def step(self, name: str, fraction: float) -> None:
        """Announce a step.

        Parameters
        ----------
        name : str
        fraction : float
            Done so far, 0 to 1.

        Raises
        ------
        Cancelled
            If the listener asked to stop.
        """
        if self._stopped is not None and self._stopped():
            raise Cancelled("Stopped as asked; nothing was changed.")
        if self._tell is not None:
            self._tell(name, self._start + (self._end - self._start) * fraction)

    def span(self, start: float, end: float) -> "Progress":
        """A view of this progress for a stretch of the work, from `start` to `end` of the whole.

        Parameters
        ----------
        start, end : float
            0 to 1.

        Returns
        -------
        Progress

        Examples
        --------
        >>> heard = []
        >>> progress = Progress(lambda name, fraction: heard.append(fraction))
        >>> progress.span(0.5, 1.0).step("Measuring", 0.5)
        >>> heard
        [0.75]
        """
        width = self._end - self._start
        return Progress(
            self._tell, self._stopped, self._start + width * start, self._start + width * end
        )


SILENT = Progress()
"""Tells nobody and never stops."""
