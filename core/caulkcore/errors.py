"""The few errors the core raises on purpose. Each carries one sentence for a person."""


class CaulkError(Exception):
    """Base of all errors that the core raises on purpose."""


class InvalidMesh(CaulkError, ValueError):
    """Vertices and faces do not make a mesh: wrong shapes, numbers or indices."""


class RefusedInput(CaulkError):
    """The file cannot be read as a mesh, or is beyond a stated limit."""


class OperationRefused(CaulkError):
    """An operation would not help, would do harm, or was asked for with wrong parameters."""


class Cancelled(CaulkError):
    """Somebody asked for the work to stop."""
