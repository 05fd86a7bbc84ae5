"""Every error that a person may read: one sentence that says what is wrong, where, and what to do.

::

    StonechatError
    ├─ InvalidInput          a value given cannot be used
    │  └─ UnreadableFile     a file, with the place in it
    ├─ TooLarge              over a limit of size, points or time
    ├─ NotFound              no such plan, item, job
    ├─ Clash              edited meanwhile; already running
    ├─ ConvergenceError      a computation found no answer
    └─ Unavailable           database, worker or device does not answer
       └─ NotKnown           whether a change was kept cannot be told yet
"""


class StonechatError(Exception):
    """Base of all errors with a sentence for people; `subject` names the field, file place or thing."""

    def __init__(self, message: str, *, subject: str = "") -> None:
        super().__init__(message)
        self.message = message
        self.subject = subject


class InvalidInput(StonechatError, ValueError):
    """A value given cannot be used."""


class UnreadableFile(InvalidInput):
    """A file cannot be read; the message says where and what was expected."""


class TooLarge(StonechatError):
    """Something from outside is over a limit of size, count or time."""


class NotFound(StonechatError):
    """What was asked for does not exist."""


class Clash(StonechatError):
    """The thing was changed meanwhile, or is already being worked on."""


class ConvergenceError(StonechatError):
    """A computation found no answer; the message names residual and steps."""


class Unavailable(StonechatError):
    """A service that is needed does not answer."""


class NotKnown(Unavailable):
    """The database went away while it kept a change, and what became of that cannot be found out yet."""
