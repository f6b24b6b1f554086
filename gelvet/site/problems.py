"""What a person asked for and cannot have: one sentence, a stable code, an HTTP status."""


class Problem(Exception):
    """Raised by services; the interface turns it into problem+json."""

    def __init__(self, code: str, sentence: str, status: int = 400) -> None:
        super().__init__(sentence)
        self.code = code
        self.sentence = sentence
        self.status = status


def not_found(what: str) -> Problem:
    return Problem("not-found", f"{what} is not there; it may have been removed.", 404)
