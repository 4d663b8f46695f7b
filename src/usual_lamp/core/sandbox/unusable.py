"""What a job says of a file that is no good."""


class Unusable(Exception):
    """The file cannot be used; the message is a sentence for the person who gave it: why, and what to do."""
