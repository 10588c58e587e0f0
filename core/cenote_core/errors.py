"""Errors the core raises on purpose. Their text is shown to the artist, so it says what to do."""


class CenoteError(ValueError):
    """Something about the input can be put right by the person who gave it."""


class FormatError(CenoteError):
    """A file could not be read as what it claims to be."""


class TooHeavyError(CenoteError):
    """The work asked for is past a stated limit."""


class AskingEnded(Exception):
    """The answer is not wanted any more, or took too long: nothing is wrong with what was asked for."""
