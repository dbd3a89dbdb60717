"""How a form, document or act is refused: what is wrong, and where."""

from dromikon.core.rules.document import Problem


class Refused(Exception):
    """Some of it cannot be accepted; `problems` say where and why. Nothing of it was taken over."""

    def __init__(self, problems: list[Problem]) -> None:
        super().__init__("; ".join(f"{p.path}: {p.message}" for p in problems))
        self.problems = problems


class Overtaken(Exception):
    """Somebody else saved it meanwhile; nothing was taken over."""
