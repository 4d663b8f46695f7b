"""What a use case may answer instead of a result; each message is a sentence a person can act on."""


class NotFound(LookupError):
    """What was asked for does not exist (any more)."""


class Refused(ValueError):
    """It exists, but this cannot be done with it now."""


class NotReady(Refused):
    """What does it is being started: asking again in a moment will do."""
