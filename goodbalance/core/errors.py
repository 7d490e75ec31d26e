"""Errors of the core: each is a GoodBalanceError and a builtin error too."""


class GoodBalanceError(Exception):
    """Base of every error the product raises on purpose."""


class OutOfRange(GoodBalanceError, ValueError):
    """A number lies outside what is accepted. Names the quantity, its value and what is accepted."""

    def __init__(self, name: str, value: object, accepted: str) -> None:
        self.name, self.value, self.accepted = name, value, accepted
        super().__init__(f"{name} is {value}; accepted: {accepted}")

    def __reduce__(self) -> tuple[type["OutOfRange"], tuple[str, object, str]]:
        """What it takes to make it again in another process."""
        return type(self), (self.name, self.value, self.accepted)


class NotANumber(OutOfRange):
    """A text that was to be a number is none. Names the quantity, the text, what is wrong with it and what is accepted."""

    def __init__(self, name: str, text: str, wrong: str, accepted: str) -> None:
        super().__init__(name, text, accepted)
        self.wrong = wrong
        self.args = (f"{name}: {text!r} {wrong}; accepted: {accepted}",)

    def __reduce__(self) -> tuple[type["NotANumber"], tuple[str, str, str, str]]:  # type: ignore[override]
        return type(self), (self.name, str(self.value), self.wrong, self.accepted)


class NoSolution(GoodBalanceError, ArithmeticError):
    """The equations have no answer for these facts (for example a pump that cannot lift to the outlet)."""


class BrokenFile(GoodBalanceError, ValueError):
    """A file from outside cannot be taken; the text says where and why."""
