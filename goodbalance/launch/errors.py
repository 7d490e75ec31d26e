"""Why a start failed, in words for the person at the terminal."""


class CannotStart(Exception):
    """The text says what is wrong and what to do."""
