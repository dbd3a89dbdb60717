"""Under which address people reach the installation with a browser: what links in messages begin with."""

from typing import Annotated, ClassVar

from pydantic import Field, field_validator

from dromikon.core.reading import typed_address
from dromikon.core.rules.controls import Words
from dromikon.core.words import N_
from dromikon.installation.settings import Document


class Reach(Document):
    """Where a browser finds it, also from outside."""

    kept_as: ClassVar[str] = "reach"

    address: Annotated[
        str,
        Field(max_length=200),
        Words(
            N_("People reach Dromikon under"), hint=N_("such as https://dromikon.example; links in messages begin so")
        ),
    ] = ""

    @field_validator("address")
    @classmethod
    def _web(cls, where: str) -> str:
        return typed_address(where, "An address such as https://dromikon.example.").rstrip("/")
