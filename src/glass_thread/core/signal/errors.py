"""One tree of expected failures; the message is a sentence a user can act on."""


class GlassThreadError(Exception):
    """Base of every failure that is reported to the user as a sentence."""


class ParameterError(GlassThreadError):
    """A value is outside what the operation accepts."""


class AudioError(GlassThreadError):
    """The audio cannot be read or worked on."""


class CutOffError(AudioError):
    """A file ends before what its header promises; it can be taken as far as it goes."""


class NotFoundError(GlassThreadError):
    """A song, track, note, step or task does not exist."""


class StaleEditError(GlassThreadError):
    """An edit was made against an older state than the current one.

    Parameters
    ----------
    current : str
        The step that the version stands at now.
    """

    def __init__(self, message: str, *, current: str) -> None:
        super().__init__(message)
        self.current = current


class ConflictError(GlassThreadError):
    """The request contradicts what is already there, for example a duplicate import."""


class TooLargeError(GlassThreadError):
    """More data than is accepted in one go."""


class CancelledError(GlassThreadError):
    """The user asked for the work to stop."""
